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
    return _near_holds(*_around_contact(left, right, neck), neck)


def _near_holds(left: shapely.Geometry, right: shapely.Geometry, neck: float) -> bool:
    """The same for letters cropped to where they can meet."""
    if left.is_empty or right.is_empty or not shapely.intersects(left, right):
        return False
    worn = shapely.buffer(shapely.union(left, right), -neck / 2.0, quad_segs=8)
    only_left, only_right = shapely.difference(left, right), shapely.difference(right, left)
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
    if farthest <= 0.0:
        return None
    near_a, near_b = _around_contact(a, b, neck, farthest)

    def holds_at(shift: float) -> bool:
        return _near_holds(near_a, translate(near_b, -shift), neck)

    if not holds_at(farthest):
        tried = next((d for d in TRIED_SHARES if holds_at(farthest * d)), None)
        if tried is None:
            return None
        farthest *= tried
    low, high = 0.0, farthest
    while high - low > step:
        middle = (low + high) / 2.0
        if holds_at(middle):
            high = middle
        else:
            low = middle
    return high


def _around_contact(
    left: shapely.Geometry, right: shapely.Geometry, neck: float, farthest: float = 0.0
) -> tuple[shapely.Geometry, shapely.Geometry]:
    """Both letters cropped to where they can meet when the right one moves up to ``farthest`` mm to the left.

    There is room for the erosion round the crop.
    """
    reach = 3.0 * neck + 0.1
    a, b = shapely.bounds(left), shapely.bounds(right)
    beside, above = max(a[0], b[0] - farthest) - reach, max(a[1], b[1]) - reach
    until, below = min(a[2], b[2]) + reach, min(a[3], b[3]) + reach
    if beside >= until or above >= below:
        return shapely.Polygon(), shapely.Polygon()
    crop = shapely.box(beside, above, until, below)
    crop_right = shapely.box(beside, above, until + farthest, below)
    return shapely.intersection(left, crop), shapely.intersection(right, crop_right)
