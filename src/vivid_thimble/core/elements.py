"""From an element's plain values to its shape at the final size, cached by content.

Sources are resolved once at a working size and mapped from there; steps run where the element would
lie in the item's middle, so that moving it costs them nothing. A step that fails is recorded on that
step and skipped.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.drawing_stages import drawing_of, sized_drawing
from vivid_thimble.core.errors import FontNotUsable, InputRefused, ThimbleError
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.contours import DoubledOutline, OpenOutline, doubled_outlines, open_outlines
from vivid_thimble.core.job import Element, Item, Source, plain
from vivid_thimble.core.picture_stages import drawn_portrait, raster_of, sized_picture
from vivid_thimble.core.placing import WORKING_EM_MM, placement_affine
from vivid_thimble.core.results import ElementResult, Problem
from vivid_thimble.core.sources.artwork import (
    Artwork,
    ArtworkFilm,
    ArtworkShare,
    working_scale,
)
from vivid_thimble.core.sources.cleaning import Cleaned
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.fonts import face_title, load_face
from vivid_thimble.core.sources.letter_grid import (
    AnswerBands,
    GridBands,
    LetterGrid,
    compose_bands,
    compose_grid,
    words_of_grid,
)
from vivid_thimble.core.sources.lettering import (
    NO_HEIGHTS,
    LetterHeights,
    LetterOutline,
    ShapedWords,
    Words,
    letters_from_json,
    shape_words,
)
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.monogram import Monogram, compose_monogram, words_of_monogram
from vivid_thimble.core.sources.picture import Picture, PictureFilm
from vivid_thimble.core.sources.provenance import Provenance

Assets = Mapping[str, bytes]


@dataclass(frozen=True, eq=False)
class Taken:
    """A drawing as it was read, and how it is taken; ``film`` counts from 0."""

    drawing: Drawing
    artwork: Artwork
    film: int


@dataclass(frozen=True, eq=False)
class TakenPicture:
    """A picture as it was decoded, and how it is taken; ``film`` counts from 0."""

    raster: Raster
    picture: Picture
    film: int


@dataclass(frozen=True, eq=False)
class TakenPortrait:
    """A photo that is shown by lines."""

    raster: Raster
    portrait: LinePortrait


Resolved = ShapedWords | Taken | TakenPicture | TakenPortrait | Composed
"""Sources before they are placed."""


def asset_key(data: bytes) -> str:
    """The name under which a file's bytes are kept with the job."""
    return content_key(data)


def letters_key(words: Words) -> str:
    """The asset name of stored letter outlines for these words."""
    return f"letters-{content_key(plain(words))}"


def placed_source(source: Source, assets: Assets, cache: Cache) -> tuple[Resolved, str]:
    """The source before placement, and its content key; raises ThimbleError."""
    if isinstance(source, Words):
        key = content_key("words", plain(source), letters_key(source) if letters_key(source) in assets else "")
        return cache.get(key, lambda: _words(source, assets)), key
    if isinstance(source, ArtworkShare):
        raise InputRefused("The drawing that this film belongs to is gone: remove this film, or add the drawing again.")
    if isinstance(source, Artwork | ArtworkFilm):
        return _taken(source, assets, cache)
    if isinstance(source, Picture | PictureFilm):
        picture, film = (source, 0) if isinstance(source, Picture) else (source.picture, source.film)
        plainly = replace(picture, name="", provenance=Provenance())
        return TakenPicture(raster_of(picture, assets, cache), picture, film), content_key("picture", plain(plainly))
    if isinstance(source, LinePortrait):
        return TakenPortrait(raster_of(source, assets, cache), source), content_key("portrait", plain(source))
    stored = [key for words in words_of(source) if (key := letters_key(words)) in assets]
    key = content_key("composed", plain(source), _face_key(source), *stored)
    return cache.get(key, lambda: _composed(source, assets)), key


def words_of(source: Source) -> list[Words]:
    """The words that a source sets, so that their outlines can be kept with the job."""
    if isinstance(source, Words):
        return [source]
    if isinstance(source, Monogram):
        return words_of_monogram(source)
    return words_of_grid(source) if isinstance(source, LetterGrid) else []


def _composed(source: Monogram | LetterGrid | AnswerBands | GridBands, assets: Assets) -> Composed:
    def shape(words: Words) -> ShapedWords:
        return _words(words, assets)

    if isinstance(source, Monogram):
        return compose_monogram(source, shape)
    if isinstance(source, LetterGrid):
        return compose_grid(source, shape)
    if isinstance(source, GridBands):
        return compose_bands(source)
    raise InputRefused("The letter grid of these bands is gone: remove the bands, or add a letter grid again.")


def _face_key(source: Source) -> str:
    """What tells that the face behind a source is another one than before."""
    face = getattr(source, "face", None)
    try:
        return load_face(face).content_key if face else ""
    except FontNotUsable:
        return ""


def _words(words: Words, assets: Assets) -> ShapedWords:
    try:
        return shape_words(words)
    except FontNotUsable:
        stored = assets.get(letters_key(words))
        if stored is None:
            raise
        return letters_from_json(stored)


def _taken(source: Artwork | ArtworkFilm, assets: Assets, cache: Cache) -> tuple[Taken, str]:
    artwork, film = (source, 0) if isinstance(source, Artwork) else (source.artwork, source.film)
    plainly = replace(artwork, name="", provenance=Provenance())
    key = content_key("artwork", plain(plainly))
    return Taken(drawing_of(artwork, assets, cache), artwork, film), key


def evaluate_element(item: Item, element: Element, assets: Assets, cache: Cache) -> ElementResult:
    size = f"{item.width!r} {item.height!r}"
    try:
        source, source_key = placed_source(element.source, assets, cache)
        # steps run where the element would lie in the item's middle: moving it costs them nothing
        home = replace(element, placement=replace(element.placement, dx=0.0, dy=0.0))
        key = content_key("placed", source_key, plain(home.placement), size)
        if isinstance(source, Taken):
            key = content_key(key, str(source.film))
            placed = cache.get(key, lambda: _placed_drawing(source, home, item, cache))
        elif isinstance(source, TakenPicture):
            key = content_key(key, str(source.film))
            placed = cache.get(key, lambda: _placed_picture(source, home, item, cache))
        elif isinstance(source, TakenPortrait):
            placed = cache.get(key, lambda: _placed_portrait(source, home, item, cache))
        else:
            inked = cache.get(
                content_key("inked", source_key, element.name), lambda: _inked(source, element.name, cache)
            )
            placed = cache.get(key, lambda: _place(inked, home, item))
    except ThimbleError as error:
        problem = Problem("source", str(error))
        return ElementResult(element, (), (), (problem,), (), (), (), content_key(plain(element), str(error)))
    letters = parts = placed.parts
    letters_key = key
    problems: list[Problem] = []
    for step in element.steps:
        parts, key, failed = apply_step(step, parts, key, cache)
        problems += [failed] if failed else []
    dx, dy = element.placement.dx, element.placement.dy
    move = repr((dx, dy))
    return ElementResult(
        element,
        cache.get(content_key("moved", letters_key, move), lambda: _moved(letters, dx, dy)),
        cache.get(content_key("moved", key, move), lambda: _moved(parts, dx, dy)),
        tuple(problems),
        _notes(element, source),
        tuple(outline.shifted(dx, dy) for outline in placed.opened),
        tuple(outline.shifted(dx, dy) for outline in placed.doubled),
        content_key(key, move),
        parts,
        key,
        placed.heights,
        tuple(one.placed(Affine.translation(dx, dy)) for one in placed.cleaned),
        placed.drawing_scale,
    )


def _moved(parts: Parts, dx: float, dy: float) -> Parts:
    return tuple(part.shifted(dx, dy) for part in parts)


@dataclass(frozen=True, eq=False)
class _Placed:
    parts: Parts
    opened: tuple[OpenOutline, ...]
    doubled: tuple[DoubledOutline, ...]
    heights: LetterHeights = NO_HEIGHTS
    cleaned: tuple[Cleaned, ...] = ()
    drawing_scale: float | None = None


@dataclass(frozen=True, eq=False)
class _Inked:
    """A source as regions at the working scale, before it is placed."""

    parts: Parts
    lines: Path
    box: Box
    heights: LetterHeights | None = None
    """For words: at an em of WORKING_EM_MM."""


def _inked(source: ShapedWords | Composed, name: str, cache: Cache) -> _Inked:
    """Resolve overlaps within letters, once for all sizes.

    Raises InputRefused or NothingToDraw when nothing is left.
    """
    if isinstance(source, ShapedWords):
        letters = [Part(letter.label, _letter_region(letter, cache), letter.word) for letter in source.letters]
        parts, lines = tuple(p for p in letters if not p.region.is_empty), Path()
    else:
        parts, lines = source.parts, Path()
        if source.frame is not None:
            return _Inked(parts, lines, source.frame)
    box = bounds_of(parts)
    if box is None:
        raise InputRefused(f"{name} has no outline: choose other words or another drawing.")
    heights = source.heights.scaled(WORKING_EM_MM) if isinstance(source, ShapedWords) else None
    return _Inked(parts, lines, box, heights)


def _letter_region(letter: LetterOutline, cache: Cache) -> Region:
    """A letter at the working em; equal glyphs are resolved once."""
    scale = Affine.scaling(WORKING_EM_MM)
    origin = letter.from_origin
    if not letter.glyph or origin is None:
        return Region.from_path(letter.path.transformed(scale))
    glyph = cache.get(content_key("glyph", letter.glyph), lambda: Region.from_path(origin.transformed(scale)))
    return glyph.shifted(letter.at[0] * WORKING_EM_MM, letter.at[1] * WORKING_EM_MM)


def _place(inked: _Inked, element: Element, item: Item) -> _Placed:
    """Map a source so that its inked box has the placement's size and middle."""
    affine = placement_affine(element.placement, inked.box, item, inked.heights)
    parts = tuple(Part(p.label, p.region.transformed(affine), p.word) for p in inked.parts)
    lines = inked.lines.transformed(affine)
    heights = (inked.heights or NO_HEIGHTS).scaled(abs(affine.determinant) ** 0.5)
    return _Placed(parts, tuple(open_outlines(lines)), tuple(doubled_outlines(lines)), heights)


def _placed_drawing(source: Taken, home: Element, item: Item, cache: Cache) -> _Placed:
    """One film of a drawing at its final size, cleaned there, in the item's middle."""
    sized = sized_drawing(source.drawing, source.artwork, home.placement, cache)
    affine = placement_affine(home.placement, sized.prepared.frame, item)
    parts = sized.films[source.film] if source.film < len(sized.films) else ()
    place = Affine.scaling(1.0 / sized.factor).then(affine)
    parts = tuple(Part(p.label if sized.prepared.parts else home.name, _laid(p.region, place, home)) for p in parts)
    lines = sized.prepared.outlines.transformed(affine)
    first = source.film == 0  # what is said of a drawing is said once
    opened = tuple(open_outlines(lines)) if first else ()
    doubled = tuple(doubled_outlines(lines)) if first else ()
    cleaned = tuple(one.placed(place) for one in sized.report)
    return _Placed(parts, opened, doubled, NO_HEIGHTS, cleaned, sized.factor * working_scale(source.drawing))


def _laid(region: Region, place: Affine, home: Element) -> Region:
    """A region of its final size brought to its place; upright ones keep their vertices, which neighbours share."""
    if home.placement.turn_deg:
        return region.transformed(place)
    dx, dy = place.apply(np.zeros(2)).tolist()
    return region.shifted(dx, dy)


def _placed_picture(source: TakenPicture, home: Element, item: Item, cache: Cache) -> _Placed:
    """One film of a picture at its final size, in the item's middle."""
    sized = sized_picture(source.raster, source.picture, home.placement, cache)
    place = placement_affine(home.placement, sized.frame, item)
    region = sized.regions[source.film] if source.film < len(sized.regions) else Region()
    placed = () if region.is_empty else (Part(home.name, _laid(region, place, home)),)
    return _Placed(placed, (), ())


def _placed_portrait(source: TakenPortrait, home: Element, item: Item, cache: Cache) -> _Placed:
    """A portrait of lines; its middle lies in the item's middle."""
    drawn = drawn_portrait(source.raster, source.portrait, home.placement, cache)
    turn = Affine.turning(home.placement.turn_deg).then(Affine.translation(item.width / 2, item.height / 2))
    return _Placed((Part(home.name, drawn.kept.transformed(turn)),), (), ())


def apply_step(step: Any, parts: Parts, key: str, cache: Cache) -> tuple[Parts, str, Problem | None]:
    """Run one step; when it fails the parts go on as they came."""
    if not step.enabled:
        return parts, key, None
    after = content_key(type(step).__struct_config__.tag, str(step.VERSION), plain(step), key)
    try:
        return cache.get(after, lambda: step.apply(parts)), after, None
    except ThimbleError as error:
        return parts, key, Problem(step.id, str(error))


def _notes(element: Element, source: Resolved) -> tuple[str, ...]:
    if (isinstance(source, Taken) and source.film > 0) or isinstance(source, TakenPicture | TakenPortrait):
        return ()
    if isinstance(source, Taken):
        return tuple(f"{count} x {what}" for what, count in source.drawing.not_understood.items())
    notes = []
    if isinstance(source, ShapedWords) and source.missing:
        notes.append(f'The face has no shapes for "{"".join(source.missing)}": they are left out.')
    if isinstance(element.source, Words | Monogram | LetterGrid) and not _face_is_here(element.source.face):
        title = face_title(element.source.face)
        notes.append(f"The font {title} is not on this machine: the letters stored with the job are used.")
    return tuple(notes)


def _face_is_here(face: str) -> bool:
    try:
        load_face(face)
    except FontNotUsable:
        return False
    return True
