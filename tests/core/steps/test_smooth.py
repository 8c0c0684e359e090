"""Smoothing takes ripples, keeps corners, and moves nothing farther than it says."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, Polygon, box
from shapely.affinity import rotate

from tests.letters import word
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.audition import roughness
from vivid_thimble.core.geometry.fitting.ripples import smooth_region
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.steps.smooth import Smooth


def rippled(radius: float, ripples: int, height: float) -> Polygon:
    turn = np.linspace(0, 2 * np.pi, 6000, endpoint=False)
    return Polygon(np.c_[np.cos(turn), np.sin(turn)] * (radius + height * np.sin(ripples * turn))[:, None])


def smoothed(shape: Polygon, by: float) -> Polygon:
    (polygon,) = smooth_region(Region.from_polygons(MultiPolygon([shape])), by).polygons.geoms
    return polygon


def moved(before: Polygon, after: Polygon) -> float:
    dense = [shapely.segmentize(p.exterior, 0.1) for p in (before, after)]
    return float(shapely.hausdorff_distance(*dense))


@pytest.mark.parametrize(("ripples", "height"), [(120, 0.1), (90, 0.15), (60, 0.15)])
def test_ripples_go_and_the_circle_stays(ripples: int, height: float) -> None:
    rough = rippled(20.0, ripples, height)
    smooth = smoothed(rough, 0.3)
    assert moved(rough, smooth) <= 0.3
    middle = shapely.get_coordinates(smooth.exterior)
    assert np.hypot(*middle.T) == pytest.approx(20.0, abs=0.4 * height + 0.03)
    assert smooth.area == pytest.approx(rough.area, rel=0.005)


def test_a_rough_outline_has_fewer_bends_and_nodes_afterwards() -> None:
    rough = rippled(20.0, 30, 0.35)
    smooth = smooth_region(Region.from_polygons(MultiPolygon([rough])), 0.8)
    assert roughness([rough]) > 4.0
    assert roughness(list(smooth.polygons.geoms)) < 1.0
    assert smooth.outline.node_count < 60


@settings(max_examples=15, deadline=None)
@given(st.floats(0.05, 1.0), st.floats(0.0, 90.0), st.floats(8.0, 40.0))
def test_corners_stay_and_nothing_moves_farther_than_asked(by: float, angle: float, size: float) -> None:
    square = rotate(box(0, 0, size, size), angle)
    smooth = smoothed(square, by)
    assert moved(square, smooth) <= by + 1e-6
    for corner in shapely.get_coordinates(square.exterior)[:4]:
        assert Point(corner).distance(smooth.exterior) < 0.3 * by + 0.02


def test_clean_letters_hardly_change_and_keep_their_counters() -> None:
    letters = word("Heron")
    smooth = Smooth(id="s", by=0.1).apply(letters)
    assert [part.label for part in smooth] == [part.label for part in letters]
    for before, after in zip(letters, smooth, strict=True):
        assert after.region.area == pytest.approx(before.region.area, rel=0.005)
        holes = [sum(len(p.interiors) for p in part.region.polygons.geoms) for part in (before, after)]
        assert holes[0] == holes[1]


def test_specks_come_back_as_they_are_and_too_little_is_refused() -> None:
    speck = Point(0, 0).buffer(0.3)
    assert smoothed(speck, 0.5).area == pytest.approx(speck.area, rel=0.02)
    with pytest.raises(InputRefused, match="changes nothing"):
        Smooth(id="s", by=0.005).apply((Part("a", Region.from_polygons(MultiPolygon([speck])), None),))
