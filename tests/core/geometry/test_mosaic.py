"""Areas side by side: edges shared exactly, nothing lost, few nodes."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, Polygon, box

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.shared_edges.mosaic import mosaic
from vivid_thimble.core.geometry.tolerances import GRID_MM

PLACE = st.floats(0, 40, allow_nan=False).map(lambda x: round(x, 3))
DISCS = st.lists(st.tuples(PLACE, PLACE, st.floats(2, 15)), min_size=2, max_size=7)


def parted(shapes: list) -> list[MultiPolygon]:
    """Upper shapes hide lower ones; what is left of each."""
    left = []
    for k, shape in enumerate(shapes):
        left.append(polygons_of(shapely.difference(shape, shapely.union_all(shapes[k + 1 :]))))
    return left


@given(DISCS)
@settings(max_examples=40, deadline=None)
def test_neighbours_share_their_edges_and_keep_their_areas(discs: list) -> None:
    areas = parted([Point(x, y).buffer(r, quad_segs=60) for x, y, r in discs])
    regions = mosaic(areas, 0.01)
    polygons = [region.polygons for region in regions]
    kept = [p for p in polygons if not p.is_empty]
    assert shapely.coverage_is_valid(kept)
    assert abs(sum(p.area for p in kept) - shapely.union_all(kept).area) < 1e-6
    for before, after in zip(areas, polygons, strict=True):
        assert after.area == pytest.approx(before.area, abs=0.012 * before.length + 1e-6)


def test_a_corner_on_a_neighbours_edge_becomes_a_vertex_of_both() -> None:
    areas = [MultiPolygon([box(0, 0, 30, 10)]), MultiPolygon([box(5, 10, 17, 20)]), MultiPolygon([box(17, 10, 25, 15)])]
    regions = mosaic(areas)
    assert shapely.coverage_is_valid([region.polygons for region in regions])
    assert [region.area for region in regions] == pytest.approx([300, 120, 40])
    assert all(segment for region in regions for contour in region.outline.contours for segment in contour.is_line)


def test_a_ring_round_an_island_is_one_curve_for_both_with_few_nodes() -> None:
    disc = Point(0, 0).buffer(20, quad_segs=200)
    areas = [MultiPolygon([box(-30, -30, 30, 30).difference(disc)]), MultiPolygon([disc])]
    ground, island = mosaic(areas, 0.01)
    assert island.outline.node_count <= 8
    hole = ground.outline.contours[1]
    same = {frozenset(map(tuple, np.round(s, 12)[[0, 3]].tolist())) for s in island.outline.contours[0].segments}
    assert same == {frozenset(map(tuple, np.round(s, 12)[[0, 3]].tolist())) for s in hole.segments}


def test_hair_thin_neighbours_stay_valid_by_fitting_closer() -> None:
    x = np.linspace(0, 40, 400)
    wave = np.column_stack([x, 3 * np.sin(x)])
    above = np.column_stack([x, 3 * np.sin(x) + 0.004])
    upper = Polygon(np.concatenate([above, [[40, 20], [0, 20]]]))
    thin = Polygon(np.concatenate([wave, above[::-1]]))
    lower = Polygon(np.concatenate([wave, [[40, -20], [0, -20]]]))
    regions = mosaic([MultiPolygon([upper]), MultiPolygon([thin]), MultiPolygon([lower])], 0.05)
    assert all(region.polygons.is_valid for region in regions)
    assert shapely.coverage_is_valid([region.polygons for region in regions])
    assert regions[1].area == pytest.approx(thin.area, rel=0.05)


def test_nothing_gives_nothing() -> None:
    assert mosaic([]) == []
    assert [region.is_empty for region in mosaic([MultiPolygon(), MultiPolygon([box(0, 0, 1, 1)])])] == [True, False]


def overlap(regions: list[Region]) -> float:
    shapes = [region.polygons for region in regions]
    return sum(shape.area for shape in shapes) - shapely.union_all(shapes).area


def test_a_sliver_whose_curves_would_change_sides_stays_between_its_neighbours() -> None:
    above = [(0.0, 0.0), (0.170866, 0.003937), (0.556109, 0.01222), (0.81955, 0.017477)]
    below = [(0.0, 0.0), (0.316937, 0.006784), (0.81955, 0.017477)]
    sliver = Polygon([*above, *below[-2:0:-1]])
    upper, lower = Polygon([*above, (0.9, 5.0), (-0.1, 5.0)]), Polygon([*below, (0.9, -5.0), (-0.1, -5.0)])
    regions = mosaic([MultiPolygon([shape]) for shape in (upper, lower, sliver)])
    assert overlap(regions) < 1e-9
    assert shapely.coverage_is_valid([region.polygons for region in regions])
    for region, shape in zip(regions, (upper, lower, sliver), strict=True):
        assert region.area == pytest.approx(shape.area, abs=1e-4)


def test_areas_a_hair_apart_do_not_reach_over_each_other() -> None:
    x = np.linspace(0, 40, 300)
    wave = np.column_stack([x, 3 * np.sin(x) + 0.4 * np.sin(7 * x)])
    gap = np.array([0.0, 0.003])
    upper = Polygon(np.concatenate([wave + gap, [[40, 20], [0, 20]]]))
    lower = Polygon(np.concatenate([wave, [[40, -20], [0, -20]]]))
    regions = mosaic([MultiPolygon([upper]), MultiPolygon([lower])], 0.05)
    assert overlap(regions) < 1e-9


@pytest.mark.parametrize("steps", [0.4, 1.0, 2.5])
def test_areas_that_rounding_lets_touch_or_cross_themselves_are_put_in_order(steps: float) -> None:
    near = steps * GRID_MM
    ring = Polygon(
        [(0, 0), (10, 0), (10, 10), (0, 10)], [[(near, 5), (5, near), (10 - near, 5), (5, 10 - near)]]
    )  # its hole all but touches every side
    inner = Polygon([(near, 5), (5, near), (10 - near, 5), (5, 10 - near)])
    twins = [box(20, 0, 25, 5), box(25 + near, 0, 30, 5)]
    ground, diamond = mosaic([MultiPolygon([ring, *twins]), MultiPolygon([inner])])
    assert ground.polygons.is_valid
    assert diamond.polygons.is_valid
    assert shapely.coverage_is_valid([ground.polygons, diamond.polygons])
    assert (ground.area, diamond.area) == pytest.approx((100, 50), abs=1e-3)


@pytest.mark.parametrize("off", [(1, 1), (2, 3), (2, 5), (-2, 5), (3, 4), (4, 4), (-4, 3)])
def test_corners_a_few_grid_steps_from_a_neighbours_corner_leave_no_sliver(off: tuple[int, int]) -> None:
    x, y = 10 + off[0] * GRID_MM, 5 + off[1] * GRID_MM
    left = Polygon([(0, 0), (10, 0), (10, 5), (10, 20), (0, 20)])
    below = Polygon([(10, 0), (20, 0), (20, 5), (10, 5)])
    above = Polygon([(x, y), (20, 5), (20, 20), (10, 20)])
    regions = mosaic([MultiPolygon([shape]) for shape in (left, below, above)])
    shapes = [region.polygons for region in regions]
    assert shapely.coverage_is_valid(shapes, gap_width=1e-4)
    assert overlap(regions) < 1e-9
    assert sum(shape.area for shape in shapes) == pytest.approx(400, abs=1e-3)
