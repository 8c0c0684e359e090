"""The smallest thickening that passes, and what it closes."""

from __future__ import annotations

import pytest
import shapely
from shapely import MultiPolygon, Point, box

from tests.inspecting import LIMITS, inspected
from tests.shapes import comb, dumbbell
from vivid_thimble.core.inspect.thickening import Thickening, smallest_thickening


def advice(shape: shapely.Geometry, *, is_sheet: bool = False) -> Thickening | None:
    polygons = MultiPolygon([p for p in shapely.get_parts(shape) if p.geom_type == "Polygon"])
    return smallest_thickening(polygons, inspected(shape, is_sheet=is_sheet), LIMITS, is_sheet=is_sheet)


@pytest.mark.parametrize("width", [0.2, 0.5, 0.74])
def test_half_of_what_the_thinnest_line_lacks(width: float) -> None:
    found = advice(comb(4, width))
    assert found is not None
    assert found.by == pytest.approx((0.8 - width) / 2, abs=0.02)
    assert found.stays == 0


def test_a_clean_shape_needs_none() -> None:
    assert advice(dumbbell(1.4)) is None
    assert advice(box(0, 0, 10, 10)) is None


def test_counters_that_close_and_gaps_that_get_too_narrow_are_counted() -> None:
    plate = box(0, 0, 60, 20).difference(shapely.union_all([Point(10 + 8 * k, 10).buffer(0.15) for k in range(3)]))
    neighbour = box(0, 20.8, 60, 30)
    line = box(60, 9.75, 80, 10.25)
    found = advice(shapely.union_all([plate, neighbour, line]))
    assert found is not None
    assert found.by == pytest.approx(0.155, abs=0.02)
    assert found.closed_counters == 3
    assert found.narrowed_gaps >= 1


def test_small_pieces_grow_until_they_hold() -> None:
    found = advice(shapely.union_all([box(0, 0, 20, 20), Point(30, 10).buffer(0.5)]))
    assert found is not None
    assert found.stays == 0
    assert 3.14 * (0.5 + found.by) ** 2 >= 2.0
    assert found.by == pytest.approx(0.3, abs=0.06)


def test_more_film_is_told_as_a_share() -> None:
    bar = box(0, 0, 100, 0.4)
    found = advice(bar)
    assert found is not None
    assert found.area_share == pytest.approx((0.4 + 2 * found.by) / 0.4, rel=0.02)
