"""Regions grown or shrunk by a distance, leaving as curves."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
import shapely

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import FIT_MM, FLATTEN_MM

Corners = Literal["round", "sharp", "drawn"]
"""What becomes of the corners that move away: rounded; kept sharp however pointed they are; kept as they were drawn,
where very pointed tips are cut off so that they do not run far out."""
MITRE_LIMITS: dict[Corners, float] = {"sharp": 12.0, "drawn": 2.5}
"""How far a corner may run out, in distances."""

EVEN_MM = 0.004
"""Points of the exact parallel that are no farther from their neighbours' edge are left out before curves are laid."""


def offset(region: Region, distance: float, tolerance: float = FIT_MM, *, corners: Corners = "round") -> Region:
    """Parallel of a region: outwards for positive ``distance`` mm, inwards for negative.

    The curve stays within ``tolerance`` + EVEN_MM + FLATTEN_MM of the exact parallel. Shrinking to nothing
    gives an empty region; distance 0 returns the region itself.
    """
    if distance == 0.0 or region.is_empty:
        return region
    grown = _grown(region, distance, corners)
    # uneven dust of the buffer's joins spoils tangents; what crosses itself by it is put in order in the end
    even = shapely.simplify(grown, EVEN_MM, preserve_topology=False)
    rings = [
        np.asarray(ring.coords)
        for polygon in polygons_of(even).geoms
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return Region.from_path(Path(tuple(fit_rings(rings, tolerance))), "evenodd")


def _grown(region: Region, distance: float, corners: Corners) -> shapely.Geometry:
    if corners == "round":
        return shapely.buffer(region.polygons, distance, quad_segs=quadrant_segments(abs(distance)))
    limit = MITRE_LIMITS[corners]
    # curves are chains of short chords, whose joins a mitre follows closely
    return shapely.buffer(region.polygons, distance, join_style="mitre", mitre_limit=limit)


def quadrant_segments(radius: float, tolerance: float = FLATTEN_MM) -> int:
    """Chords per quarter circle so that the sagitta stays below the tolerance."""
    if radius <= tolerance:
        return 2
    return max(2, math.ceil((math.pi / 2) / (2.0 * math.acos(1.0 - tolerance / radius))))
