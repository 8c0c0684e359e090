"""What a rough surface does not show."""

from __future__ import annotations

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, box

from tests.shapes import comb, notched, turned
from vivid_thimble.core.inspect.lost import lost_details

SIZE = 2.0


def multi(shape: shapely.Geometry) -> MultiPolygon:
    return MultiPolygon([p for p in shapely.get_parts(shape) if p.geom_type == "Polygon"])


def test_thin_teeth_fade_and_the_body_stays() -> None:
    lost = lost_details(multi(comb(3, 1.2)), SIZE)
    assert len(lost.faded.geoms) == 3
    assert lost.faded.area == pytest.approx(3 * 1.2 * 4, rel=0.1)
    assert lost_details(multi(comb(3, 1.2)), 1.0).count == 0


def test_narrow_gaps_fill_and_wide_ones_stay() -> None:
    apart = MultiPolygon([box(0, 0, 20, 20), box(21.2, 0, 40, 20), box(43, 0, 60, 20)])
    lost = lost_details(apart, SIZE)
    assert len(lost.faded.geoms) == 0
    assert len(lost.filled.geoms) == 1
    assert lost.filled.area == pytest.approx(1.2 * 20, rel=0.1)
    assert lost.count == 1


def test_dots_and_holes_smaller_than_the_size_are_counted_each() -> None:
    plate = box(0, 0, 40, 40).difference(shapely.union_all([Point(10, y).buffer(0.7) for y in (8, 16, 24)]))
    dots = [Point(60, y).buffer(0.8) for y in (5, 15)]
    lost = lost_details(multi(shapely.union_all([plate, *dots])), SIZE)
    assert (len(lost.faded.geoms), len(lost.filled.geoms)) == (2, 3)


@pytest.mark.parametrize("shape", [box(0, 0, 30, 20), Point(0, 0).buffer(9), notched(2.4).buffer(3)])
def test_plain_corners_are_no_details(shape: shapely.Geometry) -> None:
    assert lost_details(turned(shape, 17.0), SIZE).count == 0


def test_a_smooth_surface_and_empty_film_lose_nothing() -> None:
    assert lost_details(multi(comb(3, 0.2)), 0.0).count == 0
    assert lost_details(MultiPolygon(), SIZE).count == 0


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 60), st.floats(0, 40), st.floats(0.3, 6), st.floats(0.3, 6)), min_size=1,
                max_size=6), st.floats(0.5, 4.0))  # fmt: skip
def test_what_fades_is_film_and_what_fills_is_not(boxes: list[tuple[float, float, float, float]], size: float) -> None:
    film = multi(shapely.union_all([box(x, y, x + w, y + h) for x, y, w, h in boxes]))
    lost = lost_details(film, size)
    grown = film.buffer(1e-6)
    assert all(grown.covers(piece) for piece in lost.faded.geoms)
    assert all(shapely.intersection(piece, film).area < 1e-3 for piece in lost.filled.geoms)
    assert lost_details(film, size * 1.5).faded.area >= lost.faded.area - 0.15 * (1.5 * size) ** 2 * len(boxes)
