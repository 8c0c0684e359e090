"""Booleans of rings on an integer grid, by the Clipper2 kernel.

Only this module knows the kernel. Rings go in and come out as float64 arrays that
hold whole numbers of grid steps, so a vertex that no crossing touched comes back
exactly as it went in (``recover`` depends on that).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, Literal

import numpy as np
import pyclipr
import shapely
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.tolerances import GRID_MM

Operation = Literal["union", "difference", "intersection", "xor"]
FillRule = Literal["nonzero", "evenodd"]
NestedRings = list[list[FloatArray]]
"""One entry a polygon: its outer ring, then its holes."""

_OPERATIONS: dict[Operation, Any] = {
    "union": pyclipr.Union,
    "difference": pyclipr.Difference,
    "intersection": pyclipr.Intersection,
    "xor": pyclipr.Xor,
}
_RULES: dict[FillRule, Any] = {
    "nonzero": pyclipr.FillRule.NonZero,
    "evenodd": pyclipr.FillRule.EvenOdd,
}
SMALLEST_RING_MM2 = 1e-7
"""Rings below this area are rounding dust of the grid."""


def to_grid(points: FloatArray) -> FloatArray:
    """Whole numbers of grid steps, as float64."""
    return np.rint(points / GRID_MM)


def combine(
    operation: Operation,
    subjects: Sequence[FloatArray],
    clips: Sequence[FloatArray] = (),
    rule: FillRule = "nonzero",
) -> NestedRings:
    """Boolean of rings in grid steps (each (n, 2)); one fill rule holds for both sides."""
    kernel = pyclipr.Clipper()
    kernel.scaleFactor = 1
    kernel.preserveCollinear = True
    usable = [ring for ring in subjects if len(ring) >= 3]
    if not usable:
        return []
    kernel.addPaths(usable, pyclipr.Subject)
    against = [ring for ring in clips if len(ring) >= 3]
    if against:
        kernel.addPaths(against, pyclipr.Clip)
    tree = kernel.executeTree(_OPERATIONS[operation], _RULES[rule])
    return [polygon for polygon in _polygons_of(tree) if polygon]


def _polygons_of(tree: Any) -> Iterable[list[FloatArray]]:
    """Walk the nesting tree: every other level is an outer ring, its children are holes."""
    pending = list(tree.children)
    while pending:
        outer = pending.pop()
        rings = [np.asarray(outer.polygon)]
        for hole in outer.children:
            if _ring_area_mm2(np.asarray(hole.polygon)) > SMALLEST_RING_MM2:
                rings.append(np.asarray(hole.polygon))
            pending.extend(hole.children)
        if _ring_area_mm2(rings[0]) > SMALLEST_RING_MM2:
            yield rings


def _ring_area_mm2(ring: FloatArray) -> float:
    """Absolute area of a ring in grid steps, in mm2 (shoelace about the first vertex)."""
    if len(ring) < 3:
        return 0.0
    x, y = (ring - ring[0]).T
    return float(abs(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1]))) / 2.0 * GRID_MM * GRID_MM


def as_multipolygon(nested: NestedRings) -> MultiPolygon:
    """Valid shapely polygons in mm from nested rings in grid steps.

    The kernel may return rings that touch themselves in a vertex; those are rebuilt.
    """
    polygons = np.array(
        [Polygon(rings[0] * GRID_MM, [hole * GRID_MM for hole in rings[1:]]) for rings in nested],
        dtype=object,
    )
    valid = shapely.is_valid(polygons) if len(polygons) else np.zeros(0, dtype=bool)
    if valid.all():
        return MultiPolygon(list(polygons))
    mended = [shapely.make_valid(p, method="structure", keep_collapsed=False) for p in polygons[~valid]]
    return polygons_of(shapely.union_all([*polygons[valid], *mended]))


def polygons_of(geometry: Any) -> MultiPolygon:
    """Only the polygons of any shapely geometry; lines and points carry no film."""
    parts = [p for p in shapely.get_parts([geometry]).tolist() if p.geom_type in ("Polygon", "MultiPolygon")]
    flat = [q for p in parts for q in shapely.get_parts([p]).tolist() if not q.is_empty]
    return MultiPolygon(flat)
