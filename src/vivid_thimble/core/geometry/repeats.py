"""Outlines that lie on each other all along, whatever their direction or start."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.pauses import pause


def repeats(contours: Sequence[Contour], within: float) -> Iterator[tuple[int, int, float]]:
    """Pairs (one, other, length) of contours that stay within a distance of each other.

    Each contour is paired with at most one that comes before it when they are sorted by their boxes;
    contours without segments are left out.
    """
    drawn = [k for k, contour in enumerate(contours) if len(contour)]
    if len(drawn) < 2:
        return
    boxes = {k: _box(contours[k]) for k in drawn}
    order = sorted(drawn, key=lambda k: (*boxes[k], k))
    lines: dict[int, shapely.Geometry] = {}
    for rank, k in enumerate(order):
        pause()
        for j in order[:rank][::-1]:
            if boxes[k][0] - boxes[j][0] > within:
                break
            if max(abs(a - b) for a, b in zip(boxes[k], boxes[j], strict=True)) <= within:
                if not _same_line(contours, j, k, lines, within):
                    continue
                yield j, k, float(lines[k].length)
                break


def _box(contour: Contour) -> tuple[float, float, float, float]:
    pause()
    box = Path((contour,)).bounds
    assert box is not None
    return box


def _same_line(contours: Sequence[Contour], j: int, k: int, lines: dict[int, shapely.Geometry], within: float) -> bool:
    for index in (j, k):
        if index not in lines:
            points = flatten(Path((contours[index],))).points
            if contours[index].closed:
                points = np.concatenate([points, points[:1]])
            lines[index] = shapely.LineString(points)
    if abs(lines[j].length - lines[k].length) > 0.05 * lines[k].length + within:
        return False
    return bool(shapely.hausdorff_distance(lines[j], lines[k]) <= within)
