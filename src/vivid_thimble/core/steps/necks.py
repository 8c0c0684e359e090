"""How firmly two neighbouring letters hang together.

The neck of a pair is the width of the widest brush that can be drawn from one letter
into the other without leaving them: erosion by half of it just separates them.
"""

from __future__ import annotations

import shapely
from shapely.affinity import translate

from vivid_thimble.core.geometry.region import Region

NECK_ERROR_MM = 0.01
TRIED_SHARES = tuple(k / 24.0 for k in range(1, 24))
"""Shares of the farthest shift that are tried when that one does not hold: letters may pass through each other."""


def holds(left: shapely.Geometry, right: shapely.Geometry, neck: float) -> bool:
    """Whether two letters stay one piece after an erosion by half of ``neck`` mm."""
    near_left, near_right = _around_contact(left, right, neck)
    if near_left.is_empty or near_right.is_empty:
        return False
    both = shapely.union(near_left, near_right)
    worn = shapely.buffer(both, -neck / 2.0, quad_segs=8)
    only_left, only_right = shapely.difference(near_left, near_right), shapely.difference(near_right, near_left)
    if only_left.is_empty or only_right.is_empty:
        return not worn.is_empty
    parts = shapely.get_parts(worn)
    return bool((shapely.intersects(parts, only_left) & shapely.intersects(parts, only_right)).any())


def neck_width(left: Region, right: Region, widest: float) -> float:
    """The neck between two letters in mm within NECK_ERROR_MM; 0 when apart, at most ``widest``."""
    a, b = left.polygons, right.polygons
    if not shapely.intersects(a, b):  # letters that share an edge hold as well
        return 0.0
    if holds(a, b, widest):
        return widest
    low, high = 0.0, widest
    while high - low > NECK_ERROR_MM:
        middle = (low + high) / 2.0
        if holds(a, b, middle):
            low = middle
        else:
            high = middle
    return low


def shift_to_hold(left: Region, right: Region, neck: float, farthest: float, step: float = 0.02) -> float | None:
    """The smallest shift of ``right`` to the left (mm) that gives the neck; None beyond ``farthest``.

    0 when the pair holds as it is.
    """
    a, b = left.polygons, right.polygons
    if holds(a, b, neck):
        return 0.0
    if farthest <= 0.0 or not holds(a, translate(b, -farthest), neck):
        tried = next((d for d in TRIED_SHARES if holds(a, translate(b, -farthest * d), neck)), None)
        if tried is None:
            return None
        farthest *= tried
    low, high = 0.0, farthest
    while high - low > step:
        middle = (low + high) / 2.0
        if holds(a, translate(b, -middle), neck):
            high = middle
        else:
            low = middle
    return high


def _around_contact(
    left: shapely.Geometry, right: shapely.Geometry, neck: float
) -> tuple[shapely.Geometry, shapely.Geometry]:
    """Both letters cropped to where they can meet, with room for the erosion."""
    reach = 3.0 * neck + 0.1
    a, b = shapely.bounds(left), shapely.bounds(right)
    window = (max(a[0], b[0]) - reach, max(a[1], b[1]) - reach, min(a[2], b[2]) + reach, min(a[3], b[3]) + reach)
    if window[0] >= window[2] or window[1] >= window[3]:
        return shapely.Polygon(), shapely.Polygon()
    crop = shapely.box(*window)
    return shapely.intersection(left, crop), shapely.intersection(right, crop)
