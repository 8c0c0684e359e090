"""Segments that no boolean can touch, stood in for by their chords.

A segment lies in the convex hull of its control points. Where no other hull comes near, nothing
crosses the segment, and drawing it as its chord changes nothing about what crosses what (the
segment can be pulled straight inside its hull). So the kernel gets two points for it instead of
dozens, and the points come back afterwards. Of a line of script letters a sixth of the points is
left.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import NestedRings
from vivid_thimble.core.geometry.flatten import FlatPath, IntArray
from vivid_thimble.core.geometry.path import Path

CLEAR_MM = 1e-3
"""Hulls closer than this are not taken to be apart."""
FEWEST_POINTS, WORTH = 1500, 3.0
"""Looking for lone segments pays from so many points on, and so many points a segment."""
SHORTEST_CONTOUR = 3
"""Contours of fewer segments would lose their area as chords."""


@dataclass(frozen=True, eq=False)
class Shortened:
    """A flattened path without the inner points of its lone segments; ``lone`` (s,) tells those."""

    flat: FlatPath
    lone: NDArray[np.bool_]


def shortened(path: Path, flat: FlatPath) -> Shortened | None:
    """None where it does not pay: few points, or hardly any curves."""
    contours = [contour for contour in path.contours if len(contour)]
    count = sum(len(contour) for contour in contours)
    if len(flat.points) < FEWEST_POINTS or len(flat.points) < WORTH * count:
        return None
    lone = _lone([contour.segments for contour in contours])
    if not lone.any():
        return None
    keep = (flat.t == 0.0) | ~lone[flat.segment]
    starts = np.r_[0, np.cumsum(keep)][flat.starts]
    return Shortened(FlatPath(flat.points[keep], starts, flat.segment[keep], flat.t[keep]), lone)


def _lone(contours: list[FloatArray]) -> NDArray[np.bool_]:
    """Whether each segment's hull is apart from all others, but for the ends that it shares with its neighbours."""
    segments = np.concatenate(contours)
    sizes = np.array([len(one) for one in contours])
    number = np.arange(len(segments))
    first = np.repeat(np.cumsum(sizes) - sizes, sizes)
    size = np.repeat(sizes, sizes)
    following = first + (number - first + 1) % size
    hulls = shapely.convex_hull(shapely.linestrings(segments))
    a, b = shapely.STRtree(hulls).query(hulls)
    once = a < b
    a, b = a[once], b[once]
    parted = (following[a] == b) & _is_parted(segments[a], segments[b])
    parted |= (following[b] == a) & _is_parted(segments[b], segments[a])
    a, b = a[~parted], b[~parted]
    near = shapely.dwithin(hulls[a], hulls[b], CLEAR_MM)
    lone = size >= SHORTEST_CONTOUR
    lone[a[near]] = lone[b[near]] = False
    return np.asarray(lone)


def _is_parted(first: FloatArray, second: FloatArray) -> NDArray[np.bool_]:
    """Whether two segments (n, 4, 2), the second following the first, lie on both sides of a line through their common
    point: then their hulls share that point only."""
    at = second[:, 0]
    into, out = at - first[:, 2], second[:, 1] - at
    way = _unit(into) + _unit(out)
    before = ((first[:, :3] - at[:, None]) * way[:, None]).sum(axis=2)
    after = ((second[:, 1:] - at[:, None]) * way[:, None]).sum(axis=2)
    return np.asarray((before < -CLEAR_MM * 1e-2).all(axis=1) & (after > CLEAR_MM * 1e-2).all(axis=1))


def _unit(way: FloatArray) -> FloatArray:
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-12)[:, None])


def lengthened(
    nested: NestedRings,
    origin: IntArray,
    forward: NDArray[np.bool_],
    full: FlatPath,
    grid: FloatArray,
    lone: NDArray[np.bool_],
    segment_of: IntArray,
) -> NestedRings:
    """Rings with the inner points of lone segments put back.

    ``origin`` tells for each edge of all rings the edge that it was (-1: none), ``segment_of`` the segment of each such
    edge; ``full`` are all points, ``grid`` those on the grid.
    """
    rings = [ring for polygon in nested for ring in polygon]
    points = np.concatenate(rings)
    sizes = np.array([len(ring) for ring in rings])
    segment = np.where(origin >= 0, segment_of[origin], -1)
    known = (segment >= 0) & lone[np.maximum(segment, 0)]
    begin = np.searchsorted(full.segment, np.arange(len(lone)), side="left")
    count = np.diff(np.r_[begin, len(full.segment)]) - 1
    more = np.where(known, count[np.maximum(segment, 0)], 0)
    edge = np.repeat(np.arange(len(points)), more)
    step = np.arange(len(edge)) - np.repeat(np.cumsum(more) - more, more)
    ahead = forward[edge]
    at = np.where(ahead, begin[segment[edge]] + 1 + step, begin[segment[edge]] + more[edge] - step)
    place = np.arange(len(points)) + np.cumsum(more) - more
    whole = np.empty((len(points) + len(edge), 2))
    whole[place] = points
    whole[np.repeat(place, more) + 1 + step] = grid[at]
    ends = np.cumsum(sizes + np.add.reduceat(more, np.cumsum(sizes) - sizes))
    parts = iter(np.split(whole, ends[:-1]))
    return [[next(parts) for _ in polygon] for polygon in nested]
