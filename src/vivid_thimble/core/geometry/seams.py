"""Hairline gaps and hairline film: what drawings leave where two shapes nearly meet.

No knife can cut them and nobody drew them on purpose. They are found by closing and by
opening with half the width; the rest of the outline stays as it is.
"""

from __future__ import annotations

import shapely

from vivid_thimble.core.geometry.clip import polygons_of
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.tolerances import SEAM_MM

LONGER_SEAMS = 10.0
"""Hairlines are longer than so many seams: an acute corner that a closing rounds is shorter."""
OVERLAP_MM = 1e-4
"""Patches reach this far into what they are joined to."""


def close_seams(region: Region, seam: float = SEAM_MM) -> Region:
    """Fill hairline gaps up to ``seam`` mm wide."""
    closed = _moved_out_and_back(region.polygons, seam / 2.0)
    patches = _hairlines(closed, region.polygons, seam)
    return union([region, *patches]) if patches else region


def drop_hairs(region: Region, seam: float = SEAM_MM) -> Region:
    """Take away hairline film up to ``seam`` mm wide."""
    opened = _moved_out_and_back(region.polygons, -seam / 2.0)
    patches = _hairlines(region.polygons, opened, seam)
    return difference(region, patches) if patches else region


def _moved_out_and_back(polygons: shapely.MultiPolygon, by: float) -> shapely.Geometry:
    moved = shapely.buffer(polygons, by, quad_segs=4, join_style="mitre")
    return shapely.buffer(moved, -by, quad_segs=4, join_style="mitre")


def _hairlines(larger: shapely.Geometry, smaller: shapely.Geometry, seam: float) -> list[Region]:
    """Long narrow pieces by which one shape exceeds the other."""
    if larger.area - smaller.area < LONGER_SEAMS * seam * seam / 4.0:
        return []
    pieces = polygons_of(shapely.difference(larger, smaller)).geoms
    hairlines = [p for p in pieces if p.area > seam * seam / 100.0 and p.length / 2.0 > LONGER_SEAMS * seam]
    return [Region.from_polygons(shapely.buffer(p, OVERLAP_MM, join_style="mitre")) for p in hairlines]
