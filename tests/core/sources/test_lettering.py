"""Words in bundled and loose faces."""

from __future__ import annotations

from pathlib import Path as FilePath

import numpy as np
import pytest
import shapely

from tests.letters import FONTS, word
from vivid_thimble.core.errors import FontNotUsable, NothingToDraw
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.sources.fonts import BUNDLED, find_reference, load_face
from vivid_thimble.core.sources.lettering import Words, letters_from_json, letters_to_json, shape_words


def test_the_connected_script_hangs_together_and_the_sans_does_not() -> None:
    assert len(merged(word("anne")).polygons.geoms) == 1
    assert len(merged(word("anne", "League Spartan")).polygons.geoms) == 4


def test_the_stencil_face_has_breaks_instead_of_counters() -> None:
    holes = {name: sum(len(p.interiors) for p in merged(word("OABD", name)).polygons.geoms) for name in BUNDLED}
    assert holes["Stardos Stencil"] == 0
    assert holes["League Spartan"] == 5


def test_letters_keep_their_names_lines_and_words() -> None:
    shaped = shape_words(Words(text="Moth & Ember\nby night", face="bundled:Courier Prime"))
    assert "".join(letter.label for letter in shaped.letters) == "Moth&Emberbynight"
    assert [letter.word for letter in shaped.letters] == [0] * 4 + [1] + [2] * 5 + [3] * 2 + [4] * 5
    assert {letter.line for letter in shaped.letters} == {0, 1}


def test_spacing_moves_every_letter_by_the_same_step() -> None:
    plain, spaced = word("heron", "League Spartan"), word("heron", "League Spartan", spacing=0.1)
    shifts = [b.region.bounds[0] - a.region.bounds[0] for a, b in zip(plain, spaced, strict=True)]
    assert np.allclose(np.diff(shifts), 10.0, atol=1e-6)


def test_letters_that_overlap_themselves_are_filled() -> None:
    """Script capitals cross their own strokes: non-zero keeps the crossing film."""
    for part in word("Wandering"):
        raw = shapely.union_all([shapely.make_valid(shapely.Polygon(p.exterior)) for p in part.region.polygons.geoms])
        assert part.region.area <= raw.area + 1e-6
        assert part.region.polygons.is_valid


def test_stored_letters_are_the_same_letters() -> None:
    words = Words(text="Second Supper", face="bundled:Pacifico")
    shaped = shape_words(words)
    again = letters_from_json(letters_to_json(shaped, words.face))
    for before, after in zip(shaped.letters, again.letters, strict=True):
        assert (before.label, before.word) == (after.label, after.word)
        for a, b in zip(before.path.contours, after.path.contours, strict=True):
            assert np.allclose(a.segments, b.segments, atol=1e-7)
            assert np.array_equal(a.is_line, b.is_line)


def test_missing_characters_are_named_and_the_rest_is_set() -> None:
    shaped = shape_words(Words(text="a漢b", face="bundled:Pacifico"))
    assert shaped.missing == ("漢",)
    assert [letter.label for letter in shaped.letters] == ["a", "b"]


def test_words_without_any_shape_are_refused() -> None:
    with pytest.raises(FontNotUsable, match="漢字"):
        shape_words(Words(text="漢字", face="bundled:Pacifico"))
    with pytest.raises(NothingToDraw):
        shape_words(Words(text="  \n ", face="bundled:Pacifico"))


def test_a_loose_font_file_serves_like_the_bundled_one(tmp_path: FilePath) -> None:
    loose = tmp_path / "script.woff2"
    loose.write_bytes((FONTS / BUNDLED["Stardos Stencil"]).read_bytes())
    reference = find_reference(str(loose))
    assert reference == f"file:{loose}"
    letters = shape_words(Words(text="ab", face=reference)).letters
    assert np.allclose(
        letters[0].path.bounds, shape_words(Words(text="ab", face="bundled:Stardos Stencil")).letters[0].path.bounds
    )


@pytest.mark.parametrize("content", [b"", b"hello", b"OTTO", b"wOF2" + b"\0" * 60, b"\x00\x01\x00\x00" + b"\xff" * 200])
def test_a_file_that_is_no_font_is_refused_by_name(tmp_path: FilePath, content: bytes) -> None:
    broken = tmp_path / "broken.ttf"
    broken.write_bytes(content)
    with pytest.raises(FontNotUsable, match="broken"):
        load_face(f"file:{broken}")


@pytest.mark.parametrize("reference", ["file:/nowhere/x.ttf", "family:No Such Family", "bundled:Nothing", "strange"])
def test_a_font_that_is_not_there_is_refused(reference: str) -> None:
    with pytest.raises(FontNotUsable, match=r"\.$"):
        load_face(reference)
