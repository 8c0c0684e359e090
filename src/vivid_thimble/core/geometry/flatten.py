"""Curves to polygons with a guaranteed error, each vertex tagged with its origin.

Number of pieces of a cubic: with M = 6 max(|p0 - 2 p1 + p2|, |p1 - 2 p2 + p3|) the
second derivative is at most M, and a chord over a parameter step h departs from
the curve by at most M h^2 / 8 (the classical bound of linear interpolation).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Path, evaluate_cubic
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM

IntArray = NDArray[np.int64]

MOST_PIECES = 4096
"""A single cubic is never cut finer: beyond this its size is a slip, not a shape."""


@dataclass(frozen=True, eq=False)
class FlatPath:
    """Polylines of a path.

    ``points`` (n, 2): all vertices, contour after contour. ``starts`` (c + 1,): where each
    contour begins. ``segment`` (n,) and ``t`` (n,): the vertex lies on this segment (counted
    through the whole path) at this parameter; an open contour's last vertex has t = 1.
    """

    points: FloatArray
    starts: IntArray
    segment: IntArray
    t: FloatArray

    def rings(self) -> list[FloatArray]:
        return [self.points[a:b] for a, b in zip(self.starts[:-1], self.starts[1:], strict=True)]


def pieces_needed(segments: FloatArray, is_line: NDArray[np.bool_], tolerance: float) -> IntArray:
    """How many chords each cubic of (n, 4, 2) needs to stay within the tolerance."""
    bend = np.diff(segments, n=2, axis=1)
    largest = 6.0 * np.sqrt((bend**2).sum(axis=2)).max(axis=1, initial=0.0)
    pieces = np.ceil(np.sqrt(largest / (8.0 * tolerance)))
    pieces = np.where(is_line, 1.0, np.clip(pieces, 1.0, MOST_PIECES))
    return pieces.astype(np.int64)


def flatten(path: Path, tolerance: float = FLATTEN_MM) -> FlatPath:
    """Polylines that stay within ``tolerance`` mm of the curves; contours without segments vanish."""
    contours = [c for c in path.contours if len(c)]
    if not contours:
        none = np.zeros(0, dtype=np.int64)
        return FlatPath(np.zeros((0, 2)), np.zeros(1, dtype=np.int64), none, np.zeros(0))
    segments = np.concatenate([c.segments for c in contours])
    is_line = np.concatenate([c.is_line for c in contours])
    counts = pieces_needed(segments, is_line, tolerance)
    index = np.repeat(np.arange(len(segments)), counts)
    within = np.arange(len(index)) - np.repeat(np.cumsum(counts) - counts, counts)
    t = within / counts[index]
    points = segments[index, 0].copy()
    inner = within > 0
    points[inner] = evaluate_cubic(segments[index[inner]], t[inner])
    sizes = np.add.reduceat(counts, np.cumsum([0] + [len(c) for c in contours])[:-1])
    if all(c.closed for c in contours):
        return FlatPath(points, np.concatenate([[0], np.cumsum(sizes)]), index, t)
    return _with_open_ends(
        contours_closed=[c.closed for c in contours], flat=(points, index, t), sizes=sizes, segments=segments
    )


def _with_open_ends(
    contours_closed: list[bool],
    flat: tuple[FloatArray, IntArray, FloatArray],
    sizes: IntArray,
    segments: FloatArray,
) -> FlatPath:
    """Append the last end point of every open contour."""
    points, index, t = flat
    open_ends = np.cumsum(sizes)[~np.array(contours_closed)]
    last = index[open_ends - 1]
    extra = ~np.array(contours_closed)
    starts = np.concatenate([[0], np.cumsum(sizes + extra)])
    return FlatPath(
        np.insert(points, open_ends, segments[last, 3], axis=0),
        starts,
        np.insert(index, open_ends, last),
        np.insert(t, open_ends, 1.0),
    )
