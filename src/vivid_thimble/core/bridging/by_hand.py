"""Bridges placed by hand: kept in shares of the design's box, and found again after sizes, words or faces change.

A bridge by hand stays as long as its middle still lies in an opening that a strip of its width crosses there from
sheet to sheet; its ends are then where the walls are now.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from vivid_thimble.core.bridging.candidates import BESIDE
from vivid_thimble.core.bridging.plan import Bridge, Point
from vivid_thimble.core.bridging.walls import Walls, crossings
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Box

LONGEST_STRETCH = 3.0
"""A bridge that became longer than so many times its length, next to the design, does not fit any more."""


class PlacedBridge(Struct, frozen=True, kw_only=True):
    """From ``start`` to ``end`` in shares of the design's box (x and y from its top-left)."""

    start: Point
    end: Point


def placed_at(start: Point, end: Point, box: Box) -> PlacedBridge:
    """A bridge from one place to another in mm."""
    wide, high = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)

    def share(at: Point) -> Point:
        return round((at[0] - box[0]) / wide, 5), round((at[1] - box[1]) / high, 5)

    return PlacedBridge(start=share(start), end=share(end))


def found_again(placed: PlacedBridge, walls: Walls, box: Box, width: float) -> Bridge | None:
    """Where the bridge is now; None when it does not fit any more."""
    size = np.array([box[2] - box[0], box[3] - box[1]])
    start, end = (np.array(at) * size + box[:2] for at in (placed.start, placed.end))
    way = end - start
    length = float(np.hypot(*way))
    if length < 1e-6 or not len(walls.starts):
        return None
    way = way / length
    middle = (start + end) / 2.0
    side = np.array([-way[1], way[0]])
    points = middle + side * (np.array(BESIDE) * width)[:, None]
    ways = np.repeat(way[None], len(points), axis=0)
    reach = np.full(len(points), LONGEST_STRETCH * length + width)
    met = crossings(walls, points, ways, reach, reach)
    ahead, stop = met.first_after(np.zeros(len(points)))
    behind, begin = met.last_before(np.zeros(len(points)))
    if (stop < 0).any() or (begin < 0).any():
        return None
    rings = walls.ring_of[stop], walls.ring_of[begin]
    if any(len(np.unique(own)) > 1 for own in rings) or rings[0][0] == rings[1][0]:
        return None
    if not _is_in_opening(walls, middle, way):
        return None
    low, high = float(behind.min()), float(ahead.max())
    first, last = middle + way * low, middle + way * high
    return Bridge((float(first[0]), float(first[1])), (float(last[0]), float(last[1])), width)


def _is_in_opening(walls: Walls, at: FloatArray, way: FloatArray) -> bool:
    """Whether an odd number of walls lies before a place, seen from far away."""
    far = np.full(1, 4.0 * float(np.ptp(np.concatenate([walls.starts, at[None]]), axis=0).max()) + 1.0)
    met = crossings(walls, at[None], way[None], far, np.zeros(1))
    return len(met.t) % 2 == 1
