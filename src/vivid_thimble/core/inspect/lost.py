"""What is lost on a rough surface: details narrower than it can show.

An opening by half the size removes kept film that no disc of that size fits into, a closing fills
gaps that none fits into. What rounding takes from plain corners is left out of the count.
"""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.offset import quadrant_segments

CORNER_AREAS = 0.15
"""Patches below this share of the size's square are rounded corners, not details."""
ROUNDING_MM = 0.02
"""The discs' chords may be off by this much: a preview needs no more."""


@dataclass(frozen=True, eq=False)
class Lost:
    """Kept film that fades and gaps that fill, as polygons; ``count`` of both together."""

    faded: MultiPolygon
    filled: MultiPolygon

    @property
    def count(self) -> int:
        return len(self.faded.geoms) + len(self.filled.geoms)


def lost_details(polygons: MultiPolygon, size: float) -> Lost:
    """Details of ``polygons`` narrower than ``size`` mm; nothing for size 0 or no film."""
    if size <= 0.0 or polygons.is_empty:
        return Lost(MultiPolygon(), MultiPolygon())
    faded = shapely.difference(polygons, _through_discs(polygons, -size / 2.0))
    filled = shapely.difference(_through_discs(polygons, size / 2.0), polygons)
    return Lost(_details(faded, size), _details(filled, size))


def _through_discs(polygons: MultiPolygon, radius: float) -> shapely.Geometry:
    """Shrunk and grown back (negative radius), or grown and shrunk back."""
    segments = quadrant_segments(abs(radius), ROUNDING_MM)
    return shapely.buffer(shapely.buffer(polygons, radius, quad_segs=segments), -radius, quad_segs=segments)


def _details(patches: shapely.Geometry, size: float) -> MultiPolygon:
    return MultiPolygon([p for p in polygons_of(patches).geoms if p.area > CORNER_AREAS * size**2])
