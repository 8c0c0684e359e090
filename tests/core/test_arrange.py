"""Lining up, spreading, sizing and rows; what a moved box snaps to and the room round it."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, pennant_job
from vivid_thimble.core.edits.arrange import (
    aligned,
    boxes_of,
    in_rows,
    moved,
    resized,
    rooms,
    same_size,
    snapped,
    spread_evenly,
    stretched,
)
from vivid_thimble.core.edits.linked import with_copies
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.sources.plain import Plain

NAMES = ("a", "b", "c")
PLACES = ((-60.0, -20.0, 30.0), (5.0, 10.0, 20.0), (50.0, 0.0, 40.0))


def trio() -> Job:
    elements = tuple(
        Element(id=name, name=name, source=Plain(ratio=0.5), placement=Placement(dx=x, dy=y, width=wide))
        for name, (x, y, wide) in zip(NAMES, PLACES, strict=True)
    )
    return with_layer(new_job("Three", 240.0, 120.0), lambda layer: replace(layer, elements=elements))


def boxes(job: Job) -> dict[str, Box]:
    return boxes_of(evaluate(job, {}, Cache()), job)


def test_elements_are_brought_to_the_line_of_the_first_or_of_the_item() -> None:
    job = trio()
    for line, axis, share in (("left", 0, 0.0), ("right", 0, 1.0), ("centre", 1, 0.5), ("top", 1, 0.0)):
        found = boxes(aligned(job, boxes(job), ("b", "a", "c"), line))  # type: ignore[arg-type]
        at = {name: box[axis] + share * (box[axis + 2] - box[axis]) for name, box in found.items()}
        assert at["a"] == pytest.approx(at["b"])
        assert at["c"] == pytest.approx(at["b"])
        assert found["b"] == pytest.approx(boxes(job)["b"])
    alone = boxes(aligned(job, boxes(job), ("a",), "middle"))["a"]
    assert (alone[0] + alone[2]) / 2.0 == pytest.approx(120.0)


def test_gaps_become_even_between_the_outer_two_and_over_the_item() -> None:
    job = trio()
    row = sorted(boxes(spread_evenly(job, boxes(job), NAMES, 0)).values())
    assert row[1][0] - row[0][2] == pytest.approx(row[2][0] - row[1][2])
    assert row[0] == pytest.approx(boxes(job)["a"])
    whole = sorted(boxes(spread_evenly(job, boxes(job), NAMES, 0, over_item=True)).values())
    gaps = [whole[0][0], whole[1][0] - whole[0][2], whole[2][0] - whole[1][2], 240.0 - whole[2][2]]
    assert gaps == pytest.approx([gaps[0]] * 4)
    assert spread_evenly(job, boxes(job), ("a", "b"), 0) == job


def test_sizes_are_taken_from_the_first_about_each_middle() -> None:
    job = trio()
    found = boxes(same_size(job, boxes(job), ("c", "a", "b"), 0))
    assert [box[2] - box[0] for box in found.values()] == pytest.approx([40.0] * 3)
    for name, (x, y, _) in zip(NAMES, PLACES, strict=True):
        box = found[name]
        assert ((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0) == pytest.approx((120.0 + x, 60.0 + y))


def test_rows_have_cells_as_large_as_the_largest_and_keep_the_middle() -> None:
    job = trio()
    found = boxes(in_rows(job, boxes(job), NAMES, 2, 6.0))
    middles = {name: ((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0) for name, box in found.items()}
    assert middles["b"][0] - middles["a"][0] == pytest.approx(46.0)
    assert middles["c"][1] - middles["a"][1] == pytest.approx(26.0)
    assert middles["c"][0] == pytest.approx(middles["a"][0])


def test_growing_about_a_corner_leaves_it_where_it_is_and_films_of_one_drawing_stay_together() -> None:
    job = trio()
    corner = boxes(job)["a"][2:]
    grown = boxes(resized(job, ("a",), 1.5, corner))["a"]
    assert grown[2:] == pytest.approx(corner)
    assert grown[2] - grown[0] == pytest.approx(45.0)
    pennant, assets = pennant_job(), demo_assets()
    before = boxes_of(evaluate(pennant, assets, Cache()), pennant)
    assert list(before) == ["heron"]
    shifted = moved(pennant, ("moon", "heron"), 5.0, -3.0)
    after = boxes_of(evaluate(shifted, assets, Cache()), shifted)["heron"]
    assert [b - a for a, b in zip(before["heron"], after, strict=True)] == pytest.approx([5.0, -3.0, 5.0, -3.0])


def test_proportions_are_not_kept_when_that_is_wanted_and_come_back() -> None:
    job = trio()
    box = boxes(job)["a"]
    about = ((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0)
    wide = stretched(job, ("a",), 2.0, 1.0, about)
    found = boxes(wide)["a"]
    assert (found[2] - found[0], found[3] - found[1]) == pytest.approx((60.0, 15.0))
    corner = stretched(wide, ("a",), 0.5, 3.0, (found[0], found[1]))
    again = boxes(corner)["a"]
    assert again[:2] == pytest.approx(found[:2])
    assert (again[2] - again[0], again[3] - again[1]) == pytest.approx((30.0, 45.0))
    back = stretched(corner, ("a",), 1.0, 1.0 / 3.0, (found[0], found[1]))
    assert back.item.layers[0].elements[0].steps == ()
    copied, (copy,) = with_copies(job, boxes(job), ("b",), mirrored=False)
    high = boxes(stretched(copied, (copy,), 1.0, 2.0, (0.0, 0.0)))
    assert high[copy][3] - high[copy][1] == pytest.approx(20.0)
    assert high["b"] == pytest.approx(boxes(job)["b"])


def test_a_moved_box_snaps_to_edges_and_middles_that_are_near() -> None:
    other = (100.0, 40.0, 140.0, 60.0)
    dx, dy, lines = snapped((98.6, 10.0, 113.6, 20.0), [other], (240.0, 120.0), 2.0)
    assert (dx, dy) == pytest.approx((1.4, 0.0))
    assert [(line.axis, line.at) for line in lines] == [(0, 100.0)]
    dx, dy, lines = snapped((110.5, 54.6, 130.5, 64.6), [], (240.0, 120.0), 2.0)
    assert (dx, dy) == pytest.approx((-0.5, 0.4))  # the middle of the item
    assert {line.axis for line in lines} == {0, 1}
    assert snapped((30.0, 20.0, 45.0, 33.0), [other], (240.0, 120.0), 2.0) == (0.0, 0.0, [])


def test_the_room_round_a_box_ends_at_neighbours_or_the_edge() -> None:
    box = (50.0, 40.0, 70.0, 60.0)
    beside, below = (90.0, 50.0, 120.0, 90.0), (40.0, 75.0, 60.0, 90.0)
    left, right, up, down = rooms(box, [beside, below, (0.0, 0.0, 20.0, 10.0)], (0.0, 0.0, 240.0, 120.0))
    assert [room.wide for room in (left, right, up, down)] == pytest.approx([50.0, 20.0, 40.0, 15.0])
    assert [room.to_neighbour for room in (left, right, up, down)] == [False, True, False, True]
    over = rooms((-4.0, 40.0, 20.0, 60.0), [], (0.0, 0.0, 240.0, 120.0))[0]
    assert over.wide == pytest.approx(-4.0)


BOX = st.tuples(st.floats(0, 200), st.floats(0, 100), st.floats(1, 60), st.floats(1, 40)).map(
    lambda v: (v[0], v[1], v[0] + v[2], v[1] + v[3])
)


@settings(max_examples=150, deadline=None, derandomize=True)
@given(BOX, st.lists(BOX, max_size=5), st.floats(0.1, 8.0))
def test_a_snap_is_never_farther_than_asked_and_lands_on_a_line(box: Box, others: list[Box], within: float) -> None:
    dx, dy, lines = snapped(box, others, (240.0, 120.0), within)
    assert max(abs(dx), abs(dy)) <= within
    for line in lines:
        shift = (dx, dy)[line.axis]
        own = [box[line.axis] + shift, box[line.axis + 2] + shift]
        assert min(abs(at - line.at) for at in (*own, sum(own) / 2.0)) < 1e-6
