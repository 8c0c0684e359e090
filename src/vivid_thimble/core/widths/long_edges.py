"""Where long straight edges come close to other edges.

Walls are looked at by samples, and kilometres of straight edges would need millions of them. Two straight edges are
closest at an end of one of them: that is computed here, pair by pair, for the edges near each long one.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.widths.field import Field, Side
from vivid_thimble.core.widths.walls import Rings, Samples, directions, left_normals

LEAST_AHEAD, LEAST_BOTH = 0.2, 1.2
"""Cosines between the chord and the two edges' normals: each, and both together, so that the edges may face."""
PAIRS_AT_A_TIME = 1_000_000


def facing_edges(
    rings: Rings,
    tree: shapely.STRtree,
    long: IntArray,
    reach: float,
    side: Side,
    only: NDArray[np.bool_] | None = None,
) -> tuple[Samples, Field]:
    """The shortest chords, up to ``reach`` mm, from long edges to whatever may face them on a side.

    ``tree`` holds the edges marked by ``only`` (None: all). Each chord has a sample at
    both ends, each the other's partner.
    """
    rows = np.arange(len(rings)) if only is None else np.flatnonzero(only)
    low, high = np.minimum(rings.a, rings.b), np.maximum(rings.a, rings.b)
    found = []
    for some in _few_at_a_time(long, len(rows)):
        grown = shapely.box(*(low[some] - reach).T, *(high[some] + reach).T)
        which, other = tree.query(grown)
        i, j = some[which], rows[other]
        apart = (i != j) & (rings.following[i] != j) & (rings.preceding[i] != j)
        found.append(_chords(rings, i[apart], j[apart], reach, 1.0 if side == "kept" else -1.0))
    i, j, p, q, distance = (np.concatenate(column) for column in zip(*found, strict=True))
    return _as_samples(rings, np.r_[i, j], np.r_[p, q], np.r_[q, p], np.r_[distance, distance])


def _few_at_a_time(long: IntArray, count: int) -> list[IntArray]:
    """Long edges in portions whose neighbours are not too many, if each had as many as there are on a plain design."""
    portions = max(1, int(np.ceil(len(long) * min(count, 40) / PAIRS_AT_A_TIME)))
    return np.array_split(long, portions)


def _chords(
    rings: Rings, i: IntArray, j: IntArray, reach: float, sign: float
) -> tuple[IntArray, IntArray, FloatArray, FloatArray, FloatArray]:
    """The shortest connection of each pair of edges, where the two may face each other along it or touch."""
    a, b, c, d = rings.a[i], rings.b[i], rings.a[j], rings.b[j]
    options = [(a, _foot(a, c, d)), (b, _foot(b, c, d)), (_foot(c, a, b), c), (_foot(d, a, b), d)]
    lengths = np.stack([np.hypot(*(q - p).T) for p, q in options])
    best = lengths.argmin(axis=0)
    each = np.arange(len(i))
    distance = lengths[best, each] if len(i) else np.zeros(0)
    p, q = (np.stack([option[k] for option in options])[best, each].reshape(-1, 2) for k in (0, 1))
    unit = (q - p) / np.maximum(distance, 1e-12)[:, None]
    ahead = sign * (unit * left_normals(rings, i)).sum(axis=1)
    back = -sign * (unit * left_normals(rings, j)).sum(axis=1)
    faces = (np.minimum(ahead, back) >= LEAST_AHEAD) & (ahead + back >= LEAST_BOTH)
    good = (faces & (distance <= reach)) | (distance <= TOUCH_MM)
    return i[good], j[good], p[good], q[good], distance[good]


def _foot(p: FloatArray, a: FloatArray, b: FloatArray) -> FloatArray:
    """The point of each edge nearest to a point."""
    span = b - a
    share = ((p - a) * span).sum(axis=1) / np.maximum((span**2).sum(axis=1), 1e-300)
    return np.asarray(a + span * np.clip(share, 0.0, 1.0)[:, None])


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
