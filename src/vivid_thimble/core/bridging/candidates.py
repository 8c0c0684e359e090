"""Places where a bridge could cross from an island to the sheet or to another island, and what each would cost.

From points along the island's wall rays go out along the wall's normal and along eight fixed directions. A strip as
wide as the bridge is judged by five parallel lines: all must leave the same island and reach the same wall, with
sheet behind both feet; so no bridge runs into a neighbour or beyond the opening that it crosses.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.bridging.walls import Crossings, Walls, crossings
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.pauses import pause

EVERY = 0.8
"""Rays start this share of a bridge's width apart."""
MOST_PLACES = 56
"""Along one island ..."""
LARGE, MOST_ON_LARGE = 60.0, 200
"""... unless its wall is longer than so many widths: then bridges are chosen by balance, from so many."""
DIRECTIONS = 8
SNAP = 0.985
"""A wall's normal that is this near to a fixed direction (cosine) gives way to it."""
STEEPEST = 0.6
"""A bridge leaves the wall at an angle whose cosine against the normal is at least this."""
MOST_JUDGED, MOST_JUDGED_ON_LARGE = 26, 120
"""Of an island's rays so many of the best are judged as strips."""
BESIDE = (-0.5, -0.25, 0.0, 0.25, 0.5)
"""Lines along a strip, in shares of its width."""
CLEAR = 0.5
"""Behind both feet there is sheet for at least this share of the width."""
LONGEST = 1.5
"""Bridges are at most so many times as long as the shortest good one of their island."""
REACH = 12.0
"""Walls farther than so many widths (and the island's own size) are looked at only when nothing nearer is found."""
FARTHEST = 45.0
SLIMMEST = 0.3
"""Islands that are on the average slimmer than this share of the width hold no clean foot."""
TOGETHER = 100
"""Islands that are looked at together: bounds the memory."""
BEYOND = 3.0
"""Strips are looked at for so many widths behind both feet."""
TOUCH = 1e-3
BULGE = 0.08
"""Walls may bulge into a strip between its lines by this share of the width, as round ones do."""
NEAR_CORNER = 1.2
"""Feet closer to a corner than this share of the width are avoided."""
WEIGHTS = {
    "uneven": 0.6,
    "slant": 0.9,
    "backing": 0.35,
    "middle": 0.45,
    "corner": 1.2,
    "angle": 1.2,
    "axis": 0.2,
}
"""What each flaw costs, in lengths of the shortest bridge."""
EQUAL_PLACES, EQUAL_MM = 4, 1e-4
"""Places and prices that differ by less are equal, and the first one is taken: rounding, which differs with where the
design lies, decides nothing."""


@dataclass(frozen=True, eq=False)
class Candidates:
    """Bridges that an island could have, the cheapest first. ``points`` (n, 2) on its wall, ``ways`` (n, 2) into the
    opening; a strip goes from ``low`` to ``high`` along its way. ``target``: the ring on the other side. ``cost``
    in lengths of the shortest. ``middle``: the island's middle."""

    ring: int
    points: FloatArray
    ways: FloatArray
    low: FloatArray
    high: FloatArray
    target: IntArray
    cost: FloatArray
    middle: FloatArray
    shortest: float

    def __len__(self) -> int:
        return len(self.points)

    @property
    def centres(self) -> FloatArray:
        return np.asarray(self.points + self.ways * ((self.low + self.high) / 2.0)[:, None])

    def chosen(self, rows: IntArray) -> Candidates:
        return Candidates(
            self.ring,
            self.points[rows],
            self.ways[rows],
            self.low[rows],
            self.high[rows],
            self.target[rows],
            self.cost[rows],
            self.middle,
            self.shortest,
        )


def candidates(
    walls: Walls, islands: Sequence[int], width: float, angle_deg: float | None = None
) -> dict[int, Candidates]:
    """Of each island (a ring that is not an outer one); none where nothing lands clean. All are looked at together."""
    found = {ring: _none(ring, _middle(walls.rings[ring])) for ring in islands}
    waiting = [ring for ring in islands if _mean_width(walls.rings[ring]) > SLIMMEST * width]
    for reach in (REACH, FARTHEST):
        for k in range(0, len(waiting), TOGETHER):
            pause()
            found |= _within(walls, waiting[k : k + TOGETHER], width, angle_deg, reach * width)
        waiting = [ring for ring in waiting if not len(found[ring])]
    return found


def _mean_width(ring: FloatArray) -> float:
    """Of the area in a ring: twice the area over the way round it."""
    x, y = (np.concatenate([ring, ring[:1]]) - ring[0]).T
    area = abs(float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum())) / 2.0
    return 2.0 * area / max(float(np.hypot(np.diff(x), np.diff(y)).sum()), 1e-9)


@dataclass(frozen=True, eq=False)
class _Rays:
    """``island``: the number of each ray's island among those that are looked at."""

    island: IntArray
    points: FloatArray
    ways: FloatArray
    normals: FloatArray

    def chosen(self, rows: IntArray) -> _Rays:
        return _Rays(self.island[rows], self.points[rows], self.ways[rows], self.normals[rows])


def _within(
    walls: Walls, islands: Sequence[int], width: float, angle_deg: float | None, reach: float
) -> dict[int, Candidates]:
    middles = np.array([_middle(walls.rings[ring]) for ring in islands])
    rings = np.array(islands)
    rays = _all_rays(walls, islands, middles, width, angle_deg)
    whole = float(np.hypot(*(walls.ends.max(axis=0) - walls.ends.min(axis=0))))
    ahead = np.full(len(rays.points), min(reach, whole))
    met = crossings(walls, rays.points, rays.ways, np.zeros(len(ahead)), ahead)
    length, segment = met.first_after(np.full(len(ahead), 1e-6 + 1e-4 * width))
    other = np.where(segment >= 0, walls.ring_of[np.maximum(segment, 0)], -1)
    own = rings[rays.island]
    same = walls.opening_of[np.maximum(other, 0)] == walls.opening_of[own]
    rows = np.flatnonzero((segment >= 0) & (other != own) & same)
    if not len(rows):
        return {}
    rays, length, segment = rays.chosen(rows), length[rows], segment[rows]
    slant = _slant(walls, rays, segment)
    shortest = _least_of(length, rays.island, len(islands))
    rough = length / shortest[rays.island] + WEIGHTS["slant"] * slant + _leaning(rays.ways, angle_deg)
    rough += WEIGHTS["middle"] * _aside(walls, rays, rings, middles)
    is_large = walls.around[rings] > LARGE * width
    rows = _best_of_each(rays, rough, width, np.where(is_large, MOST_JUDGED_ON_LARGE, MOST_JUDGED))
    return _judged(walls, rings, middles, rays.chosen(rows), length[rows], width, angle_deg)


def _aside(walls: Walls, rays: _Rays, rings: IntArray, middles: FloatArray) -> FloatArray:
    """How far the line of a ray passes an island's middle, in shares of half the island's size."""
    half = np.array([np.hypot(*np.ptp(walls.rings[ring], axis=0)) / 2.0 for ring in rings.tolist()])
    off = middles[rays.island] - rays.points
    away = np.abs(off[:, 0] * rays.ways[:, 1] - off[:, 1] * rays.ways[:, 0])
    return np.asarray(away / np.maximum(half[rays.island], 1e-9))


def _least_of(values: FloatArray, group: IntArray, count: int) -> FloatArray:
    found = np.full(count, np.inf)
    np.minimum.at(found, group, values)
    return found


def _slant(walls: Walls, rays: _Rays, segment: IntArray) -> FloatArray:
    """How far a ray is from square to the walls at both ends, 0 to 2."""
    edge = walls.ends[segment] - walls.starts[segment]
    edge /= np.maximum(np.hypot(*edge.T), 1e-12)[:, None]
    here = 1.0 - (rays.ways * rays.normals).sum(axis=1)
    return np.asarray(here + 1.0 - np.abs(rays.ways[:, 0] * edge[:, 1] - rays.ways[:, 1] * edge[:, 0]))


def _all_rays(
    walls: Walls, islands: Sequence[int], middles: FloatArray, width: float, angle_deg: float | None
) -> _Rays:
    island, points, normals = _places([walls.rings[ring] for ring in islands], width)
    fixed = _fixed(angle_deg)
    near = normals @ fixed.T
    which, direction = np.nonzero(near >= STEEPEST)
    alone = np.flatnonzero(near.max(axis=1) < SNAP)
    through = _through_middles(walls, islands, middles, fixed)
    return _Rays(
        np.concatenate([island[alone], island[which], through.island]),
        np.concatenate([points[alone], points[which], through.points]),
        np.concatenate([normals[alone], fixed[direction], through.ways]),
        np.concatenate([normals[alone], normals[which], through.normals]),
    )


def _through_middles(walls: Walls, islands: Sequence[int], middles: FloatArray, fixed: FloatArray) -> _Rays:
    """Rays along the fixed directions whose line runs through an island's very middle."""
    count = len(fixed)
    island = np.repeat(np.arange(len(islands)), count)
    ways = np.tile(fixed, (len(islands), 1))
    sizes = np.array([float(np.hypot(*np.ptp(walls.rings[ring], axis=0))) for ring in islands])[island]
    met = crossings(walls, middles[island], ways, np.zeros(len(ways)), sizes)
    own = np.flatnonzero(walls.ring_of[met.segment] == np.array(islands)[island][met.line])
    met = Crossings(met.t[own], met.line[own], met.segment[own], met.count)
    far, segment = met.last_before(np.full(len(ways), np.inf))
    edge = walls.ends[np.maximum(segment, 0)] - walls.starts[np.maximum(segment, 0)]
    edge /= np.maximum(np.hypot(*edge.T), 1e-12)[:, None]
    out = np.stack([edge[:, 1], -edge[:, 0]], axis=1)
    rows = np.flatnonzero((segment >= 0) & (far > 0.0) & ((out * ways).sum(axis=1) >= STEEPEST))
    return _Rays(island[rows], middles[island[rows]] + ways[rows] * far[rows][:, None], ways[rows], out[rows])


def _best_of_each(rays: _Rays, rough: FloatArray, width: float, most: IntArray) -> IntArray:
    """The best rays of each island, but not all from one place: a part by rank, the rest from different parts of its
    wall. ``most`` of each island."""
    order = np.lexsort((np.round(rough, EQUAL_PLACES), rays.island))
    island = rays.island[order]
    first = np.flatnonzero(np.r_[True, island[1:] != island[:-1]])
    rank = np.arange(len(order)) - np.repeat(first, np.diff(np.r_[first, len(order)]))
    best = rank < MOST_JUDGED // 2
    others = most - MOST_JUDGED // 2
    rest = np.flatnonzero(~best)
    from_corner = np.round(rays.points[order[rest]] - rays.points.min(axis=0, initial=np.inf), EQUAL_PLACES)
    cell = np.floor(from_corner / (1.5 * width)).astype(np.int64)
    _, seen = np.unique(np.concatenate([island[rest][:, None], cell], axis=1), axis=0, return_index=True)
    spread = rest[np.sort(seen)]
    own = island[spread]
    begin = np.flatnonzero(np.r_[True, own[1:] != own[:-1]]) if len(own) else np.zeros(0, dtype=np.int64)
    place = np.arange(len(own)) - np.repeat(begin, np.diff(np.r_[begin, len(own)]))
    chosen = np.concatenate([np.flatnonzero(best), spread[place < others[own]]])
    return np.asarray(order[np.sort(chosen)])


def _middle(ring: FloatArray) -> FloatArray:
    """The centre of gravity of the area in a ring."""
    x, y = (np.concatenate([ring, ring[:1]]) - ring[0]).T
    cross = x[:-1] * y[1:] - x[1:] * y[:-1]
    area = cross.sum() / 2.0
    if abs(area) < 1e-12:
        return np.asarray(ring.mean(axis=0))
    moments = np.array([((x[:-1] + x[1:]) * cross).sum(), ((y[:-1] + y[1:]) * cross).sum()])
    return np.asarray(ring[0] + moments / (6.0 * area))


def _places(rings: Sequence[FloatArray], width: float) -> tuple[IntArray, FloatArray, FloatArray]:
    """Points along rings: the number of each one's ring, its place, and the normal there, out of the ring's inside
    into the opening."""
    closed = [np.concatenate([ring, ring[:1]]) for ring in rings]
    points = np.concatenate(closed)
    step = np.hypot(*np.diff(points, axis=0).T)
    ends = np.cumsum([len(ring) for ring in closed])
    step[ends[:-1] - 1] = 0.0  # from one ring to the next
    run = np.r_[0.0, np.cumsum(step)]
    begin = run[np.r_[0, ends[:-1]]]
    whole = run[ends - 1] - begin
    most = np.where(whole > LARGE * width, MOST_ON_LARGE, MOST_PLACES)
    count = np.clip(np.round(whole / (EVERY * width)), 12, most).astype(np.int64)
    ring = np.repeat(np.arange(len(rings)), count)
    number = np.arange(len(ring)) - np.repeat(np.cumsum(count) - count, count)
    at = (number + 0.5) * (whole / count)[ring]

    def place(s: FloatArray) -> FloatArray:
        s = s % whole[ring] + begin[ring]
        return np.stack([np.interp(s, run, points[:, k]) for k in (0, 1)], axis=1)

    half = np.minimum(width / 2.0, whole / 12.0)[ring]
    chord = place(at + half) - place(at - half)
    chord /= np.maximum(np.hypot(*chord.T), 1e-12)[:, None]
    return ring, place(at), np.stack([chord[:, 1], -chord[:, 0]], axis=1)


def _fixed(angle_deg: float | None) -> FloatArray:
    turn = np.radians((angle_deg or 0.0) + np.arange(DIRECTIONS) * 360.0 / DIRECTIONS)
    return np.stack([np.cos(turn), -np.sin(turn)], axis=1)


def _leaning(ways: FloatArray, angle_deg: float | None) -> FloatArray:
    """What a direction costs: away from the one angle that is wished, or from the axes of the sheet."""
    if angle_deg is not None:
        turn = np.radians(angle_deg)
        beside = np.abs(ways @ np.array([np.sin(turn), np.cos(turn)]))
        return np.asarray(WEIGHTS["angle"] * beside)
    return np.asarray(WEIGHTS["axis"] * np.abs(np.sin(2.0 * np.arctan2(ways[:, 1], ways[:, 0]))))


def _judged(
    walls: Walls,
    rings: IntArray,
    middles: FloatArray,
    rays: _Rays,
    length: FloatArray,
    width: float,
    angle_deg: float | None,
) -> dict[int, Candidates]:
    """Rays as strips: what lands clean on both sides, with its cost."""
    across = np.stack([-rays.ways[:, 1], rays.ways[:, 0]], axis=1)
    count, lines = len(length), len(BESIDE)
    origins = (rays.points[:, None] + across[:, None] * (np.array(BESIDE) * width)[None, :, None]).reshape(-1, 2)
    along = np.repeat(rays.ways, lines, axis=0)
    beyond = np.full(len(origins), BEYOND * width)
    met = crossings(walls, origins, along, beyond, np.repeat(length, lines) + BEYOND * width)
    half = np.repeat(length / 2.0, lines)
    begin, begin_at = met.last_before(half)
    stop, stop_at = met.first_after(half)
    before, _ = met.last_before(begin - 1e-7)
    after, _ = met.first_after(stop + 1e-7)
    begin, stop, before, after = (v.reshape(count, lines) for v in (begin, stop, before, after))
    from_ring = np.where(begin_at >= 0, walls.ring_of[np.maximum(begin_at, 0)], -1).reshape(count, lines)
    to_ring = np.where(stop_at >= 0, walls.ring_of[np.maximum(stop_at, 0)], -1).reshape(count, lines)
    target, own = to_ring[:, lines // 2], rings[rays.island]
    low, high = begin.min(axis=1), stop.max(axis=1)
    good = (from_ring == own[:, None]).all(axis=1) & (to_ring == target[:, None]).all(axis=1) & (target != own)
    good &= walls.opening_of[np.maximum(target, 0)] == walls.opening_of[own]
    with np.errstate(invalid="ignore"):
        back, front = (low[:, None] - before).min(axis=1), (after - high[:, None]).min(axis=1)
    good &= (back > CLEAR * width) & (front > CLEAR * width)
    rows = np.flatnonzero(good)
    kept = rays.chosen(rows)
    clear = _is_clear(walls, kept, begin[rows].max(axis=1), stop[rows].min(axis=1), width)
    behind = (CLEAR + BULGE) * width
    for a, b in ((low[rows] - behind, low[rows]), (high[rows], high[rows] + behind)):
        clear &= _is_clear(walls, kept, a, b, width)  # nothing cuts into the sheet behind the feet
    rows = rows[clear]
    lengths = high - low
    shortest = _least_of(lengths[rows], rays.island[rows], len(rings))
    rows = rows[lengths[rows] <= LONGEST * shortest[rays.island[rows]]]
    if not len(rows):
        return {}
    kept = rays.chosen(rows)
    least = shortest[kept.island]
    slant = _slant(walls, kept, stop_at.reshape(count, lines)[rows, lines // 2])
    uneven = (np.ptp(begin[rows], axis=1) + np.ptp(stop[rows], axis=1)) / width
    thin = np.clip(1.0 - back[rows] / (2 * width), 0.0, 1.0) + np.clip(1.0 - front[rows] / (2 * width), 0.0, 1.0)
    low, high, target = low[rows], high[rows], target[rows]
    corner = _near_corner(walls, kept.points + kept.ways * low[:, None], own[rows], width)
    corner += _near_corner(walls, kept.points + kept.ways * high[:, None], target, width)
    cost = (
        (high - low) / least
        + WEIGHTS["slant"] * slant
        + WEIGHTS["uneven"] * uneven
        + WEIGHTS["backing"] * thin
        + WEIGHTS["middle"] * _aside(walls, kept, rings, middles)
        + WEIGHTS["corner"] * corner
        + _leaning(kept.ways, angle_deg)
    )
    order = np.lexsort((np.round(cost, EQUAL_PLACES), kept.island))
    island = kept.island[order]
    bounds = np.flatnonzero(np.r_[True, island[1:] != island[:-1], True])
    found = {}
    for i, j in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        own_rows, number = order[i:j], int(island[i])
        found[int(rings[number])] = Candidates(
            int(rings[number]),
            kept.points[own_rows],
            kept.ways[own_rows],
            low[own_rows],
            high[own_rows],
            target[own_rows],
            cost[own_rows],
            middles[number],
            float(shortest[number]),
        )
    return found


def _is_clear(walls: Walls, rays: _Rays, low: FloatArray, high: FloatArray, width: float) -> NDArray[np.bool_]:
    """Whether no wall has a vertex inside the strips from ``low`` to ``high``, where the five lines along them cross
    none: what reaches in between two lines ends there."""
    clear = np.ones(len(low), dtype=bool)
    if not len(low):
        return clear
    side = np.stack([-rays.ways[:, 1], rays.ways[:, 0]], axis=1) * width / 2.0
    start, end = rays.points + rays.ways * low[:, None], rays.points + rays.ways * high[:, None]
    boxes = shapely.polygons(np.stack([start + side, end + side, end - side, start - side], axis=1))
    strip, segment = walls.tree.query(boxes)
    off = walls.starts[segment] - rays.points[strip]
    along = (off * rays.ways[strip]).sum(axis=1)
    across = np.abs((off * side[strip]).sum(axis=1)) / (width / 2.0)
    bulge = BULGE * width
    inside = (along > low[strip] + bulge) & (along < high[strip] - bulge) & (across < width / 2.0 - TOUCH)
    clear[strip[inside]] = False
    return clear


def _near_corner(walls: Walls, feet: FloatArray, ring: IntArray, width: float) -> FloatArray:
    """1 for feet close to a corner of their ring, 0 for others."""
    corners, of = walls.corners
    found = np.zeros(len(feet))
    if len(corners):
        foot, corner = walls.corner_tree.query(shapely.points(feet), predicate="dwithin", distance=NEAR_CORNER * width)
        found[foot[of[corner] == ring[foot]]] = 1.0
    return found


def _none(ring: int, middle: FloatArray) -> Candidates:
    empty, flat = np.zeros((0, 2)), np.zeros(0)
    return Candidates(ring, empty, empty, flat, flat, np.zeros(0, dtype=np.int64), flat, middle, np.inf)
