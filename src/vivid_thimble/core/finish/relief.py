"""Relief cuts: straight cuts through the surround, so that it comes off in manageable strips.

One neat line through the waist of the design crosses the surround from edge to edge of the weeding
box, stopping short of every kept piece. Where the design leaves whole columns free, it is parted
there as well.
"""

from __future__ import annotations

import numpy as np
import shapely
from shapely import LineString, MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Box

CLEAR_MM = 0.6
"""A relief cut ends this far from kept film."""
SHORTEST_MM = 2.0
"""Shorter stretches are left out."""
STRIP_MM = 120.0
"""Strips of waste longer than this are parted where the design leaves room."""
LINES = 41
"""Heights tried for the line through the waist."""
MIDDLE = (0.3, 0.7)
"""The waist lies between these shares of the height."""


def relief_cuts(kept: MultiPolygon, box: Box, surround: shapely.Polygon) -> tuple[LineString, ...]:
    """Straight cuts (mm) through the ``surround`` inside a weeding ``box``; none for empty film."""
    if kept.is_empty:
        return ()
    room = shapely.difference(surround, shapely.buffer(kept, CLEAR_MM, quad_segs=4))
    return (*_waist(kept, box, room), *_columns(kept, box))


def _waist(kept: MultiPolygon, box: Box, room: shapely.Geometry) -> list[LineString]:
    """The height whose line meets the least film, as its stretches through the surround."""
    left, top, right, bottom = box
    low, high = (kept.bounds[1] + share * (kept.bounds[3] - kept.bounds[1]) for share in MIDDLE)
    heights = np.linspace(low, high, LINES)
    lines = shapely.linestrings([[(left, y), (right, y)] for y in heights])
    crossed = shapely.length(shapely.intersection(lines, kept))
    off_middle = np.abs(heights - (top + bottom) / 2.0) / (bottom - top)
    best = lines[int(np.argmin(crossed * (1.0 + off_middle)))]
    stretches = shapely.get_parts(shapely.intersection(best, room))
    return [line for line in stretches if line.geom_type == "LineString" and line.length >= SHORTEST_MM]


def _columns(kept: MultiPolygon, box: Box) -> list[LineString]:
    """Upright cuts through columns that no film reaches, no closer together than STRIP_MM."""
    left, top, right, bottom = box
    cuts, last = [], left
    for a, b in _free_columns(kept):
        middle = (a + b) / 2.0
        if b - a >= 2.0 * CLEAR_MM and middle - last >= STRIP_MM and right - middle >= STRIP_MM / 2.0:
            cuts.append(LineString([(middle, top), (middle, bottom)]))
            last = middle
    return cuts


def _free_columns(kept: MultiPolygon) -> list[tuple[float, float]]:
    """Intervals of x between pieces, from left to right."""
    bounds: FloatArray = shapely.bounds(shapely.get_parts(kept))
    bounds = bounds[np.argsort(bounds[:, 0])]
    reached = np.maximum.accumulate(bounds[:, 2])
    free = np.flatnonzero(bounds[1:, 0] > reached[:-1])
    return [(float(reached[k]), float(bounds[k + 1, 0])) for k in free]
