"""Booleans of rings on an integer grid, by the Clipper kernel.

Only this module knows the kernel. Rings go in and come out as float64 arrays that
hold whole numbers of grid steps, so a vertex that no crossing touched comes back
exactly as it went in (``recover`` depends on that).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
import pyclipper
import shapely
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.tolerances import GRID_MM

Operation = Literal["union", "difference", "intersection", "xor"]
FillRule = Literal["nonzero", "evenodd"]
NestedRings = list[list[FloatArray]]
"""One entry a polygon: its outer ring, then its holes."""

_OPERATIONS: dict[Operation, int] = {
    "union": pyclipper.CT_UNION,
    "difference": pyclipper.CT_DIFFERENCE,
    "intersection": pyclipper.CT_INTERSECTION,
    "xor": pyclipper.CT_XOR,
}
_RULES: dict[FillRule, int] = {"nonzero": pyclipper.PFT_NONZERO, "evenodd": pyclipper.PFT_EVENODD}
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
    kernel = pyclipper.Pyclipper()
    kernel.PreserveCollinear = True
    given = [_add(kernel, ring, pyclipper.PT_SUBJECT) for ring in subjects]
    if not any(given):
        return []
    for ring in clips:
        _add(kernel, ring, pyclipper.PT_CLIP)
    rule_code = _RULES[rule]
    rings = kernel.Execute(_OPERATIONS[operation], rule_code, rule_code)
    return _nested([np.array(ring, dtype=np.float64) for ring in rings])


def _add(kernel: Any, ring: FloatArray, role: int) -> bool:
    """Hand a ring to the kernel; False for one without area, which the kernel refuses."""
    if len(ring) < 3:
        return False
    try:
        return bool(kernel.AddPath(ring.astype(np.int64).tolist(), role, True))
    except pyclipper.ClipperException:
        return False


def _nested(rings: list[FloatArray]) -> NestedRings:
    """Give every hole (a ring that winds backwards) to the smallest outer ring round it.

    The kernel's own nesting tree is not used: such trees were seen to lose holes that touch their outer ring.
    """
    areas = [ring_area_mm2(ring) for ring in rings]
    outers = [k for k, area in enumerate(areas) if area > SMALLEST_RING_MM2]
    holes = [k for k, area in enumerate(areas) if area < -SMALLEST_RING_MM2]
    nested = {k: [rings[k]] for k in outers}
    if not holes:
        return list(nested.values())
    outer_shapes = _simple(rings, outers)
    probes = shapely.point_on_surface(_simple(rings, holes))
    which, hole = shapely.STRtree(probes).query(outer_shapes, predicate="contains")
    owner: dict[int, int] = {}
    for o, h in zip(which.tolist(), hole.tolist(), strict=True):
        if areas[outers[o]] <= -areas[holes[h]]:
            continue  # an island inside the hole
        if h not in owner or areas[outers[o]] < areas[outers[owner[h]]]:
            owner[h] = o
    for h, o in owner.items():
        nested[outers[o]].append(rings[holes[h]])
    return list(nested.values())


def _simple(rings: list[FloatArray], which: list[int]) -> Any:
    """The chosen rings as polygons that point queries may rely on."""
    shapes = np.array([Polygon(rings[k]) for k in which], dtype=object)
    bad = ~shapely.is_valid(shapes)
    shapes[bad] = [shapely.make_valid(shape) for shape in shapes[bad]]
    return shapes


def ring_area_mm2(ring: FloatArray) -> float:
    """Signed area of a ring in grid steps, in mm2 (shoelace about the first vertex)."""
    if len(ring) < 3:
        return 0.0
    x, y = (ring - ring[0]).T
    return float(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1])) / 2.0 * GRID_MM * GRID_MM


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
