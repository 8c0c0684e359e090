"""The order of the picks and its reason."""

from __future__ import annotations

import pytest
import shapely
from shapely import MultiPolygon, Point, box

from tests.core.inspect.test_inspection import inspected
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
