"""Thin samples grouped into places a person can look at.

Neighbouring thin samples of one ring form a run; runs whose samples face each other
belong to the same place. A place knows its thinnest width and where, its mean width,
its length, and how many open ends it has: 0 when the whole piece is thin, 1 for a
free end, 2 or more when it connects thicker parts.

A taper is no thin place: near a tip the width falls to nothing by itself. Samples
whose two walls meet within three limits along the boundary are left out when the
width there grows from less than half of what it reaches; a taper longer than that
is reported as a needle tip. What sticks out by less than one limit is a burr or the
blunt end of a cleft and never counts.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.inspect.walls import Rings, Samples
from vivid_thimble.core.inspect.widths import Field

TAPER_LIMITS = 3.0
"""A taper up to this many limits long never counts."""
BURR_LIMITS = 1.0
"""What sticks out no farther than this many limits never counts, tapering or not."""
TAPER_FALL = 0.5
"""A taper's tip is thinner than this share of its thick end ..."""
BLUNT_FALL = 0.8
"""... or this share when the thick end reaches the limit: a rounded, still widening tip."""
REACHED = 0.95
"""Share of the limit from which a widening stretch has reached it."""
TAPER_NEAR_LIMITS = 1.0
"""A needle is thinnest within this many limits of where its taper was cut off."""
TAPER_REST_LIMITS = 1.0
"""What remains beyond a taper's cut-off is its continuation when it is no longer than this."""
RUN_GAP_LIMITS = 0.3
"""Thin samples of one ring closer than this belong to one run."""
WINDOW_LIMITS = 0.15
"""The shortest chord is refined within so many limits of the thinnest sample."""
NECK_LIMITS = 3.0
"""A thin stretch up to this many limits long between thicker parts is a neck."""
CAP_LIMITS = 2.0
"""Two ends of a place joined by boundary no longer than this close it: no open end."""


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

    def shifted(self, dx: float, dy: float) -> ThinPlace:
        """The same place when its shape lies elsewhere."""
        (ax, ay), (bx, by) = self.ends
        ends = ((ax + dx, ay + dy), (bx + dx, by + dy))
        return replace(self, at=(self.at[0] + dx, self.at[1] + dy), ends=ends)

    def is_neck(self, limit: float) -> bool:
        return self.open_ends >= 2 and self.length <= NECK_LIMITS * limit


def thin_places(rings: Rings, samples: Samples, field: Field, limit: float) -> list[ThinPlace]:
    """Places where the field is below ``limit`` mm, thinnest first."""
    places = [_place(rings, samples, field, *group, limit) for group in _groups_of_thin(rings, samples, field, limit)]
    return sorted(_merged(places, limit), key=lambda p: (p.thinnest, p.at))


def thinnest_place(rings: Rings, samples: Samples, field: Field, limit: float) -> tuple[ThinPlace | None, FloatArray]:
    """The thinnest place that is no needle tip, without looking closely at all the others.

    With it come the points (n, 2) of all samples of such places.
    """
    standing = []
    for group in _groups_of_thin(rings, samples, field, limit):
        index, members, counted = group
        best = index[counted[np.argmin(field.width[index[counted]])]]
        if not _is_needle(samples, field, index, members, counted, best, limit):
            standing.append((float(field.width[best]), group))
    if not standing:
        return None, np.zeros((0, 2))
    _, thinnest = min(standing, key=lambda entry: entry[0])
    points = samples.point[np.concatenate([index[members] for _, (index, members, _) in standing])]
    return _place(rings, samples, field, *thinnest, limit), points


def _groups_of_thin(
    rings: Rings, samples: Samples, field: Field, limit: float
) -> list[tuple[IntArray, IntArray, IntArray]]:
    """All thin samples, and for each place its members and those of them that count (indices into these)."""
    index = np.flatnonzero(field.width < limit)
    if not len(index):
        return []
    labels = _grouped(rings, samples, field, index, limit)
    taper = _taper_samples(rings, samples, field, index, labels, limit)
    order = np.argsort(labels, kind="stable")
    bounds = np.flatnonzero(np.r_[True, np.diff(labels[order]) != 0, True])
    groups = []
    for i, j in zip(bounds[:-1], bounds[1:], strict=True):
        members = order[i:j]
        counted = members[~taper[members]]
        if len(counted):
            groups.append((index, members, counted))
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


def _taper_samples(
    rings: Rings, samples: Samples, field: Field, index: IntArray, labels: IntArray, limit: float
) -> NDArray[np.bool_]:
    """Thin samples that belong to the taper of a tip (see the module's text)."""
    partner = field.partner[index]
    same = samples.ring[index] == samples.ring[partner]
    between = np.abs(samples.arc[index] - samples.arc[partner])
    between = np.minimum(between, rings.ring_length[samples.ring[index]] - between)
    near_tip = same & (between <= 2.0 * TAPER_LIMITS * limit)
    if not near_tip.any():
        return np.asarray(near_tip)
    groups = int(labels.max()) + 1
    width = field.width[index]
    low, high, depth = np.full(groups, np.inf), np.zeros(groups), np.zeros(groups)
    np.minimum.at(low, labels[near_tip], width[near_tip])
    np.maximum.at(high, labels, width)
    np.maximum.at(depth, labels, np.where(same, between / 2.0, np.inf))
    blunt = (low < BLUNT_FALL * high) & (high > REACHED * limit)
    tapers = (low < TAPER_FALL * high) | blunt | (depth <= BURR_LIMITS * limit)
    return np.asarray(near_tip & tapers[labels])


def _place(
    rings: Rings,
    samples: Samples,
    field: Field,
    index: IntArray,
    members: IntArray,
    counted: IntArray,
    limit: float,
) -> ThinPlace:
    width = field.width[index[counted]]
    best = index[counted[np.argmin(width)]]
    partner = int(field.partner[best])
    p, q = samples.point[best], field.foot[best]
    edges = int(samples.edge[best]), int(samples.edge[partner])
    thinnest, near_p, near_q = _closest_points(rings, *edges, p, q, WINDOW_LIMITS * limit)
    if thinnest > field.width[best]:
        thinnest = float(field.width[best])
    else:
        p, q = near_p, near_q
    is_needle = _is_needle(samples, field, index, members, counted, best, limit)
    weight = 2.0 * samples.half[index[counted]]
    facing_thin = field.width[field.partner[index[counted]]] < limit
    length = float((weight * np.where(facing_thin, 0.5, 1.0)).sum())
    if is_needle:
        length += TAPER_LIMITS * limit
    mean = float((weight * width).sum() / weight.sum()) if weight.sum() > 0 else float(thinnest)
    middle = (p + q) / 2.0
    return ThinPlace(
        thinnest=float(thinnest),
        at=(float(middle[0]), float(middle[1])),
        ends=((float(p[0]), float(p[1])), (float(q[0]), float(q[1]))),
        mean=mean,
        length=length,
        open_ends=_open_ends(rings, samples, index[members], limit),
        is_needle=is_needle,
        polygons=(int(rings.ring_polygon[samples.ring[best]]), int(rings.ring_polygon[samples.ring[partner]])),
    )


def _is_needle(
    samples: Samples, field: Field, index: IntArray, members: IntArray, counted: IntArray, best: int, limit: float
) -> bool:
    """Whether a place is only the thick part of a taper: thinnest where the taper was cut off."""
    if len(counted) == len(members):
        return False
    away = np.setdiff1d(members, counted, assume_unique=True)
    cut = samples.point[index[away]]
    nearest = np.hypot(*(cut - samples.point[best]).T).min()
    widths = field.width[index[counted]]
    rest = float(samples.half[index[counted]].sum())
    widens = field.width[best] < 0.9 * widths.max() or rest <= TAPER_REST_LIMITS * limit
    return bool(nearest <= TAPER_NEAR_LIMITS * limit and widens)


def _closest_points(
    rings: Rings, e: int, f: int, p: FloatArray, q: FloatArray, window: float
) -> tuple[float, FloatArray, FloatArray]:
    """Shortest connection between the walls around p (on edge e) and q (on edge f).

    Only the stretches within ``window`` mm of p and q are looked at: farther along, a
    tapering place would lead away to its tip.
    """
    first = np.array([rings.preceding[e], e, rings.following[e]])
    second = np.array([rings.preceding[f], f, rings.following[f]])
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
