"""Typed words as letters at the final size."""

from __future__ import annotations

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.evaluate.placing import WORKING_EM_MM
from vivid_thimble.core.evaluate.sources.inked import Inked, face_notes, inked, shaped, sized
from vivid_thimble.core.evaluate.sources.sourced import Given, Sourced
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import Element, letters_key, plain
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.sources.lettering import LetterOutline, ShapedWords, Words
from vivid_thimble.core.steps.remarks import Remark


def words(source: Words, home: Element, given: Given) -> Sourced:
    """Overlaps within letters are resolved once for all sizes."""
    cache, stored = given.cache, letters_key(source)
    key = content_key("words", plain(source), stored if stored in given.assets else "")
    letters = cache.get(key, lambda: shaped(source, given.assets))
    placed, placed_key = sized(key, lambda: _inked(letters, home.name, cache), home, given)
    notes: tuple[Remark, ...] = ()
    if letters.missing:
        text = 'The face has no shapes for "{letters}": they are left out.'
        notes = (Remark("letters-missing", Message.of(text, letters=Said("".join(letters.missing)))),)
    return Sourced(placed, placed_key, (*notes, *face_notes(source.face)))


def _inked(source: ShapedWords, name: str, cache: Cache) -> Inked:
    letters = (
        Part(letter.label, _region(letter, cache), letter.word, connects=source.connects) for letter in source.letters
    )
    parts = tuple(part for part in letters if not part.region.is_empty)
    return inked(parts, name, heights=source.heights.scaled(WORKING_EM_MM))


def _region(letter: LetterOutline, cache: Cache) -> Region:
    """A letter at the working em; equal glyphs are resolved once."""
    scale = Affine.scaling(WORKING_EM_MM)
    origin = letter.from_origin
    if not letter.glyph or origin is None:
        return Region.from_path(letter.path.transformed(scale))
    glyph = cache.get(content_key("glyph", letter.glyph), lambda: Region.from_path(origin.transformed(scale)))
    return glyph.shifted(letter.at[0] * WORKING_EM_MM, letter.at[1] * WORKING_EM_MM)
