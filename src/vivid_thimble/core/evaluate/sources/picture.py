"""A film of a picture of pixels at its final size, and a photo shown by lines."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.evaluate.picture_stages import drawn_portrait, raster_of, sized_picture
from vivid_thimble.core.evaluate.placing import placement_affine
from vivid_thimble.core.evaluate.sources.sourced import Given, Placed, Sourced, laid
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import Element, Item, plain
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import Picture, PictureFilm
from vivid_thimble.core.sources.provenance import Provenance


def picture(source: Picture, home: Element, given: Given) -> Sourced:
    """Its first film."""
    return _film(source, 0, home, given)


def picture_film(source: PictureFilm, home: Element, given: Given) -> Sourced:
    """A further film."""
    return _film(source.picture, source.film, home, given)


def _film(source: Picture, film: int, home: Element, given: Given) -> Sourced:
    """``film`` counts from 0."""
    plainly = replace(source, name="", provenance=Provenance())
    key = content_key(given.placed_key(content_key("picture", plain(plainly)), home), home.name, str(film))
    raster = raster_of(source, given.assets, given.cache)
    return Sourced(given.cache.get(key, lambda: _placed(raster, source, film, home, given.item, given.cache)), key)


def _placed(raster: Raster, source: Picture, film: int, home: Element, item: Item, cache: Cache) -> Placed:
    sized = sized_picture(raster, source, home.placement, cache)
    place = placement_affine(home.placement, sized.frame, item)
    region = sized.regions[film] if film < len(sized.regions) else Region()
    return Placed(() if region.is_empty else (Part(home.name, laid(region, place, home)),))


def portrait(source: LinePortrait, home: Element, given: Given) -> Sourced:
    """Lines whose middle lies in the item's middle."""
    key = content_key(given.placed_key(content_key("portrait", plain(source)), home), home.name)
    raster = raster_of(source, given.assets, given.cache)

    def placed() -> Placed:
        drawn = drawn_portrait(raster, source, home.placement, given.cache)
        turn = Affine.turning(home.placement.turn_deg).then(Affine.translation(*given.middle))
        return Placed((Part(home.name, drawn.kept.transformed(turn)),))

    return Sourced(given.cache.get(key, placed), key)
