"""How wide the line or gap is at one place: from the nearest wall straight across to the wall that faces it.

Exact between parallel walls and in round ones through the middle; elsewhere it is the length of the chord
that starts square to the nearest wall.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

Point = tuple[float, float]
WALL_POINTS = 48
"""Walls are cut into runs of so many points, so that few of them are looked at."""
FARTHEST_MM = 5000.0


@dataclass(frozen=True)
class Under:
    """What lies under a place: a line (kept film) or a gap, its width in mm, and both ends of the chord.

    ``width`` None: nothing faces the nearest wall.
    """

    kind: Literal["line", "gap"]
    width: float | None
    ends: tuple[Point, Point]


class Neighbourhood:
    """Films made ready to be asked at many places."""

    def __init__(self, polygons: shapely.MultiPolygon) -> None:
        self._pieces = shapely.get_parts(polygons)
        shapely.prepare(self._pieces)
        self._piece_tree = shapely.STRtree(self._pieces)
        self._walls = _runs(self._pieces)
        self._tree = shapely.STRtree(self._walls)

    def at(self, x: float, y: float, reach: float = FARTHEST_MM) -> Under | None:
        """What lies at a place; None when no wall is within ``reach`` mm."""
        if not len(self._walls):
            return None
        here = shapely.Point(x, y)
        nearest, distance = self._tree.query_nearest(here, max_distance=reach, return_distance=True, all_matches=False)
        if not len(nearest):
            return None
        wall = self._walls[nearest[0]]
        foot = wall.interpolate(wall.project(here))
        inside = len(self._piece_tree.query(here, predicate="within")) > 0
        kind: Literal["line", "gap"] = "line" if inside else "gap"
        away = np.array([x - foot.x, y - foot.y])
        length = float(np.hypot(*away))
        if length < 1e-9:
            return Under(kind, None, ((foot.x, foot.y), (foot.x, foot.y)))
        facing = self._facing((x, y), away / length, reach)
        if facing is None:
            return Under(kind, None, ((foot.x, foot.y), (x, y)))
        width = float(distance[0]) + facing[0]
        return Under(kind, width, ((foot.x, foot.y), facing[1]))

    def _facing(self, start: Point, way: np.ndarray, reach: float) -> tuple[float, Point] | None:
        """The first wall along a ray: how far, and where."""
        end = (start[0] + way[0] * reach, start[1] + way[1] * reach)
        ray = shapely.LineString([start, end])
        met = self._walls[self._tree.query(ray, predicate="intersects")]
        if not len(met):
            return None
        points = shapely.get_coordinates(shapely.intersection(met, ray))
        far = np.hypot(points[:, 0] - start[0], points[:, 1] - start[1])
        first = int(far.argmin())
        return float(far[first]), (float(points[first, 0]), float(points[first, 1]))


def _runs(pieces: np.ndarray) -> np.ndarray:
    """All outlines as short lines that share their ends."""
    rings = shapely.get_rings(pieces)
    runs = []
    for ring in rings:
        points = shapely.get_coordinates(ring)
        runs += [points[k : k + WALL_POINTS + 1] for k in range(0, len(points) - 1, WALL_POINTS)]
    if not runs:
        return np.zeros(0, dtype=object)
    index = np.repeat(np.arange(len(runs)), [len(run) for run in runs])
    return np.asarray(shapely.linestrings(np.concatenate(runs), indices=index))
