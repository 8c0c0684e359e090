"""The width field on shapes with known answers, and against pixels."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from scipy.ndimage import distance_transform_edt
from shapely import MultiPolygon, Point, Polygon, box
from shapely.affinity import translate

from tests.core.widths.surveying import LIMIT, places
from tests.raster import mask
from tests.shapes import bar, blobs, comb, dumbbell, notched, ring, turned
from vivid_thimble.core.widths.touching import touching_points
from vivid_thimble.core.widths.walls import rings_of

ANGLES = (0.0, 17.3, 45.0, 71.1)


@pytest.mark.parametrize("angle", ANGLES)
@pytest.mark.parametrize("width", [0.05, 0.3, 0.55, 0.79])
def test_a_bar_is_one_place_of_its_width_and_length(width: float, angle: float) -> None:
    lines, gaps = places(bar(width, 20.0), angle)
    assert gaps == []
    assert len(lines) == 1
    assert lines[0].thinnest == pytest.approx(width, abs=0.001)
    assert lines[0].mean == pytest.approx(width, abs=0.005)
    assert lines[0].length == pytest.approx(20.0, rel=0.05)
    assert lines[0].open_ends == 0


@pytest.mark.parametrize("angle", ANGLES)
def test_a_slot_is_a_gap_and_not_a_line(angle: float) -> None:
    lines, gaps = places(box(0, 0, 30, 10).difference(box(5, 4.8, 25, 5.2)), angle)
    assert lines == []
    assert [round(g.thinnest, 3) for g in gaps] == [0.4]
    assert gaps[0].length == pytest.approx(20, rel=0.05)


@pytest.mark.parametrize("angle", ANGLES)
def test_a_dumbbell_has_a_neck_with_two_open_ends(angle: float) -> None:
    lines, _ = places(dumbbell(0.6, gap=1.0), angle)
    assert [round(p.thinnest, 3) for p in lines] == [0.6]
    assert lines[0].open_ends == 2
    assert lines[0].is_neck(LIMIT)
    long, _ = places(dumbbell(0.6, gap=6.0), angle)
    assert not long[0].is_neck(LIMIT)
    assert long[0].length == pytest.approx(6.0, rel=0.05)


@pytest.mark.parametrize("width", [0.2, 0.5, 0.75])
def test_a_ring_is_thin_all_round(width: float) -> None:
    lines, _ = places(ring(6.0, width))
    assert len(lines) == 1
    assert lines[0].thinnest == pytest.approx(width, abs=0.002)
    assert lines[0].length == pytest.approx(2 * math.pi * (6.0 - width / 2), rel=0.05)
    assert lines[0].open_ends == 0


def test_an_off_centre_hole_is_thinnest_where_the_walls_come_closest() -> None:
    shape = Point(0, 0).buffer(6, quad_segs=180).difference(Point(1.2, 0).buffer(4.5, quad_segs=180))
    lines, _ = places(shape)
    assert len(lines) == 1
    assert lines[0].thinnest == pytest.approx(0.3, abs=0.002)
    assert lines[0].at[0] - 31.7 == pytest.approx(5.85, abs=0.02)


@pytest.mark.parametrize("angle", ANGLES)
def test_every_tooth_of_a_comb_is_found_once_with_one_free_end(angle: float) -> None:
    lines, gaps = places(comb(7, 0.5), angle)
    assert gaps == []
    assert len(lines) == 7
    assert all(p.thinnest == pytest.approx(0.5, abs=0.001) and p.open_ends == 1 for p in lines)
    assert sum(p.length for p in lines) == pytest.approx(7 * 4.0, rel=0.06)


@pytest.mark.parametrize("angle", ANGLES)
@pytest.mark.parametrize("neck", [0.1, 0.45, 0.7])
def test_pointed_notches_face_each_other_at_their_tips(neck: float, angle: float) -> None:
    lines, _ = places(notched(neck), angle)
    assert [round(p.thinnest, 3) for p in lines] == [neck]
    assert lines[0].open_ends == 2


def test_two_discs_nearly_touching_leave_one_gap() -> None:
    lines, gaps = places(
        shapely.union(Point(0, 0).buffer(5, quad_segs=90), Point(10.33, 0).buffer(5, quad_segs=90)), 33
    )
    assert lines == []
    assert [round(g.thinnest, 3) for g in gaps] == [0.33]


@pytest.mark.parametrize(
    "shape",
    [
        box(0, 0, 10, 10),
        Point(0, 0).buffer(5),
        Polygon([(0, 0), (10, 0), (0, 10)]),
        Polygon([(0, 0), (2.0, 0.9), (2.0, 5), (-6, 5), (-6, -5), (2.0, -5), (2.0, -0.9)]),
        Polygon([(0, 0), (10, 0), (10, 10), (8, 10), (7.6, 11.2), (7.2, 10), (0, 10)]),
        box(0, 0, 20, 5).union(box(9, 5, 11, 15)).union(box(8, 14.5, 12, 15.5)),
        Point(0, 0).buffer(0.5),
    ],
    ids=["square", "disc", "half square", "short cleft", "thorn", "serif", "dot"],
)
@pytest.mark.parametrize("angle", ANGLES)
def test_corners_short_tapers_and_sturdy_serifs_are_no_thin_places(shape: shapely.Geometry, angle: float) -> None:
    assert places(shape, angle) == ([], [])


@pytest.mark.parametrize("angle", ANGLES)
def test_a_long_taper_is_a_needle_tip_and_a_bar_with_a_point_is_a_line(angle: float) -> None:
    needle, _ = places(Polygon([(0, 0), (16, 0.8), (16, -0.8)]), angle)
    assert [p.is_needle for p in needle] == [True]
    assert needle[0].length == pytest.approx(8.0, rel=0.1)
    pointed, _ = places(Polygon([(0, 0), (1.5, 0.25), (15, 0.25), (15, -0.25), (1.5, -0.25)]), angle)
    assert [p.is_needle for p in pointed] == [False]
    assert pointed[0].thinnest == pytest.approx(0.5, abs=0.005)


def test_a_wall_between_hides_what_lies_behind_it() -> None:
    """Two plates 0.7 apart with a thin slanted sheet between: the gaps are to the sheet."""
    sheet = Polygon([(0, 0.28), (10, 0.28), (10, 0.42), (0, 0.42)])
    lines, gaps = places(shapely.union_all([box(0, -5, 10, 0), sheet, box(0, 0.7, 10, 6)]))
    assert [round(p.thinnest, 3) for p in lines] == [0.14]
    assert sorted(round(g.thinnest, 3) for g in gaps) == [0.28, 0.28]


def test_touching_points_have_width_zero() -> None:
    corners = MultiPolygon([box(0, 0, 5, 5), box(5, 5, 9, 9)])
    assert touched(corners) == [(5.0, 5.0)]
    pinched = MultiPolygon([Polygon([(0, 0), (10, 0), (10, 10), (0, 10)], [[(0, 5), (4, 3), (4, 7)]])])
    assert touched(pinched) == [(0.0, 5.0)]
    assert touched(MultiPolygon([box(0, 0, 5, 5)])) == []
    assert touched(MultiPolygon([box(0, 0, 5, 5), box(5.001, 0, 9, 9)])) == []


def touched(polygons: MultiPolygon) -> list[tuple[float, float]]:
    rings = rings_of(polygons)
    found, _ = touching_points(rings)
    assert all(place.thinnest == 0.0 for place in found)
    return [place.at for place in found]


@pytest.mark.parametrize("seed", range(6))
def test_random_ribbons_are_as_thin_as_they_were_drawn(seed: int) -> None:
    rng = np.random.default_rng(seed)
    width = rng.uniform(0.15, 0.75)
    t = np.linspace(0, 1, 160)
    wave = sum(rng.normal() * np.sin(2 * np.pi * k * t + rng.uniform(0, 6)) / k**1.5 for k in range(1, 4))
    line = shapely.LineString(np.c_[60 * t, 5 * wave])
    lines, gaps = places(shapely.buffer(line, width / 2, cap_style="flat", quad_segs=60), rng.uniform(0, 180))
    assert gaps == []
    assert len(lines) == 1
    assert lines[0].thinnest == pytest.approx(width, abs=0.01)
    assert lines[0].length == pytest.approx(line.length, rel=0.05)


def test_the_field_agrees_with_pixels_on_wavy_blobs() -> None:
    """Where two blobs nearly meet, half the width is the distance of the gap's middle from film."""
    shape, px = blobs(9, 300, seed=4), 50
    _, gaps = places(shape, limit=2.0)
    left, top, right, bottom = shape.bounds
    size = (int((bottom - top + 4) * px), int((right - left + 4) * px))
    moved = shapely.transform(shape, lambda p: p - [left - 2, top - 2])
    away = distance_transform_edt(mask(moved, px, size) == 0) / px
    assert gaps
    middle = turned(shape, 0.0, 31.7, -12.9)
    shift = np.array(middle.bounds[:2]) - np.array(moved.bounds[:2])
    for gap in gaps:
        x, y = (np.array(gap.at) - shift) * px
        assert 2 * away[int(y), int(x)] == pytest.approx(gap.thinnest, abs=3.0 / px)


@pytest.mark.parametrize("angle", [13.0, 90.0, 151.0])
def test_figures_do_not_depend_on_where_and_how_the_shape_lies(angle: float) -> None:
    shape = shapely.union(blobs(12, 200, seed=2), translate(comb(4, 0.6), -30, 0))
    straight, turned_round = places(shape), places(shape, angle)
    for before, after in zip(straight, turned_round, strict=True):
        assert len(before) == len(after)
        assert np.allclose([p.thinnest for p in before], [p.thinnest for p in after], atol=0.01)
