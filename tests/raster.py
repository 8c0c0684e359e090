"""Shapes as pixels, by counting crossings along rows: an independent look at polygons."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray


def mask(polygons: shapely.MultiPolygon, px_per_mm: float, size: tuple[int, int]) -> NDArray[np.float64]:
    """1 where a pixel's centre lies inside (even-odd), for pixels of (rows, columns) from the origin."""
    rows, columns = size
    rings = shapely.get_rings(shapely.get_parts(polygons))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    a, b = points[:-1][same] * px_per_mm - 0.5, points[1:][same] * px_per_mm - 0.5
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    first = np.clip(np.ceil(low), 0, rows).astype(int)
    count = np.clip(np.ceil(high), 0, rows).astype(int) - first
    edge = np.repeat(np.arange(len(a)), count)
    row = first[edge] + np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
    share = (row - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
    x = a[edge, 0] + share * (b[edge, 0] - a[edge, 0])
    flips = np.zeros((rows, columns + 1), dtype=np.int64)
    np.add.at(flips, (row, np.clip(np.ceil(x), 0, columns).astype(int)), 1)
    return (np.cumsum(flips, axis=1)[:, :columns] % 2).astype(np.float64)
