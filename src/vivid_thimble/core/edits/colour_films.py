"""Films by colour: which colours of a drawing or picture are cut from which film, each film a layer of its own."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec.structs import replace

from vivid_thimble.core.job.edits import fresh_id, ids_in, with_item, with_source
from vivid_thimble.core.job.values import Element, Item, Job, Layer, source_as, source_in
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.sources.artwork import Artwork, ArtworkShare
from vivid_thimble.core.sources.colours import LEFT_OUT, film_of, grouped, to_hex
from vivid_thimble.core.sources.drawing import Colour
from vivid_thimble.core.sources.picture import Picture

MOST_FILMS = 12
FILMED = (Artwork, Picture)


def _taken(job: Job, element_id: str) -> Artwork | Picture | None:
    return source_in(job, element_id, Artwork) or source_in(job, element_id, Picture)


def _has_no_ground(job: Job, element_id: str) -> bool:
    """Whether all colours are cut when no film is named for any: so it is for drawings, while pictures leave their
    ground out."""
    return isinstance(_taken(job, element_id), Artwork)


def films_now(job: Job, element_id: str, colours: Iterable[Colour]) -> dict[Colour, int]:
    """The film of each colour of a drawing or picture, LEFT_OUT for none; empty for everything else."""
    taken = _taken(job, element_id)
    return {} if taken is None else {c: film_of(c, taken) for c in colours}


def with_film_count(
    job: Job, element_id: str, areas: Mapping[Colour, float], count: int, films: Mapping[Colour, int] | None = None
) -> Job:
    """The colours brought together to so many films by how alike they look; colours left out stay out.

    ``films``: the film of each colour as it is, by default the one that the source tells.
    """
    films = films_now(job, element_id, areas) if films is None else films
    if not films:
        return job
    out = [c for c in areas if films[c] == LEFT_OUT]
    kept = {c: area for c, area in areas.items() if c not in out}
    groups = grouped(kept, min(max(count, 1), MOST_FILMS)) if kept else []
    named = [(to_hex(c), number) for number, group in enumerate(groups) for c in group]
    named = [*named, *((to_hex(c), LEFT_OUT) for c in out)]
    if len(groups) <= 1 and not out and _has_no_ground(job, element_id):
        named = []
    return _with_films(job, element_id, areas, max(len(groups), 1), tuple(named))


def with_colour_in_film(
    job: Job,
    element_id: str,
    areas: Mapping[Colour, float],
    colour: Colour,
    film: int,
    films: Mapping[Colour, int] | None = None,
) -> Job:
    """One colour given to a film (counted from 0), to a new one after the last, or left out."""
    films = films_now(job, element_id, areas) if films is None else films
    if not films:
        return job
    films = {**films, colour: film}
    used = sorted({number for number in films.values() if number != LEFT_OUT})
    if not used:
        return job
    renumbered = {number: k for k, number in enumerate(used)} | {LEFT_OUT: LEFT_OUT}
    named = tuple((to_hex(c), renumbered[number]) for c, number in films.items())
    if len(used) == 1 and LEFT_OUT not in films.values() and _has_no_ground(job, element_id):
        named = ()
    return _with_films(job, element_id, areas, len(used), named)


def _with_films(
    job: Job, element_id: str, areas: Mapping[Colour, float], count: int, named: tuple[tuple[str, int], ...]
) -> Job:
    for kind in FILMED:
        job = with_source(job, element_id, kind, films=count, colour_films=named)
    artwork = _taken(job, element_id)
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
            own.film: k
            for k, la in enumerate(layers)
            for e in la.elements
            if (own := source_as(e, ArtworkShare)) is not None and own.of == element_id
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
    shares = ((e, source_as(e, ArtworkShare)) for e in layer.elements)
    kept = (e for e, share in shares if share is None or share.of != of or share.film < count)
    return replace(layer, elements=tuple(kept))


def _coloured(film: Film, colour: str, number: int) -> Film:
    stem = film.name.split(", film ")[0]
    return replace(film, name=f"{stem}, film {number}", colour=colour)


def _main_colour(areas: Mapping[Colour, float], artwork: Artwork | Picture, film: int) -> str:
    """The colour that covers most of a film."""
    own: Sequence[Colour] = [c for c in areas if film_of(c, artwork) == film]
    return to_hex(max(own, key=lambda c: areas[c])) if own else "#888888"
