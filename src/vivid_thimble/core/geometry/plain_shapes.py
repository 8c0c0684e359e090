"""Plain shapes as regions: rectangles with round corners, circles."""

from __future__ import annotations

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.path_pen import PathPen
from vivid_thimble.core.geometry.region import Region

KAPPA = 0.5519150244935106
"""Handles of the cubic that comes closest to a quarter circle, in radii (error 2e-4 of the radius)."""
Point = tuple[float, float]


def rectangle(box: Box, radius: float = 0.0) -> Region:
    """A rectangle, its corners rounded by ``radius`` mm (at most half its shorter side)."""
    left, top, right, bottom = box
    r = min(max(radius, 0.0), (right - left) / 2.0, (bottom - top) / 2.0)
    pen, k = PathPen(closes=True), r * (1.0 - KAPPA)
    if r <= 0.0:
        pen.move(left, top)
        for x, y in ((right, top), (right, bottom), (left, bottom)):
            pen.line(x, y)
    else:
        pen.move(left + r, top)
        pen.line(right - r, top)
        pen.cubic(right - k, top, right, top + k, right, top + r)
        pen.line(right, bottom - r)
        pen.cubic(right, bottom - k, right - k, bottom, right - r, bottom)
        pen.line(left + r, bottom)
        pen.cubic(left + k, bottom, left, bottom - k, left, bottom - r)
        pen.line(left, top + r)
        pen.cubic(left, top + k, left + k, top, left + r, top)
    pen.finish()
    return Region.from_path(pen.path)


def disc(at: Point, radius: float) -> Region:
    """A full circle."""
    return rectangle((at[0] - radius, at[1] - radius, at[0] + radius, at[1] + radius), radius)
