"""Paths: contours made of straight lines and cubic Bezier segments.

A contour stores its segments as one array of shape (n, 4, 2): start, two
control points, end. A straight line is marked in ``is_line`` and carries its
control points at its thirds, so that every formula for cubics holds for it.
Consecutive segments share their end points; a closed contour's last segment
ends where the first begins. Values are frozen and their arrays read-only.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM

BoolArray = NDArray[np.bool_]
Box = tuple[float, float, float, float]
"""left, top, right, bottom"""
CUBIC_AREA = np.array([[0, 6, 3, 1], [-6, 0, 3, 3], [-3, -3, 0, 6], [-1, -3, -6, 0]]) / 20.0
"""Of a cubic's four points (x, y), x CUBIC_AREA y is what it encloses with the origin (Green's theorem)."""


@dataclass(frozen=True, eq=False)
class Contour:
    """One connected chain of segments."""

    segments: FloatArray
    is_line: BoolArray
    closed: bool = True

    def __post_init__(self) -> None:
        if self.segments.ndim != 3 or self.segments.shape[1:] != (4, 2):
            raise ValueError(f"segments must have shape (n, 4, 2), not {self.segments.shape}")
        self.segments.setflags(write=False)
        self.is_line.setflags(write=False)

    def __len__(self) -> int:
        return len(self.segments)

    @classmethod
    def from_points(cls, points: FloatArray, *, closed: bool = True) -> Contour:
        """Straight lines through points (n, 2); a repeated last point is dropped when closed."""
        points = np.asarray(points, dtype=np.float64)
        if closed and len(points) > 1 and np.array_equal(points[0], points[-1]):
            points = points[:-1]
        ends = np.roll(points, -1, axis=0) if closed else points[1:]
        starts = points if closed else points[:-1]
        return cls(line_segments(starts, ends), np.ones(len(starts), dtype=np.bool_), closed)

    def transformed(self, affine: Affine) -> Contour:
        return Contour(affine.apply(self.segments), self.is_line, self.closed)

    @property
    def gap(self) -> float:
        """The distance between the ends of an open contour; 0 for closed and empty ones."""
        if self.closed or not len(self):
            return 0.0
        return float(np.hypot(*(self.segments[-1, 3] - self.segments[0, 0])))

    def closed_straight(self) -> Contour:
        """The contour closed, by a straight line if its ends do not meet."""
        if self.closed or not len(self):
            return self
        if np.array_equal(self.segments[-1, 3], self.segments[0, 0]):
            return Contour(self.segments, self.is_line, True)
        line = line_segments(self.segments[-1:, 3], self.segments[:1, 0])
        return Contour(np.concatenate([self.segments, line]), np.append(self.is_line, True), True)

    def reversed(self) -> Contour:
        return Contour(self.segments[::-1, ::-1].copy(), self.is_line[::-1].copy(), self.closed)


@dataclass(frozen=True, eq=False)
class Path:
    """Any number of contours, closed or open, in the order they were drawn."""

    contours: tuple[Contour, ...] = ()

    @classmethod
    def joined(cls, paths: Iterable[Path]) -> Path:
        return cls(tuple(contour for path in paths for contour in path.contours))

    @property
    def is_empty(self) -> bool:
        return not any(len(contour) for contour in self.contours)

    @property
    def node_count(self) -> int:
        """Number of nodes a person would count: one per segment, one more on open contours."""
        return sum(len(c) + (not c.closed) for c in self.contours)

    @cached_property
    def bounds(self) -> Box | None:
        """Exact box of the curves (not of their control points); None when empty."""
        chosen = [c.segments for c in self.contours if len(c)]
        return segment_bounds(np.concatenate(chosen)) if chosen else None

    @property
    def area(self) -> float:
        """What closed contours enclose in mm2, those that wind clockwise taken away."""
        segments = [contour.segments for contour in self.contours if len(contour)]
        if not segments:
            return 0.0
        points = np.concatenate(segments)
        points = points - points[0, 0]  # large numbers would cancel badly
        return float(((points[:, :, 0] @ CUBIC_AREA) * points[:, :, 1]).sum())

    def transformed(self, affine: Affine) -> Path:
        return Path(tuple(contour.transformed(affine) for contour in self.contours))


def box_shifted(box: Box, dx: float, dy: float) -> Box:
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def box_round(boxes: Iterable[Box | None]) -> Box | None:
    """The box round all boxes; None when there is none."""
    known = [box for box in boxes if box is not None]
    if not known:
        return None
    left, top, right, bottom = zip(*known, strict=True)
    return min(left), min(top), max(right), max(bottom)


def diagonal(box: Box | None) -> float:
    """The length of a box's diagonal; 0 for none."""
    return 0.0 if box is None else float(np.hypot(box[2] - box[0], box[3] - box[1]))


def line_segments(starts: FloatArray, ends: FloatArray) -> FloatArray:
    """Segments (n, 4, 2) of straight lines between points (n, 2)."""
    step = (ends - starts) / 3.0
    return np.stack([starts, starts + step, ends - step, ends], axis=1)


def evaluate_cubic(segments: FloatArray, t: FloatArray) -> FloatArray:
    """Points (n, 2) of cubics (n, 4, 2) at parameters (n,)."""
    s = 1.0 - t
    weights = np.stack([s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t], axis=-1)
    return np.asarray(np.einsum("nk,nkd->nd", weights, segments))


def cubic_speed(segments: FloatArray, t: FloatArray) -> FloatArray:
    """The derivative of cubics (n, 4, 2) at parameters (n,)."""
    d = 3.0 * np.diff(segments, axis=1)
    s = 1.0 - t
    return np.asarray((s * s)[:, None] * d[:, 0] + (2 * s * t)[:, None] * d[:, 1] + (t * t)[:, None] * d[:, 2])


def split_cubic(segments: FloatArray, t0: FloatArray, t1: FloatArray) -> FloatArray:
    """The parts of cubics (n, 4, 2) between parameters t0 and t1 (blossoming; t0 > t1 reverses)."""

    def blossom(u: FloatArray, v: FloatArray, w: FloatArray) -> FloatArray:
        a = _lerp(segments[:, 0], segments[:, 1], u), _lerp(segments[:, 1], segments[:, 2], u)
        b = _lerp(segments[:, 2], segments[:, 3], u)
        return _lerp(_lerp(a[0], a[1], v), _lerp(a[1], b, v), w)

    return np.stack([blossom(t0, t0, t0), blossom(t0, t0, t1), blossom(t0, t1, t1), blossom(t1, t1, t1)], axis=1)


def _lerp(a: FloatArray, b: FloatArray, t: FloatArray) -> FloatArray:
    return a + (b - a) * t[:, None]


def segment_bounds(segments: FloatArray) -> Box:
    """Exact box of cubics (n, 4, 2), n > 0, from the roots of their derivatives."""
    low, high = segments[:, [0, 3]].min(axis=(0, 1)), segments[:, [0, 3]].max(axis=(0, 1))
    for axis in (0, 1):
        p0, p1, p2, p3 = (segments[:, k, axis] for k in range(4))
        reaching = (np.minimum(p1, p2) < low[axis]) | (np.maximum(p1, p2) > high[axis])
        if not reaching.any():
            continue
        p0, p1, p2, p3 = (p[reaching] for p in (p0, p1, p2, p3))
        a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
        with np.errstate(divide="ignore", invalid="ignore"):
            root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
            candidates = np.stack([(-b + root) / (2 * a), (-b - root) / (2 * a), -c / b])
        candidates = np.clip(np.nan_to_num(candidates, nan=0.0, posinf=0.0, neginf=0.0), 0.0, 1.0)
        s = 1.0 - candidates
        values = s**3 * p0 + 3 * s * s * candidates * p1 + 3 * s * candidates**2 * p2 + candidates**3 * p3
        low[axis] = min(low[axis], float(values.min()))
        high[axis] = max(high[axis], float(values.max()))
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def contour_from_segments(
    segments: Sequence[FloatArray] | FloatArray, lines: Sequence[bool], *, closed: bool
) -> Contour | None:
    """A contour from (4, 2) segments drawn one by one; zero-length lines are dropped.

    A closing line is added when a closed chain does not end where it began.
    Returns None when nothing of any length remains.
    """
    if not len(segments):
        return None
    array, is_line = np.array(segments, dtype=np.float64), np.array(lines, dtype=np.bool_)
    goes_somewhere = (array.max(axis=1) > array.min(axis=1)).any(axis=1)
    array, is_line = array[goes_somewhere], is_line[goes_somewhere]
    if not len(array):
        return None
    if closed and np.abs(array[-1, 3] - array[0, 0]).max() > TOUCH_MM:
        array = np.concatenate([array, line_segments(array[-1, 3][None], array[0, 0][None])])
        is_line = np.append(is_line, True)
    if closed:
        array[-1, 3] = array[0, 0]
    return Contour(array, is_line, closed)
