"""From an element's plain values to its shape at the final size, cached by content.

Sources are resolved once at a working size and mapped from there; steps run where the element would
lie in the item's middle, so that moving it costs them nothing. A step that fails is recorded on that
step and skipped.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import replace as replaced

import numpy as np
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import FontNotUsable, InputRefused, ThimbleError
from vivid_thimble.core.evaluate.drawing_stages import drawing_of, sized_drawing
from vivid_thimble.core.evaluate.picture_stages import drawn_portrait, raster_of, sized_picture
from vivid_thimble.core.evaluate.placing import WORKING_EM_MM, placement_affine
from vivid_thimble.core.evaluate.results import ElementResult, Problem
from vivid_thimble.core.evaluate.stepping import Stepped, run_steps
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged, turned
from vivid_thimble.core.geometry.path import Box, Path, box_shifted
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.contours import DoubledOutline, OpenOutline, doubled_outlines, open_outlines
from vivid_thimble.core.job.values import Element, Item, Source, elements_of, letters_key, plain, words_of
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.sources.artwork import (
    Artwork,
    ArtworkFilm,
    ArtworkShare,
    working_scale,
)
from vivid_thimble.core.sources.cleaning import Cleaned
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.fonts import face_title, load_face
from vivid_thimble.core.sources.letter_grid import (
    AnswerBands,
    GridBands,
    LetterGrid,
    compose_bands,
    compose_grid,
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
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.sources.monogram import Monogram, compose_monogram
from vivid_thimble.core.sources.picture import Picture, PictureFilm
from vivid_thimble.core.sources.plain import Plain, compose_plain
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.remarks import Remark
from vivid_thimble.core.steps.step import Around, Other

Assets = Mapping[str, bytes]
ROUNDS = 8
AS_WIDE_MM = 1e-4
"""Joined words have the width that was asked for to within this."""


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


def placed_source(source: Source, assets: Assets, cache: Cache) -> tuple[Resolved, str]:
    """The source before placement, and its content key; raises ThimbleError."""
    if isinstance(source, Words):
        key = content_key("words", plain(source), letters_key(source) if letters_key(source) in assets else "")
        return cache.get(key, lambda: _words(source, assets)), key
    if isinstance(source, Copied):
        raise TypeError("a copy has no shape of its own: evaluate the element")
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


def _composed(source: Monogram | LetterGrid | AnswerBands | GridBands | Plain, assets: Assets) -> Composed:
    def shape(words: Words) -> ShapedWords:
        return _words(words, assets)

    if isinstance(source, Monogram):
        return compose_monogram(source, shape)
    if isinstance(source, LetterGrid):
        return compose_grid(source, shape)
    if isinstance(source, GridBands):
        return compose_bands(source)
    if isinstance(source, Plain):
        return compose_plain(source)
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


class ItemElements:
    """The elements of an item, each evaluated once; those that an element needs come before it."""

    def __init__(self, item: Item, assets: Assets, cache: Cache) -> None:
        self._item, self._assets, self._cache = item, assets, cache
        self._elements = {element.id: element for element in elements_of(item)}
        self._known: dict[str, ElementResult] = {}
        self._waiting: list[str] = []

    def result(self, element_id: str) -> ElementResult:
        """Of an element of the item; raises InputRefused when it is gone or needs itself."""
        if element_id not in self._elements:
            raise InputRefused("An element that this one needs is gone: choose another one, or remove the step.")
        if element_id in self._waiting:
            names = " and ".join(self._elements[one].name for one in self._waiting)
            raise InputRefused(f"{names} need each other: remove one of the two steps.")
        if element_id not in self._known:
            self._known[element_id] = self.evaluated(self._elements[element_id])
        return self._known[element_id]

    def evaluated(self, element: Element) -> ElementResult:
        """Of an element as it is given; faults of its source or steps are told in the result."""
        self._waiting.append(element.id)
        try:
            return self._evaluated(element)
        finally:
            self._waiting.pop()

    def _evaluated(self, element: Element) -> ElementResult:
        try:
            source, placed, key = self._placed(element)
        except ThimbleError as error:
            problem = Problem("source", error.message)
            return ElementResult(element, (), (), (problem,), (), (), (), content_key(plain(element), str(error)))
        letters, letters_key = placed.parts, key
        stepped = run_steps(element.steps, Stepped(letters, key), self._around(element), self._cache)
        parts, key = stepped.parts, stepped.key
        dx, dy = element.placement.dx, element.placement.dy
        move = repr((element.id, dx, dy))
        return ElementResult(
            element,
            self._cache.get(content_key("moved", letters_key, move), lambda: _moved(letters, element)),
            self._cache.get(content_key("moved", key, move), lambda: _moved(parts, element)),
            stepped.problems,
            _notes(element, source) if source is not None else (),
            tuple(outline.shifted(dx, dy) for outline in placed.opened),
            tuple(outline.shifted(dx, dy) for outline in placed.doubled),
            content_key(key, move),
            parts,
            key,
            placed.heights,
            tuple(one.placed(Affine.translation(dx, dy)) for one in placed.cleaned),
            placed.drawing_scale,
            tuple(remark.shifted(dx, dy) for remark in stepped.remarks),
            tuple(one.shifted(dx, dy) for one in stepped.shown),
            None if placed.baseline is None else placed.baseline + dy,
            None if stepped.kept_box is None else box_shifted(stepped.kept_box, dx, dy),
            _not_understood(source),
        )

    def _placed(self, element: Element) -> tuple[Resolved | None, _Placed, str]:
        """The source at its size in the item's middle, with its content key; raises ThimbleError."""
        item, cache = self._item, self._cache
        if isinstance(element.source, Copied):
            return self._copied(element, element.source)
        source, source_key = placed_source(element.source, self._assets, cache)
        # steps run where the element would lie in the item's middle: moving it costs them nothing
        home = replace(element, placement=replace(element.placement, dx=0.0, dy=0.0))
        key = content_key("placed", source_key, plain(home.placement), f"{item.width!r} {item.height!r}")
        if isinstance(source, Taken):
            key = content_key(key, str(source.film))
            return source, cache.get(key, lambda: _placed_drawing(source, home, item, cache)), key
        if isinstance(source, TakenPicture):
            key = content_key(key, str(source.film))
            return source, cache.get(key, lambda: _placed_picture(source, home, item, cache)), key
        if isinstance(source, TakenPortrait):
            return source, cache.get(key, lambda: _placed_portrait(source, home, item, cache)), key
        inked = cache.get(content_key("inked", source_key, element.name), lambda: _inked(source, element.name, cache))
        closing = _closing_step(home) if home.placement.width is not None else None
        if closing is not None:
            key = content_key(key, "closed up", plain(closing))
            return source, cache.get(key, lambda: _place_closed_up(inked, home, item, closing)), key
        return source, cache.get(key, lambda: _place(inked, home, item)), key

    def _copied(self, element: Element, source: Copied) -> tuple[None, _Placed, str]:
        if source.of not in self._elements:
            raise InputRefused(f"The element that {element.name} is a copy of is gone: remove the copy.")
        of = self.result(source.of)
        turn, middle = element.placement.turn_deg, (self._item.width / 2.0, self._item.height / 2.0)
        key = content_key("copied", of.home_key, repr(turn))
        return None, self._cache.get(key, lambda: _Placed(turned(of.home_parts, turn, middle), (), ())), key

    def _around(self, element: Element) -> Around:
        """What its steps may ask for; other elements lie as they do while this one is in the item's middle."""
        own, item = element.placement, self._item

        def other(element_id: str) -> Other:
            found = self.result(element_id)
            away = found.element.placement.dx - own.dx, found.element.placement.dy - own.dy
            return Other(content_key(found.home_key, repr(away)), lambda: merged(found.home_parts).shifted(*away))

        return Around(
            align=align_of(element), turn_deg=own.turn_deg, middle=(item.width / 2.0, item.height / 2.0), element=other
        )


def evaluate_element(item: Item, element: Element, assets: Assets, cache: Cache) -> ElementResult:
    """One element of an item, which may be another than the item holds."""
    return ItemElements(item, assets, cache).evaluated(element)


def _moved(parts: Parts, element: Element) -> Parts:
    """Parts at the element's place, with its id."""
    dx, dy = element.placement.dx, element.placement.dy
    return tuple(replaced(part.shifted(dx, dy), owner=element.id) for part in parts)


@dataclass(frozen=True, eq=False)
class _Placed:
    parts: Parts
    opened: tuple[OpenOutline, ...]
    doubled: tuple[DoubledOutline, ...]
    heights: LetterHeights = NO_HEIGHTS
    cleaned: tuple[Cleaned, ...] = ()
    drawing_scale: float | None = None
    baseline: float | None = None


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
        letters = [
            Part(letter.label, _letter_region(letter, cache), letter.word, connects=source.connects)
            for letter in source.letters
        ]
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
    parts = tuple(p.with_region(p.region.transformed(affine)) for p in inked.parts)
    lines = inked.lines.transformed(affine)
    heights = (inked.heights or NO_HEIGHTS).scaled(abs(affine.determinant) ** 0.5)
    words, baseline = element.source, None
    if isinstance(words, Words) and words.arc is None and not element.placement.turn_deg:
        baseline = float(affine.apply(np.zeros(2))[1])
    return _Placed(parts, tuple(open_outlines(lines)), tuple(doubled_outlines(lines)), heights, baseline=baseline)


def align_of(element: Element) -> Align:
    """What the lines of its words are aligned by."""
    return element.source.align if isinstance(element.source, Words) else "left"


def _closing_step(element: Element) -> Step | None:
    """The step that closes its letters up, if there is one."""
    closing = (step for step in element.steps if step.CLOSES_UP and step.enabled)
    return next(closing, None) if isinstance(element.source, Words) else None


def _place_closed_up(inked: _Inked, element: Element, item: Item, step: Step) -> _Placed:
    """As _place, so large that the letters have the placement's width once they are joined.

    Necks keep their size, so the width that they take is searched for, to AS_WIDE_MM.
    """
    wanted, place = element.placement.width or 0.0, element.placement
    width = best = wanted
    nearest = math.inf
    for _ in range(ROUNDS):
        level = replace(element, placement=replace(place, width=width, turn_deg=0.0))
        box = bounds_of(step.closed_up(_place(inked, level, item).parts, align_of(element)))
        has = 0.0 if box is None else box[2] - box[0]
        if has <= 0.0:
            break
        if abs(has - wanted) < nearest:
            nearest, best = abs(has - wanted), width
        if nearest < AS_WIDE_MM:
            break
        width *= wanted / has
    return _place(inked, replace(element, placement=replace(place, width=best)), item)


def _placed_drawing(source: Taken, home: Element, item: Item, cache: Cache) -> _Placed:
    """One film of a drawing at its final size, cleaned there, in the item's middle."""
    sized = sized_drawing(source.drawing, source.artwork, home.placement, cache)
    affine = placement_affine(home.placement, sized.frame, item)
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


def _not_understood(source: Resolved | None) -> tuple[tuple[str, int], ...]:
    if not isinstance(source, Taken) or source.film > 0:
        return ()
    return tuple(source.drawing.not_understood.items())


def _notes(element: Element, source: Resolved) -> tuple[Remark, ...]:
    notes: list[Remark] = []
    if isinstance(source, ShapedWords) and source.missing:
        text = 'The face has no shapes for "{letters}": they are left out.'
        notes.append(Remark("letters-missing", Message.of(text, letters=Said("".join(source.missing)))))
    if isinstance(element.source, Words | Monogram | LetterGrid) and not _face_is_here(element.source.face):
        text = "The font {title} is not on this machine: the letters stored with the job are used."
        notes.append(Remark("font-missing", Message.of(text, title=Said(face_title(element.source.face)))))
    return tuple(notes)


def _face_is_here(face: str) -> bool:
    try:
        load_face(face)
    except FontNotUsable:
        return False
    return True
