"""Affine maps of the plane as plain numbers.

The six numbers follow the order of an SVG matrix: ``x' = a x + c y + e`` and
``y' = b x + d y + f``.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


class Affine(NamedTuple):
    """A map of the plane; ``first.then(second)`` applies ``first`` first."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    @classmethod
    def translation(cls, dx: float, dy: float) -> Affine:
        return cls(e=dx, f=dy)

    @classmethod
    def scaling(cls, sx: float, sy: float | None = None) -> Affine:
        return cls(a=sx, d=sx if sy is None else sy)

    @classmethod
    def turning(cls, angle_deg: float) -> Affine:
        """Turn about the origin, counter-clockwise as seen (y points down)."""
        cosine, sine = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
        return cls(cosine, -sine, sine, cosine)

    @classmethod
    def mirroring(cls) -> Affine:
        """Swap left and right about the origin."""
        return cls(a=-1.0)

    def then(self, after: Affine) -> Affine:
        return Affine(
            after.a * self.a + after.c * self.b,
            after.b * self.a + after.d * self.b,
            after.a * self.c + after.c * self.d,
            after.b * self.c + after.d * self.d,
            after.a * self.e + after.c * self.f + after.e,
            after.b * self.e + after.d * self.f + after.f,
        )

    @property
    def determinant(self) -> float:
        return self.a * self.d - self.b * self.c

    def apply(self, points: FloatArray) -> FloatArray:
        """Map an array of points of shape (..., 2); returns a new array."""
        matrix = np.array([[self.a, self.b], [self.c, self.d]])
        return np.asarray(points @ matrix + np.array([self.e, self.f]), dtype=np.float64)
