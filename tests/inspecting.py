"""Shapes inspected against usual limits."""

from __future__ import annotations

import shapely

from tests.shapes import turned
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape

LIMITS = Limits(line=0.8, gap=0.5, area=2.0, circle=1.2)


def inspected(shape: shapely.Geometry, *, is_sheet: bool = False) -> Inspection:
    polygons = turned(shape, 0.0)
    left, top, right, bottom = polygons.bounds
    room = 0.0 if is_sheet else 5.0
    return inspect_shape(
        polygons, LIMITS, is_sheet=is_sheet, weeding_box=(left - room, top - room, right + room, bottom + room)
    )
