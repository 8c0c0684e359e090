"""Booleans of regions: areas against shapely, curves that survive, awkward input."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.shapes import circle, paths, square
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.clip import checked_multipolygon, combine, to_grid
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_text import read_path_data
from vivid_thimble.core.geometry.plain_shapes import disc
from vivid_thimble.core.geometry.region import (
    Region,
    difference,
    intersection,
    symmetric_difference,
    union,
)

HALF = st.floats(-10, 10).map(lambda v: round(v, 3))
RINGS = st.lists(st.tuples(HALF, HALF), min_size=3, max_size=9, unique=True)


def polygon_region(points: list[tuple[float, float]]) -> Region:
    return Region.from_polygons(shapely.make_valid(shapely.Polygon(points)))


@pytest.mark.parametrize("first,second", list(itertools.product(paths(), repeat=2)))
def test_every_boolean_of_awkward_outlines_is_a_valid_region_with_consistent_area(first: str, second: str) -> None:
    a, b = Region.from_path(paths()[first]), Region.from_path(paths()[second])
    both, either = intersection(a, b), union([a, b])
    for result in (both, either, difference(a, [b]), symmetric_difference(a, b)):
        assert result.polygons.is_valid
        assert Region.from_path(result.outline, "evenodd").area == pytest.approx(result.area, abs=0.05)
    assert either.area == pytest.approx(a.area + b.area - both.area, abs=1e-3)
    assert difference(a, [b]).area == pytest.approx(a.area - both.area, abs=1e-3)


@given(RINGS, RINGS)
@settings(max_examples=60, deadline=None)
def test_booleans_of_random_polygons_agree_with_shapely(first: list, second: list) -> None:
    a, b = polygon_region(first), polygon_region(second)
    slack = 1e-4 + 1e-5 * (a.polygons.length + b.polygons.length)
    assert union([a, b]).area == pytest.approx(shapely.union(a.polygons, b.polygons).area, abs=slack)
    assert intersection(a, b).area == pytest.approx(shapely.intersection(a.polygons, b.polygons).area, abs=slack)
    assert difference(a, [b]).area == pytest.approx(shapely.difference(a.polygons, b.polygons).area, abs=slack)


def test_segments_that_no_crossing_touched_come_back_bit_identical() -> None:
    apart = Path((circle(0, 0, 5), circle(20, 0, 3)))
    outline = Region.from_path(apart).outline
    came_in = {c.segments[k].tobytes() for c in apart.contours for k in range(4)}
    assert {c.segments[k].tobytes() for c in outline.contours for k in range(len(c))} == came_in


def test_two_crossing_circles_weld_into_few_exact_curves() -> None:
    whole = union([Region.from_path(Path((circle(x, 0, 10),))) for x in (0, 12)])
    assert whole.outline.node_count <= 10
    assert not any(c.is_line.any() for c in whole.outline.contours)
    radii = []
    for segment in whole.outline.contours[0].segments:
        middle = (segment[0] + 3 * segment[1] + 3 * segment[2] + segment[3]) / 8
        radii.append(min(np.hypot(*middle), np.hypot(*(middle - [12, 0]))))
    assert np.allclose(radii, 10.0, atol=0.004)


def test_non_zero_keeps_letters_whole_where_even_odd_would_cut_them() -> None:
    doubled = Path((square(0, 0, 10), square(5, 5, 10)))
    assert Region.from_path(doubled, "nonzero").area == pytest.approx(175)
    assert Region.from_path(doubled, "evenodd").area == pytest.approx(150)


def test_a_mirrored_region_still_welds_with_others() -> None:
    ring = difference(Region.from_path(Path((circle(0, 0, 10),))), [Region.from_path(Path((circle(0, 0, 4),)))])
    mirrored = ring.transformed(Affine.mirroring().then(Affine.translation(5, 0)))
    expected = shapely.union(ring.polygons, mirrored.polygons).area
    assert union([ring, mirrored]).area == pytest.approx(expected, abs=0.05)


def test_an_island_inside_a_hole_is_a_piece_of_its_own() -> None:
    rings = Path((square(0, 0, 30), square(5, 5, 20), square(10, 10, 10), square(12, 12, 2)))
    region = Region.from_path(rings, "evenodd")
    assert sorted(round(piece.area, 6) for piece in region.pieces()) == [96, 500]
    assert sum(piece.outline.node_count for piece in region.pieces()) == region.outline.node_count


@pytest.mark.parametrize("name", list(paths()))
@pytest.mark.parametrize("distance", [-6.0, -0.4, 0.0, 0.4, 3.0])
def test_offsets_match_an_exact_buffer(name: str, distance: float) -> None:
    region = Region.from_path(paths()[name])
    grown = offset(region, distance)
    exact = shapely.buffer(region.polygons, distance, quad_segs=180)
    assert grown.polygons.is_valid
    assert abs(grown.area - exact.area) <= 0.015 * max(exact.length, 0.01) + 1e-6
    if not exact.is_empty:
        assert shapely.hausdorff_distance(grown.polygons.boundary, exact.boundary, densify=0.05) < 0.02


def test_an_offset_circle_needs_few_nodes() -> None:
    assert offset(Region.from_path(Path((circle(0, 0, 20),))), 1.5).outline.node_count <= 8


def test_a_ring_that_touches_itself_becomes_valid() -> None:
    ring = to_grid(np.array([[0, 0], [10, 0], [5, 5], [10, 10], [0, 10], [5, 5.0]]))
    result = checked_multipolygon(combine("union", [ring]))[0]
    assert result.is_valid
    assert result.area == pytest.approx(50)


@pytest.mark.parametrize("angle", range(0, 360, 17))
def test_cutting_along_a_common_edge_leaves_no_film_behind(angle: int) -> None:
    turn = Affine.turning(angle).then(Affine.translation(31.7, -8.3))
    strip = Region.from_polygons(shapely.box(0, 0, 40, 10)).transformed(turn)
    away = Region.from_polygons(shapely.box(10, 0, 21, 10)).transformed(turn)
    rest = difference(strip, [away])
    assert sorted(round(p.area, 3) for p in rest.polygons.geoms) == [100, 190]
    assert rest.outline.node_count == 8
    assert union([rest, away]).area == pytest.approx(400, abs=1e-3)
    assert len(union([rest, away]).polygons.geoms) == 1
    assert intersection(rest, away).is_empty


@given(st.lists(st.sampled_from(["disc", "leaf", "ring"]), min_size=1, max_size=12))
@settings(max_examples=30, deadline=None)
def test_outlines_on_top_of_each_other_count_as_the_rule_says(names: list[str]) -> None:
    shapes = {
        "disc": "M10 0A10 10 0 1 1 -10 0A10 10 0 1 1 10 0Z",
        "leaf": "M30 0C40 20 60 20 70 0S40 -20 30 0Z",
        "ring": "M90 0H110V20H90ZM95 5V15H105V5Z",
    }
    alone = {name: Region.from_path(read_path_data(data)[0]).area for name, data in shapes.items()}
    together = Path.joined(read_path_data(shapes[name])[0] for name in names)
    covered = sum(alone[name] for name in set(names))
    assert Region.from_path(together, "nonzero").area == pytest.approx(covered, rel=1e-9)
    odd = sum(area for name, area in alone.items() if names.count(name) % 2)
    assert Region.from_path(together, "evenodd").area == pytest.approx(odd, rel=1e-9, abs=1e-9)
    regions = [Region.from_path(read_path_data(shapes[name])[0]) for name in names]
    assert union(regions).area == pytest.approx(covered, rel=1e-9)
    assert difference(regions[0], regions[1:]).area == pytest.approx(
        0.0 if names[0] in names[1:] else alone[names[0]], abs=1e-6
    )


def test_a_hole_in_one_of_two_equal_outlines_is_covered_by_the_other() -> None:
    outer, hole = "M0 0H30V30H0Z", "M10 10V20H20V10Z"
    holed, solid = (Region.from_path(read_path_data(data)[0]) for data in (outer + hole, outer))
    assert holed.area == pytest.approx(800)
    assert union([holed, solid]).area == pytest.approx(900)
    assert Region.from_path(read_path_data(outer + hole + outer)[0]).area == pytest.approx(900)
    assert difference(solid, [holed]).area == pytest.approx(100)
    assert difference(solid, [holed, solid]).is_empty


def test_very_many_shapes_unite_to_what_an_independent_kernel_says() -> None:
    """They go in groups: overlapping blobs, far ones, twins, and holes that must stay."""
    rng = np.random.default_rng(5)
    at, r = rng.uniform(0.0, 300.0, (1300, 2)), rng.uniform(1.0, 7.0, 1300)
    shapes = [disc((float(x), float(y)), float(radius)) for (x, y), radius in zip(at, r, strict=True)]
    ring = difference(disc((500.0, 50.0), 40.0), [disc((500.0, 50.0), 30.0)])
    whole = union([*shapes, ring, shapes[0], shapes[1]])
    truth = shapely.union_all(
        [shapely.Point(x, y).buffer(radius, quad_segs=64) for (x, y), radius in zip(at, r, strict=True)]
    )
    assert whole.area == pytest.approx(truth.area + np.pi * (40.0**2 - 30.0**2), rel=1e-3)
    assert whole.polygons.is_valid
    points = shapely.points(rng.uniform((-10.0, -10.0), (550.0, 310.0), (4000, 2)))
    ringed = shapely.union(
        truth, shapely.difference(shapely.Point(500, 50).buffer(40), shapely.Point(500, 50).buffer(30))
    )
    clear = shapely.distance(points, shapely.boundary(ringed)) > 0.05
    assert (shapely.contains(whole.polygons, points) == shapely.contains(ringed, points))[clear].all()
