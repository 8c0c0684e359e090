"""Words that mix directions and scripts, and other forms of single letters."""

from __future__ import annotations

import pytest

from tests.fonts import two_way_font
from vivid_thimble.core.sources.directions import runs_of
from vivid_thimble.core.sources.lettering import (
    Alternate,
    Words,
    forms_of,
    letters_from_json,
    letters_to_json,
    shape_words,
)

ALEF, BET, GIMEL = "\u05d0\u05d1\u05d2"


@pytest.fixture(scope="module")
def face(tmp_path_factory: pytest.TempPathFactory) -> str:
    path = tmp_path_factory.mktemp("fonts") / "two-way.ttf"
    two_way_font(path)
    return f"file:{path}"


def seen(text: str, face: str) -> str:
    """The letters from left to right."""
    letters = shape_words(Words(text=text, face=face)).letters
    return "".join(one.label for one in sorted(letters, key=lambda one: one.path.bounds[0]))  # type: ignore[index]


@pytest.mark.parametrize(
    ("typed", "left_to_right"),
    [
        ("abc", "abc"),
        (ALEF + BET + GIMEL, GIMEL + BET + ALEF),
        (f"ab {ALEF}{BET} c", f"ab{BET}{ALEF}c"),
        (f"{ALEF}{BET} ab {GIMEL}", f"{GIMEL}ab{BET}{ALEF}"),
        (f"{ALEF} ab\n{BET}c", None),
    ],
)
def test_each_direction_reads_its_own_way(typed: str, left_to_right: str | None, face: str) -> None:
    if left_to_right is not None:
        assert seen(typed, face) == left_to_right
    assert sorted(seen(typed, face)) == sorted(typed.replace(" ", "").replace("\n", ""))


def test_runs_part_at_directions_and_scripts() -> None:
    runs = runs_of(f"ab {ALEF}{BET} 12 Лo")
    assert (runs[0].script, runs[0].is_rtl) == ("Latn", False)
    assert {run.script for run in runs} >= {"Latn", "Hebr", "Cyrl"}
    assert min(run.start for run in runs) == 0
    covered = sorted(k for run in runs for k in range(run.start, run.stop))
    assert covered == list(range(len(f"ab {ALEF}{BET} 12 Лo")))


def test_one_letter_takes_another_form_and_its_twin_does_not(face: str) -> None:
    words = Words(text="ab\naa", face=face)
    assert [form.feature for form in forms_of(words, 3)] == ["", "ss01"]
    assert [form.feature for form in forms_of(words, 1)] == [""]
    picked = Words(text="ab\naa", face=face, alternates=(Alternate(at=3, letter="a", feature="ss01"),))
    heights = [one.path.bounds[3] - one.path.bounds[1] for one in shape_words(picked).letters]  # type: ignore[index]
    assert heights == pytest.approx([0.1, 0.2, 0.05, 0.1])
    moved = Words(text="abc", face=face, alternates=(Alternate(at=1, letter="a", feature="ss01"),))
    assert len(shape_words(moved).letters) == 3, "a form of a letter that is gone is left aside"


def test_heights_are_measured_and_stored(face: str) -> None:
    shaped = shape_words(Words(text=f"b{ALEF}", face=face))
    assert shaped.heights.tallest == pytest.approx(0.4)
    assert shaped.heights.tail == 0.0
    assert shaped.heights.strip == pytest.approx(0.3), "of the letters a to z that the face has"
    assert letters_from_json(letters_to_json(shaped, face)).heights == shaped.heights
