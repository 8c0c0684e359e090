"""Where the markers of SVG sit: the vertices of a path with the direction that each has (SVG 2, 13.7)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Path

Role = Literal["start", "mid", "end"]


@dataclass(frozen=True)
class Vertex:
    role: Role
    at: tuple[float, float]
    direction_deg: float


def vertices_of(path: Path) -> Iterator[Vertex]:
    """The vertices in drawing order; the first of the path is its start, the last its end."""
    contours = [c for c in path.contours if len(c)]
    for number, contour in enumerate(contours):
        leaving = [_heading(segment) for segment in contour.segments]
        arriving = [_heading(segment[::-1]) + math.pi for segment in contour.segments]
        count = len(contour)
        for k in range(count + 1):
            first, last = number == 0 and k == 0, number == len(contours) - 1 and k == count
            into = arriving[k - 1] if k > 0 else (arriving[-1] if contour.closed else None)
            out = leaving[k] if k < count else (leaving[0] if contour.closed else None)
            point = contour.segments[k, 0] if k < count else contour.segments[-1, 3]
            role: Role = "start" if first else "end" if last else "mid"
            yield Vertex(role, (float(point[0]), float(point[1])), _bisected(into, out))


def _heading(segment: FloatArray) -> float:
    """The direction in which a cubic leaves its start, in radians."""
    for k in (1, 2, 3):
        step = segment[k] - segment[0]
        if np.abs(step).max() > 1e-12:
            return math.atan2(step[1], step[0])
    return 0.0


def _bisected(into: float | None, out: float | None) -> float:
    if into is None or out is None:
        return math.degrees(out if into is None else into) if (into, out) != (None, None) else 0.0  # type: ignore[arg-type]
    x, y = math.cos(into) + math.cos(out), math.sin(into) + math.sin(out)
    return math.degrees(math.atan2(y, x) if math.hypot(x, y) > 1e-9 else into + math.pi / 2)
