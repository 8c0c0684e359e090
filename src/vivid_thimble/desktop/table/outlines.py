"""Rings of points ready for painting at any scale: thinned out for the scale, cut down to what is seen.

Both ways work on whole arrays, so a million points cost some tens of milliseconds, and neither needs
valid polygons: what they yield is filled even-odd (or non-zero) by the painter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainterPath

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.desktop.table.region_path import path_of_rings

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int64]
THIN_PX = 0.35
"""Points nearer to each other than this are one."""
ROOM_SHARE = 0.5
"""A path is made for so much more than what is seen, so that panning does not make it anew."""


class Outlines:
    """``points`` (n, 2) in mm, ring after ring; ``starts`` (rings + 1,): where each ring begins."""

    def __init__(self, points: FloatArray, starts: IntArray, *, winding: bool = False) -> None:
        self.points, self.starts, self.winding = points, starts, winding
        self._path: tuple[float, Box, QPainterPath] | None = None

    @classmethod
    def of(cls, polygons: shapely.MultiPolygon, *, winding: bool = False) -> Outlines:
        """``winding``: fill with the non-zero rule."""
        rings = shapely.get_rings(shapely.get_parts(polygons))
        points, ring = shapely.get_coordinates(rings, return_index=True)
        starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]]) if len(points) else np.zeros(0, dtype=np.int64)
        return cls(points, np.append(starts, len(points)).astype(np.int64), winding=winding)

    @classmethod
    def of_each(cls, shapes: Sequence[shapely.MultiPolygon]) -> list[Outlines]:
        """One for each shape, all taken apart together: a job may have a thousand of them."""
        if not shapes:
            return []
        parts, owner = shapely.get_parts(np.asarray(shapes, dtype=object), return_index=True)
        rings, part = shapely.get_rings(parts, return_index=True)
        points, ring = shapely.get_coordinates(rings, return_index=True)
        counts = np.bincount(ring, minlength=len(rings))
        ends = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
        shape_of_ring = owner[part]
        first = np.searchsorted(shape_of_ring, np.arange(len(shapes) + 1))
        return [
            cls(points[ends[a] : ends[b]], ends[a : b + 1] - ends[a])
            for a, b in zip(first[:-1], first[1:], strict=True)
        ]

    def __len__(self) -> int:
        return len(self.points)

    def thinned(self, step: float) -> Outlines:
        """Without points that lie in the same cell of ``step`` mm as the one before; specks below a cell vanish."""
        if not len(self.points):
            return self
        cells = np.floor(self.points / step).astype(np.int64)
        keep = np.ones(len(cells), dtype=bool)
        keep[1:] = (cells[1:] != cells[:-1]).any(axis=1)
        keep[self.starts[:-1]] = True
        return self._kept(keep)

    def within(self, box: Box) -> Outlines:
        """What matters inside a box: rings beside it are left out, and runs of points in one of the eight zones round
        it shrink to their ends, which leaves everything inside as it was."""
        if not len(self.points):
            return self
        left, top, right, bottom = box
        x, y = self.points[:, 0], self.points[:, 1]
        zone = ((x < left) | ((x > right) << 1) | ((y < top) << 2) | ((y > bottom) << 3)).astype(np.uint8)
        beside = np.bitwise_and.reduceat(zone, self.starts[:-1]) != 0
        before = np.roll(zone, 1)
        after = np.roll(zone, -1)
        before[self.starts[:-1]] = zone[self.starts[1:] - 1]
        after[self.starts[1:] - 1] = zone[self.starts[:-1]]
        keep = (zone == 0) | (before != zone) | (after != zone)
        keep &= ~np.repeat(beside, np.diff(self.starts))
        return self._kept(keep)

    def _kept(self, keep: NDArray[np.bool_]) -> Outlines:
        """Only some points; rings that are left with fewer than three go."""
        if keep.all():
            return self
        counts = np.add.reduceat(keep.astype(np.int64), self.starts[:-1])
        whole = counts >= 3
        keep = keep & np.repeat(whole, np.diff(self.starts))
        starts = np.concatenate([[0], np.cumsum(counts[whole])]).astype(np.int64)
        return Outlines(self.points[keep], starts, winding=self.winding)

    def path(self) -> QPainterPath:
        """All of it."""
        path = path_of_rings(self.points, self.starts)
        if self.winding:
            path.setFillRule(Qt.FillRule.WindingFill)
        return path

    def seen(self, px_per_mm: float, view: Box) -> QPainterPath:
        """What is needed to paint a view at a scale; kept until either changes much."""
        level = level_of(px_per_mm)
        if self._path is not None:
            known, box, path = self._path
            if known == level and box[0] <= view[0] and box[1] <= view[1] and box[2] >= view[2] and box[3] >= view[3]:
                return path
        across, down = ROOM_SHARE * (view[2] - view[0]), ROOM_SHARE * (view[3] - view[1])
        box = view[0] - across, view[1] - down, view[2] + across, view[3] + down
        path = self.within(box).thinned(step_of(level)).path()
        self._path = level, box, path
        return path


def level_of(px_per_mm: float) -> float:
    """The power of two below a scale: shapes are thinned out once for a range of scales."""
    return float(2.0 ** math.floor(math.log2(px_per_mm)))


def step_of(level: float) -> float:
    """How near points may lie in mm at the largest scale of a level."""
    return THIN_PX / (2.0 * level)
