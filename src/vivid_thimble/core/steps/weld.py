"""Weld: overlapping parts become one, so that no cut runs through an overlap."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.clip import polygons_of
from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.geometry.tolerances import SEAM_MM


class Weld(Struct, frozen=True, tag="weld", kw_only=True):
    """Unite all parts. Gaps narrower than SEAM_MM between them are closed as drawing noise."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Weld"
    id: str
    enabled: bool = True

    def describe(self) -> str:
        return "Weld: overlapping letters and parts become one outline"

    def apply(self, parts: Parts) -> Parts:
        if len(parts) < 2:
            return parts
        label = "".join(part.label for part in parts)
        return (Part(label if len(label) <= 40 else f"{label[:39]}…", close_seams(merged(parts))),)


def close_seams(region: Region, seam: float = SEAM_MM) -> Region:
    """Fill hairline gaps up to ``seam`` mm wide; the rest of the outline stays as it is."""
    half = seam / 2.0
    closed = shapely.buffer(
        shapely.buffer(region.polygons, half, quad_segs=4, join_style="mitre"), -half, quad_segs=4, join_style="mitre"
    )
    if closed.area - region.area < 10.0 * seam * seam:
        return region
    filled = polygons_of(shapely.difference(closed, region.polygons))
    areas = shapely.area(filled.geoms) if len(filled.geoms) else np.zeros(0)
    seams = [g for g, area in zip(filled.geoms, areas, strict=True) if area > seam * seam and _is_hairline(g, seam)]
    if not seams:
        return region
    patches = [Region.from_polygons(shapely.buffer(g, 1e-4, join_style="mitre")) for g in seams]
    return union([region, *patches])


def _is_hairline(gap: shapely.Polygon, seam: float) -> bool:
    """Longer than ten seams: an acute inner corner that the closing rounded is shorter."""
    return bool(gap.length / 2.0 > 10.0 * seam)
