"""What is seen of shapes that lie many layers deep, against a picture painted point by point."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from vivid_thimble.core.pauses import Stopped, watched
from vivid_thimble.core.sources.painting import MOST_TOGETHER, PaintedArea, visible_by_colour

COLOURS = ((200, 0, 0), (0, 160, 0), (0, 0, 220))


def heap(count: int, seed: int) -> list[PaintedArea]:
    rng = np.random.default_rng(seed)
    areas = []
    for k in range(count):
        x, y, r = (*rng.uniform(0.0, 60.0, 2), rng.uniform(3.0, 12.0))
        areas.append(PaintedArea(COLOURS[k % 3], 1.0, shapely.MultiPolygon([shapely.Point(x, y).buffer(r)])))
    return areas


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_each_point_shows_the_topmost_shape(seed: int) -> None:
    areas = heap(140, seed)
    seen = visible_by_colour(areas)
    points = shapely.points(np.random.default_rng(seed + 50).uniform(-5.0, 65.0, (3000, 2)))
    top = np.full(len(points), -1)
    for k, one in enumerate(areas):
        top[shapely.contains(one.area, points)] = k
    edges = shapely.union_all([shapely.boundary(one.area) for one in areas])
    clear = shapely.distance(points, edges) > 1e-6
    for number, colour in enumerate(COLOURS):
        shown = shapely.contains(seen[colour], points)
        assert (shown == ((top >= 0) & (top % 3 == number)))[clear].all()
    assert len(areas) > 10 * MOST_TOGETHER, "deep enough for taking away one by one"


def test_it_can_be_left_in_between() -> None:
    def leave(doing: str) -> None:
        raise Stopped

    with watched(leave), pytest.raises(Stopped):
        visible_by_colour(heap(60, 4))
