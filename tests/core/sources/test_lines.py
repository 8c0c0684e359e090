"""Lines of words: aligned, justified, spaced, bent round an arc; sized by their capitals."""

from __future__ import annotations

import math

import numpy as np
import pytest
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import FontNotUsable
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.sources.lettering import Words, letters_from_json, letters_to_json, shape_words
from vivid_thimble.core.sources.lines import Align, Arc, Glyph, Line, arranged

FACE = "bundled:League Spartan"
TWO_LINES = Words(text="QUILLFEN\nON THE POND", face=FACE)


def boxes_by_line(words: Words) -> dict[int, Box]:
    lines: dict[int, list[Path]] = {}
    for letter in shape_words(words).letters:
        lines.setdefault(letter.line, []).append(letter.path)
    return {line: Path.joined(paths).bounds for line, paths in lines.items()}


def middles(words: Words) -> list[tuple[float, float]]:
    boxes = [letter.path.bounds for letter in shape_words(words).letters]
    return [((a + c) / 2, (b + d) / 2) for a, b, c, d in boxes]


@pytest.mark.parametrize(("align", "side"), [("left", (1.0, 0.0)), ("right", (0.0, 1.0)), ("centre", (0.5, 0.5))])
def test_lines_share_the_edge_they_are_aligned_to(align: Align, side: tuple[float, float]) -> None:
    first, second = boxes_by_line(replace(TWO_LINES, align=align)).values()
    edges = [side[0] * box[0] + side[1] * box[2] for box in (first, second)]
    assert edges[0] == pytest.approx(edges[1], abs=0.06)  # side bearings differ from letter to letter
    assert second[1] - first[1] == pytest.approx(1.25, abs=0.03)


def test_a_justified_line_reaches_both_edges_and_the_last_one_stays() -> None:
    words = Words(text="A B\nWANDERING HERON\nA B", face=FACE, align="justified")
    first, widest, last = boxes_by_line(words).values()
    assert (first[0], first[2]) == pytest.approx((widest[0], widest[2]), abs=0.08)
    assert last[2] < first[2] / 2


def test_one_word_is_justified_between_its_letters() -> None:
    spread = Words(text="ABC\nWANDERING HERON\nX", face=FACE, align="justified")
    first, widest, _ = boxes_by_line(spread).values()
    assert first[2] - first[0] == pytest.approx(widest[2] - widest[0], abs=0.08)


def test_word_and_line_spacing_are_told_in_ems() -> None:
    plain = Words(text="ON THE POND", face=FACE)
    wide = replace(plain, word_spacing=0.3)
    assert middles(wide)[-1][0] - middles(plain)[-1][0] == pytest.approx(0.6)
    assert middles(wide)[1][0] == pytest.approx(middles(plain)[1][0])
    low = boxes_by_line(replace(TWO_LINES, line_spacing=2.0))
    assert low[1][1] - boxes_by_line(TWO_LINES)[1][1] == pytest.approx(0.75)


@pytest.mark.parametrize("valley", [False, True])
@pytest.mark.parametrize("angle", [40.0, 180.0, 330.0])
def test_the_feet_of_bent_letters_stand_on_one_circle(angle: float, valley: bool) -> None:
    glyphs = tuple(Glyph("x", 0, 1, (0.6 * k, 0.0), 0.6, False) for k in range(9))
    placed = arranged([Line(glyphs, 5.4)], "left", 1.25, Arc(angle_deg=angle, through_valley=valley))
    radius = 5.4 / math.radians(angle)
    centre = np.array([2.7, -radius if valley else radius])
    for glyph, place in placed:
        turn = math.radians(place.turn_deg)
        along = np.array([math.cos(turn), -math.sin(turn)]) * glyph.advance / 2
        assert np.hypot(*(np.array(place.at) + along - centre)) == pytest.approx(radius)
    turns = [place.turn_deg for _, place in placed]
    spread = angle * 8 / 9
    assert turns[0] == pytest.approx((-1 if valley else 1) * spread / 2)
    assert turns[4] == pytest.approx(0.0, abs=1e-9)


def test_bent_letters_keep_their_shape_and_the_middle_one_its_place() -> None:
    straight = shape_words(Words(text="HHHHH", face=FACE))
    bent = shape_words(Words(text="HHHHH", face=FACE, arc=Arc(angle_deg=150.0)))
    for a, b in zip(straight.letters, bent.letters, strict=True):
        chord = [
            np.hypot(*(one.path.contours[0].segments[0, 0] - one.path.contours[0].segments[3, 0])) for one in (a, b)
        ]
        assert chord[0] == pytest.approx(chord[1])
    assert bent.letters[2].path.bounds == pytest.approx(straight.letters[2].path.bounds, abs=1e-6)
    assert bent.letters[0].path.bounds[3] > straight.letters[0].path.bounds[3] + 0.3


def test_features_are_switched_and_nonsense_is_refused() -> None:
    kerned, plain = (Words(text="AVAVAV", face=FACE, features=f) for f in ((), ("-kern",)))
    assert boxes_by_line(plain)[0][2] > boxes_by_line(kerned)[0][2] + 0.05
    with pytest.raises(FontNotUsable, match="no font feature"):
        shape_words(replace(plain, features=("bold!",)))


def job_of(words: Words, **size: float) -> Job:
    element = Element(id="w", name="w", source=words, placement=Placement(**size))
    return with_layer(new_job(width=600, height=300), lambda layer: replace(layer, elements=(element,)))


@pytest.mark.parametrize("text", ["H", "Hg", "HERON\nHj"])
def test_words_are_sized_by_their_capitals_whatever_else_they_hold(text: str) -> None:
    words = Words(text=text, face=FACE)
    result = evaluate(job_of(words, capital=40.0), {}, Cache())
    first = result.layers[0].elements[0].letters[0].region.bounds
    assert first[3] - first[1] == pytest.approx(40.0, abs=0.01)


def test_a_face_without_capitals_cannot_be_sized_by_them() -> None:
    assert shape_words(Words(text="n", face=FACE)).heights.capital == pytest.approx(0.7, abs=0.1)
    drawing = job_of(Words(text="HERON", face="family:not here"), capital=40.0)
    assert evaluate(drawing, {}, Cache()).layers[0].problems


def test_stored_letters_keep_the_height_of_the_capitals() -> None:
    shaped = shape_words(TWO_LINES)
    again = letters_from_json(letters_to_json(shaped, FACE))
    assert again.heights == shaped.heights
    assert [one.label for one in again.letters] == [one.label for one in shaped.letters]
