"""A film of a drawing at its final size, cleaned there."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.evaluate.drawing_stages import drawing_of, sized_drawing
from vivid_thimble.core.evaluate.placing import placement_affine
from vivid_thimble.core.evaluate.sources.sourced import Given, Placed, Sourced, laid
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.inspect.contours import doubled_outlines, open_outlines
from vivid_thimble.core.job.values import Element, Item, plain
from vivid_thimble.core.sources.artwork import Artwork, ArtworkFilm, working_scale
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.provenance import Provenance


def drawing(source: Artwork, home: Element, given: Given) -> Sourced:
    """Its first film."""
    return _film(source, 0, home, given)


def drawing_film(source: ArtworkFilm, home: Element, given: Given) -> Sourced:
    """A further film."""
    return _film(source.artwork, source.film, home, given)


def _film(artwork: Artwork, film: int, home: Element, given: Given) -> Sourced:
    """``film`` counts from 0."""
    plainly = replace(artwork, name="", provenance=Provenance())
    key = given.placed_key(content_key("artwork", plain(plainly)), home)
    key = content_key(key, home.name, str(film))
    read = drawing_of(artwork, given.assets, given.cache)
    placed = given.cache.get(key, lambda: _placed(read, artwork, film, home, given.item, given.cache))
    return Sourced(placed, key, not_understood=() if film else tuple(read.not_understood.items()))


def _placed(read: Drawing, artwork: Artwork, film: int, home: Element, item: Item, cache: Cache) -> Placed:
    sized = sized_drawing(read, artwork, home.placement, cache)
    affine = placement_affine(home.placement, sized.frame, item)
    parts = sized.films[film] if film < len(sized.films) else ()
    place = Affine.scaling(1.0 / sized.factor).then(affine)
    parts = tuple(Part(p.label if sized.prepared.parts else home.name, laid(p.region, place, home)) for p in parts)
    lines = sized.prepared.outlines.transformed(affine)
    first = film == 0  # what is said of a drawing is said once
    return Placed(
        parts,
        tuple(open_outlines(lines)) if first else (),
        tuple(doubled_outlines(lines)) if first else (),
        cleaned=tuple(one.placed(place) for one in sized.report),
        drawing_scale=sized.factor * working_scale(read),
    )
