"""Tie on: pairs apart, dots, bars; what is loose and what crosses is told."""

from __future__ import annotations

import pytest
import shapely

from tests.letters import box_part, word
from vivid_thimble.core.geometry.parts import Part, merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.holding.necks import holds
from vivid_thimble.core.steps import Join, Tie, Weld
from vivid_thimble.core.steps.holding import holding_of
from vivid_thimble.core.steps.tie import Knot, crossings, loose_marks


def dotted(x: float, number: int = 0) -> Part:
    """An i: a stem and a round dot over it."""
    shape = shapely.union_all([shapely.box(x, 10, x + 4, 40), shapely.Point(x + 2, 4).buffer(2.5)])
    return Part("i", Region.from_polygons(shape), number)


@pytest.mark.parametrize("width", [0.6, 1.0, 2.0])
def test_plates_apart_are_held_by_a_strip_of_that_width_and_nothing_else_changes(width: float) -> None:
    parts = (box_part("l", 0, 0, 5, 30), box_part("t", 9, 10, 14, 30))
    tied = Tie(id="t", width=width, knots=(Knot(letter=1, label="t"),)).apply(parts)
    assert holds(tied[0].region.polygons, tied[1].region.polygons, 0.99 * width)
    added = shapely.difference(tied[1].region.polygons, merged(parts).polygons)
    assert added.area == pytest.approx(4.0 * width, abs=0.02)


def test_dots_are_told_and_tied() -> None:
    parts = (dotted(0.0), box_part("l", 20, 0, 24, 40))
    marks = loose_marks(parts)
    assert [(m.label, m.what, m.letter) for m in marks] == [("i", "dot", 0)]
    assert marks[0].at == pytest.approx((2.0, 4.0), abs=0.01)
    tied = Tie(id="t", width=1.0, knots=(Knot(letter=0, label="i", hold="piece"),)).apply(parts)
    assert len(tied[0].region.polygons.geoms) == 1
    assert loose_marks(tied) == []
    worn = shapely.buffer(tied[0].region.polygons, -0.49)
    assert len(shapely.get_parts(worn)) == 1


def test_a_bar_that_rests_on_the_next_letter_is_not_loose() -> None:
    bar = shapely.union_all([shapely.box(0, 0, 4, 40), shapely.box(6, 10, 16, 12)])
    alone = Part("t", Region.from_polygons(bar), 0)
    assert [m.what for m in loose_marks((alone,))] == ["bar"]
    assert loose_marks((alone, box_part("l", 15, 0, 19, 40))) == []


def test_swashes_that_run_into_other_letters_are_told() -> None:
    swash = Part(
        "y", Region.from_polygons(shapely.union_all([shapely.box(0, 0, 4, 40), shapely.box(0, 38, 40, 42)])), 0
    )
    parts = (
        swash,
        box_part("o", 8, 0, 14, 30),
        box_part("p", 20, 0, 26, 45),
        box_part("H", 32, 40, 36, 60, word_number=1),
    )
    told = [(c.labels, c.other_line) for c in crossings(parts)]
    assert told == [(("y", "p"), False), (("y", "H"), True)]


def test_knots_of_letters_that_are_gone_are_left_aside() -> None:
    parts = (box_part("a", 0, 0, 5, 5), box_part("b", 9, 0, 14, 5))
    step = Tie(id="t", knots=(Knot(letter=1, label="x"), Knot(letter=7, label="b"), Knot(letter=0, label="a")))
    assert step.apply(parts) == parts


def test_a_word_with_an_unjoinable_pair_and_dots_becomes_one_piece() -> None:
    letters = word("Twig in")
    join = Join(id="j", neck=1.0)
    before = holding_of(letters, [join])
    assert before is not None
    assert {m.what for m in before.marks} == {"dot"}
    knots = [Knot(letter=p.letter, label=p.right) for p in before.pairs if not p.joined]
    knots += [Knot(letter=m.letter, label=m.label, hold="piece") for m in before.marks]
    tie = Tie(id="t", width=1.0, knots=tuple(knots))
    after = holding_of(letters, [join, tie])
    assert after is not None
    assert after.marks == ()
    assert all(pair.joined for pair in after.pairs)
    welded = Weld(id="w").apply(tie.apply(join.apply(letters)))[0].region
    assert len(welded.polygons.geoms) == 2, "a piece a word"
