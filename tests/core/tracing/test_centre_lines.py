"""Pen drawings by the middle of their lines, against lines whose place and width are known."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.trace_truth import compressed
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.tracing.centre_lines import PenTrace, pen_lines

FINE = 8
WIDE, HIGH = 420, 320
Lines = list[NDArray[np.float64]]


def drawn(lines: Lines, width: float, closed: bool = False) -> NDArray[np.float32]:
    """Coverage of round-ended lines, from eight times as many pixels each way."""
    picture = np.zeros((HIGH * FINE, WIDE * FINE), np.uint8)
    radius = round(width * FINE / 2)
    for line in lines:
        dense = np.concatenate(
            [
                np.linspace(p, q, 800)
                for p, q in zip(line, np.roll(line, -1, axis=0) if closed else line[1:], strict=False)
            ]
        )
        for x, y in np.rint(dense * FINE - 0.5).astype(int):
            cv2.circle(picture, (int(x), int(y)), radius, 255, -1)
    small = cv2.resize(picture, (WIDE, HIGH), interpolation=cv2.INTER_AREA)
    return small.astype(np.float32) / np.float32(255.0)


def circle(x: float, y: float, radius: float) -> NDArray[np.float64]:
    angle = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    return np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1)


def places(contour: Contour) -> NDArray[np.float64]:
    return flatten(Path((contour,)), 0.01).rings()[0]


def farthest(found: PenTrace, lines: Lines) -> float:
    """How far any place of the traced lines is from the drawn ones."""
    dense = np.concatenate([np.linspace(p, q, 400) for line in lines for p, q in zip(line[:-1], line[1:], strict=True)])
    return max(
        float(np.sqrt(((places(one)[:, None] - dense[None]) ** 2).sum(axis=2)).min(axis=1).max()) for one in found.lines
    )


CROSS = [np.array([[40.0, 40.0], [370.0, 260.0]]), np.array([[60.0, 280.0], [330.0, 30.0]])]


@pytest.mark.parametrize("width", [2.0, 5.0, 11.0])
def test_crossing_lines_go_straight_on_with_the_width_of_the_pen(width: float) -> None:
    found = pen_lines(cover := drawn(CROSS, width), cover > 0.5)
    assert len(found.lines) == 2
    assert [len(line) for line in found.lines] == [1, 1]
    assert found.widths[0] == pytest.approx(width, abs=0.2)
    assert found.widths[0] == found.widths[1]
    assert farthest(found, CROSS) < 0.4
    shape = found.regions(0.5)[0]
    assert shape.area == pytest.approx(float(cover.sum()) * 0.25, rel=0.035)


def test_lines_end_where_the_pen_stopped_and_where_they_meet_another() -> None:
    tee = [np.array([[40.0, 60.0], [360.0, 60.0]]), np.array([[200.0, 60.0], [200.0, 250.0]])]
    found = pen_lines(cover := drawn(tee, 7.0), cover > 0.5)
    assert len(found.lines) == 2
    ends = np.concatenate([[places(one)[0], places(one)[-1]] for one in found.lines])
    for wanted in ([40.0, 60.0], [360.0, 60.0], [200.0, 60.0], [200.0, 250.0]):
        assert np.hypot(*(ends - wanted).T).min() < 2.0


def test_a_corner_is_a_corner_and_a_circle_stays_round() -> None:
    angle = [np.array([[60.0, 40.0], [60.0, 200.0], [300.0, 200.0]])]
    found = pen_lines(cover := drawn(angle, 6.0), cover > 0.5)
    (line,) = found.lines
    assert len(line) == 2
    assert np.hypot(*(line.segments[0, 3] - [60.0, 200.0])) < 0.5
    ring = [circle(200.0, 150.0, 90.0)]
    found = pen_lines(cover := drawn(ring, 6.0, closed=True), cover > 0.5)
    (line,) = found.lines
    assert line.closed
    assert len(line) <= 8
    radius = np.hypot(*(places(line) - [200.0, 150.0]).T)
    assert radius.max() - radius.min() < 0.4
    assert radius.mean() == pytest.approx(90.0, abs=0.1)


def test_noise_neither_breaks_lines_nor_grows_bristles() -> None:
    clean = drawn(CROSS, 5.0)
    noisy = ((255.0 - compressed(255.0 - 255.0 * clean.astype(np.float64))) / 255.0).astype(np.float32)
    found = pen_lines(noisy, noisy > 0.5)
    assert len(found.lines) == 2
    assert farthest(found, CROSS) < 0.6


def test_nothing_a_dot_and_a_full_picture_are_no_trouble() -> None:
    for ink in (np.zeros((9, 9), bool), np.eye(9, dtype=bool) & (np.arange(9) == 4), np.ones((9, 12), bool)):
        found = pen_lines(ink.astype(np.float32), ink)
        assert all(np.isfinite(line.segments).all() for line in found.lines)
        found.regions(1.0)
