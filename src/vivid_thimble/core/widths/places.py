"""Thin samples grouped into places a person can look at.

Neighbouring thin samples of one ring form a run; runs whose samples face each other
belong to the same place. A place knows its thinnest width and where, its mean width,
its length, and how many open ends it has: 0 when the whole piece is thin, 1 for a
free end, 2 or more when it connects thicker parts.

Only samples that stand (see ``tips``) make a thin place. A group of samples of which none
stands is a tip or a burr: longer than three limits it is reported as a needle tip, shorter
ones never count.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.widths.field import Field, Side
from vivid_thimble.core.widths.tips import Standing, chords_stand, standing
from vivid_thimble.core.widths.walls import Rings, Samples, directions

NEEDLE_LIMITS = 3.0
"""A taper up to this many limits long never counts."""
RUN_GAP_LIMITS = 0.3
"""Thin samples of one ring closer than this belong to one run."""
WINDOW_LIMITS = 0.15
"""The shortest chord is refined within so many limits of the thinnest sample ..."""
WINDOW_WIDTHS = 0.25
"""... and so many times its width, along walls that turn by less than ..."""
ONE_WALL = 0.87
"""... 30 degrees (the cosine): round the corner of a cap begins another wall."""
NECK_LIMITS = 3.0
"""A thin stretch up to this many limits long between thicker parts is a neck."""
SPINE_MM = 0.01
"""Tolerance of a place's middle line."""
CAP_LIMITS = 2.0
"""Two ends of a place joined by boundary no longer than this close it: no open end."""
JUST_ABOVE = 1.0 + 1e-6
"""A limit at which a width just counts."""
NO_SPINE = shapely.GeometryCollection()


@dataclass(frozen=True)
class ThinPlace:
    """One place where two walls are closer than the limit."""

    thinnest: float
    at: tuple[float, float]
    """Middle of the shortest chord."""
    ends: tuple[tuple[float, float], tuple[float, float]]
    """The two facing points of the shortest chord."""
    mean: float
    length: float
    open_ends: int
    is_needle: bool
    polygons: tuple[int, int]
    """The pieces of the two walls, as indices into the polygons inspected."""
    spine: shapely.Geometry = field(default=NO_SPINE, compare=False, repr=False)
    """The middle line of the place (lines; a point when it is a single chord)."""
    is_touching: bool = False
    """Whether two walls meet or come as close as a hair: no size makes a line or a gap of that."""

    def shifted(self, dx: float, dy: float) -> ThinPlace:
        """The same place when its shape lies elsewhere."""
        (ax, ay), (bx, by) = self.ends
        ends = ((ax + dx, ay + dy), (bx + dx, by + dy))
        spine = shapely.transform(self.spine, lambda points: points + np.array([dx, dy]))
        return replace(self, at=(self.at[0] + dx, self.at[1] + dy), ends=ends, spine=spine)

    def is_neck(self, limit: float) -> bool:
        return self.open_ends >= 2 and self.length <= NECK_LIMITS * limit


@dataclass(frozen=True, eq=False)
class _Group:
    """Connected thin samples: all members, and those that make the place (sample numbers)."""

    members: IntArray
    counted: IntArray
    is_needle: bool


_Chord = tuple[int, float, FloatArray, FloatArray]
"""The sample it starts at, its length in mm and its two ends."""


def thin_places(rings: Rings, samples: Samples, field: Field, limit: float, side: Side) -> list[ThinPlace]:
    """Places where the field is below ``limit`` mm, thinnest first."""
    stands = standing(rings, samples, field, side)
    return _places(rings, samples, field, stands, limit)


def _places(rings: Rings, samples: Samples, field: Field, stands: Standing, limit: float) -> list[ThinPlace]:
    groups = _groups(rings, samples, field, stands, limit)
    chords = _shortest_chords(rings, samples, field, stands, groups, limit)
    places = [
        _place(rings, samples, field, stands, group, chord, limit) for group, chord in zip(groups, chords, strict=True)
    ]
    spines = _spines(samples, field, groups)
    places = [replace(place, spine=spine) for place, spine in zip(places, spines, strict=True)]
    return sorted(_merged(places, limit), key=lambda p: (p.thinnest, p.at))


def thinnest_place(rings: Rings, samples: Samples, field: Field, stands: Standing, beyond: float) -> ThinPlace | None:
    """The thinnest place wider than ``beyond`` mm that is no needle tip and no hair; None when there is none."""
    stands = replace(stands, width=np.where(stands.width > max(beyond, rings.hair), stands.width, np.inf))
    counting = stands.width[np.isfinite(stands.width)]
    if not len(counting):
        return None
    found = _places(rings, samples, field, stands, float(counting.min()) * JUST_ABOVE)
    return next((place for place in found if not (place.is_needle or place.is_touching)), None)


def _groups(rings: Rings, samples: Samples, field: Field, stands: Standing, limit: float) -> list[_Group]:
    """The connected groups of thin samples that are thin places or needle tips."""
    index = np.flatnonzero(np.minimum(field.width, stands.width) < limit)
    if not len(index):
        return []
    labels = _grouped(rings, samples, field, index, limit)
    counts = stands.width[index] < limit
    order = np.argsort(labels, kind="stable")
    bounds = np.flatnonzero(np.r_[True, np.diff(labels[order]) != 0, True])
    depth = stands.depth[index]
    groups = []
    for i, j in zip(bounds[:-1], bounds[1:], strict=True):
        rows = order[i:j]
        counted = rows[counts[rows]]
        if len(counted):
            groups.append(_Group(index[rows], index[counted], is_needle=False))
        elif depth[rows].max() > NEEDLE_LIMITS * limit:
            groups.append(_Group(index[rows], index[rows], is_needle=True))
    return groups


def _grouped(rings: Rings, samples: Samples, field: Field, index: IntArray, limit: float) -> IntArray:
    """Label each thin sample with its place: run neighbours and partners are connected."""
    from scipy.sparse import coo_matrix  # here: they delay the window's first paint
    from scipy.sparse.csgraph import connected_components

    count = len(index)
    rank = np.full(len(samples), -1, dtype=np.int64)
    rank[index] = np.arange(count)
    tail, head = _run_links(rings, samples, index, limit)
    partner = field.partner[index]
    facing = rank[partner]
    linked = facing >= 0
    rows = np.r_[tail, np.flatnonzero(linked)]
    columns = np.r_[head, facing[linked]]
    graph = coo_matrix((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(count, count))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)


def _run_links(rings: Rings, samples: Samples, index: IntArray, limit: float) -> tuple[IntArray, IntArray]:
    """Pairs of consecutive thin samples of one ring that are close along it."""
    ring, arc = samples.ring[index], samples.arc[index]
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    following = np.arange(1, len(index) + 1)
    following[np.r_[starts[1:], len(index)] - 1] = starts
    gap = arc[following] - arc - samples.half[index] - samples.half[index[following]]
    wraps = following <= np.arange(len(index))
    gap = np.where(wraps, gap + rings.ring_length[ring], gap)
    # round the end of a thin sheet the run turns back: the gaps on its two sides are two places
    onward = (samples.normal[index] * samples.normal[index[following]]).sum(axis=1) > 0.0
    joined = (gap <= RUN_GAP_LIMITS * limit) & onward
    return np.flatnonzero(joined), following[joined]


def _place(
    rings: Rings, samples: Samples, field: Field, stands: Standing, group: _Group, chord: _Chord, limit: float
) -> ThinPlace:
    counted = group.counted
    width = field.width[counted]
    best, thinnest, p, q = chord
    deepest = float(stands.depth[counted].max())
    length = deepest if group.is_needle else _length(samples, field, group.members, limit)
    weight = 2.0 * samples.half[counted]
    mean = float((weight * width).sum() / weight.sum()) if weight.sum() > 0 else thinnest
    middle = (p + q) / 2.0
    walls = samples.ring[[best, int(field.partner[best])]]
    return ThinPlace(
        thinnest=thinnest,
        at=(float(middle[0]), float(middle[1])),
        ends=((float(p[0]), float(p[1])), (float(q[0]), float(q[1]))),
        mean=mean,
        length=length,
        open_ends=_open_ends(rings, samples, group.members, limit),
        is_needle=group.is_needle,
        polygons=(int(rings.ring_polygon[walls[0]]), int(rings.ring_polygon[walls[1]])),
        is_touching=thinnest <= rings.hair and not group.is_needle,
    )


def _spines(samples: Samples, field: Field, groups: list[_Group]) -> list[shapely.Geometry]:
    """For each group the middles of all its chords, connected where they follow each other."""
    if not groups:
        return []
    counted = np.concatenate([group.counted for group in groups])
    owner = np.repeat(np.arange(len(groups)), [len(group.counted) for group in groups])
    middles = (samples.point[counted] + field.foot[counted]) / 2.0
    step = samples.half[counted]
    apart = np.hypot(*np.diff(middles, axis=0).T) > 3.0 * (step[1:] + step[:-1]) + TOUCH_MM
    run = np.r_[0, np.cumsum(apart | (owner[1:] != owner[:-1]))]
    starts, sizes = np.unique(run, return_index=True, return_counts=True)[1:]
    geometries = np.asarray(shapely.points(middles[starts]), dtype=object)
    members = np.flatnonzero(sizes[run] > 1)
    if len(members):
        _, which = np.unique(run[members], return_inverse=True)
        lines = shapely.simplify(shapely.linestrings(middles[members], indices=which), SPINE_MM)
        geometries[sizes > 1] = np.where(shapely.length(lines) > TOUCH_MM, lines, geometries[sizes > 1])
    bounds = np.searchsorted(owner[starts], np.arange(1, len(groups)))
    return [
        runs[0] if len(runs) == 1 else shapely.GeometryCollection(list(runs)) for runs in np.split(geometries, bounds)
    ]


def _length(samples: Samples, field: Field, counted: IntArray, limit: float) -> float:
    """Length of a place along its middle: walls that face each other count once."""
    facing_thin = field.width[field.partner[counted]] < limit
    return float((2.0 * samples.half[counted] * np.where(facing_thin, 0.5, 1.0)).sum())


def _shortest_chords(
    rings: Rings, samples: Samples, field: Field, stands: Standing, groups: list[_Group], limit: float
) -> list[_Chord]:
    """The figure of each group, exact to the polygon, and its two facing points."""
    chords: list[_Chord] = []
    refined: dict[int, tuple[tuple[int, int], float, FloatArray, FloatArray]] = {}
    for group in groups:
        counted, width = group.counted, field.width[group.counted]
        if group.is_needle:
            best = int(counted[np.argmin(np.abs(width - limit / 2.0))])
            chords.append((best, float(width.min()), samples.point[best], field.foot[best]))
            continue
        best = int(counted[np.argmin(stands.width[counted])])
        if stands.width[best] < field.width[best]:  # a taper: it is thinner beyond, but stands only up to here
            chords.append((best, float(stands.width[best]), stands.point[best], stands.foot[best]))
            continue
        p, q = samples.point[best], field.foot[best]
        edges = int(samples.edge[best]), int(samples.edge[field.partner[best]])
        window = min(WINDOW_LIMITS * limit, WINDOW_WIDTHS * float(field.width[best]))
        closest = closest_points(rings, *edges, p, q, window)
        if closest[0] <= field.width[best]:
            refined[len(chords)] = (edges, *closest)
        chords.append((best, float(field.width[best]), p, q))
    stand = _stand(rings, [(edges, p, q) for edges, _, p, q in refined.values()])
    for k in np.array(list(refined), dtype=np.int64)[stand].tolist():
        chords[k] = (chords[k][0], *refined[k][1:])
    return chords


def _stand(rings: Rings, chords: list[tuple[tuple[int, int], FloatArray, FloatArray]]) -> NDArray[np.bool_]:
    """Whether chords from p, on a first edge or beside it, to q, on a second or beside it, are no mere tips'."""
    if not chords:
        return np.ones(0, dtype=bool)
    edges, ends = np.array([edges for edges, _, _ in chords]), np.array([(p, q) for _, p, q in chords])
    arcs = arcs_of(rings, edges, ends)
    widths = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    rings_of_ends = rings.ring[edges]
    return chords_stand(rings, (rings_of_ends[:, 0], arcs[:, 0]), (rings_of_ends[:, 1], arcs[:, 1]), widths)[0]


def arcs_of(rings: Rings, edges: IntArray, points: FloatArray) -> FloatArray:
    """How far along their rings, in mm, points (n, 2, 2) lie on edges (n, 2), or beside them in their direction."""
    along = directions(rings, edges.ravel()).reshape(points.shape)
    return np.asarray(rings.arc[edges] + ((points - rings.a[edges]) * along).sum(axis=2))


def closest_points(
    rings: Rings, e: int, f: int, p: FloatArray, q: FloatArray, window: float
) -> tuple[float, FloatArray, FloatArray]:
    """Shortest connection between the walls around p (on edge e) and q (on edge f).

    Only the stretches within ``window`` mm of p and q are looked at: farther along, a
    tapering place would lead away to its tip.
    """
    first, second = _one_wall(rings, e), _one_wall(rings, f)
    i, j = (grid.ravel() for grid in np.meshgrid(first, second))
    apart = (i != j) & (rings.following[i] != j) & (rings.preceding[i] != j)
    ai, bi, near_p = _clipped(rings.a[i], rings.b[i], p, window)
    aj, bj, near_q = _clipped(rings.a[j], rings.b[j], q, window)
    usable = apart & near_p & near_q
    if not usable.any():
        return np.inf, p, q
    ai, bi, aj, bj = ai[usable], bi[usable], aj[usable], bj[usable]
    options = [
        _point_to_edge(ai, aj, bj),
        _point_to_edge(bi, aj, bj),
        _point_to_edge(aj, ai, bi)[::-1],
        _point_to_edge(bj, ai, bi)[::-1],
    ]
    starts = np.concatenate([o[0] for o in options])
    ends = np.concatenate([o[1] for o in options])
    distance = np.hypot(*(starts - ends).T)
    k = int(np.argmin(distance))
    return float(distance[k]), starts[k], ends[k]


def _one_wall(rings: Rings, edge: int) -> IntArray:
    """An edge with its neighbours, unless there is a corner between."""
    beside = np.array([rings.preceding[edge], edge, rings.following[edge]])
    along = directions(rings, beside)
    return np.asarray(beside[along @ along[1] >= ONE_WALL])


def _clipped(
    a: FloatArray, b: FloatArray, centre: FloatArray, radius: float
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """The parts of edges inside a circle, and whether there is any."""
    span = b - a
    length = np.maximum(np.hypot(*span.T), 1e-300)
    unit = span / length[:, None]
    foot = ((centre - a) * unit).sum(axis=1)
    off = np.hypot(*(a + unit * foot[:, None] - centre).T)
    half = np.sqrt(np.maximum(radius**2 - off**2, 0.0))
    low, high = np.clip(foot - half, 0.0, length), np.clip(foot + half, 0.0, length)
    return (
        a + unit * low[:, None],
        a + unit * high[:, None],
        (off <= radius) & (foot + half >= 0) & (foot - half <= length),
    )


def _point_to_edge(p: FloatArray, a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    span = b - a
    t = ((p - a) * span).sum(axis=1) / np.maximum((span**2).sum(axis=1), 1e-300)
    return p, a + span * np.clip(t, 0.0, 1.0)[:, None]


def _open_ends(rings: Rings, samples: Samples, members: IntArray, limit: float) -> int:
    """Ends at which the place goes on into something thicker.

    Each run along a ring has two ends; two ends joined by a short stretch of boundary
    (a cap or a tip) close the place there.
    """
    ring, arc, half = samples.ring[members], samples.arc[members], samples.half[members]
    run_ends = caps = 0
    for r in np.unique(ring):
        of_ring = ring == r
        low, high = arc[of_ring] - half[of_ring], arc[of_ring] + half[of_ring]
        gap = np.r_[low[1:] - high[:-1], low[0] + rings.ring_length[r] - high[-1]]
        breaks = gap > RUN_GAP_LIMITS * limit
        run_ends += 2 * int(breaks.sum())
        caps += int((breaks & (gap <= CAP_LIMITS * limit)).sum())
    return max(run_ends - 2 * caps, 0) // 2


def _merged(places: list[ThinPlace], limit: float) -> list[ThinPlace]:
    """Places with the same middle are one place seen from two walls."""
    kept: list[ThinPlace] = []
    for place in sorted(places, key=lambda p: p.thinnest):
        near = [k for k in kept if abs(k.at[0] - place.at[0]) + abs(k.at[1] - place.at[1]) < 0.25 * limit]
        if not near:
            kept.append(place)
    return kept
