"""Edits of a drawing in a job: its films, and what of it is taken."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.drawing_stages import colour_shares, drawing_of, size_at
from vivid_thimble.core.elements import Assets
from vivid_thimble.core.films import Film
from vivid_thimble.core.job import (
    Element,
    Item,
    Job,
    Layer,
    Placement,
    fresh_id,
    ids_in,
    source_in,
    with_item,
    with_source,
)
from vivid_thimble.core.sources.artwork import Artwork, ArtworkShare
from vivid_thimble.core.sources.colours import LEFT_OUT, film_of, grouped, to_hex
from vivid_thimble.core.sources.drawing import Colour, Drawing
from vivid_thimble.core.sources.letter_grid import AnswerBands
from vivid_thimble.core.sources.line_work import has_thin_lines

MOST_FILMS = 12


@dataclass(frozen=True)
class DrawingLook:
    """What a person needs to see of a drawing to decide how it is taken."""

    drawing: Drawing
    colours: dict[Colour, float]
    """Visible colours in painting order with their share of the area."""
    has_thin_lines: bool
    stated_size: tuple[float, float] | None
    """Width and height in mm that the file itself asks for; None when it states no physical size."""


def look_at(artwork: Artwork, placement: Placement, assets: Assets, cache: Cache) -> DrawingLook:
    """Raises ThimbleError when the drawing cannot be read or nothing of it is left."""
    drawing = drawing_of(artwork, assets, cache)
    unit = drawing.mm_per_unit
    return DrawingLook(
        drawing,
        colour_shares(drawing, artwork, placement, cache),
        has_thin_lines(drawing),
        None if unit is None else size_at(drawing, artwork, unit, cache),
    )


def artwork_in(job: Job, element_id: str) -> Artwork | None:
    """The drawing that an element of the item in hand shows; None for everything else."""
    return source_in(job, element_id, Artwork)


def with_artwork(job: Job, element_id: str, **values: Any) -> Job:
    """A drawing taken otherwise."""
    return with_source(job, element_id, Artwork, **values)


def with_film_count(job: Job, element_id: str, areas: Mapping[Colour, float], count: int) -> Job:
    """The colours of a drawing brought together to so many films by how alike they look; colours left out stay out."""
    artwork = artwork_in(job, element_id)
    if artwork is None:
        return job
    out = [c for c in areas if film_of(c, artwork) == LEFT_OUT]
    kept = {c: area for c, area in areas.items() if c not in out}
    groups = grouped(kept, min(max(count, 1), MOST_FILMS)) if kept else []
    named = [(to_hex(c), number) for number, group in enumerate(groups) for c in group]
    named = [*named, *((to_hex(c), LEFT_OUT) for c in out)]
    if len(groups) <= 1 and not out:
        named = []
    return _with_films(job, element_id, areas, max(len(groups), 1), tuple(named))


def with_colour_in_film(job: Job, element_id: str, areas: Mapping[Colour, float], colour: Colour, film: int) -> Job:
    """One colour given to a film (counted from 0), to a new one after the last, or left out."""
    artwork = artwork_in(job, element_id)
    if artwork is None:
        return job
    films = {c: film_of(c, artwork) for c in areas} | {colour: film}
    used = sorted({number for number in films.values() if number != LEFT_OUT})
    if not used:
        return job
    renumbered = {number: k for k, number in enumerate(used)} | {LEFT_OUT: LEFT_OUT}
    named = tuple((to_hex(c), renumbered[number]) for c, number in films.items())
    if len(used) == 1 and LEFT_OUT not in films.values():
        named = ()
    return _with_films(job, element_id, areas, len(used), named)


def _with_films(
    job: Job, element_id: str, areas: Mapping[Colour, float], count: int, named: tuple[tuple[str, int], ...]
) -> Job:
    job = with_artwork(job, element_id, films=count, colour_films=named)
    artwork = artwork_in(job, element_id)
    assert artwork is not None
    colours = [_main_colour(areas, artwork, number) for number in range(count)]
    taken = ids_in(job)

    def shared(item: Item) -> Item:
        layers = [_without_films_from(layer, element_id, count) for layer in item.layers]
        layers = [layer for k, layer in enumerate(layers) if k == 0 or layer.elements or not item.layers[k].elements]
        home = next(k for k, layer in enumerate(layers) if any(e.id == element_id for e in layer.elements))
        if count > 1:
            layers[home] = replace(layers[home], film=_coloured(layers[home].film, colours[0], 1))
        held = {
            e.source.film: k
            for k, la in enumerate(layers)
            for e in la.elements
            if isinstance(e.source, ArtworkShare) and e.source.of == element_id
        }
        for number in range(1, count):
            film = _coloured(layers[home].film, colours[number], number + 1)
            if number in held:
                layers[held[number]] = replace(layers[held[number]], film=film)
                continue
            leader = next(e for e in layers[home].elements if e.id == element_id)
            share = Element(
                id=fresh_id(f"{element_id}-film", taken),
                name=f"{leader.name}, film {number + 1}",
                source=ArtworkShare(of=element_id, film=number),
                placement=leader.placement,
            )
            layer = Layer(id=fresh_id("layer", taken), film=film, elements=(share,))
            taken.update((share.id, layer.id))
            layers.append(layer)
        return replace(item, layers=tuple(layers))

    return with_item(job, shared)


def _without_films_from(layer: Layer, of: str, count: int) -> Layer:
    """A layer without shares of films that are not there any more."""
    kept = tuple(
        e
        for e in layer.elements
        if not (isinstance(e.source, ArtworkShare) and e.source.of == of and e.source.film >= count)
    )
    return replace(layer, elements=kept)


def _coloured(film: Film, colour: str, number: int) -> Film:
    stem = film.name.split(", film ")[0]
    return replace(film, name=f"{stem}, film {number}", colour=colour)


def _main_colour(areas: Mapping[Colour, float], artwork: Artwork, film: int) -> str:
    """The colour that covers most of a film."""
    own: Sequence[Colour] = [c for c in areas if film_of(c, artwork) == film]
    return to_hex(max(own, key=lambda c: areas[c])) if own else "#888888"


def without_element(job: Job, gone: str) -> Job:
    """The job without an element and what belongs to it (answer bands, further films); layers that this empties
    go as well."""

    def stays(element: Element) -> bool:
        source = element.source
        return element.id != gone and not (isinstance(source, AnswerBands | ArtworkShare) and source.of == gone)

    def cleared(item: Item) -> Item:
        layers = [replace(la, elements=tuple(e for e in la.elements if stays(e))) for la in item.layers]
        kept = [la for k, la in enumerate(layers) if k == 0 or la.elements]
        return replace(item, layers=tuple(kept))

    return with_item(job, cleared)
