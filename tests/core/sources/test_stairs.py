"""Outlines of pixels become the lines that they stand for; outlines that are meant stay as they are."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from vivid_thimble.core.geometry.path import Contour
from vivid_thimble.core.sources.stairs import step_of, without_steps


def outline_of_pixels(shape: Polygon, pixel: float) -> np.ndarray:
    """The edge of the pixels whose middles lie in a shape, corner by corner."""
    shape = shapely.transform(shape, lambda points: points / pixel)
    left, top, right, bottom = (int(edge) for edge in shape.bounds)
    columns, rows = np.meshgrid(np.arange(left - 1, right + 2), np.arange(top - 1, bottom + 2))
    shapely.prepare(shape)
    inside = shapely.contains_xy(shape, columns + 0.5, rows + 0.5)
    squares = shapely.box(columns, rows, columns + 1, rows + 1)[inside]
    largest = max(shapely.get_parts(shapely.union_all(squares)), key=lambda part: part.area)
    return np.asarray(shapely.simplify(largest, 0).exterior.coords)[:-1] * pixel


def blob(waves: list[tuple[int, float, float]], radius: float = 40.0) -> Polygon:
    angle = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    reach = radius * (1 + sum(size * np.cos(count * angle + at) for count, size, at in waves))
    return Polygon(np.column_stack([reach * np.cos(angle), reach * np.sin(angle)]) + 60)


WAVES = st.lists(st.tuples(st.integers(2, 5), st.floats(0.01, 0.08), st.floats(0, 6)), min_size=1, max_size=3)


@given(WAVES, st.floats(0.6, 1.0))
@settings(max_examples=6, deadline=None)
def test_the_line_is_found_again_within_a_pixel(waves: list, pixel: float) -> None:
    shape = blob(waves)
    stairs = Contour.from_points(outline_of_pixels(shape, pixel))
    step = step_of(stairs, 170.0)
    assert step is not None
    assert step == pytest.approx(pixel, rel=0.3)
    line = without_steps(stairs, step)
    ends = line.segments[:, 0]
    away = shapely.distance(shapely.points(ends), shape.exterior)
    assert away.max() < 1.2 * pixel
    assert np.sqrt((away**2).mean()) < 0.5 * pixel
    assert len(line) < len(stairs) / 2


@pytest.mark.parametrize(
    "points",
    [
        [(0, 0), (50, 0), (50, 30), (0, 30)],
        [(k % 2 * 10 + k // 2 * 10, k // 2 * 10) for k in range(8)] + [(0, 60)],  # stairs of a house
        [(50 + 40 * np.cos(t), 50 + 40 * np.sin(t)) for t in np.linspace(0, 6.2, 60)],
        [(k, (k % 2) * 0.4) for k in range(60)] + [(59, 40), (0, 40)],  # a saw
    ],
    ids=["rectangle", "large steps", "circle of lines", "saw"],
)
def test_outlines_that_are_meant_are_no_staircases(points: list) -> None:
    assert step_of(Contour.from_points(np.array(points, dtype=float)), 80.0) is None


def test_a_staircase_of_any_size_is_told_by_its_share_of_the_drawing() -> None:
    ring = outline_of_pixels(blob([(3, 0.05, 0.0)]), 0.8)
    for scale in (0.01, 1.0, 1000.0):
        step = step_of(Contour.from_points(ring * scale), 170.0 * scale)
        assert step is not None
        assert step == pytest.approx(0.8 * scale, rel=0.3)
    assert step_of(Contour.from_points(ring), 30.0) is None  # in a small drawing these steps are its shape
