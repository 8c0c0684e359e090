"""A drawing on its way to film, in stages that are each worked out once.

Read; painted (which part covers what); seen (which colour shows where); prepared (by film or part); at its final
size. A change of films starts after the third, a change of size before the last. The evaluator, the drawing's panel
and the command line take the same stages from one cache.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass

from shapely import MultiPolygon

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.placing import size_factor
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Placement, plain
from vivid_thimble.core.sources.artwork import (
    Artwork,
    Painted,
    Prepared,
    finished,
    line_frame,
    prepared,
    visible_colours,
    working_scale,
)
from vivid_thimble.core.sources.cleaning import Cleaned, at_any_size
from vivid_thimble.core.sources.drawing import Colour, Drawing
from vivid_thimble.core.sources.painted_apart import painted_apart

ROUNDS = 3
NEARLY_SIZED = 2e-3
"""A drawing is cleaned anew when what is left is off by more than this share of its size."""


def drawing_of(artwork: Artwork, assets: Mapping[str, bytes], cache: Cache) -> Drawing:
    """The file of a drawing as it was read; raises InputRefused when it is missing."""
    if artwork.asset not in assets:
        raise InputRefused(f"The file of {artwork.name} is missing from the project: add the drawing again.")
    return read_once(assets[artwork.asset], artwork.asset, artwork.name, artwork.page, cache)


def read_once(data: bytes, asset: str, name: str, page: int, cache: Cache) -> Drawing:
    """The drawing in a file whose content has the key ``asset``; raises InputRefused."""
    return cache.get(content_key("drawing", asset, str(page)), lambda: read_drawing(data, name, page))


def painted_drawing(drawing: Drawing, artwork: Artwork, least_width: float, cache: Cache) -> Painted:
    """``least_width`` in the drawing's units holds for widened lines."""
    return cache.get(_painted_key(artwork, least_width), lambda: painted_apart(drawing, artwork, least_width))


def seen_colours(drawing: Drawing, artwork: Artwork, least_width: float, cache: Cache) -> dict[Colour, MultiPolygon]:
    """Where each colour shows, at the working scale, in painting order."""
    key = content_key("seen", _painted_key(artwork, least_width))
    return cache.get(key, lambda: visible_colours(painted_drawing(drawing, artwork, least_width, cache)))


def colour_shares(drawing: Drawing, artwork: Artwork, placement: Placement | None, cache: Cache) -> dict[Colour, float]:
    """The visible area of each colour as a share of the whole, in painting order."""
    least = least_width(drawing, artwork, placement, cache)
    areas = {colour: area.area for colour, area in seen_colours(drawing, artwork, least, cache).items()}
    whole = sum(areas.values())
    return {colour: area / whole for colour, area in areas.items()} if whole > 0.0 else {}


def prepared_drawing(drawing: Drawing, artwork: Artwork, least_width: float, cache: Cache) -> Prepared:
    """Raises NothingToDraw when nothing is left."""

    def make() -> Prepared:
        by_film = artwork.reading == "picture" and artwork.in_films
        colours = seen_colours(drawing, artwork, least_width, cache) if by_film else None
        found = prepared(painted_drawing(drawing, artwork, least_width, cache), artwork, colours)
        if artwork.lines != "widened":
            return found
        return dataclasses.replace(found, frame=frame_of(drawing, artwork, cache))

    return cache.get(_prepared_key(artwork, least_width), make)


@dataclass(frozen=True, eq=False)
class Sized:
    """A drawing at its final size, ``factor`` times the working scale, its top-left where the file has it.

    ``frame``: the box of all films at the working scale, which is what the placement sizes.
    """

    prepared: Prepared
    factor: float
    films: tuple[Parts, ...]
    report: tuple[Cleaned, ...]
    frame: Box


def sized_drawing(drawing: Drawing, artwork: Artwork, placement: Placement, cache: Cache) -> Sized:
    """All films of a drawing so large that what is left of them after cleaning has the size that a placement asks for.

    What is cleaned depends on the size, and lines that are widened reach beyond it, so the size is come near to by
    cleaning anew; the last NEARLY_SIZED is a mere map. Raises NothingToDraw, InputRefused.
    """
    tried = placement
    sized, key = _cleaned_at(drawing, artwork, tried, cache)
    for _ in range(ROUNDS):
        more = _factor(sized.frame, placement) / sized.factor
        if abs(more - 1.0) <= NEARLY_SIZED:
            break
        tried = tried.scaled(more)
        sized, key = _cleaned_at(drawing, artwork, tried, cache)
    more = _factor(sized.frame, placement) / sized.factor
    if abs(more - 1.0) < 1e-9:
        return sized
    last = Affine.scaling(more)

    def carried() -> tuple[Parts, ...]:
        return tuple(tuple(part.with_region(part.region.carried(last)) for part in film) for film in sized.films)

    key = content_key("carried", key, repr(more))
    report = tuple(one.placed(last) for one in sized.report)
    return Sized(sized.prepared, sized.factor * more, cache.get(key, carried), report, sized.frame)


def _cleaned_at(drawing: Drawing, artwork: Artwork, placement: Placement, cache: Cache) -> tuple[Sized, str]:
    """As large as the frame of the drawing says, whatever cleaning leaves of it; with its content key."""
    least = least_width(drawing, artwork, placement, cache)
    found = prepared_drawing(drawing, artwork, least, cache)
    factor = _factor(found.frame, placement)
    key = content_key("sized", _prepared_key(artwork, least), plain(artwork.cleaning), repr(factor))
    films, report = cache.get(key, lambda: finished(found, artwork, factor))
    box = bounds_of(part for film in films for part in film)
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return Sized(found, factor, films, report, found.frame), key
    left, top, right, bottom = (edge / factor for edge in box)
    return Sized(found, factor, films, report, (left, top, right, bottom)), key


def least_width(drawing: Drawing, artwork: Artwork, placement: Placement | None, cache: Cache) -> float:
    """The width of widened lines in the drawing's units, which needs the drawing's size; 0 for other drawings."""
    if artwork.lines != "widened" or placement is None:
        return 0.0
    return artwork.line_width / (working_scale(drawing) * _factor(frame_of(drawing, artwork, cache), placement))


def frame_of(drawing: Drawing, artwork: Artwork, cache: Cache) -> Box:
    """What width and height of a drawing mean, at its working scale; raises NothingToDraw."""
    if artwork.lines == "widened":
        return cache.get(content_key("line frame", artwork.asset, str(artwork.page)), lambda: line_frame(drawing))
    return prepared_drawing(drawing, artwork, 0.0, cache).frame


def size_at(drawing: Drawing, artwork: Artwork, scale: float, cache: Cache) -> tuple[float, float]:
    """Width and height in mm of what is cut when a unit of the drawing is ``scale`` mm."""
    left, top, right, bottom = frame_of(drawing, artwork, cache)
    factor = scale / working_scale(drawing)
    return (right - left) * factor, (bottom - top) * factor


def _factor(frame: Box, placement: Placement) -> float:
    return size_factor(placement, frame[2] - frame[0], frame[3] - frame[1], None)


def _painted_key(artwork: Artwork, least_width: float) -> str:
    cleaning = plain(at_any_size(artwork.cleaning))
    out = repr(artwork.left_out)
    return content_key("painted", artwork.asset, str(artwork.page), artwork.lines, repr(least_width), out, cleaning)


def _prepared_key(artwork: Artwork, least_width: float) -> str:
    films = repr((artwork.films, artwork.colour_films))
    return content_key("prepared", _painted_key(artwork, least_width), artwork.name, artwork.reading, films)
