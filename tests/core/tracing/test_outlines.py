"""Traces of pictures whose true outlines are known."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.trace_truth import compressed, corners_found, distance, rendered, stroke_picture, word
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.tracing.traced import Traced
from vivid_thimble.core.tracing.two_tone import traced


def covered(gray: np.ndarray) -> Traced:
    return traced(((255.0 - gray) / 255.0).astype(np.float32))


def trace(gray: np.ndarray) -> Path:
    return covered(gray).path(0)


@pytest.mark.parametrize(
    ("face", "text"), [("Pacifico", "Supper"), ("League Spartan", "GATE"), ("Courier Prime", "Moth")]
)
def test_words_150_pixels_tall_come_out_as_the_face_drew_them(face: str, text: str) -> None:
    truth = word(text, f"bundled:{face}", 150.0)
    found = trace(truth.gray)
    away = distance(truth.path, found)
    assert away.rms < 0.045
    assert away.p99 < 0.12
    assert found.node_count <= 1.3 * truth.path.node_count
    wanted, hit, added = corners_found(truth.path, found)
    assert hit >= 0.85 * wanted
    assert added <= 0.12 * wanted + 1


def test_compression_costs_a_tenth_of_a_pixel_and_no_nodes() -> None:
    truth = word("Supper", "bundled:Pacifico", 150.0)
    found = trace(compressed(truth.gray))
    assert distance(truth.path, found).rms < 0.14
    assert found.node_count < truth.path.node_count


@pytest.mark.parametrize("width", [1.0, 1.6])
def test_thin_strokes_are_never_broken(width: float) -> None:
    truth, size = stroke_picture(width)
    clean = rendered(truth.outline, size)
    for gray, near in ((clean, 0.06), (compressed(clean), 0.11)):
        found = covered(gray).regions(1.0)[0]
        assert len(found.polygons.geoms) == len(truth.polygons.geoms)
        assert distance(truth.outline, found.outline).rms < near


@settings(max_examples=15, deadline=None, derandomize=True)
@given(st.floats(1.1, 6.0), st.floats(0.0, 180.0), st.floats(0.0, 1.0), st.floats(0.0, 1.0))
def test_a_straight_line_keeps_its_width_and_length_wherever_it_lies(
    width: float, angle: float, dx: float, dy: float
) -> None:
    way = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))]) * 30.0
    middle = np.array([40.0 + dx, 40.0 + dy])
    line = shapely.LineString([middle - way, middle + way]).buffer(width / 2.0, cap_style="flat")
    truth = Region.from_polygons(line)
    found = covered(rendered(truth.outline, (82, 82))).regions(1.0)[0]
    assert len(found.polygons.geoms) == 1
    assert found.area == pytest.approx(truth.area, rel=0.06)
    assert found.polygons.symmetric_difference(line).area < 6.0  # of an edge 120 pixels long


def test_a_round_stays_round_and_a_square_sharp() -> None:
    disc = shapely.Point(30.3, 30.6).buffer(20.0, 64)
    square = shapely.box(70.4, 12.7, 110.2, 50.9)
    found = trace(rendered(Region.from_polygons(shapely.union(disc, square)).outline, (64, 124)))
    by_area = sorted(found.contours, key=len)
    assert [len(contour) for contour in by_area] == [pytest.approx(3.5, abs=0.5), 4]
    square_lines, disc_curves = by_area[1], by_area[0]
    assert square_lines.is_line.all()
    corners = square_lines.segments[:, 0]
    for wanted in ((70.4, 12.7), (110.2, 12.7), (110.2, 50.9), (70.4, 50.9)):
        assert np.hypot(*(corners - wanted).T).min() < 0.05
    radii = np.hypot(*(_points(disc_curves) - [30.3, 30.6]).T)
    assert np.abs(radii - 20.0).max() < 0.12


def _points(contour: Contour) -> np.ndarray:
    t = np.linspace(0.0, 1.0, 20)[:, None, None]
    s = 1.0 - t
    p = contour.segments[None]
    curve = s**3 * p[:, :, 0] + 3 * s * s * t * p[:, :, 1] + 3 * s * t * t * p[:, :, 2] + t**3 * p[:, :, 3]
    return np.asarray(curve.reshape(-1, 2))


def test_nothing_and_everything_give_no_outline_and_the_frame() -> None:
    empty = traced(np.zeros((9, 14), np.float32))
    assert empty.path(0).is_empty
    assert empty.regions(0.5)[0].is_empty
    full = traced(np.ones((9, 14), np.float32)).regions(0.5)[0]
    assert full.area == pytest.approx(9 * 14 * 0.25, rel=0.02)


def test_a_picture_of_one_pixel_is_no_fault() -> None:
    assert traced(np.ones((1, 1), np.float32)).regions(1.0)[0].area < 1.5
