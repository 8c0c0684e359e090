"""Few curves through smooth lines: what is round stays round, what is straight straight."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.geometry.fitting.smooth_fit import SmoothLines, fit_smooth
from vivid_thimble.core.geometry.path import Contour, evaluate_cubic


def smooth(*lines: tuple[np.ndarray, np.ndarray, bool]) -> SmoothLines:
    sizes = [len(points) for points, _, _ in lines]
    along = np.concatenate([way / np.hypot(*way.T)[:, None] for _, way, _ in lines])
    closed = np.array([is_closed for _, _, is_closed in lines])
    return SmoothLines(np.concatenate([p for p, _, _ in lines]), along, np.r_[0, np.cumsum(sizes)], closed)


def circle(radius: float, count: int) -> tuple[np.ndarray, np.ndarray, bool]:
    angle = np.linspace(0.0, 2.0 * np.pi, count + 1)
    points = radius * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    points[-1] = points[0]
    return points, np.stack([-np.sin(angle), np.cos(angle)], axis=1), True


def dense(contour: Contour, each: int = 40) -> np.ndarray:
    t = np.tile(np.linspace(0.0, 1.0, each), len(contour))
    return evaluate_cubic(np.repeat(contour.segments, each, axis=0), t)


def test_a_circle_takes_four_curves_and_stays_within_tolerance() -> None:
    found = fit_smooth(smooth(circle(50.0, 400)), 0.02, 0.005)[0]
    assert len(found) <= 5
    assert np.abs(np.hypot(*dense(found).T) - 50.0).max() < 0.02
    assert np.array_equal(found.segments[0, 0], found.segments[-1, 3])


def test_a_straight_line_is_one_line() -> None:
    points = np.linspace([0.0, 0.0], [90.0, 40.0], 80)
    found = fit_smooth(smooth((points, np.tile([9.0, 4.0], (80, 1)), False)), 0.05, 0.01)[0]
    assert len(found) == 1
    assert found.is_line.all()


def test_lines_are_fitted_in_their_order_whatever_their_sizes() -> None:
    short = (np.array([[0.0, 0.0], [1.0, 0.0]]), np.array([[1.0, 0.0], [1.0, 0.0]]), False)
    found = fit_smooth(smooth(circle(9.0, 60), short, circle(30.0, 200)), 0.02, 0.005)
    assert [round(float(np.hypot(*contour.segments[0, 0])), 6) for contour in found] == [9.0, 0.0, 30.0]
    assert fit_smooth(smooth(circle(9.0, 60)), 0.02, 0.005)[0].segments.tolist() == found[0].segments.tolist()


@settings(max_examples=30, deadline=None, derandomize=True)
@given(st.integers(0, 9999), st.floats(0.005, 0.2))
def test_any_smooth_ring_is_followed_within_its_tolerance(seed: int, tolerance: float) -> None:
    random = np.random.default_rng(seed)
    angle = np.linspace(0.0, 2.0 * np.pi, 721)
    radius, slope = np.full(721, 40.0), np.zeros(721)
    for k in (2, 3, 5):
        size, phase = random.uniform(0.0, 9.0 / k), random.uniform(0.0, 6.28)
        radius += size * np.sin(k * angle + phase)
        slope += size * k * np.cos(k * angle + phase)
    cos, sin = np.cos(angle), np.sin(angle)
    points = np.stack([radius * cos, radius * sin], axis=1)
    points[-1] = points[0]
    along = np.stack([slope * cos - radius * sin, slope * sin + radius * cos], axis=1)
    along[-1] = along[0]
    found = fit_smooth(smooth((points, along, True)), tolerance, tolerance / 4.0)[0]
    gaps = shapely.distance(shapely.points(points), shapely.LineString(dense(found, 60)))
    assert gaps.max() < 1.3 * tolerance + 0.01
    assert len(found) <= 60


def test_the_area_inside_is_that_of_the_points() -> None:
    """Fitting by area has no bias: the error of the area is far below tolerance times length."""
    found = fit_smooth(smooth(circle(20.0, 160)), 0.2, 0.02)[0]
    x, y = dense(found, 200).T
    area = 0.5 * float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]))
    assert area == pytest.approx(np.pi * 400.0, rel=2e-4)
