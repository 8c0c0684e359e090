"""Tracing a map of labels: areas side by side that share their edges.

Cracks between two labels are followed once, from junction to junction, and each such arc becomes one chain of curves
that both neighbours use. Where an edge really runs is told by the picture: each pixel's colour lies somewhere between
the flat colours of the two labels. Junctions lie where the arcs that meet there point to.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Contour
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.corners import LEAST_TURN_DEG, Lines, principal
from vivid_thimble.core.tracing.cracks import Cracks, LabelImage, corners_of_pixels, followed, joined, outside_of
from vivid_thimble.core.tracing.curves import FittedLines
from vivid_thimble.core.tracing.follow import fitted_along
from vivid_thimble.core.tracing.subpixel import Coverage
from vivid_thimble.core.tracing.traced import Ring, Traced, nested

ColourImage = NDArray[np.uint8]
"""(rows, columns, 3)"""
BEYOND = 255
"""The label of what lies outside the picture."""
FARTHEST_JUNCTION_PX = 0.49
"""A junction is not moved farther than this, along either axis, from where its pixels meet: so it never crosses an
edge between other pixels."""
END_POINTS = 4
"""So many points at the end of an arc tell where it points to."""


def traced_map(
    labels: LabelImage,
    picture: ColourImage,
    palette: FloatArray,
    ease: float = 1.0,
    left_out: int | None = None,
    shades: LabelImage | None = None,
    *,
    least_turn_deg: float | None = LEAST_TURN_DEG,
) -> Traced:
    """Arcs and rings of every label but ``left_out`` (the background), which is not needed for the others.

    ``palette`` (k, 3): the flat colours; the number of each pixel's colour is in ``shades``, by default its label.
    Corners turn by ``least_turn_deg`` at least; None: curves are smooth everywhere but at junctions.
    """
    count = max(int(labels.max(initial=0)) + 1, len(palette) if shades is None else 0, 1 + (left_out or 0))
    if count > BEYOND:
        raise ValueError(f"a map has at most {BEYOND} labels, not {count}")
    wanted = [k for k in range(count) if k != left_out]
    around: dict[int, Cracks] = {}
    for k in wanted:
        pause("Following outlines")
        around[k] = followed(_own_field(labels, k, count))
    across = {k: outside_of(around[k], labels, BEYOND) for k in wanted}
    meetings = _meetings(around, across, labels.shape[1])
    cut = {k: _cut(around[k], across[k], meetings, labels.shape[1]) for k in wanted}
    arcs, rings = _shared(cut, labels, count, left_out)
    pause()
    polygons = tuple(nested(rings[k], around[k]) if k in around else () for k in range(count))
    coverage = _coverage(arcs, labels if shades is None else shades, picture, palette)
    return Traced(_fitted(arcs, labels.shape, coverage, ease, least_turn_deg), polygons)


def _own_field(labels: LabelImage, label: int, count: int) -> NDArray[np.float32]:
    """Positive where the label is. Later labels hold together where four pixels meet crosswise."""
    strength = 1.0 + np.arange(256) / 64.0
    table = (-strength).astype(np.float32)
    table[label] = strength[label]
    return table[labels]


@dataclass(frozen=True, eq=False)
class _Cut:
    """Closed lines of one label, cut where the label across changes. ``other``: the label across each piece;
    ``ring``: whose piece it is, in order along it."""

    cracks: Cracks
    other: IntArray
    ring: IntArray


def _meetings(around: dict[int, Cracks], across: dict[int, IntArray], columns: int) -> IntArray:
    """The corners of pixels where the label across any line changes, as numbers in rising order."""
    found = [np.zeros(0, dtype=np.int64)]
    for k, cracks in around.items():
        changes = across[k] != across[k][_before(cracks)]
        found.append(_corner_numbers(cracks, columns)[changes])
    return np.unique(np.concatenate(found))


def _before(cracks: Cracks) -> IntArray:
    """The crack before each one on its closed line."""
    before = np.arange(len(cracks.inner)) - 1
    before[cracks.start[:-1]] = cracks.start[1:] - 1
    return before


def _corner_numbers(cracks: Cracks, columns: int) -> IntArray:
    """A number for the corner of pixels where each crack begins."""
    corner = corners_of_pixels(cracks.inner, cracks.step, at_end=False)
    return np.asarray(corner[:, 1] * (columns + 1) + corner[:, 0])


def _cut(cracks: Cracks, across: IntArray, meetings: IntArray, columns: int) -> _Cut:
    start, sizes = cracks.start, cracks.sizes
    line = np.repeat(np.arange(len(cracks)), sizes)
    local = np.arange(len(across)) - start[:-1][line]
    numbers = _corner_numbers(cracks, columns)
    at = np.minimum(np.searchsorted(meetings, numbers), max(len(meetings) - 1, 0))
    changes = meetings[at] == numbers if len(meetings) else np.zeros(len(numbers), dtype=bool)
    has_change = np.bincount(line[changes], minlength=len(cracks)) > 0
    first_change = np.full(len(cracks), -1, dtype=np.int64)
    at = np.flatnonzero(changes)[::-1]
    first_change[line[at]] = at  # the last one written is the first along the line
    shift = np.where(has_change, first_change - start[:-1], 0)
    index = start[:-1][line] + (local + shift[line]) % sizes[line]
    begins = changes[index] | (local == 0)
    piece_start = np.r_[np.flatnonzero(begins), len(across)]
    own_line = line[piece_start[:-1]]
    return _Cut(
        Cracks(cracks.inner[index], cracks.step[index], piece_start, ~has_change[own_line]),
        across[index][piece_start[:-1]],
        own_line,
    )


@dataclass(frozen=True, eq=False)
class _Arcs:
    """Each arc once. ``inside``, ``outside``: the labels on its two sides."""

    cracks: Cracks
    inside: IntArray
    outside: IntArray


def _shared(
    cut: dict[int, _Cut], labels: LabelImage, count: int, left_out: int | None
) -> tuple[_Arcs, tuple[tuple[Ring, ...], ...]]:
    """Every arc once, taken from the lower label of its two, and the rings in terms of arcs."""
    own: dict[int, NDArray[np.bool_]] = {}
    for k, pieces in cut.items():
        elsewhere = (pieces.other < k) & (pieces.other != BEYOND)
        if left_out is not None:
            elsewhere &= pieces.other != left_out
        own[k] = ~elsewhere
    parts = {k: _some_pieces(cut[k].cracks, np.flatnonzero(own[k])) for k in cut}
    cracks = joined(list(parts.values())) if parts else Cracks(*_nothing())
    inside = np.concatenate([np.full(len(parts[k]), k) for k in cut]) if cut else np.zeros(0, dtype=np.int64)
    outside = np.concatenate([cut[k].other[own[k]] for k in cut]) if cut else inside
    arc_of = np.repeat(np.arange(len(cracks)), cracks.sizes)
    numbers = _crack_numbers(cracks, labels.shape[1])
    order = np.argsort(numbers, kind="stable")
    rings: list[tuple[Ring, ...]] = [() for _ in range(count)]
    first_arc = 0
    for k, pieces in cut.items():
        arc = np.full(len(pieces.cracks), -1, dtype=np.int64)
        mine = np.flatnonzero(own[k])
        arc[mine] = first_arc + np.arange(len(mine))
        first_arc += len(mine)
        theirs = np.flatnonzero(~own[k])
        heads = _crack_numbers(_heads(pieces.cracks, theirs), labels.shape[1])
        arc[theirs] = arc_of[order[np.searchsorted(numbers[order], heads)]]
        bounds = np.flatnonzero(np.r_[True, np.diff(pieces.ring) != 0, True]).tolist()
        pairs = list(zip(arc.tolist(), own[k].tolist(), strict=True))
        rings[k] = tuple(tuple(pairs[i:j]) for i, j in zip(bounds[:-1], bounds[1:], strict=True))
    return _Arcs(cracks, inside, outside), tuple(rings)


def _nothing() -> tuple[IntArray, IntArray, IntArray, NDArray[np.bool_]]:
    none = np.zeros((0, 2), dtype=np.int64)
    return none, none, np.zeros(1, dtype=np.int64), np.zeros(0, dtype=bool)


def _some_pieces(cracks: Cracks, which: IntArray) -> Cracks:
    sizes = cracks.sizes[which]
    start = np.r_[0, np.cumsum(sizes)]
    index = np.repeat(cracks.start[which] - start[:-1], sizes) + np.arange(start[-1])
    return Cracks(cracks.inner[index], cracks.step[index], start, cracks.closed[which])


def _heads(cracks: Cracks, which: IntArray) -> Cracks:
    """Just the first crack of some pieces."""
    at = cracks.start[which]
    return Cracks(cracks.inner[at], cracks.step[at], np.arange(len(at) + 1), cracks.closed[which])


def _crack_numbers(cracks: Cracks, columns: int) -> IntArray:
    """A number for each crack that is the same from both sides."""
    low = np.minimum(cracks.inner, cracks.inner + cracks.step) + 1
    return np.asarray((low[:, 0] * (columns + 2) + low[:, 1]) * 2 + (cracks.step[:, 0] != 0))


def _fitted(
    arcs: _Arcs, shape: tuple[int, int], coverage: Coverage, ease: float, least_turn_deg: float | None
) -> FittedLines:
    ends = _Junctions(arcs, shape)
    fitted = fitted_along(arcs.cracks, coverage, ease, least_turn_deg, _without_frame(arcs), ends)
    contours, frame = list(fitted.contours), np.flatnonzero(arcs.outside == BEYOND).tolist()
    for k in frame:
        contours[k] = _along_frame(arcs.cracks, k, contours[k], shape)
    return replace(fitted, contours=contours, fixed=frozenset(frame))


def _along_frame(cracks: Cracks, k: int, fitted: Contour, shape: tuple[int, int]) -> Contour:
    """The picture's frame is known exactly: straight from corner to corner."""
    own = slice(cracks.start[k] + (not fitted.closed), cracks.start[k + 1])
    passed = corners_of_pixels(cracks.inner[own], cracks.step[own], at_end=False)
    turns = np.isin(passed[:, 0], (0, shape[1])) & np.isin(passed[:, 1], (0, shape[0]))
    points = passed[turns].astype(np.float64)
    if not fitted.closed:
        points = np.concatenate([fitted.segments[:1, 0], points, fitted.segments[-1:, 3]])
    return Contour.from_points(points, closed=fitted.closed)


def _without_frame(arcs: _Arcs) -> Cracks:
    return _some_pieces(arcs.cracks, np.flatnonzero(arcs.outside != BEYOND))


def _coverage(arcs: _Arcs, shades: LabelImage, picture: ColourImage, palette: FloatArray) -> Coverage:
    """How much of a pixel the inside of an arc covers: where its colour lies on the way from that of the pixel outside
    the crack to that of the one inside.

    Beyond the picture nothing is covered, and at its frame every pixel is full.
    """
    rows, columns = shades.shape
    inner, outer = arcs.cracks.inner, arcs.cracks.inner + arcs.cracks.step
    frame = np.asarray(((outer < 0) | (outer >= (rows, columns))).any(axis=1))
    beside = np.where(frame[:, None], inner, outer)
    low = np.where(frame[:, None], 0.0, palette[shades[beside[:, 0], beside[:, 1]]])
    way = palette[shades[inner[:, 0], inner[:, 1]]] - low
    way = way / np.maximum((way * way).sum(axis=1), 1e-9)[:, None]

    def covered(which: IntArray, row: IntArray, column: IntArray) -> FloatArray:
        there = (row >= 0) & (row < rows) & (column >= 0) & (column < columns)
        row, column = np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)
        colour = picture[row, column].astype(np.float64)
        share = ((colour - low[which][:, None]) * way[which][:, None]).sum(axis=2)
        at_frame = frame[which][:, None]
        return np.where(at_frame, there, np.where(there, np.clip(share, -0.25, 1.25), 0.0)).astype(np.float64)

    return covered


class _Junctions:
    """Where open arcs begin and end: corners of pixels, several arcs at each."""

    def __init__(self, arcs: _Arcs, shape: tuple[int, int]) -> None:
        self.opened = np.flatnonzero(~arcs.cracks.closed)
        self.shape = shape
        ends = [_lattice(arcs.cracks, self.opened, at_end=at_end) for at_end in (False, True)]
        self.corners, junction = np.unique(np.concatenate(ends), axis=0, return_inverse=True)
        self.junction = junction.reshape(-1)

    def places(self, lines: Lines) -> FloatArray:
        first, last = lines.start[self.opened], lines.start[self.opened + 1] - 1
        size = lines.sizes[self.opened]
        half = len(self.opened)
        return _pointed_at(lines, self.corners, self.junction, np.r_[first, last], np.r_[size, size], half, self.shape)

    def given(self, lines: Lines, places: FloatArray, spoilt_px: float) -> Lines:
        if not len(self.opened):
            return lines
        half = len(self.opened)
        lines = self._clear(lines, places, spoilt_px)
        sizes = lines.sizes + 2 * ~lines.closed
        start = np.r_[0, np.cumsum(sizes)]
        of = np.repeat(np.arange(len(sizes)), sizes)
        local = np.arange(start[-1]) - start[of] - ~lines.closed[of]
        index = lines.start[of] + np.clip(local, 0, lines.sizes[of] - 1)
        points = lines.points[index]
        points[start[self.opened]] = places[self.junction[:half]]
        points[start[self.opened + 1] - 1] = places[self.junction[half:]]
        return Lines(points, start, lines.closed, lines.crack[index], np.zeros(len(points), dtype=bool))

    def _clear(self, lines: Lines, places: FloatArray, spoilt_px: float) -> Lines:
        """Without the points that an end has spoilt; the middle one of a line always stays."""
        if spoilt_px <= 0.0:
            return lines
        keep = np.ones(len(lines.points), dtype=bool)
        half = len(self.opened)
        size = lines.sizes[self.opened]
        for sign, at, junction in (
            (1, lines.start[self.opened], self.junction[:half]),
            (-1, lines.start[self.opened + 1] - 1, self.junction[half:]),
        ):
            for step in range(2 * int(np.ceil(spoilt_px)) + 1):
                near = at + sign * np.minimum(step, (size - 1) // 2)
                away = np.hypot(*(lines.points[near] - places[junction]).T)
                keep[near[(away < spoilt_px) & (step < (size - 1) // 2)]] = False
        return lines.kept(keep)


def _lattice(cracks: Cracks, which: IntArray, *, at_end: bool) -> IntArray:
    """The corner of pixels (x, y) where each arc begins (or ends): the kept pixel lies to the right of the way."""
    at = cracks.start[which + 1] - 1 if at_end else cracks.start[which]
    return corners_of_pixels(cracks.inner[at], cracks.step[at], at_end=at_end)


def _pointed_at(
    lines: Lines,
    corners: IntArray,
    junction: IntArray,
    ends: IntArray,
    sizes: IntArray,
    half: int,
    shape: tuple[int, int],
) -> FloatArray:
    """The point nearest to the straight lines that end at each junction (least squares), near its lattice corner."""
    sign = np.r_[np.ones(half, dtype=np.int64), -np.ones(half, dtype=np.int64)]
    steps = np.minimum(np.arange(END_POINTS)[None, :], sizes[:, None] - 1)
    near = lines.points[ends[:, None] + sign[:, None] * steps]
    mean, along = principal(near)
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    weight = np.where(sizes >= 3, 1.0, 0.05)
    offset = (across * (mean - corners[junction])).sum(axis=1)
    normal = np.zeros((len(corners), 2, 2)) + np.eye(2) * 0.02
    right = np.zeros((len(corners), 2))
    np.add.at(normal, junction, weight[:, None, None] * across[:, :, None] * across[:, None, :])
    np.add.at(right, junction, (weight * offset)[:, None] * across)
    move = np.linalg.solve(normal, right[:, :, None])[:, :, 0]
    longest = np.abs(move).max(axis=1)
    move *= np.minimum(1.0, FARTHEST_JUNCTION_PX / np.maximum(longest, 1e-9))[:, None]
    place = corners + move
    high = np.array([shape[1], shape[0]])
    for k in (0, 1):  # what lies on the frame stays there
        on_frame = (corners[:, k] == 0) | (corners[:, k] == high[k])
        place[on_frame, k] = corners[on_frame, k]
    return np.clip(place, 0.0, high)
