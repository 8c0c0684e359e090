"""Points where film touches film exactly: width 0, which no width field can see."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.inspect.places import ThinPlace


def touching_points(polygons: MultiPolygon) -> list[ThinPlace]:
    """Vertices shared by two rings or visited twice by one, and vertices lying on another's edge."""
    rings, polygon_of = shapely.get_rings(shapely.get_parts(polygons), return_index=True)
    if not len(rings):
        return []
    points, ring_of = shapely.get_coordinates(rings, return_index=True)
    last = np.r_[ring_of[1:] != ring_of[:-1], True]
    points, ring_of = points[~last], ring_of[~last]
    keys = np.rint(points / TOUCH_MM).astype(np.int64)
    order = np.lexsort((keys[:, 1], keys[:, 0]))
    same = (keys[order[1:]] == keys[order[:-1]]).all(axis=1)
    i, j = order[:-1][same], order[1:][same]
    apart = (ring_of[i] != ring_of[j]) | (np.abs(i - j) > 1)
    found = {}
    for a, b in zip(i[apart].tolist(), j[apart].tolist(), strict=True):
        at = (float(points[a, 0]), float(points[a, 1]))
        found[at] = ThinPlace(
            thinnest=0.0,
            at=at,
            ends=(at, at),
            mean=0.0,
            length=0.0,
            open_ends=2,
            is_needle=False,
            polygons=(int(polygon_of[ring_of[a]]), int(polygon_of[ring_of[b]])),
        )
    return [found[at] for at in sorted(found)]
