"""Where long straight edges come close to other edges.

Walls are looked at by samples, and kilometres of straight edges would need millions of them. Two straight edges are
closest at an end of one of them: that is computed here, pair by pair, for the edges near each long one.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.widths.field import Field, Side
from vivid_thimble.core.widths.side_by_side import side_by_side
from vivid_thimble.core.widths.walls import Rings, Samples, directions, left_normals

LEAST_AHEAD, LEAST_BOTH = 0.2, 1.2
"""Cosines between the chord and the two edges' normals: each, and both together, so that the edges may face."""
LEAST_OPPOSED = 0.29
"""Normals whose cosine is greater have no chord that satisfies both: it leaves them by 53 degrees each at most."""
PROBES, FEW = 500, 16
"""At so many edges it is counted how many others are near, and so many each are few."""
PAIRS_AT_A_TIME = 1_000_000
_Found = tuple[IntArray, IntArray, FloatArray, FloatArray, FloatArray, NDArray[np.bool_], NDArray[np.bool_]]


@dataclass(frozen=True, eq=False)
class EdgePairs:
    """Pairs of edges i and j that may face each other: the ends p and q (n, 2) of the shortest connection, its
    length in mm, and whether it runs through kept film, or through waste (both where the edges touch).

    They are all pairs up to ``reach`` mm of which one edge at least ``is_long`` (one value for each edge of the shape).
    """

    is_long: NDArray[np.bool_]
    reach: float
    i: IntArray
    j: IntArray
    p: FloatArray
    q: FloatArray
    distance: FloatArray
    kept: NDArray[np.bool_]
    waste: NDArray[np.bool_]

    def has_all(self, long: IntArray, reach: float) -> bool:
        """Whether all pairs of some long edges up to ``reach`` mm are among these."""
        return reach <= self.reach and bool(self.is_long[long].all())


def close_edges(
    rings: Rings, tree: shapely.STRtree, long: IntArray, reach: float, only: NDArray[np.bool_] | None = None
) -> EdgePairs:
    """Whatever may face long edges at up to ``reach`` mm; ``tree`` holds the edges marked by ``only`` (None: all)."""
    rows = np.arange(len(rings)) if only is None else np.flatnonzero(only)
    normals = left_normals(rings, np.arange(len(rings)))
    is_long = _marked(rings, long)

    def around(some: IntArray) -> _Found:
        which, other = tree.query(_boxes(rings, some, reach))
        i, j = some[which], rows[other]
        once = (i < j) | ~is_long[j]  # two long edges find each other
        i, j = i[once], j[once]
        apart = (rings.following[i] != j) & (rings.preceding[i] != j) & _may_face(rings, normals, i, j)
        return _connected(rings, normals, i[apart], j[apart], reach)

    found = side_by_side([partial(around, some) for some in _few_at_a_time(long, len(rows))])
    return EdgePairs(is_long, reach, *(np.concatenate(column) for column in zip(*found, strict=True)))


def as_far_as_few(rings: Rings, tree: shapely.STRtree, long: IntArray, reach: float) -> float:
    """How far to look in one go, in mm: beyond ``reach`` while few edges are near, so that farther looks are spared."""
    probes = long[:: max(len(long) // PROBES, 1)]
    for farther in (8.0 * reach, 4.0 * reach, 2.0 * reach):
        if tree.query(_boxes(rings, probes, farther)).shape[1] <= FEW * len(probes):
            return farther
    return reach


def facing_edges(rings: Rings, pairs: EdgePairs, long: IntArray, reach: float, side: Side) -> tuple[Samples, Field]:
    """The chords up to ``reach`` mm on a side, of pairs of which one at least is among some long edges.

    Each has a sample at both ends, each the other's partner.
    """
    is_long = _marked(rings, long)
    on_side = pairs.kept if side == "kept" else pairs.waste
    rows = np.flatnonzero(on_side & (pairs.distance <= reach) & (is_long[pairs.i] | is_long[pairs.j]))
    i, j, p, q, distance = (column[rows] for column in (pairs.i, pairs.j, pairs.p, pairs.q, pairs.distance))
    return _as_samples(rings, np.r_[i, j], np.r_[p, q], np.r_[q, p], np.r_[distance, distance])


def _marked(rings: Rings, edges: IntArray) -> NDArray[np.bool_]:
    marked = np.zeros(len(rings), dtype=bool)
    marked[edges] = True
    return marked


def _boxes(rings: Rings, edges: IntArray, reach: float) -> NDArray[np.object_]:
    """What has the box of each edge and ``reach`` mm round it: a diagonal, which is made faster than a rectangle."""
    a, b = rings.a[edges], rings.b[edges]
    return np.asarray(shapely.linestrings(np.stack([np.minimum(a, b) - reach, np.maximum(a, b) + reach], axis=1)))


def _few_at_a_time(long: IntArray, count: int) -> list[IntArray]:
    """Long edges in portions whose neighbours are not too many, if each had as many as there are on a plain design."""
    portions = max(1, int(np.ceil(len(long) * min(count, 40) / PAIRS_AT_A_TIME)))
    return np.array_split(long, portions)


def _may_face(rings: Rings, normals: FloatArray, i: IntArray, j: IntArray) -> NDArray[np.bool_]:
    """Pairs of edges that are opposed enough to face each other along any connection, or that may touch."""
    nx, ny = normals[:, 0].copy(), normals[:, 1].copy()
    possible = nx[i] * nx[j] + ny[i] * ny[j] <= LEAST_OPPOSED
    rest = np.flatnonzero(~possible)
    i, j = i[rest], j[rest]
    meet = np.ones(len(rest), dtype=bool)
    for k in (0, 1):
        a, b, c, d = rings.a[i, k], rings.b[i, k], rings.a[j, k], rings.b[j, k]
        meet &= (
            np.maximum(np.minimum(a, b), np.minimum(c, d)) <= np.minimum(np.maximum(a, b), np.maximum(c, d)) + TOUCH_MM
        )
    possible[rest] = meet
    return possible


def _connected(rings: Rings, normals: FloatArray, i: IntArray, j: IntArray, reach: float) -> _Found:
    """The shortest connection of each pair of edges, where the two may face each other along it or touch."""
    a, b, c, d = rings.a[i], rings.b[i], rings.a[j], rings.b[j]
    p, q = a, _foot(a, c, d)
    least = _square(q - p)
    for start, end in ((b, _foot(b, c, d)), (_foot(c, a, b), c), (_foot(d, a, b), d)):
        square = _square(end - start)
        closer = (square < least)[:, None]
        p, q, least = np.where(closer, start, p), np.where(closer, end, q), np.minimum(square, least)
    near = np.flatnonzero(least <= reach * reach)
    i, j, p, q, distance = i[near], j[near], p[near], q[near], np.sqrt(least[near])
    unit = (q - p) / np.maximum(distance, 1e-12)[:, None]
    ahead, back = (unit * normals[i]).sum(axis=1), -(unit * normals[j]).sum(axis=1)
    kept, waste = (
        (np.minimum(sign * ahead, sign * back) >= LEAST_AHEAD) & (sign * (ahead + back) >= LEAST_BOTH)
        | (distance <= TOUCH_MM)
        for sign in (1.0, -1.0)
    )
    good = np.flatnonzero(kept | waste)
    return (i[good], j[good], p[good], q[good], distance[good], kept[good], waste[good])


def _square(v: FloatArray) -> FloatArray:
    return np.asarray(v[:, 0] * v[:, 0] + v[:, 1] * v[:, 1])


def _foot(p: FloatArray, a: FloatArray, b: FloatArray) -> FloatArray:
    """The point of each edge nearest to a point."""
    span = b - a
    along = (p[:, 0] - a[:, 0]) * span[:, 0] + (p[:, 1] - a[:, 1]) * span[:, 1]
    return np.asarray(a + span * np.clip(along / np.maximum(_square(span), 1e-300), 0.0, 1.0)[:, None])


def _as_samples(
    rings: Rings, edge: IntArray, point: FloatArray, foot: FloatArray, width: FloatArray
) -> tuple[Samples, Field]:
    """Both ends of chords as samples in order along the rings; the first half are partners of the second."""
    count = len(edge) // 2
    arc = rings.arc[edge] + np.hypot(*(point - rings.a[edge]).T)
    order = np.lexsort((arc, rings.ring[edge]))
    place = np.empty(len(order), dtype=np.int64)
    place[order] = np.arange(len(order))
    partner = np.r_[place[count:], place[:count]]
    samples = Samples(
        point[order], left_normals(rings, edge)[order], directions(rings, edge)[order], np.full(len(order), 1e-3),
        np.zeros(len(order), dtype=np.int64), arc[order], edge[order], rings.ring[edge][order],
        rings.holds[rings.ring[edge]][order],
    )  # fmt: skip
    return samples, Field(width[order], partner[order], foot[order])
