"""Weld, thicken and join."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from msgspec.structs import replace

from tests.letters import box_part, word
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.parts import Part, merged, overlapping_pairs
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.geometry.seams import close_seams
from vivid_thimble.core.holding.necks import neck_width
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.lettering import Words, letters_from_json, letters_to_json, shape_words
from vivid_thimble.core.steps import Join, Thicken, Weld
from vivid_thimble.core.steps.bridges import Bridges
from vivid_thimble.core.steps.holding import holding_of
from vivid_thimble.core.steps.join import Nudge, connects, joined, measured_pairs
from vivid_thimble.core.steps.step import Around


def test_a_weld_leaves_no_cut_through_an_overlap() -> None:
    parts = word("anne")
    assert overlapping_pairs(parts)
    welded = Weld(id="w").apply(parts)
    assert overlapping_pairs(welded) == []
    assert welded[0].label == "anne"
    assert welded[0].region.area == pytest.approx(shapely.union_all([p.region.polygons for p in parts]).area, abs=0.01)


def test_a_hairline_between_welded_shapes_is_closed_and_a_real_gap_is_not() -> None:
    left = box_part("a", 0, 0, 10, 10)
    hairline = close_seams(merged((left, box_part("b", 10.01, 0, 20, 10))))
    gap = close_seams(merged((left, box_part("b", 10.1, 0, 20, 10))))
    assert len(hairline.polygons.geoms) == 1
    assert hairline.area == pytest.approx(200, abs=0.01)
    assert len(gap.polygons.geoms) == 2


def test_thickening_grows_every_edge_and_thinning_to_nothing_is_refused() -> None:
    grown = Thicken(id="t", by=1.0).apply((box_part("a", 0, 0, 10, 2),))
    assert grown[0].region.bounds == pytest.approx((-1, -1, 11, 3), abs=0.02)
    with pytest.raises(InputRefused, match="leaves nothing"):
        Thicken(id="t", by=-1.5).apply((box_part("a", 0, 0, 10, 2),))


@pytest.mark.parametrize("neck", [0.4, 1.0, 1.7])
def test_the_neck_of_two_plates_joined_by_a_strip_is_its_width(neck: float) -> None:
    left = Region.from_polygons(shapely.union(shapely.box(0, 0, 5, 5), shapely.box(5, 2, 7, 2 + neck)))
    right = Region.from_polygons(shapely.union(shapely.box(8, 0, 13, 5), shapely.box(6, 2, 8, 2 + neck)))
    assert neck_width(left, right, 3.0) == pytest.approx(neck, abs=0.03)
    apart = Region.from_polygons(shapely.box(20, 0, 25, 5))
    assert neck_width(left, apart, 3.0) == 0.0


def test_joining_moves_each_pair_no_more_than_needed() -> None:
    parts = word("Heron")
    moved, moves = joined(parts, 1.0)
    pairs = measured_pairs(moved, moves, 1.0)
    assert [p.left + p.right for p in pairs] == ["He", "er", "ro", "on"]
    assert all(p.joined for p in pairs)
    assert moves[0] == 0.0
    short = [k for k in range(1, len(parts)) if moves[k] > 0]
    assert short, "the capital stands apart in this face"
    for k in short:
        back = moved[k].region.bounds[0] - moved[k - 1].region.bounds[0]
        assert back < parts[k].region.bounds[0] - parts[k - 1].region.bounds[0]
        assert neck_width(moved[k - 1].region, moved[k].region, 3.0) < 1.2


def test_words_keep_their_distance_and_unjoinable_letters_stay() -> None:
    parts = (box_part("a", 0, 0, 5, 10), box_part("b", 30, 0, 35, 10), box_part("c", 40, 0, 45, 10, word_number=1))
    moved = Join(id="j", neck=1.0).apply(parts)
    assert np.allclose([p.region.bounds for p in moved], [p.region.bounds for p in parts])


def test_letters_of_a_face_that_does_not_connect_stay_where_they_are() -> None:
    sans = word("Heron", "League Spartan")
    assert not connects(sans)
    assert Join(id="j", neck=1.0).apply(sans) is sans
    assert [pair.joined for pair in holding_of(sans, [Join(id="j", neck=1.0)]).pairs] == [False] * 4
    assert connects(word("Heron"))


@pytest.mark.parametrize(
    ("text", "face", "spacing", "joins"),
    [
        ("BOAT 8", "League Spartan", 0.0, False),
        ("HULL", "Courier Prime", 0.0, False),
        ("8", "Pacifico", 0.0, False),
        ("BOAT 8", "Pacifico", 0.0, True),
        ("otter", "Pacifico", 0.02, True),
    ],
)
def test_whether_letters_close_up_is_asked_of_the_face_not_of_the_words(
    text: str, face: str, spacing: float, joins: bool
) -> None:
    words = Words(text=text, face=f"bundled:{face}", spacing=spacing)
    job = with_layer(
        new_job("Boat", 400.0, 200.0),
        lambda layer: replace(
            layer,
            elements=(
                Element(id="w", name=text, source=words, placement=Placement(height=80.0), steps=(Join(id="j"),)),
            ),
        ),
    )
    element = evaluate(job, {}, Cache()).layers[0].elements[0]
    moved = [
        abs(part.region.bounds[0] - letter.region.bounds[0])
        for part, letter in zip(element.parts, element.letters, strict=True)
    ]
    assert (max(moved) > 0.05) == joins
    kept = letters_from_json(letters_to_json(shape_words(words), words.face))
    assert kept.connects == (face == "Pacifico"), "a job keeps it for where the face is missing"


def test_a_pair_tells_where_it_meets_or_the_middle_between() -> None:
    parts = (box_part("a", 0, 0, 5, 10), box_part("b", 4, 2, 9, 6), box_part("c", 11, 0, 15, 10))
    meeting, apart = measured_pairs(parts, (0.0, 0.0, 0.0), 1.0)
    assert meeting.at == pytest.approx((4.5, 4.0))
    assert apart.at[0] == pytest.approx(10.0)
    assert meeting.is_wider
    assert (apart.neck, apart.joined) == (0.0, False)


def test_letters_that_share_an_edge_hold_by_its_length() -> None:
    left, right = Region.from_polygons(shapely.box(0, 0, 5, 10)), Region.from_polygons(shapely.box(5, 4, 10, 5.5))
    assert neck_width(left, right, 3.0) == pytest.approx(1.5, abs=0.02)
    point = Region.from_polygons(shapely.box(5, 10, 9, 14))
    assert neck_width(left, point, 3.0) == 0.0


def test_nudges_move_a_letter_and_what_follows_and_outlive_other_words() -> None:
    step = Join(id="j", neck=1.0, nudges=(Nudge(letter=2, label="r", by=3.0),))
    plain, moved = Join(id="j", neck=1.0).apply(word("Heron")), step.apply(word("Heron"))
    shifts = [b.region.bounds[0] - a.region.bounds[0] for a, b in zip(plain, moved, strict=True)]
    assert shifts == pytest.approx([0.0, 0.0, 3.0, 3.0, 3.0])
    by_hand = {pair.letter: pair.nudged for pair in holding_of(word("Heron"), [step]).pairs}
    assert by_hand == {1: 0.0, 2: 3.0, 3: 0.0, 4: 0.0}
    kept, changed = Join(id="j", neck=1.0).apply(word("Herald")), step.apply(word("Herald"))
    assert changed[-1].region.bounds[0] - kept[-1].region.bounds[0] == pytest.approx(3.0)
    other = word("Supper")
    assert [p.region.bounds for p in step.apply(other)] == [p.region.bounds for p in Join(id="j").apply(other)]
    assert [p.region.bounds for p in step.apply(word("He"))] == [
        p.region.bounds for p in Join(id="j").apply(word("He"))
    ]


def test_steps_that_leave_nothing_of_several_parts_leave_nothing_together() -> None:
    """Bridges wider than their openings."""
    lost = (Part("a", Region()), Part("b", Region()))
    assert merged(lost).is_empty
    assert merged((*lost, box_part("c", 0, 0, 2, 2))).area == pytest.approx(4.0)
    frames = tuple(
        Part(
            str(x), difference(box_part("a", x, 0, x + 4, 4).region, [box_part("b", x + 0.4, 0.4, x + 3.6, 3.6).region])
        )
        for x in (0, 10)
    )
    step = Bridges(id="b", width=9.0)
    outcome = step.run(frames, Around())
    assert len(outcome.parts) == 2
    assert "opening-swallowed" in [one.code for one in outcome.remarks]
