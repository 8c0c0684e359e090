"""Which area lies in which: the smallest one round each of many others."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.flatten import IntArray

GeometryArray = NDArray[np.object_]


def smallest_around(inner: GeometryArray, outer: GeometryArray) -> IntArray:
    """For each inner polygon the smallest outer polygon that holds it (-1: none), as (n,) indices.

    Boundaries of the two may touch but not cross. Points inside the inner ones go into the search
    tree and the outer ones are the queries: that is many times faster than the other way round.
    An outer polygon no larger than the inner one does not hold it, it lies inside it.
    """
    around = np.full(len(inner), -1, dtype=np.int64)
    if not len(inner) or not len(outer):
        return around
    holder, held = shapely.STRtree(shapely.point_on_surface(inner)).query(outer, predicate="contains")
    areas = shapely.area(outer)
    larger = areas[holder] > shapely.area(inner)[held]
    holder, held = holder[larger], held[larger]
    largest_first = np.argsort(-areas[holder], kind="stable")
    around[held[largest_first]] = holder[largest_first]  # the smallest is written last
    return around
