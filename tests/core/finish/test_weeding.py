"""The order of the picks and its reason."""

from __future__ import annotations

import pytest
import shapely
from shapely import MultiPolygon, Point, Polygon, box

from tests.inspecting import inspected
from vivid_thimble.core.finish.weeding import weeding_plan


def test_few_large_middles_come_out_first_and_the_surround_last() -> None:
    letters = MultiPolygon([box(x, 0, x + 20, 30).difference(box(x + 5, 5, x + 15, 25)) for x in (60, 0, 30)])
    plan = weeding_plan(inspected(letters), letters, is_sheet=False)
    assert not plan.outside_first
    assert [pick.number for pick in plan.picks] == [1, 2, 3, 4]
    assert [round(pick.at[0]) for pick in plan.picks[:3]] == [10, 40, 70]
    assert plan.picks[-1].piece.is_surround
    assert "Inside first" in plan.reason


def test_many_small_kept_pieces_call_for_the_outside_first() -> None:
    dots = [Point(10 * k, 0).buffer(2) for k in range(6)]
    shape = shapely.union_all([*dots, box(0, 10, 50, 30)])
    plan = weeding_plan(inspected(shape), shape, is_sheet=False)
    assert plan.outside_first
    assert plan.picks[0].piece.is_surround
    assert "6 small pieces" in plan.reason


def test_of_a_stencil_only_the_openings_are_pulled() -> None:
    sheet = box(0, 0, 60, 30).difference(box(10, 10, 20, 20)).difference(box(30, 10, 40, 20))
    plan = weeding_plan(inspected(sheet, is_sheet=True), MultiPolygon([sheet]), is_sheet=True)
    assert [pick.area for pick in plan.picks] == pytest.approx([100, 100])
    assert not any(pick.piece.is_surround for pick in plan.picks)


def test_the_order_can_be_turned_round() -> None:
    letters = MultiPolygon([box(x, 0, x + 20, 30).difference(box(x + 5, 5, x + 15, 25)) for x in (0, 30)])
    plan = weeding_plan(inspected(letters), letters, is_sheet=False, flipped=True)
    assert plan.outside_first
    assert plan.picks[0].piece.is_surround
    assert plan.reason.startswith("Your order")


def test_waste_that_wraps_the_design_and_pointed_tips_are_told() -> None:
    star = Polygon([(0, 0), (20, 4), (40, 0), (36, 20), (40, 40), (20, 36), (0, 40), (4, 20)])
    frame = box(-10, -10, 50, 50).difference(star)
    dots = [Point(14, 20).buffer(3), Point(26, 20).buffer(3)]
    shape = MultiPolygon([frame, *dots])
    plan = weeding_plan(inspected(shape), shape, is_sheet=False)
    watched = next(pick for pick in plan.picks if pick.watch)
    assert watched.piece.polygon.covers(Point(20, 20))
    assert any("wraps 2 pieces" in note for note in watched.watch)
    sharp = Polygon([(0, 0), (30, 0), (30, 8)])
    shape = MultiPolygon([box(-5, -5, 40, 20).difference(sharp)])
    tips = [note for pick in weeding_plan(inspected(shape), shape, is_sheet=False).picks for note in pick.watch]
    assert any("1 pointed tip" in note for note in tips)


def test_effort_grows_with_what_there_is_to_pull_and_explains_itself() -> None:
    few = MultiPolygon([box(0, 0, 40, 30).difference(box(5, 5, 35, 25))])
    many = MultiPolygon([box(0, 0, 400, 300).difference(shapely.union_all(
        [box(x, y, x + 2, y + 2) for x in range(10, 390, 20) for y in range(10, 290, 20)]))])  # fmt: skip
    light = weeding_plan(inspected(few), few, is_sheet=False).effort
    heavy = weeding_plan(inspected(many), many, is_sheet=False).effort
    assert heavy.seconds > 10 * light.seconds
    assert heavy.minutes[0] < heavy.seconds / 60 < heavy.minutes[1]
    assert sum(share.seconds for share in heavy.shares) == pytest.approx(heavy.seconds)
    assert "tiny picks" in heavy.in_words()


def test_relief_cuts_stay_in_the_surround_and_clear_of_the_film() -> None:
    blocks = MultiPolygon([box(200 * k, 0, 200 * k + 60, 40) for k in range(3)])
    plan = weeding_plan(inspected(blocks), blocks, is_sheet=False)
    assert plan.box is not None and plan.relief
    frame = box(*plan.box)
    for cut in plan.relief:
        assert frame.buffer(1e-6).covers(cut)
        assert cut.distance(blocks) >= 0.59
    upright = [cut for cut in plan.relief if cut.coords[0][0] == cut.coords[-1][0]]
    assert len(upright) == 2
