"""Edges that overlap in part made to meet in common vertices before a boolean.

Two straight edges on one line, of different lengths, no longer lie on one line once their
ends are rounded to the grid; cutting one away then leaves a film of a grid step. Giving
each edge the vertices that lie on it makes the overlapping parts exactly equal. Curves
need no help: equal curves are flattened to equal vertices.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import FlatPath

MOST_PAIRS = 3_000_000
"""So many pairs of a vertex and an edge above or below it are looked at one by one; a tree sorts more of them out."""
ON_EDGE_STEPS = 1.5
"""A vertex this close to an edge, in grid steps, lies on it but for rounding (twice half a step's diagonal)."""


def with_shared_vertices(
    flat: FlatPath, grid: FloatArray, is_line: NDArray[np.bool_], steps: float = ON_EDGE_STEPS
) -> tuple[FlatPath, FloatArray]:
    """The flattened closed contours with every vertex that lies on a straight edge inserted there.

    ``grid`` are the points in grid steps, ``is_line`` tells it for each segment of the path; vertices up to ``steps``
    away lie on an edge. Both come back unchanged when no vertex lies on an edge.
    """
    edge = np.flatnonzero(is_line[flat.segment])
    if not len(edge):
        return flat, grid
    following = np.arange(1, len(grid) + 1)
    following[flat.starts[1:][np.diff(flat.starts) > 0] - 1] = flat.starts[:-1][np.diff(flat.starts) > 0]
    a, b = grid[edge], grid[following[edge]]
    packed = np.unique(packed_points(grid))
    vertices = np.column_stack([packed.real, packed.imag])
    vertex, which = _near_edges(vertices, a, b, steps)
    span = (b - a)[which]
    length = np.maximum(np.hypot(*span.T), 1.0)
    along = ((vertices[vertex] - a[which]) * span).sum(axis=1) / length
    inside = (along > ON_EDGE_STEPS) & (along < length - ON_EDGE_STEPS)
    if not inside.any():
        return flat, grid
    vertex, which, share = vertex[inside], which[inside], (along / length)[inside]
    order = np.lexsort((share, edge[which]))
    at = edge[which[order]] + 1
    added, t = vertices[vertex[order]], share[order]
    segment = flat.segment[edge[which[order]]]
    shift = np.searchsorted(at, flat.starts[1:], side="right")
    starts = np.r_[0, flat.starts[1:] + shift]
    snapped = FlatPath(
        np.insert(flat.points, at, _on_lines(flat, edge[which[order]], following, t), axis=0),
        starts,
        np.insert(flat.segment, at, segment),
        np.insert(flat.t, at, t),
    )
    return snapped, np.insert(grid, at, added, axis=0)


def _near_edges(
    vertices: FloatArray, a: FloatArray, b: FloatArray, steps: float
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of a vertex and an edge that it is near to; ``vertices`` are sorted by x."""
    low, high = np.minimum(a, b) - steps, np.maximum(a, b) + steps
    first = np.searchsorted(vertices[:, 0], low[:, 0], side="left")
    count = np.searchsorted(vertices[:, 0], high[:, 0], side="right") - first
    if count.sum() > MOST_PAIRS:
        tree = shapely.STRtree(shapely.linestrings(np.stack([a, b], axis=1)))
        found = tree.query(shapely.points(vertices), predicate="dwithin", distance=steps)
        return found[0], found[1]
    which = np.repeat(np.arange(len(a)), count)
    vertex = np.repeat(first - (np.cumsum(count) - count), count) + np.arange(len(which))
    y = vertices[vertex, 1]
    rows = np.flatnonzero((y >= low[which, 1]) & (y <= high[which, 1]))
    vertex, which = vertex[rows], which[rows]
    off, span = vertices[vertex] - a[which], (b - a)[which]
    length = np.maximum(np.hypot(*span.T), 1e-12)
    along = np.clip((off * span).sum(axis=1) / length, 0.0, length)
    near = np.hypot(*(off - span * (along / length)[:, None]).T) <= steps
    return vertex[near], which[near]


def packed_points(points: FloatArray) -> NDArray[np.complex128]:
    """Points as single numbers that sort by x, then y: many times quicker than sorting rows."""
    return np.asarray(points[:, 0] + 1j * points[:, 1])


def _on_lines(flat: FlatPath, edge: NDArray[np.int64], following: NDArray[np.int64], t: FloatArray) -> FloatArray:
    """The points of straight edges at shares of their length."""
    start = flat.points[edge]
    return np.asarray(start + (flat.points[following[edge]] - start) * t[:, None])
