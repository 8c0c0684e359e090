"""Strengthen: thicken only where kept film is thinner than asked."""

from __future__ import annotations

from typing import ClassVar

import shapely
from msgspec import Struct
from shapely import MultiPolygon

from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.offset import quadrant_segments
from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.ranges import Fine
from vivid_thimble.core.steps.step import StepKind
from vivid_thimble.core.widths.places import ThinPlace
from vivid_thimble.core.widths.survey import survey_widths

CLEARLY = 1.01
"""What is not this much wider than asked is strengthened."""
ROOMS = (1.03, 1.05, 1.08)
"""A strengthened place is this much wider than asked, so that fitted curves leave no finding. Where a band
ends a thin spot may be left: it is looked at again, and gets a little more."""
SIMPLER_MM = 0.001
PATCH_FIT_MM = 0.003
"""Bands are fitted closer than other shapes, so that their round ends do not bulge beyond what was asked."""


class Strengthen(StepKind, Struct, frozen=True, tag="strengthen", kw_only=True):
    """Lines thinner than ``to`` mm get that width along their middle line; all else stays.

    With ``openings`` the parts are the openings of a sheet and it is the film between them that is
    strengthened: the openings give way.
    """

    VERSION: ClassVar[int] = 2
    TITLE: ClassVar[str] = "Thicken where thin"
    id: str
    to: Fine
    openings: bool = False
    enabled: bool = True

    def describe(self) -> str:
        return f"Thicken where thin: lines thinner than {self.to:g} mm are brought to that width"

    def apply(self, parts: Parts) -> Parts:
        for room in ROOMS:
            places = self._places(parts)
            if not places:
                break
            patch = patch_over(places, self.to * room)
            if self.openings:
                parts = tuple(p for part in parts if not (p := _without(part, patch)).region.is_empty)
            else:
                parts = tuple(_with(part, patch) for part in parts)
        return parts

    def _places(self, parts: Parts) -> list[ThinPlace]:
        lines, gaps = survey_widths(merged(parts).polygons, self.to * CLEARLY, self.to * CLEARLY)
        return [p for p in (gaps if self.openings else lines).places if not p.is_touching]


def patch_over(places: list[ThinPlace], width: float) -> MultiPolygon:
    """Bands of ``width`` mm along the middle lines of thin places.

    Each short piece gets a band of its own: all together the buffers of a line of thousands of pieces that lie over
    each other take time that grows with their square.
    """
    pieces = shapely.get_parts([place.spine for place in places])
    bands = shapely.buffer(pieces, width / 2.0, quad_segs=quadrant_segments(width / 2.0))
    patch = shapely.simplify(shapely.union_all(bands), SIMPLER_MM)
    return patch if isinstance(patch, MultiPolygon) else MultiPolygon([patch])


def _fitted(pieces: list[shapely.Polygon]) -> Region:
    rings = [shapely.get_coordinates(ring) for p in pieces for ring in (p.exterior, *p.interiors)]
    return Region.from_path(Path(tuple(fit_rings(rings, PATCH_FIT_MM))), "evenodd")


def _touching(part: Part, patch: MultiPolygon) -> list[shapely.Polygon]:
    return [piece for piece in patch.geoms if shapely.intersects(piece, part.region.polygons)]


def _with(part: Part, patch: MultiPolygon) -> Part:
    near = _touching(part, patch)
    return part.with_region(union([part.region, _fitted(near)])) if near else part


def _without(part: Part, patch: MultiPolygon) -> Part:
    near = _touching(part, patch)
    return part.with_region(difference(part.region, [_fitted(near)])) if near else part
