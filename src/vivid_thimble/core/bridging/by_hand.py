"""Bridges placed by hand: kept in shares of the design's box, and found again after sizes, words or faces change.

A bridge by hand stays as long as its middle still lies in an opening that a strip of its width crosses there from
sheet to sheet; its ends are then where the walls are now.
"""

from __future__ import annotations

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.bridging.candidates import BESIDE, SNAP
from vivid_thimble.core.bridging.plan import Bridge, Point
from vivid_thimble.core.bridging.walls import Walls, crossings
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.ranges import Place

LONGEST_STRETCH = 3.0
"""A bridge that became longer than so many times its length, next to the design, does not fit any more."""


class PlacedBridge(Struct, frozen=True, kw_only=True):
    """From ``start`` to ``end`` in shares of the design's box (x and y from its top-left)."""

    start: Place
    end: Place


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
    reach = LONGEST_STRETCH * length + width
    return _through(walls, middle, way, width, reach) if _is_in_opening(walls, middle, way) else None


def from_island(walls: Walls, ring: int, at: Point, width: float, way: Point | None = None) -> Bridge | None:
    """The bridge from an island's wall nearest to a place, along ``way`` or square to the wall (level or upright when
    that is nearly the same); None where no strip of that width lands clean."""
    points = walls.rings[ring]
    wall = shapely.LinearRing(points)
    foot_at = float(wall.project(shapely.Point(at)))
    foot = np.array(wall.interpolate(foot_at).coords[0])
    if way is None:
        ahead, behind = (np.array(wall.interpolate(foot_at + s).coords[0]) for s in (width / 2.0, -width / 2.0))
        along = ahead - behind
        out = np.array([along[1], -along[0]])
    else:
        out = np.array(way)
    size = float(np.hypot(*out))
    if size < 1e-9:
        return None
    out = out / size
    if way is None and np.abs(out).max() > SNAP:
        out = np.round(out)
    reach = float(np.hypot(*np.ptp(np.concatenate(walls.rings), axis=0)))
    length = _first_wall(walls, foot, out, reach)
    if length is None:
        return None
    return _through(walls, foot + out * length / 2.0, out, width, length + width, ring)


def _first_wall(walls: Walls, foot: FloatArray, out: FloatArray, reach: float) -> float | None:
    met = crossings(walls, foot[None], out[None], np.zeros(1), np.array([reach]))
    length, segment = met.first_after(np.array([1e-4]))
    return None if segment[0] < 0 else float(length[0])


def _through(
    walls: Walls, middle: FloatArray, way: FloatArray, width: float, reach: float, ring: int | None = None
) -> Bridge | None:
    """The strip through a place in an opening, from wall to wall; ``ring``: where it has to begin."""
    side = np.array([-way[1], way[0]])
    points = middle + side * (np.array(BESIDE) * width)[:, None]
    ways = np.repeat(way[None], len(points), axis=0)
    both = np.full(len(points), reach)
    met = crossings(walls, points, ways, both, both)
    ahead, stop = met.first_after(np.zeros(len(points)))
    behind, begin = met.last_before(np.zeros(len(points)))
    if (stop < 0).any() or (begin < 0).any():
        return None
    rings = np.unique(walls.ring_of[begin]).tolist(), np.unique(walls.ring_of[stop]).tolist()
    if len(rings[0]) > 1 or len(rings[1]) > 1 or rings[0] == rings[1]:
        return None
    joined = int(rings[0][0]), int(rings[1][0])
    if ring is not None and joined[0] != ring:
        return None
    first, last = middle + way * float(behind.min()), middle + way * float(ahead.max())
    return Bridge((float(first[0]), float(first[1])), (float(last[0]), float(last[1])), width, rings=joined)


def _is_in_opening(walls: Walls, at: FloatArray, way: FloatArray) -> bool:
    """Whether an odd number of walls lies before a place, seen from far away."""
    far = np.full(1, 4.0 * float(np.ptp(np.concatenate([walls.starts, at[None]]), axis=0).max()) + 1.0)
    met = crossings(walls, at[None], way[None], far, np.zeros(1))
    return len(met.t) % 2 == 1
