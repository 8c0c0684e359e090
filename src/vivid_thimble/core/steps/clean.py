"""Clean: remove specks and fill pinholes, by area at the final size."""

from __future__ import annotations

from typing import ClassVar

import shapely
from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, side_by_side
from vivid_thimble.core.ranges import Area
from vivid_thimble.core.steps.step import StepKind


class RemoveSpecks(StepKind, Struct, frozen=True, tag="remove-specks", kw_only=True):
    """Pieces of up to ``area`` mm2 are left out, as they stand when all parts are taken together."""

    VERSION: ClassVar[int] = 2
    TITLE: ClassVar[str] = "Remove specks"
    id: str
    area: Area
    enabled: bool = True

    def describe(self) -> str:
        return f"Remove specks: pieces of up to {self.area:g} mm² are left out"

    def apply(self, parts: Parts) -> Parts:
        specks = [p for p in merged(parts).polygons.geoms if p.area <= self.area]
        if not specks:
            return parts
        tree = shapely.STRtree(specks)
        kept = tuple(p for part in parts if not (p := _without_specks(part, tree, self.area)).region.is_empty)
        if not kept:
            raise InputRefused(f"Every piece is smaller than {self.area:g} mm²: choose a smaller area.")
        return kept


class FillPinholes(StepKind, Struct, frozen=True, tag="fill-pinholes", kw_only=True):
    """Holes of up to ``area`` mm2 are filled, part by part."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Fill pinholes"
    id: str
    area: Area
    enabled: bool = True

    def describe(self) -> str:
        return f"Fill pinholes: holes of up to {self.area:g} mm² are closed"

    def apply(self, parts: Parts) -> Parts:
        return tuple(part.with_region(_filled(part.region, self.area)) for part in parts)


def _without_specks(part: Part, specks: shapely.STRtree, area: float) -> Part:
    """Small pieces of a part that lie in a speck go; others are held by neighbouring parts."""
    pieces = part.region.pieces()
    kept = [
        piece for piece in pieces if piece.area > area or not len(specks.query(piece.polygons, predicate="intersects"))
    ]
    return part if len(kept) == len(pieces) else part.with_region(side_by_side(kept))


def _filled(region: Region, area: float) -> Region:
    """The region without its small holes; untouched curves stay as they are."""
    holes = [h for polygon in region.polygons.geoms for h in polygon.interiors if shapely.Polygon(h).area <= area]
    if not holes:
        return region
    kept = tuple(c for c in region.outline.contours if not _is_one_of(c.segments[0, 0], holes))
    return Region.from_path(Path(kept), "evenodd")


def _is_one_of(start: object, holes: list[shapely.LinearRing]) -> bool:
    """Whether a contour that begins at a point is one of the holes."""
    return bool(shapely.dwithin(shapely.Point(start), shapely.MultiLineString(holes), 1e-5))
