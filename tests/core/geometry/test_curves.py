"""Flattening, fitting, bounds and path text against independent computations."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.shapes import circle
from vivid_thimble.core.geometry.fitting.fit import fit_lines, fit_rings
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path, evaluate_cubic, segment_bounds, split_cubic
from vivid_thimble.core.geometry.path_text import read_path_data, write_path_data

NUMBER = st.floats(-100, 100).map(lambda v: round(v, 2))
SEGMENT = st.lists(st.tuples(NUMBER, NUMBER), min_size=4, max_size=4)


@given(SEGMENT)
@settings(max_examples=60, deadline=None)
def test_flattening_stays_within_its_tolerance(points: list) -> None:
    segment = np.array([points])
    path = Path((Contour(segment.copy(), np.array([False]), closed=False),))
    line = shapely.LineString(flatten(path, 0.01).points)
    dense = evaluate_cubic(np.repeat(segment, 200, axis=0), np.linspace(0, 1, 200))
    assert shapely.distance(shapely.points(dense), line).max() <= 0.01 + 1e-9


@given(SEGMENT, st.floats(0, 1), st.floats(0, 1))
@settings(max_examples=60, deadline=None)
def test_a_part_of_a_cubic_runs_along_the_whole(points: list, t0: float, t1: float) -> None:
    segment = np.array([points])
    part = split_cubic(segment, np.array([t0]), np.array([t1]))
    u = np.linspace(0, 1, 9)
    expected = evaluate_cubic(np.repeat(segment, 9, axis=0), t0 + (t1 - t0) * u)
    assert np.allclose(evaluate_cubic(np.repeat(part, 9, axis=0), u), expected, atol=1e-9)


@given(SEGMENT)
@settings(max_examples=60, deadline=None)
def test_bounds_are_those_of_the_curve_not_of_its_handles(points: list) -> None:
    segment = np.array([points])
    dense = evaluate_cubic(np.repeat(segment, 2001, axis=0), np.linspace(0, 1, 2001))
    left, top, right, bottom = segment_bounds(segment)
    assert np.allclose([left, top], dense.min(axis=0), atol=1e-3)
    assert np.allclose([right, bottom], dense.max(axis=0), atol=1e-3)


def ring_of(radii: np.ndarray) -> np.ndarray:
    t = np.linspace(0, 2 * np.pi, len(radii), endpoint=False)
    return np.c_[np.cos(t), np.sin(t)] * radii[:, None]


@given(st.integers(0, 10_000))
@settings(max_examples=15, deadline=None)
def test_a_fitted_ring_lies_within_tolerance_both_ways(seed: int) -> None:
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 2 * np.pi, 700, endpoint=False)
    wave = sum(0.1 * rng.normal() * np.cos(k * t + rng.uniform(0, 6)) for k in range(2, 6))
    points = ring_of(20 * (1 + wave))
    (contour,) = fit_rings([points], 0.02)
    fitted = shapely.LinearRing(flatten(Path((contour,)), 0.001).points)
    assert shapely.hausdorff_distance(fitted, shapely.LinearRing(points), densify=0.34) <= 0.022
    assert len(contour) <= len(points) / 12


def test_corners_stay_corners_and_straight_lines_straight() -> None:
    square = np.array(shapely.box(0, 0, 10, 10).segmentize(0.3).exterior.coords)
    (contour,) = fit_rings([square])
    assert contour.is_line.all()
    assert {tuple(p) for p in contour.segments[:, 0].round(9)} == {(0, 0), (10, 0), (10, 10), (0, 10)}
    (rounded,) = fit_rings([np.array(shapely.box(0, 0, 10, 10).buffer(1, quad_segs=40).exterior.coords)])
    assert int(rounded.is_line.sum()) == 4
    assert len(rounded) == 8


def test_rings_of_any_size_are_fitted_together_in_their_order() -> None:
    triangle = np.array([[0, 0], [1, 0], [0, 1.0]])
    contours = fit_rings([triangle, ring_of(np.full(300, 5.0)), np.array([[3, 3.0]]), np.zeros((0, 2))])
    assert [len(c) for c in contours] == [3, 4, 1, 0]


@given(st.lists(SEGMENT, min_size=1, max_size=4))
@settings(max_examples=40, deadline=None)
def test_path_text_reads_back_what_was_written(segments: list) -> None:
    array = np.array(segments)
    array[1:, 0] = array[:-1, 3]
    array[-1, 3] = array[0, 0] + [7, 7]
    contour = Contour(array, np.zeros(len(array), dtype=bool), closed=False)
    path, complete = read_path_data(write_path_data(Path((contour,))))
    assert complete
    assert np.allclose(path.contours[0].segments, [s for s in array if np.ptp(s, axis=0).max() > 0], atol=1e-4)


@pytest.mark.parametrize(
    "data,area",
    [
        ("M0 0h10v10h-10z", 100),
        ("m5,5 l10,0 0,10 -10,0z m20 0 l10 0 0 10 -10 0 z", 200),
        ("M0 5A5 5 0 1 1 10 5A5 5 0 1 1 0 5Z", math.pi * 25),
        ("M0,0a1 1 0 0110 0z", math.pi * 12.5),
        ("M0 0Q5 10 10 0T20 0L20 -10L0 -10Z", 200),
        ("M0 0C0 10 10 10 10 0S20-10 20 0L20-20L0-20z", 400),
        ("M1e1 0L.2e2.0 20 10 10 10z", 100),
    ],
)
def test_path_text_covers_the_standards_forms(data: str, area: float) -> None:
    from vivid_thimble.core.geometry.region import Region

    path, complete = read_path_data(data)
    assert complete
    assert Region.from_path(path).area == pytest.approx(area, rel=2e-3)


@pytest.mark.parametrize("data", ["L10 10", "M0 0L10", "M0 0 L10 10 X 3", "M0 0A5 5 0 2 1 10 5", "M0 0ZL5", "Mnan 0"])
def test_path_text_draws_up_to_the_first_error(data: str) -> None:
    path, complete = read_path_data(data)
    assert not complete
    assert all(np.isfinite(c.segments).all() for c in path.contours)


def test_an_arc_of_a_circle_is_within_a_thousandth_of_its_radius() -> None:
    points = flatten(Path((circle(0, 0, 100),)), 0.001).points
    assert np.abs(np.hypot(*points.T) - 100).max() < 0.03


@given(st.integers(4, 60), st.integers(0, 2**31), st.floats(0.005, 0.1))
@settings(max_examples=40, deadline=None)
def test_fitted_lines_keep_their_ends_and_the_tolerance_within_a_tenth(count: int, seed: int, tolerance: float) -> None:
    rng = np.random.default_rng(seed)
    heading = [np.cumsum(rng.normal(0, 0.2, count)) + (rng.random(count) < 0.1) * 2.0 for _ in range(3)]
    lines = [np.cumsum(0.2 * np.column_stack([np.cos(way), np.sin(way)]), axis=0) for way in heading]
    together = fit_lines(lines, tolerance)
    for line, contour in zip(lines, together, strict=True):
        assert not contour.closed
        assert np.array_equal(contour.segments[0, 0], line[0])
        assert np.array_equal(contour.segments[-1, 3], line[-1])
        curve = flatten(Path((contour,)), 1e-4).points
        assert shapely.hausdorff_distance(shapely.LineString(curve), shapely.LineString(line)) <= 1.1 * tolerance + 2e-4
