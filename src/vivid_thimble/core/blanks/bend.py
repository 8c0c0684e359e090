"""Bending for tapered sides: from the level rectangle to the film as it lies flat, and back.

The middle of the room keeps its lengths; there the map is an isometry. A point x to the right of the
middle and y below it goes to the angle x / R on the circle of radius R - y (R: ``Tapered.fan_radius``,
negative when the side widens downwards), so that level lines become arcs about the cone's tip.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Contour, Path, cubic_speed, evaluate_cubic, split_cubic
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM

BEND_MM = 0.004
"""A bent curve lies within this of the true one: well below half a cutter's step."""


@dataclass(frozen=True)
class Bend:
    """A fan of a radius about the middle of the item, which is ``at`` in mm."""

    radius: float
    at: tuple[float, float]

    def apply(self, points: FloatArray) -> FloatArray:
        """Points (..., 2) of the level rectangle on the flat film."""
        x, y = points[..., 0] - self.at[0], points[..., 1] - self.at[1]
        angle, reach = x / self.radius, self.radius - y
        return np.stack([self.at[0] + reach * np.sin(angle), self.at[1] + self.radius - reach * np.cos(angle)], axis=-1)

    def undone(self, points: FloatArray) -> FloatArray:
        """Points (..., 2) of the flat film on the level rectangle."""
        side = np.sign(self.radius)
        x, y = points[..., 0] - self.at[0], self.at[1] + self.radius - points[..., 1]
        reach = side * np.hypot(x, y)
        angle = np.arctan2(side * x, side * y)
        return np.stack([self.at[0] + angle * self.radius, self.at[1] + self.radius - reach], axis=-1)

    def place(self, at: tuple[float, float]) -> tuple[float, float]:
        """One place of the level rectangle on the flat film."""
        x, y = self.apply(np.array(at, dtype=np.float64)).tolist()
        return x, y

    def place_back(self, at: tuple[float, float]) -> tuple[float, float]:
        """One place of the flat film on the level rectangle."""
        x, y = self.undone(np.array(at, dtype=np.float64)).tolist()
        return x, y

    def directions(self, points: FloatArray, speeds: FloatArray) -> FloatArray:
        """Derivatives (n, 2) of curves through points (n, 2), after bending."""
        angle = (points[:, 0] - self.at[0]) / self.radius
        grown = 1.0 - (points[:, 1] - self.at[1]) / self.radius
        cosine, sine = np.cos(angle), np.sin(angle)
        along, down = speeds[:, 0] * grown, speeds[:, 1]
        return np.stack([along * cosine - down * sine, along * sine + down * cosine], axis=1)

    def region(self, region: Region) -> Region:
        """A region bent, its outline as few cubics as stay within BEND_MM."""
        if region.is_empty:
            return region
        path = Path(tuple(self._contour(contour) for contour in region.outline.contours))
        return region.with_outline(path, FLATTEN_MM / 2.0)

    def _contour(self, contour: Contour) -> Contour:
        """Every segment bent by its ends and directions (Hermite), halved until that is close enough."""
        todo = contour.segments
        order = np.arange(len(todo), dtype=np.float64)
        done: list[FloatArray] = []
        places: list[FloatArray] = []
        width = 1.0
        for _ in range(12):
            bent = self._hermite(todo)
            far = self._error(todo, bent) > BEND_MM
            if width < 1e-3:
                far[:] = False
            done.append(bent[~far])
            places.append(order[~far])
            if not far.any():
                break
            left, order = todo[far], order[far]
            width /= 2.0
            zero, half, one = np.zeros(len(left)), np.full(len(left), 0.5), np.ones(len(left))
            todo = np.concatenate([split_cubic(left, zero, half), split_cubic(left, half, one)])
            order = np.concatenate([order, order + width])
        segments = np.concatenate(done)[np.argsort(np.concatenate(places), kind="stable")]
        segments[1:, 0] = segments[:-1, 3]
        if contour.closed:
            segments[0, 0] = segments[-1, 3]
        return Contour(segments, np.zeros(len(segments), dtype=np.bool_), contour.closed)

    def _hermite(self, segments: FloatArray) -> FloatArray:
        zero, one = np.zeros(len(segments)), np.ones(len(segments))
        start, end = self.apply(segments[:, 0]), self.apply(segments[:, 3])
        out = self.directions(segments[:, 0], cubic_speed(segments, zero)) / 3.0
        into = self.directions(segments[:, 3], cubic_speed(segments, one)) / 3.0
        return np.stack([start, start + out, end - into, end], axis=1)

    def _error(self, segments: FloatArray, bent: FloatArray) -> FloatArray:
        """The largest distance at three places between (the error of a Hermite cubic has no more waves)."""
        apart = np.zeros(len(segments))
        for t in (0.25, 0.5, 0.75):
            at = np.full(len(segments), t)
            away = self.apply(evaluate_cubic(segments, at)) - evaluate_cubic(bent, at)
            apart = np.maximum(apart, np.hypot(away[:, 0], away[:, 1]))
        return apart
