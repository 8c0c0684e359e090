"""Plain shapes: rectangles with round corners, ellipses, circles, as outlines and as regions."""

from __future__ import annotations

import math

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Box, Contour, Path, contour_from_segments, line_segments
from vivid_thimble.core.geometry.path_text import EIGHTH, arc_cubics
from vivid_thimble.core.geometry.region import Region

Point = tuple[float, float]


def ellipse_path(cx: float, cy: float, rx: float, ry: float) -> Path:
    """From its rightmost point on; empty without extent."""
    if rx <= 0.0 or ry <= 0.0:
        return Path()
    arcs = np.array(arc_cubics(0.0, 2 * math.pi, EIGHTH)) * [rx, ry] + [cx, cy]
    contour = contour_from_segments(list(arcs), [False] * len(arcs), closed=True)
    return Path((contour,)) if contour else Path()


def rectangle_path(x: float, y: float, width: float, height: float, rx: float = 0.0, ry: float = 0.0) -> Path:
    """With corners of radii ``rx`` and ``ry`` (at most half a side); empty without extent."""
    if width <= 0.0 or height <= 0.0:
        return Path()
    rx, ry = min(max(rx, 0.0), width / 2), min(max(ry, 0.0), height / 2)
    if rx == 0.0 or ry == 0.0:
        return Path(
            (Contour.from_points(np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]])),)
        )
    centres = [
        (x + width - rx, y + ry, -90),
        (x + width - rx, y + height - ry, 0),
        (x + rx, y + height - ry, 90),
        (x + rx, y + ry, 180),
    ]
    segments: list[FloatArray] = []
    lines: list[bool] = []
    at = np.array([x + rx, y])  # where SVG begins it; dashes count from there
    for cx, cy, angle in centres:
        arc = arc_cubics(math.radians(angle), math.pi / 2)[0] * [rx, ry] + [cx, cy]
        segments += [line_segments(at[None], arc[0][None])[0], arc]
        lines += [True, False]
        at = arc[3]
    segments[-1][3] = segments[0][0]
    contour = contour_from_segments(segments, lines, closed=True)
    return Path((contour,)) if contour else Path()


def rectangle(box: Box, radius: float = 0.0) -> Region:
    """A rectangle, its corners rounded by ``radius`` mm (at most half its shorter side)."""
    left, top, right, bottom = box
    radius = min(radius, (right - left) / 2.0, (bottom - top) / 2.0)
    return Region.from_path(rectangle_path(left, top, right - left, bottom - top, radius, radius))


def ellipse(box: Box) -> Region:
    """The ellipse that fills a box."""
    left, top, right, bottom = box
    rx, ry = (right - left) / 2.0, (bottom - top) / 2.0
    return Region.from_path(ellipse_path(left + rx, top + ry, rx, ry))


def disc(at: Point, radius: float) -> Region:
    """A full circle."""
    return Region.from_path(ellipse_path(*at, radius, radius))
