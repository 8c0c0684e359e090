"""The other way round: keep the size, and thicken by as little as passes.

A line of width w reaches the limit L when every edge moves out by (L - w) / 2; the answer is
confirmed by inspecting the thickened shape, and it tells what the thickening closes.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.offset import quadrant_segments
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import SURROUND_MM, waste_pieces

ROOM_MM = 0.005
"""A little more than computed, so that rounding leaves no finding."""
TRIES, MORE = 5, 1.15
"""When places remain the distance grows by this factor, so many times."""
LINE_KINDS = ("thin-line", "thin-neck", "small-piece")


@dataclass(frozen=True, eq=False)
class Thickening:
    """Every edge of kept film moves out by ``by`` mm. What then closes, gets too narrow, or stays."""

    by: float
    closed_counters: int
    narrowed_gaps: int
    stays: int
    """Thin lines, necks and small pieces that no thickening cured."""
    area_share: float
    """Area after over area before."""


def smallest_thickening(
    polygons: MultiPolygon, inspection: Inspection, limits: Limits, *, is_sheet: bool
) -> Thickening | None:
    """The smallest thickening after which no line, neck or piece is below its limit; None when none is."""
    by = _first_guess(inspection, limits)
    if by <= 0.0:
        return None
    for _ in range(TRIES):
        grown = _grown(polygons, by + ROOM_MM)
        after = _inspected(grown, limits, is_sheet=is_sheet)
        stays = sum(1 for f in after.findings if f.kind in LINE_KINDS and f.severity == "stop")
        if stays == 0:
            break
        by *= MORE
    return Thickening(
        by=by + ROOM_MM,
        closed_counters=_closed(polygons, grown),
        narrowed_gaps=max(_narrow(after) - _narrow(inspection), 0),
        stays=stays,
        area_share=float(grown.area / polygons.area),
    )


def _first_guess(inspection: Inspection, limits: Limits) -> float:
    """From the widths alone: half of what the thinnest line lacks, and what the smallest pieces lack."""
    lacks = [(limits.line - place.thinnest) / 2.0 for place in inspection.lines.places if not place.is_needle]
    for finding in inspection.findings:
        if finding.kind == "small-piece" and finding.area is not None:
            radius = np.sqrt(finding.area / np.pi)
            lacks.append(float(np.sqrt(limits.area / np.pi) - radius))
            if finding.width is not None:
                lacks.append((limits.circle - finding.width) / 2.0)
    return max(lacks, default=0.0)


def _grown(polygons: MultiPolygon, by: float) -> MultiPolygon:
    return polygons_of(shapely.buffer(polygons, by, quad_segs=quadrant_segments(by)))


def _inspected(polygons: MultiPolygon, limits: Limits, *, is_sheet: bool) -> Inspection:
    left, top, right, bottom = polygons.bounds
    room = 0.0 if is_sheet else SURROUND_MM
    box = (left - room, top - room, right + room, bottom + room)
    return inspect_shape(polygons, limits, is_sheet=is_sheet, weeding_box=box)


def _closed(before: MultiPolygon, after: MultiPolygon) -> int:
    """Counters that nothing is left of."""
    box = after.bounds
    counters = [p.polygon for p in waste_pieces(before, box, 0.0) if not p.is_surround]
    rest = shapely.get_parts(shapely.difference(shapely.box(*box), after))
    if not counters:
        return 0
    holders = np.unique(shapely.STRtree(rest).query(counters, predicate="intersects")[0]) if len(rest) else ()
    return len(counters) - len(holders)


def _narrow(inspection: Inspection) -> int:
    return sum(1 for f in inspection.findings if f.kind == "thin-gap" and f.severity == "stop")
