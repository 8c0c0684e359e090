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
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.seams import close_seams, drop_hairs
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart, is_white


class Artwork(Struct, frozen=True, tag="artwork", kw_only=True):
    """A downloaded drawing kept with the job: the key of its file and the name it came with."""

    asset: str
    name: str


def film_region(drawing: Drawing, affine: Affine, name: str = "The drawing") -> Region:
    """All visible colours as one region, mapped by ``affine``, without hairlines where shapes nearly meet.

    Raises NothingToDraw when no filled shape is left.
    """
    white_cuts = not all(part.is_white for part in drawing.parts)
    kept = Region()
    for cuts_away, run in groupby(drawing.parts, key=lambda part: part.is_white and white_cuts):
        areas = _areas(run, affine)
        kept = difference(kept, areas) if cuts_away else union([kept, *areas])
    if kept.is_empty:
        raise NothingToDraw(_why_empty(drawing, name))
    return drop_hairs(close_seams(kept))


def colour_regions(drawing: Drawing, affine: Affine, name: str = "The drawing") -> dict[Colour, Region]:
    """What is visible of each colour after painting order: abutting regions, white left out.

    Raises NothingToDraw when no filled shape is left.
    """
    white_cuts = not all(part.is_white for part in drawing.parts)
    visible: dict[Colour, Region] = {}
    for colour, run in groupby(drawing.parts, key=lambda part: part.colour):
        areas = union(_areas(run, affine))
        visible = {other: difference(region, [areas]) for other, region in visible.items() if other != colour} | (
            {colour: union([visible[colour], areas])} if colour in visible else {colour: areas}
        )
    order = [c for c in drawing.colours if c in visible and not visible[c].is_empty]
    regions = {c: visible[c] for c in order if not (white_cuts and is_white(c))}
    if not regions:
        raise NothingToDraw(_why_empty(drawing, name))
    return regions


def _areas(parts: Iterable[DrawingPart], affine: Affine) -> list[Region]:
    return [Region.from_path(part.path.transformed(affine), part.rule) for part in parts]


def _why_empty(drawing: Drawing, name: str) -> str:
    missing = ", ".join(f"{count} x {what}" for what, count in drawing.not_understood.items())
    hint = f" (not understood yet: {missing})" if missing else ""
    return f"{name} holds no filled shape to cut{hint}: fill its outlines, or choose another file."
