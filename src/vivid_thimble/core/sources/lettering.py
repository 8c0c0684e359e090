"""Words in a font to letter outlines, shaped by HarfBuzz.

The result is in em units (1 = the font's em), y down, first baseline at y = 0. Letters
stay separate parts, named by the characters they stand for, so that they can be joined,
welded and reported one by one. Glyph outlines are always filled non-zero: letters may
overlap themselves or wind the other way.
"""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, fields, replace
from functools import lru_cache
from typing import Any, ClassVar

import shapely
import uharfbuzz as hb
from msgspec import Struct
from msgspec.structs import replace as replace_struct

from vivid_thimble.core.errors import FontNotUsable, NothingToDraw
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_pen import PathPen
from vivid_thimble.core.geometry.path_text import read_path_data, write_path_data
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.ranges import AxisValue, Factor, Near, Number
from vivid_thimble.core.sources.directions import Run, runs_of
from vivid_thimble.core.sources.fonts import Face, face_title, load_face, with_axes
from vivid_thimble.core.sources.lines import Align, Arc, Glyph, Line, Place, arranged
from vivid_thimble.core.sources.source import InOneFace

ALPHABET = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz"
LINE_ENDS = "\r\n\v\f\x1c\x1d\x1e\x85\u2028\u2029"
PICKABLE = ("salt", "swsh", "cswh", "titl", "hist", "calt", "init", "medi", "fina", "isol", "aalt")
"""Features that people pick for a letter, beside the numbered sets and variants."""
PROBE = "the lazy dog jumps quickly over hidden bronze waxing vessel"
"""Every letter of the alphabet, most of them in several company."""
PROBE_EM_MM = 100.0
CONNECTED_SHARE = 0.35
"""A face connects when more than this share of the probe's neighbours touch: of 20 faces that were tried those that
connect had 0.65 to 1.0, all others at most 0.05."""
MOST_FORMS = 6
MOST_CONTOURS, MOST_GLYPH_SEGMENTS = 1_500, 20_000
"""More than any letter has, even in a rough face; a thousand outlines on top of each other take seconds."""
EM_PLACES = 8
"""Decimals of stored outlines: a hundred-millionth of an em is far below the cut tolerance."""


class Alternate(Struct, frozen=True, kw_only=True):
    """Another form of one letter: the font feature that brings it, for the character with this number.

    Characters are counted from 0 through the whole text; it applies as long as that is still the same letter.
    """

    at: Number
    letter: str
    feature: str


class Words(InOneFace, Struct, frozen=True, tag="words", kw_only=True):
    """Typed words in one face. ``spacing`` and ``word_spacing`` are extra distance between letters
    and words, ``line_spacing`` the distance of baselines, in ems."""

    WORD: ClassVar[str] = "words"
    SETS_WORDS: ClassVar[bool] = True
    text: str
    face: str
    spacing: Near = 0.0
    word_spacing: Near = 0.0
    line_spacing: Factor = 1.25
    align: Align = "left"
    features: tuple[str, ...] = ()
    """OpenType features to switch: ``ss01`` on, ``-liga`` off, ``salt=2`` the second alternate."""
    axes: tuple[tuple[str, AxisValue], ...] = ()
    """Settings of a variable face, such as ("wght", 650)."""
    arc: Arc | None = None
    alternates: tuple[Alternate, ...] = ()

    @property
    def aligned(self) -> Align:
        return self.align

    @property
    def has_baseline(self) -> bool:
        return self.arc is None

    @property
    def lettering(self) -> list[Words]:
        return [self]


@dataclass(frozen=True, eq=False)
class LetterOutline:
    """One drawn cluster of a word; spaces and the like have no outline and are left out."""

    label: str
    line: int
    word: int
    """Counted through all lines; letters of one word may be joined."""
    path: Path
    glyph: str = ""
    """Tells outlines apart that are the same but for their place; empty when it is not known."""
    at: tuple[float, float] = (0.0, 0.0)
    """Where the glyph's origin lies."""
    from_origin: Path | None = None
    """The outline with the glyph's origin at 0, 0: the very same numbers for all equal glyphs."""


@dataclass(frozen=True)
class LetterHeights:
    """Heights over the baseline in one unit (ems or mm); None where the face has no such letters.

    ``small`` is the x-height, ``tallest`` and ``tail`` belong to the words (a tail is below the
    baseline and positive), ``strip`` leads from the tallest letter of the face to its deepest tail.
    """

    capital: float | None = None
    small: float | None = None
    tallest: float | None = None
    tail: float | None = None
    strip: float | None = None

    def scaled(self, factor: float) -> LetterHeights:
        values = {field.name: getattr(self, field.name) for field in fields(self)}
        return LetterHeights(**{name: None if v is None else v * factor for name, v in values.items()})


NO_HEIGHTS = LetterHeights()


@dataclass(frozen=True, eq=False)
class ShapedWords:
    """Letters in reading order, and the characters that the face does not have."""

    letters: tuple[LetterOutline, ...]
    missing: tuple[str, ...] = ()
    heights: LetterHeights = NO_HEIGHTS
    """In ems."""
    connects: bool | None = None
    """Whether the face connects letters by itself; None where it cannot be asked."""


Shaper = Callable[["Words"], ShapedWords]


def shape_words(words: Words) -> ShapedWords:
    """Typeset outlines; raises NothingToDraw for empty words and FontNotUsable otherwise."""
    if not words.text.strip():
        raise NothingToDraw("There are no words yet: type some.")
    face = with_axes(load_face(words.face), words.axes)
    missing: dict[str, None] = {}
    lines: list[Line] = []
    first_word = 0
    for begun, text in _lines(words.text):
        line = _shape_line(face, text, first_word, words, missing, begun)
        first_word = max((glyph.word for glyph in line.glyphs), default=first_word - 1) + 1
        lines.append(line)
    placed = arranged(lines, words.align, words.line_spacing, words.arc)
    letters = tuple(one for glyph, place in placed if (one := _outline(face, glyph, place)) is not None)
    if not letters:
        lacking = "".join(missing) or words.text.strip()
        raise FontNotUsable(f'{face.name} has no shapes for "{lacking}": choose another face or other words.')
    heights = _heights(face, {glyph.number for glyph, _ in placed})
    return ShapedWords(letters, tuple(missing), heights, _connects(face, words.text))


def _connects(face: Face, text: str) -> bool | None:
    """Whether a face connects these words; None for scripts without capitals, which the probe does not ask for."""
    return None if any(one.isalpha() and one.lower() == one.upper() for one in text) else face_connects(face)


@lru_cache(maxsize=256)
def face_connects(face: Face) -> bool:
    """Whether a face connects its lower-case letters by itself, whatever words are set in it.

    Outlines that cross touch: no need to know what they enclose, which takes four times as long.
    """
    glyphs = _shape_line(face, PROBE, 0, Words(text=PROBE, face=""), {}).glyphs
    letters = [one for glyph in glyphs if (one := _outline(face, glyph, Place(0, glyph.at))) is not None]
    large = Affine.scaling(PROBE_EM_MM)
    outlines = [flatten(one.path.transformed(large), FLATTEN_MM).rings() for one in letters]
    shapes = [
        (one.word, shapely.multilinestrings([shapely.linearrings(ring) for ring in rings if len(ring) > 2]))
        for one, rings in zip(letters, outlines, strict=True)
    ]
    touching = [
        bool(shapely.intersects(left, right))
        for (word, left), (other, right) in itertools.pairwise(shapes)
        if word == other
    ]
    return sum(touching) > CONNECTED_SHARE * len(touching)


def _shape_line(face: Face, text: str, first_word: int, words: Words, missing: dict[str, None], begun: int = 0) -> Line:
    """One line from 0, 0 on: HarfBuzz places the glyphs, the spacings are added between clusters.

    ``begun`` is the number of the line's first character in the whole text.
    """
    scale = 1.0 / face.units_per_em
    pen, glyphs = 0.0, []
    previous = -1
    for run in runs_of(text):
        infos, positions = _shaped(face, text, run, _features(words, text, begun))
        clusters = [*sorted({info.cluster for info in infos}), run.stop]
        until = dict(zip(clusters[:-1], clusters[1:], strict=True))
        for info, position in zip(infos, positions, strict=True):
            if info.cluster != previous:
                pen += words.spacing if previous >= 0 else 0.0
                previous = info.cluster
            label = text[info.cluster : until[info.cluster]]
            advance = position.x_advance * scale
            if info.codepoint == 0 and label.strip():
                missing.update(dict.fromkeys(label.strip()))
            elif info.codepoint != 0:
                word = first_word + _words_begun(text, info.cluster)
                at = (pen + position.x_offset * scale, -position.y_offset * scale)
                glyphs.append(Glyph(label.strip() or label, word, info.codepoint, at, advance, not label.strip()))
            if not label.strip():
                pen += words.word_spacing
            pen += advance
    return Line(tuple(glyphs), pen)


_Features = dict[str, list[tuple[int, int, int]]]


def _shaped(face: Face, text: str, run: Run, features: _Features) -> tuple[Sequence[Any], Sequence[Any]]:
    """Glyphs and positions of one run, from left to right; clusters count from the line's start."""
    buffer = hb.Buffer()
    buffer.add_str(text, run.start, run.stop - run.start)
    buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_CHARACTERS
    buffer.direction = "rtl" if run.is_rtl else "ltr"
    if run.script:
        buffer.script = run.script
    buffer.guess_segment_properties()
    hb.shape(face.font, buffer, features)
    return buffer.glyph_infos, buffer.glyph_positions


def _features(words: Words, text: str, begun: int) -> _Features:
    """Font features with the characters of a line that they are switched for."""
    features: _Features = {}
    for feature in words.features:
        tag, value = feature_value(feature)
        features.setdefault(tag, []).append((0, len(text), value))
    for one in words.alternates:
        at = one.at - begun
        if 0 <= at < len(text) and text[at] == one.letter:
            tag, value = feature_value(one.feature)
            features.setdefault(tag, []).append((at, at + 1, value))
    return features


@dataclass(frozen=True, eq=False)
class Form:
    """One form that a face has for a letter: the feature that brings it (empty for the usual one) and how it looks."""

    feature: str
    outline: Path


def forms_of(words: Words, at: int) -> tuple[Form, ...]:
    """The different forms of one character of the words, the usual one first; raises FontNotUsable.

    Only features that are meant to be picked are tried, each by the glyphs that it really brings.
    """
    face = with_axes(load_face(words.face), words.axes)
    begun, line = next((one for one in _lines(words.text) if one[0] <= at < one[0] + len(one[1])), (0, ""))
    if not line:
        return ()
    plain = replace_struct(words, alternates=tuple(one for one in words.alternates if one.at != at))
    found: dict[tuple[int, ...], Form] = {}
    for feature in ("", *_pickable(face)):
        picked = Alternate(at=at, letter=words.text[at], feature=feature)
        trial = replace_struct(plain, alternates=(*plain.alternates, picked)) if feature else plain
        glyphs = _glyphs_at(face, line, at - begun, _features(trial, line, begun))
        if glyphs and glyphs not in found:
            outline = Path.joined(glyph_path(face, glyph) for glyph in glyphs)
            upright = Affine(1.0 / face.units_per_em, 0.0, 0.0, -1.0 / face.units_per_em, 0.0, 0.0)
            found[glyphs] = Form(feature, outline.transformed(upright))
    return tuple(found.values())


def _lines(text: str) -> list[tuple[int, str]]:
    """Every line with the number of its first character."""
    begun, lines = 0, []
    for whole in text.splitlines(keepends=True):
        lines.append((begun, whole.rstrip(LINE_ENDS)))
        begun += len(whole)
    return lines


def _glyphs_at(face: Face, line: str, at: int, features: _Features) -> tuple[int, ...]:
    """The glyphs of the cluster that a character belongs to."""
    run = next(run for run in runs_of(line) if run.start <= at < run.stop)
    infos, _ = _shaped(face, line, run, features)
    cluster = max((info.cluster for info in infos if info.cluster <= at), default=-1)
    return tuple(info.codepoint for info in infos if info.cluster == cluster)


def _pickable(face: Face) -> list[str]:
    """Features of a face that bring other forms of a letter; numbered ones with each number."""
    faces = face.font.face
    tags = {
        tag
        for script, name in enumerate(faces.get_table_script_tags("GSUB"))
        for language in (None, *range(len(faces.get_script_language_tags("GSUB", script))))
        for tag in faces.get_language_feature_tags("GSUB", script, *([] if language is None else [language]))
    }
    sets = [tag for tag in sorted(tags) if tag.startswith(("ss", "cv"))]
    others = [f"{tag}={k}" for tag in PICKABLE if tag in tags for k in range(1, MOST_FORMS)]
    return [*sets, *(f"{tag}={k}" for tag in sets if tag.startswith("cv") for k in range(2, MOST_FORMS)), *others]


def _outline(face: Face, glyph: Glyph, place: Place) -> LetterOutline | None:
    """The drawn glyph at its place; None for spaces and the like."""
    scale = 1.0 / face.units_per_em
    upright = Affine(scale, 0.0, 0.0, -scale, 0.0, 0.0)
    if place.turn_deg:
        path = glyph_path(face, glyph.number).transformed(
            upright.then(Affine.turning(place.turn_deg)).then(Affine.translation(*place.at))
        )
        key, origin = "", None
    else:
        origin = glyph_path(face, glyph.number).transformed(upright)
        path = origin.transformed(Affine.translation(*place.at))
        key = f"{face.content_key} {glyph.number}"
    if path.is_empty:
        return None
    return LetterOutline(glyph.label, place.line, glyph.word, path, key, place.at, origin)


def feature_value(feature: str) -> tuple[str, int]:
    """``ss01``, ``-liga`` and ``salt=2`` as HarfBuzz takes them; raises FontNotUsable for anything else."""
    match = re.fullmatch(r"([+-]?)([A-Za-z0-9]{4})(?:=(\d{1,3}))?", feature.strip())
    if match is None:
        raise FontNotUsable(f'"{feature}" is no font feature: features are four letters or digits, such as ss01.')
    sign, tag, value = match.groups()
    return tag, 0 if sign == "-" else int(value) if value else 1


def _words_begun(text: str, at: int) -> int:
    """How many words end before the character at ``at``."""
    return sum(1 for k in range(1, at + 1) if text[k].isspace() and not text[k - 1].isspace())


def line_outline(face: Face, text: str, spacing: float = 0.0) -> tuple[Path, float]:
    """One line of text from the origin along its baseline, and its advance; all in ems, y down.

    ``spacing`` is added after each letter but the last. Characters without a shape are left out.
    """
    line = _shape_line(face, text, 0, Words(text=text, face="", spacing=spacing), {})
    scale = 1.0 / face.units_per_em
    upright = Affine(scale, 0.0, 0.0, -scale, 0.0, 0.0)
    outlines = (
        glyph_path(face, one.number).transformed(upright.then(Affine.translation(*one.at))) for one in line.glyphs
    )
    return Path.joined(outlines), line.width


@lru_cache(maxsize=2000)
def glyph_path(face: Face, glyph: int) -> Path:
    """A glyph's outline in font units, y up; raises FontNotUsable for one that no letter is like."""
    pen = PathPen(closes=True)
    face.font.draw_glyph(glyph, _draw_functions(), pen)
    pen.finish()
    contours = pen.path.contours
    if len(contours) > MOST_CONTOURS or sum(len(one) for one in contours) > MOST_GLYPH_SEGMENTS:
        raise FontNotUsable(f"{face.name} draws a letter of far too many outlines: choose another face.")
    return pen.path


@lru_cache(maxsize=200)
def _face_heights(face: Face) -> LetterHeights:
    """Capitals, small letters and the strip that all letters of the alphabet need, in ems, as drawn."""
    glyphs = {letter: face.font.get_nominal_glyph(ord(letter)) for letter in ALPHABET}
    reaches = {letter: reach for letter, glyph in glyphs.items() if glyph and (reach := _reach(face, glyph))}

    def height(plain_letters: str) -> float | None:
        return next((reaches[one][0] for one in plain_letters if one in reaches and reaches[one][0] > 0.0), None)

    strip = max(top for top, _ in reaches.values()) + max(tail for _, tail in reaches.values()) if reaches else None
    return LetterHeights(height("HXIE"), height("xzvu"), strip=strip)


def _reach(face: Face, glyph: int) -> tuple[float, float] | None:
    """How far a glyph reaches above and below the baseline, in ems; None when it draws nothing."""
    extents = face.font.get_glyph_extents(glyph)
    if extents is None or not extents.height:
        return None
    top, bottom = extents.y_bearing, extents.y_bearing + extents.height
    return top / face.units_per_em, -bottom / face.units_per_em


def _heights(face: Face, glyphs: set[int]) -> LetterHeights:
    """The face's heights, with the tallest and the deepest of the glyphs in use."""
    reaches = [reach for glyph in glyphs if (reach := _reach(face, glyph)) is not None]
    tallest, tail = (max((reach[k] for reach in reaches), default=0.0) for k in (0, 1))
    return replace(_face_heights(face), tallest=tallest, tail=max(tail, 0.0))


def _draw_functions() -> hb.DrawFuncs:
    """HarfBuzz draws with a PathPen that closes every contour."""
    functions = hb.DrawFuncs()
    functions.set_move_to_func(lambda x, y, pen: pen.move(x, y))
    functions.set_line_to_func(lambda x, y, pen: pen.line(x, y))
    functions.set_quadratic_to_func(lambda cx, cy, x, y, pen: pen.quad(cx, cy, x, y))
    functions.set_cubic_to_func(lambda ax, ay, bx, by, x, y, pen: pen.cubic(ax, ay, bx, by, x, y))
    functions.set_close_path_func(lambda pen: pen.finish())
    return functions


def letters_to_json(shaped: ShapedWords, face: str) -> bytes:
    """Outlines as they are kept in a project, so that it opens without the font."""
    letters = [
        {"label": one.label, "line": one.line, "word": one.word, "d": write_path_data(one.path, EM_PLACES)}
        for one in shaped.letters
    ]
    content = {
        "face": face_title(face),
        "missing": list(shaped.missing),
        "letters": letters,
        "heights": asdict(shaped.heights),
        "connects": shaped.connects,
    }
    return json.dumps(content, ensure_ascii=False, separators=(",", ":")).encode()


def letters_from_json(data: bytes) -> ShapedWords:
    """The reverse of letters_to_json; raises ValueError or KeyError on damaged content."""
    content = json.loads(data)
    letters = tuple(
        LetterOutline(one["label"], one["line"], one["word"], read_path_data(one["d"])[0]) for one in content["letters"]
    )
    heights = content.get("heights") or {"capital": content.get("capital_height")}
    return ShapedWords(letters, tuple(content["missing"]), LetterHeights(**heights), content.get("connects"))
