"""A drawing into film: the visible filled area, where paper white cuts away.

Parts are taken in painting order. White shapes over others are knock-outs: they
remove what lies below instead of becoming pieces. A drawing that is white throughout
is taken as the shape itself.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby

from msgspec import Struct

from vivid_thimble.core.errors import NothingToDraw
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.mosaic import mosaic
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.seams import close_seams, drop_hairs
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart, is_white
from vivid_thimble.core.sources.painting import PaintedArea, painted_areas, visible_by_colour


class Artwork(Struct, frozen=True, tag="artwork", kw_only=True):
    """A downloaded drawing kept with the job: the key of its file and the name it came with."""

    asset: str
    name: str


def film_region(drawing: Drawing, affine: Affine, name: str = "The drawing") -> Region:
    """All visible colours as one region, mapped by ``affine``, without hairlines where shapes nearly meet.

    Raises NothingToDraw when nothing that can be cut is left.
    """
    white_cuts = has_ink(drawing.parts)
    kept = Region()
    shown = [part for part in drawing.parts if part.is_white or part.inks] if white_cuts else list(drawing.parts)
    areas = zip(shown, painted_areas(shown, affine), strict=True)
    for cuts_away, run in groupby(areas, key=lambda one: one[0].is_white and white_cuts):
        covered = [area for _, area in run]
        kept = difference(kept, covered) if cuts_away else union([kept, *covered])
    if kept.is_empty:
        raise NothingToDraw(_why_empty(drawing, name))
    return drop_hairs(close_seams(kept))


def colour_regions(drawing: Drawing, affine: Affine, name: str = "The drawing") -> dict[Colour, Region]:
    """What is visible of each colour after painting order, white left out: regions that share their edges.

    Raises NothingToDraw when nothing that can be cut is left.
    """
    white_cuts = has_ink(drawing.parts)
    areas = [
        PaintedArea(part.colour, part.opacity, region.polygons)
        for part, region in zip(drawing.parts, painted_areas(drawing.parts, affine), strict=True)
    ]
    visible = {c: area for c, area in visible_by_colour(areas).items() if not (white_cuts and is_white(c))}
    regions = dict(zip(visible, mosaic(list(visible.values())), strict=True))
    regions = {colour: region for colour, region in regions.items() if not region.is_empty}
    if not regions:
        raise NothingToDraw(_why_empty(drawing, name))
    return regions


def has_ink(parts: Iterable[DrawingPart]) -> bool:
    """Whether a drawing shows anything on white paper; one that is white throughout is taken as the shape itself."""
    return any(part.inks for part in parts)


def _why_empty(drawing: Drawing, name: str) -> str:
    missing = ", ".join(f"{count} x {what}" for what, count in drawing.not_understood.items())
    hint = f" (found: {missing})" if missing else ""
    return f"{name} holds no shape to cut{hint}: choose another drawing."
