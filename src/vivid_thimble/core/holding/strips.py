"""Strips of film that hold two pieces together.

A strip runs along the shortest way between two pieces and reaches only as far into both as its neck
needs, so nothing changes elsewhere.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.holding.necks import holds

REACHES = (0.25, 0.5, 1.0, 1.5, 2.5)
"""How far a strip reaches into both pieces, as shares of its width: the first that holds is taken."""
NEARLY_SHARE = 0.1
"""Ways that are longer than the shortest by this share of it, and of the width, count as equally short."""
DISC_SHARE = 0.75
"""Pieces that touch already are held by a disc of this share of the width as radius."""


def straight_strip(start: FloatArray, end: FloatArray, width: float, beyond: float = 0.0) -> shapely.Polygon:
    """The rectangle ``width`` wide along a line and ``beyond`` longer at both ends; level for one without length."""
    (strip,) = straight_strips(start[None], end[None], np.array([width]), np.array([beyond]))
    return strip


def straight_strips(
    starts: FloatArray, ends: FloatArray, widths: FloatArray, beyond: FloatArray
) -> NDArray[np.object_]:
    """As straight_strip for many lines at once: ``starts`` and ``ends`` (n, 2), ``widths`` and ``beyond`` (n,)."""
    way = ends - starts
    length = np.hypot(*way.T)
    unit = np.where(length[:, None] > 1e-9, way / np.maximum(length, 1e-9)[:, None], np.array([1.0, 0.0]))
    side = np.stack([-unit[:, 1], unit[:, 0]], axis=1) * (widths / 2.0)[:, None]
    first, last = starts - unit * beyond[:, None], ends + unit * beyond[:, None]
    return np.asarray(shapely.polygons(np.stack([first + side, last + side, last - side, first - side], axis=1)))


def strip_between(left: shapely.Geometry, right: shapely.Geometry, width: float) -> shapely.Polygon | None:
    """The strip that holds two pieces together by ``width``; None when they hold already or one is empty."""
    if left.is_empty or right.is_empty or holds(left, right, width):
        return None
    ends = _shortest_way(left, right, width)
    way = ends[1] - ends[0]
    length = float(np.hypot(*way))
    if length < 1e-6:
        return shapely.buffer(shapely.Point(ends[0]), DISC_SHARE * width)
    strip = None
    for reach in REACHES:
        strip = straight_strip(ends[0], ends[1], width, reach * width)
        if holds(left, shapely.union(strip, right), 0.999 * width) and holds(
            shapely.union(left, strip), right, 0.999 * width
        ):
            break
    return strip


def _shortest_way(left: shapely.Geometry, right: shapely.Geometry, width: float) -> FloatArray:
    """Both ends of the shortest way; where walls run side by side, its middle."""
    distance = shapely.distance(left, right)
    if distance <= 0.0:
        return np.asarray(shapely.get_coordinates(shapely.shortest_line(left, right)))
    near = shapely.intersection(right, shapely.buffer(left, distance + NEARLY_SHARE * (distance + width)))
    middle = max(shapely.get_parts(near), key=lambda piece: piece.area).centroid
    start = shapely.get_coordinates(shapely.shortest_line(left, middle))[0]
    return np.asarray(shapely.get_coordinates(shapely.shortest_line(shapely.Point(start), right)))
