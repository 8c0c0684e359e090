"""Drawings made with a pen, traced by the middle of their lines, with the width that the pen had.

Lines are thinned; where they meet, pieces that go straight on become one line. Each point is then moved to the middle
of the line by the gray levels across it, which tell its width as well. Near meeting places and ends, where neighbours
blur the picture, lines go on as they came.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.fitting.smooth_fit import SmoothLines, fit_smooth
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.geometry.stroke import Stroke, StrokeStyle, stroke_outlines
from vivid_thimble.core.geometry.tolerances import STROKE_MM
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.corners import principal
from vivid_thimble.core.tracing.cracks import FloatImage
from vivid_thimble.core.tracing.thinning import Chain, chains_of, thinned

TOLERANCE_PX = 0.12
"""Curves stay within this of the middles of lines."""
SPUR = 1.3
"""Free pieces shorter than so many half widths are bristles of the thinning."""
SAME_PLACE = 2.3
"""Meeting places nearer to each other than so many half widths are one."""
STRAIGHT_ON_DEG = 32.0
"""Pieces that meet and turn by less are one line."""
CORNER_DEG = 42.0
"""A line that turns by more within its own width has a corner."""
BLURRED = 1.15
"""So many half widths from a meeting place or corner neighbours disturb the middle."""
ROUNDED = 2.0
"""And corners round the middle over so many."""
BRIDGED_BY = 3.0
"""Over so many half widths on both sides it is seen how a line goes through a meeting place."""
LOOK = 2.2
"""Over so many half widths beyond that it is seen which way a line runs."""
EVEN_PENS = 0.18
"""Lines whose widths differ by less than this share were drawn by one pen."""
STRAIGHT_PX = 0.4
"""Ends whose points stray by less from a straight line are straight."""
PX_STEP = 0.5
"""Samples across a line lie this far apart."""


@dataclass(frozen=True, eq=False)
class PenTrace:
    """``lines`` in pixels, x right, y down from the picture's top-left, and the width of each in pixels."""

    lines: tuple[Contour, ...]
    widths: tuple[float, ...]
    pen_mm: float | None = None
    """The width of all lines at the final size; None: as measured."""

    @property
    def node_count(self) -> int:
        return sum(len(line) + (not line.closed) for line in self.lines)

    @property
    def box(self) -> Box | None:
        """Round everything as it was drawn, in pixels."""
        half = max(self.widths, default=0.0) / 2.0
        box = Path(self.lines).bounds
        return None if box is None else (box[0] - half, box[1] - half, box[2] + half, box[3] + half)

    def regions(self, mm_per_px: float) -> list[Region]:
        """What the pen covers, in mm."""
        strokes = []
        for line, width in zip(self.lines, self.widths, strict=True):
            wide = self.pen_mm or width * mm_per_px
            scaled = Contour(line.segments * mm_per_px, line.is_line, line.closed)
            strokes.append(Stroke(Path((scaled,)), StrokeStyle(wide, "round", "round"), tolerance=STROKE_MM))
        return [union([Region.from_path(path, "nonzero") for path in stroke_outlines(strokes)])]


def pen_lines(coverage: FloatImage, ink: NDArray[np.bool_], ease: float = 1.0) -> PenTrace:
    """``coverage``: how much of each pixel is ink. Nothing gives no lines."""
    import cv2  # here: it delays the first paint

    if not ink.any():
        return PenTrace((), ())
    pause("Finding the middles of lines")
    away = cv2.distanceTransform(np.pad(ink, 1).astype(np.uint8), cv2.DIST_L2, 5)
    half_width = np.asarray(away, dtype=np.float32)[1:-1, 1:-1]
    chains, places = chains_of(thinned(ink))
    chains, places = _cleared(chains, places, half_width)
    lines = _continued(chains, places, half_width)
    found: list[Contour] = []
    widths: list[float] = []
    for line in lines:
        pause()
        drawn = _drawn(line, places, half_width, coverage, ease)
        if drawn is not None:
            found.append(drawn[0])
            widths.append(drawn[1])
    return PenTrace(tuple(found), tuple(_of_one_pen(widths, found)))


def _of_one_pen(widths: list[float], lines: list[Contour]) -> list[float]:
    """All the same where they are nearly so."""
    if not widths:
        return []
    lengths = np.array([np.hypot(*(one.segments[:, 3] - one.segments[:, 0]).T).sum() for one in lines])
    order = np.argsort(widths)
    run = np.cumsum(lengths[order])
    usual = widths[int(order[int(np.searchsorted(run, run[-1] / 2.0))])]
    return [usual if abs(width - usual) < EVEN_PENS * usual else width for width in widths]


def _cleared(
    chains: list[Chain], places: FloatArray, half_width: NDArray[np.float32]
) -> tuple[list[Chain], FloatArray]:
    """Meeting places that are one brought together, bristles taken away, what then only goes on put together."""
    home = list(range(len(places)))

    def found(k: int) -> int:
        while home[k] != k:
            k = home[k]
        return k

    reach = [_half_width_at(half_width, place) for place in places]
    for chain in chains:
        a, b = chain.ends
        if a >= 0 and b >= 0 and a != b and len(chain.pixels) < SAME_PLACE * max(reach[a], reach[b]):
            home[found(a)] = found(b)
    members: dict[int, list[int]] = {}
    for k in range(len(places)):
        members.setdefault(found(k), []).append(k)
    number = {root: n for n, root in enumerate(members)}
    joined = np.array([places[own].mean(axis=0) for own in members.values()]).reshape(-1, 2)
    kept = []
    for chain in chains:
        ends = tuple(number[found(k)] if k >= 0 else -1 for k in chain.ends)
        a, b = chain.ends
        short = len(chain.pixels) < SAME_PLACE * max((reach[k] for k in (a, b) if k >= 0), default=0.0)
        if a >= 0 and b >= 0 and ends[0] == ends[1] and short:
            continue
        free = (ends[0] < 0) != (ends[1] < 0)
        if free and len(chain.pixels) < SPUR * reach[a if a >= 0 else b]:
            continue
        kept.append(replace(chain, ends=(ends[0], ends[1])))
    return kept, joined


def _half_width_at(half_width: NDArray[np.float32], place: FloatArray) -> float:
    row, column = (round(float(v)) for v in place)
    return float(half_width[row, column])


@dataclass(frozen=True, eq=False)
class _Line:
    """Points (n, 2) x and y, in order. ``ends``: the meeting places where it begins and ends, -1 for free ends.
    ``crossed``: places that it passes, by the number of the point before them."""

    points: FloatArray
    ends: tuple[int, int]
    closed: bool
    crossed: tuple[int, ...] = ()


def _continued(chains: list[Chain], places: FloatArray, half_width: NDArray[np.float32]) -> list[_Line]:
    """Chains that go straight on at a meeting place as one line; two that meet alone always do."""
    at_place: dict[int, list[tuple[int, int]]] = {}
    for k, chain in enumerate(chains):
        for side in (0, 1):
            if not chain.closed and chain.ends[side] >= 0:
                at_place.setdefault(chain.ends[side], []).append((k, side))
    partner: dict[tuple[int, int], tuple[int, int]] = {}
    for place, ends in at_place.items():
        ways = {end: _way_from(chains[end[0]], end[1], _half_width_at(half_width, places[place])) for end in ends}
        pairs = [
            (float(np.degrees(np.arccos(np.clip(-(ways[a] @ ways[b]), -1.0, 1.0)))), a, b)
            for n, a in enumerate(ends)
            for b in ends[n + 1 :]
        ]
        for turn, a, b in sorted(pairs):
            if a not in partner and b not in partner and (turn < STRAIGHT_ON_DEG or len(ends) == 2):
                partner[a], partner[b] = b, a
    lines = [_Line(_xy(c.pixels), (-1, -1), True) for c in chains if c.closed]
    used: set[int] = {k for k, c in enumerate(chains) if c.closed}
    order = [(k, s) for k in range(len(chains)) for s in (0, 1) if (k, s) not in partner]
    for start in [*order, *((k, 0) for k in range(len(chains)))]:
        if start[0] not in used:
            lines.append(_followed(start, chains, places, partner, used))
    return lines


def _way_from(chain: Chain, side: int, half: float) -> FloatArray:
    """The direction (unit) in which a chain leaves its end."""
    points = _xy(chain.pixels if side == 0 else chain.pixels[::-1])
    first = min(round(BLURRED * half), max(len(points) - 2, 0))
    last = min(first + max(round(LOOK * half), 3), len(points) - 1)
    way = points[last] - points[first]
    return np.asarray(way / max(float(np.hypot(*way)), 1e-9))


def _followed(
    start: tuple[int, int],
    chains: list[Chain],
    places: FloatArray,
    partner: dict[tuple[int, int], tuple[int, int]],
    used: set[int],
) -> _Line:
    parts: list[FloatArray] = []
    crossed: list[int] = []
    here = start
    first = chains[start[0]].ends[start[1]]
    while True:
        number, side = here
        used.add(number)
        pixels = chains[number].pixels
        parts.append(_xy(pixels if side == 0 else pixels[::-1]))
        leaving = (number, 1 - side)
        last = chains[number].ends[1 - side]
        onward = partner.get(leaving)
        if onward is None:
            return _Line(np.concatenate(parts), (first, last), False, tuple(crossed))
        crossed.append(sum(map(len, parts)) - 1)
        if onward[0] in used:
            closed = onward == start
            return _Line(np.concatenate(parts), (-1, -1) if closed else (first, last), closed, tuple(crossed))
        here = onward


def _xy(pixels: NDArray[np.int64]) -> FloatArray:
    return np.asarray(pixels[:, ::-1] + 0.5)


def _drawn(
    line: _Line, places: FloatArray, half_width: NDArray[np.float32], coverage: FloatImage, ease: float
) -> tuple[Contour, float] | None:
    """The curves along a line, and its width in pixels; None for what is no line."""
    points = line.points
    rows, columns = (np.clip(points[:, k].astype(np.int64), 0, half_width.shape[1 - k] - 1) for k in (1, 0))
    half = max(float(np.median(half_width[rows, columns])), 0.5)
    if len(points) < 2:
        return None
    sure = _undisturbed(line, points, half)
    smooth = _even(points, line.closed, max(half / 2.0, 1.0))
    along = _tangents(smooth, line.closed)
    middle, width, known = _measured(smooth, along, half, coverage)
    sure &= known
    if sure.sum() < 4:
        middle, sure = smooth, np.ones(len(points), dtype=bool)
    else:
        half = max(float(np.median(width[sure])) / 2.0, 0.3)
    middle = _even(_bridged(middle, sure, line.closed, half), line.closed, 1.2)
    if len(middle) < 2:
        return None
    if not line.closed:
        middle = _ended(middle, line, places, half, coverage)
    return _fitted(middle, line.closed, half, ease), 2.0 * half


def _bridged(points: FloatArray, sure: NDArray[np.bool_], closed: bool, half: float) -> FloatArray:
    """Points where those between that are not sure lie on a cubic through the sure ones on both sides; unsure ends of
    open lines are left out."""
    at = np.flatnonzero(sure)
    if closed:
        points, sure = np.roll(points, -at[0], axis=0), np.roll(sure, -at[0])
        points, sure = np.concatenate([points, points[:1]]), np.r_[sure, True]
    else:
        points, sure = points[at[0] : at[-1] + 1].copy(), sure[at[0] : at[-1] + 1]
    reach = round(BRIDGED_BY * half) + 3
    begins = np.flatnonzero(sure[:-1] & ~sure[1:]) + 1
    stops = np.flatnonzero(~sure[:-1] & sure[1:]) + 1
    known = np.flatnonzero(sure)
    for i, j in zip(begins.tolist(), stops.tolist(), strict=True):
        k = int(np.searchsorted(known, i))
        near = known[max(k - reach, 0) : k + reach]
        degree = min(3, len(near) - 1)
        if degree > 0:
            scale = float(max(j - i, 1))
            bend = np.polyfit((near - i) / scale, points[near], degree)
            places = (np.arange(i, j) - i) / scale
            points[i:j] = np.stack([np.polyval(bend[:, d], places) for d in (0, 1)], axis=1)
    return points[:-1] if closed else points


def _undisturbed(line: _Line, points: FloatArray, half: float) -> NDArray[np.bool_]:
    """Points away from ends and from places where others meet the line."""
    sure = np.ones(len(points), dtype=bool)
    reach = max(round(BLURRED * half), 1)
    if not line.closed:
        room = max((len(points) - 4) // 2, 0)
        near = min(reach, room)
        if near:
            sure[:near] = sure[-near:] = False
    for at in line.crossed:
        sure[max(at - reach, 0) : at + reach + 2] = False
    return sure


def _even(points: FloatArray, closed: bool, sigma: float) -> FloatArray:
    """Points smoothed along their line; the ends of open lines stay."""
    from scipy.ndimage import gaussian_filter1d  # here: it delays the first paint

    if len(points) < 5:
        return points
    if closed:
        return np.asarray(gaussian_filter1d(points, sigma, axis=0, mode="wrap"))
    # reflected through the ends, so that these stay where they are
    size = min(len(points) - 1, int(4 * sigma) + 1)
    before = 2 * points[:1] - points[size:0:-1]
    after = 2 * points[-1:] - points[-2 : -size - 2 : -1]
    return np.asarray(gaussian_filter1d(np.concatenate([before, points, after]), sigma, axis=0)[size:-size])


def _tangents(points: FloatArray, closed: bool) -> FloatArray:
    if closed:
        way = np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)
    elif len(points) > 2:
        way = np.gradient(points, axis=0)
    else:
        way = np.repeat(points[-1:] - points[:1], len(points), axis=0)
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])


def _measured(
    points: FloatArray, along: FloatArray, half: float, coverage: FloatImage
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """The middle of the line at each point, its width, and whether these are known: from the sums of the coverage
    across it, up to where it is empty."""
    from scipy.ndimage import map_coordinates

    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    reach = int(np.ceil((1.8 * half + 2.5) / PX_STEP))
    offset = np.arange(-reach, reach + 1) * PX_STEP
    x = points[:, :1] + across[:, :1] * offset - 0.5
    y = points[:, 1:] + across[:, 1:] * offset - 0.5
    seen = map_coordinates(coverage, [y.ravel(), x.ravel()], order=1, mode="constant").reshape(x.shape)
    seen = np.clip(seen, 0.0, 1.0)
    right = np.minimum.accumulate(seen[:, reach:] > 0.04, axis=1)
    left = np.minimum.accumulate(seen[:, reach::-1] > 0.04, axis=1)
    ended = ~right[:, -1] & ~left[:, -1]
    weight = seen * np.concatenate([left[:, :0:-1], right], axis=1)
    mass = weight.sum(axis=1) * PX_STEP
    shift = (weight * offset).sum(axis=1) * PX_STEP / np.maximum(mass, 1e-6)
    known = ended & (mass > 0.2 * half) & (np.abs(shift) < half + 1.0)
    return points + across * np.where(known, shift, 0.0)[:, None], mass, known


def _ended(middle: FloatArray, line: _Line, places: FloatArray, half: float, coverage: FloatImage) -> FloatArray:
    """With its ends: at the meeting place, or half a width before the ink ends."""
    for side in (0, 1):
        points = middle if side == 1 else middle[::-1]
        points, way = _directed(points, half)
        place = line.ends[side]
        if place >= 0:
            target = places[place][::-1] + 0.5
            ahead = float((target - points[-1]) @ way)
            end = points[-1] + way * ahead if ahead > 0.0 else points[-1]
            off = target - end
            # a line that ends on another one runs on to its middle
            end = end if float(np.hypot(*off)) < half else target
        else:
            tip = _tip(points[-1], way, half, coverage)
            end = points[-1] + way * max(tip - half, 0.0)
        if float(np.hypot(*(end - points[-1]))) > 0.3:
            points = np.concatenate([points, _between(points[-1], end)])
        middle = points if side == 1 else points[::-1]
    return middle


def _directed(points: FloatArray, half: float) -> tuple[FloatArray, FloatArray]:
    """Points whose last one lies on the straight line through its neighbours if they are straight, and the direction
    (unit) in which they end."""
    near = points[-max(round(2 * LOOK * half), 12) :]
    mean, along = principal(near[None])
    way = along[0] if float((near[-1] - near[0]) @ along[0]) >= 0.0 else -along[0]
    off = (near - mean[0]) @ np.array([-way[1], way[0]])
    if float(np.abs(off).max()) < STRAIGHT_PX:
        last = mean[0] + way * float((points[-1] - mean[0]) @ way)
        return np.concatenate([points[:-1], last[None]]), way
    near = points[-max(round(LOOK * half), 3) :]
    way = near[-1] - near[0]
    return points, np.asarray(way / max(float(np.hypot(*way)), 1e-9))


def _between(start: FloatArray, end: FloatArray) -> FloatArray:
    count = max(int(np.hypot(*(end - start))), 1)
    return np.asarray(start + (end - start) * (np.arange(1, count + 1) / count)[:, None])


def _tip(point: FloatArray, way: FloatArray, half: float, coverage: FloatImage) -> float:
    """How far the ink goes on from a point."""
    from scipy.ndimage import map_coordinates

    steps = np.arange(0.0, 4.0 * half + 3.0, PX_STEP)
    places = point + way * steps[:, None] - 0.5
    seen = np.clip(map_coordinates(coverage, [places[:, 1], places[:, 0]], order=1, mode="constant"), 0.0, 1.0)
    over = np.minimum.accumulate(seen > 0.04)
    return float((seen * over).sum() * PX_STEP - 0.5 * PX_STEP)


def _fitted(points: FloatArray, closed: bool, half: float, ease: float) -> Contour:
    """Curves along the middle, cut at corners."""
    corners = _corners(points, closed, half)
    pieces: list[FloatArray] = []
    if closed and not len(corners):
        pieces.append(np.concatenate([points, points[:1]]))
    else:
        if closed:
            points = np.roll(points, -corners[0][0], axis=0)
            points = np.concatenate([points, points[:1]])
            shifted = [((k - corners[0][0]) % (len(points) - 1), tip) for k, tip in corners]
            cuts = [(0, corners[0][1]), *sorted(shifted[1:], key=lambda c: c[0]), (len(points) - 1, corners[0][1])]
        else:
            cuts = [(0, points[0]), *corners, (len(points) - 1, points[-1])]
        reach = max(round(ROUNDED * half), 1)
        for (i, start), (j, end) in zip(cuts[:-1], cuts[1:], strict=True):
            first = i + (reach if i > 0 or closed else 1)
            last = j - (reach if j < len(points) - 1 or closed else 1)
            inner = points[first : max(last + 1, first)]
            pieces.append(np.concatenate([start[None], inner, end[None]]))
    sizes = np.r_[0, np.cumsum([len(piece) for piece in pieces])]
    whole = closed and not len(corners)
    along = [_tangents(piece[:-1] if whole else piece, whole) for piece in pieces]
    along = [np.concatenate([own, own[:1]]) for own in along] if whole else along
    lines = SmoothLines(np.concatenate(pieces), np.concatenate(along), sizes, np.full(len(pieces), whole))
    tolerance = TOLERANCE_PX * ease
    fitted = fit_smooth(lines, tolerance, 0.7 * tolerance, everywhere=False)
    segments = np.concatenate([one.segments for one in fitted])
    if closed:
        segments[-1, 3] = segments[0, 0]
    return Contour(segments, np.concatenate([one.is_line for one in fitted]), closed)


def _corners(points: FloatArray, closed: bool, half: float) -> list[tuple[int, FloatArray]]:
    """Where a line turns sharply: the number of the point, and where both sides meet."""
    skip, look = max(round(ROUNDED * half), 1), max(round(LOOK * half), 3)
    size = len(points)
    if size < 2 * (skip + look) + 1:
        return []
    at = np.arange(size) if closed else np.arange(skip + look, size - skip - look)
    before = (at[:, None] - skip - np.arange(look)[None, ::-1]) % size
    after = (at[:, None] + skip + np.arange(look)[None, :]) % size
    one, two = points[before], points[after]
    into, out = one[:, -1] - one[:, 0], two[:, -1] - two[:, 0]
    turn = np.degrees(np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1))))
    # a bend that is spread over both sides is none
    bent = _bend_deg(one) + _bend_deg(two)
    strength = turn - bent
    found: list[tuple[int, FloatArray]] = []
    taken = np.zeros(size, dtype=bool)
    for k in np.argsort(-strength).tolist():
        if strength[k] < CORNER_DEG or taken[at[k]]:
            if strength[k] < CORNER_DEG:
                break
            continue
        tip = _meeting(one[k], two[k])
        if tip is not None and float(np.hypot(*(tip - points[at[k]]))) < 2.5 * half + 1.0:
            found.append((int(at[k]), tip))
        near = (at[k] + np.arange(-(skip + look), skip + look + 1)) % size
        taken[near] = True
    return sorted(found, key=lambda c: c[0])


def _bend_deg(points: FloatArray) -> FloatArray:
    """By how much rows of points (n, k, 2) turn from their first half to their second."""
    middle = points.shape[1] // 2
    a, b = points[:, middle] - points[:, 0], points[:, -1] - points[:, middle]
    return np.asarray(np.degrees(np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))))


def _meeting(one: FloatArray, two: FloatArray) -> FloatArray | None:
    """Where the straight lines along two rows of points meet."""
    p, q = one[-1], two[0]
    u, v = one[-1] - one[0], two[-1] - two[0]
    below = u[0] * v[1] - u[1] * v[0]
    if abs(below) < 1e-9:
        return None
    gap = q - p
    t = (gap[0] * v[1] - gap[1] * v[0]) / below
    return np.asarray(p + t * u) if t > -1.0 else None
