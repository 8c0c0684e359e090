"""Where long straight edges come close to other edges.

Walls are looked at by samples, and kilometres of straight edges would need millions of them. Two straight edges are
closest at an end of one of them: that is computed here, pair by pair, for the edges near each long one.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import partial

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.side_by_side import side_by_side
from vivid_thimble.core.widths.field import Field, Side
from vivid_thimble.core.widths.walls import Rings, Samples, directions, left_normals

LEAST_AHEAD, LEAST_BOTH = 0.2, 1.2
"""Cosines between the chord and the two edges' normals: each, and both together, so that the edges may face."""
PAIRS_AT_A_TIME = 1_000_000


@dataclass(frozen=True, eq=False)
class EdgePairs:
    """Pairs of edges i and j that may face each other: the ends p and q (n, 2) of the shortest connection, its
    length in mm, and whether it runs through kept film, or through waste (both where the edges touch)."""

    i: IntArray
    j: IntArray
    p: FloatArray
    q: FloatArray
    distance: FloatArray
    kept: NDArray[np.bool_]
    waste: NDArray[np.bool_]


def close_edges(
    rings: Rings, tree: shapely.STRtree, long: IntArray, reach: float, only: NDArray[np.bool_] | None = None
) -> EdgePairs:
    """Whatever may face long edges at up to ``reach`` mm; ``tree`` holds the edges marked by ``only`` (None: all)."""
    rows = np.arange(len(rings)) if only is None else np.flatnonzero(only)
    low, high = np.minimum(rings.a, rings.b) - reach, np.maximum(rings.a, rings.b) + reach
    normals = left_normals(rings, np.arange(len(rings)))

    def around(some: IntArray) -> EdgePairs:
        # the tree looks at boxes only: a diagonal has the box of its rectangle, and is made faster
        which, other = tree.query(shapely.linestrings(np.stack([low[some], high[some]], axis=1)))
        i, j = some[which], rows[other]
        apart = (i != j) & (rings.following[i] != j) & (rings.preceding[i] != j)
        return _connected(rings, normals, i[apart], j[apart], reach)

    found = side_by_side([partial(around, some) for some in _few_at_a_time(long, len(rows))])
    return EdgePairs(*(np.concatenate([getattr(one, f.name) for one in found]) for f in fields(EdgePairs)))


def facing_edges(rings: Rings, pairs: EdgePairs, reach: float, side: Side) -> tuple[Samples, Field]:
    """The chords of pairs up to ``reach`` mm on a side. Each has a sample at both ends, each the other's partner."""
    rows = np.flatnonzero((pairs.kept if side == "kept" else pairs.waste) & (pairs.distance <= reach))
    i, j, p, q, distance = (column[rows] for column in (pairs.i, pairs.j, pairs.p, pairs.q, pairs.distance))
    return _as_samples(rings, np.r_[i, j], np.r_[p, q], np.r_[q, p], np.r_[distance, distance])


def _few_at_a_time(long: IntArray, count: int) -> list[IntArray]:
    """Long edges in portions whose neighbours are not too many, if each had as many as there are on a plain design."""
    portions = max(1, int(np.ceil(len(long) * min(count, 40) / PAIRS_AT_A_TIME)))
    return np.array_split(long, portions)


def _connected(rings: Rings, normals: FloatArray, i: IntArray, j: IntArray, reach: float) -> EdgePairs:
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
    return EdgePairs(i[good], j[good], p[good], q[good], distance[good], kept[good], waste[good])


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
    )  # fmt: skip
    return samples, Field(width[order], partner[order], foot[order])
