"""Areas from shared arcs: rings that touch themselves fall apart, neighbours share what they share."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from vivid_thimble.core.geometry.path import Contour
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.shared_edges.arc_regions import ArcPlan, arc_regions
from vivid_thimble.core.holding.strips import straight_strip


def line(*points: tuple[float, float]) -> Contour:
    return Contour.from_points(np.array(points, dtype=np.float64), closed=False)


def made(plan: ArcPlan, arcs: list[Contour], count: int) -> list[Region]:
    asked: list[list[int]] = []

    def closer(which: list[int], share: float) -> list[Contour]:
        asked.append(which)
        return [arcs[k] for k in which]

    regions, _ = arc_regions(plan, arcs, count, closer)
    assert not asked  # nothing crosses, so nothing is to be mended
    return regions


def test_a_ring_that_passes_a_junction_twice_becomes_two_pieces() -> None:
    """Two squares that meet at a corner, gone round in one go."""
    arcs = [
        line((0, 0), (10, 0), (10, 10)),
        line((10, 10), (20, 10), (20, 20), (10, 20), (10, 10)),
        line((10, 10), (0, 10), (0, 0)),
    ]
    plan = ArcPlan([[(0, True), (1, True), (2, True)]], np.array([0]), np.array([0]), [True])
    (region,) = made(plan, arcs, 1)
    assert sorted(piece.area for piece in region.polygons.geoms) == pytest.approx([100.0, 100.0])
    assert region.polygons.is_valid
    assert len(region.outline.contours) == 2


def test_a_hole_that_hangs_on_the_ring_at_a_junction_stays_a_hole() -> None:
    """A square whose border runs round a notch that touches it in one corner only."""
    arcs = [
        line((0, 0), (20, 0), (20, 20), (0, 20), (0, 0)),
        line((0, 0), (5, 10), (10, 5), (0, 0)),
    ]
    plan = ArcPlan([[(0, True), (1, True)]], np.array([0]), np.array([0]), [True])
    (region,) = made(plan, arcs, 1)
    (piece,) = region.polygons.geoms
    assert len(piece.interiors) == 1
    assert region.area == pytest.approx(400.0 - 37.5)


def test_neighbours_of_a_shared_arc_have_its_very_vertices() -> None:
    wave = [(10.0, 0.0), (12.0, 5.0), (8.0, 15.0), (10.0, 20.0)]
    arcs = [line(*wave), line((10, 20), (0, 20), (0, 0), (10, 0)), line((10, 0), (20, 0), (20, 20), (10, 20))]
    uses = [[(1, True), (0, True)], [(2, True), (0, False)]]
    one, two = made(ArcPlan(uses, np.array([0, 1]), np.array([0, 1]), [True, True]), arcs, 2)
    shared = shapely.get_coordinates(one.polygons.intersection(two.polygons))
    assert {tuple(p) for p in shared.tolist()} >= set(wave)
    assert one.area + two.area == pytest.approx(400.0)
    assert one.polygons.intersection(two.polygons).area == 0.0


def test_a_straight_strip_has_its_width_and_length_wherever_it_points() -> None:
    for angle in np.linspace(0.0, 2 * np.pi, 9):
        way = np.array([np.cos(angle), np.sin(angle)])
        strip = straight_strip(5.0 * way, 25.0 * way, 3.0, 1.5)
        assert strip.area == pytest.approx(23.0 * 3.0)
        assert shapely.hausdorff_distance(strip.centroid, shapely.Point(15.0 * way)) < 1e-9
    assert straight_strip(np.zeros(2), np.zeros(2), 2.0, 1.0).bounds == (-1.0, -1.0, 1.0, 1.0)
