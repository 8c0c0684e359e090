"""Faults of source outlines: left open, or drawn twice.

Both are judged on the outlines as they came, at the final size, before any boolean
heals them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path

SAME_PLACE_MM = 0.05
"""Outlines that stay this close all along are the same line drawn twice."""
CLOSED_MM = 0.01
"""An outline whose ends are this close is closed."""


@dataclass(frozen=True)
class OpenOutline:
    at: tuple[float, float]
    gap: float

    def shifted(self, dx: float, dy: float) -> OpenOutline:
        return OpenOutline((self.at[0] + dx, self.at[1] + dy), self.gap)


@dataclass(frozen=True)
class DoubledOutline:
    at: tuple[float, float]
    length: float

    def shifted(self, dx: float, dy: float) -> DoubledOutline:
        return DoubledOutline((self.at[0] + dx, self.at[1] + dy), self.length)


def open_outlines(path: Path) -> list[OpenOutline]:
    """Outlines whose ends do not meet, with the distance between the ends."""
    found = []
    for contour in path.contours:
        if contour.closed or not len(contour):
            continue
        start, end = contour.segments[0, 0], contour.segments[-1, 3]
        gap = float(np.hypot(*(end - start)))
        if gap > CLOSED_MM:
            found.append(OpenOutline((float(start[0]), float(start[1])), gap))
    return found


def doubled_outlines(path: Path) -> list[DoubledOutline]:
    """Outlines that repeat an earlier one within SAME_PLACE_MM, whatever their direction or start."""
    contours = [c for c in path.contours if len(c)]
    if len(contours) < 2:
        return []
    boxes = np.array([_box(c) for c in contours])
    order = np.lexsort(boxes.T[::-1])
    lines: dict[int, shapely.Geometry] = {}
    found = []
    for rank, k in enumerate(order.tolist()):
        for j in order[:rank][::-1].tolist():
            if boxes[k, 0] - boxes[j, 0] > SAME_PLACE_MM:
                break
            if np.abs(boxes[k] - boxes[j]).max() <= SAME_PLACE_MM and _same_line(contours, j, k, lines):
                at = contours[k].segments[0, 0]
                found.append(DoubledOutline((float(at[0]), float(at[1])), float(lines[k].length)))
                break
    return sorted(found, key=lambda d: d.at)


def _box(contour: Contour) -> tuple[float, float, float, float]:
    box = Path((contour,)).bounds
    assert box is not None
    return box


def _same_line(contours: list[Contour], j: int, k: int, lines: dict[int, shapely.Geometry]) -> bool:
    for index in (j, k):
        if index not in lines:
            points = flatten(Path((contours[index],))).points
            if contours[index].closed:
                points = np.concatenate([points, points[:1]])
            lines[index] = shapely.LineString(points)
    if abs(lines[j].length - lines[k].length) > 0.05 * lines[k].length + SAME_PLACE_MM:
        return False
    return bool(shapely.hausdorff_distance(lines[j], lines[k]) <= SAME_PLACE_MM)
