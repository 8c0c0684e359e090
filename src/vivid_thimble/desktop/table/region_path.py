"""Regions as painter paths, filled from a NumPy buffer.

QPainterPath has no call for many points at once, but it reads itself from a data
stream; writing that stream with NumPy is several times faster than calls per point.
Layout of the stream (big endian): element count, then per element its type (0 move,
1 line) and x, y as doubles, then the start of the current subpath, then the fill rule.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from PySide6.QtCore import QByteArray, QDataStream, QIODevice
from PySide6.QtGui import QPainterPath
from shapely import MultiPolygon

_ELEMENT = np.dtype([("type", ">i4"), ("x", ">f8"), ("y", ">f8")])


def painter_path(polygons: MultiPolygon, tolerance: float = 0.0) -> QPainterPath:
    """All rings as closed subpaths with the even-odd rule; ``tolerance`` mm thins the points out."""
    shown = shapely.simplify(polygons, tolerance, preserve_topology=False) if tolerance > 0.0 else polygons
    rings = shapely.get_rings(shapely.get_parts(shown))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]]) if len(points) else np.zeros(0, dtype=np.int64)
    return path_of_rings(points, np.append(starts, len(points)))


def path_of_rings(points: NDArray[np.float64], starts: NDArray[np.int64]) -> QPainterPath:
    """Points (n, 2), ring after ring, of which each begins at one of ``starts`` (the last of them is n)."""
    if not len(points):
        return QPainterPath()
    elements = np.empty(len(points), dtype=_ELEMENT)
    elements["type"] = 1
    elements["type"][starts[:-1]] = 0
    elements["x"], elements["y"] = points[:, 0], points[:, 1]
    head, tail = np.array([len(points)], dtype=">i4"), np.array([starts[-2], 0], dtype=">i4")
    data = QByteArray(head.tobytes() + elements.tobytes() + tail.tobytes())  # the stream only points at it
    stream = QDataStream(data, QIODevice.OpenModeFlag.ReadOnly)
    path = QPainterPath()
    stream >> path
    return path
