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
from vivid_thimble.core.geometry.containment import smallest_around
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
SLIVER_STEPS = 4.0
"""What is no wider than this many grid steps comes from rounding, not from a drawing."""


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
    upright = _is_wide(subjects, clips)
    given = [_add(kernel, ring, pyclipper.PT_SUBJECT, upright=upright) for ring in subjects]
    if not any(given):
        return []
    for ring in clips:
        _add(kernel, ring, pyclipper.PT_CLIP, upright=upright)
    rule_code = _RULES[rule]
    rings = [np.array(ring, dtype=np.float64) for ring in kernel.Execute(_OPERATIONS[operation], rule_code, rule_code)]
    return _nested([ring[::-1, ::-1].copy() for ring in rings] if upright else rings)


def _is_wide(subjects: Sequence[FloatArray], clips: Sequence[FloatArray]) -> bool:
    """Whether all rings together are wider than high. The kernel sweeps from top to bottom and is slow where many edges
    lie side by side, as in a line of words: then it gets them with x and y swapped."""
    boxes = [(ring.min(axis=0), ring.max(axis=0)) for ring in (*subjects, *clips) if len(ring)]
    if not boxes:
        return False
    low = np.min([box[0] for box in boxes], axis=0)
    wide, high = np.max([box[1] for box in boxes], axis=0) - low
    return bool(wide > high)


def is_sliver(ring: FloatArray) -> bool:
    """Whether a ring in grid steps holds nothing but rounding: no area, or only a hair's width of it."""
    if len(ring) < 3:
        return True
    around = float(np.hypot(*(ring - np.roll(ring, 1, axis=0)).T).sum()) * GRID_MM
    return abs(ring_area_mm2(ring)) <= max(SMALLEST_RING_MM2, SLIVER_STEPS * GRID_MM * around / 2.0)


def _add(kernel: Any, ring: FloatArray, role: int, *, upright: bool) -> bool:
    """Hand a ring to the kernel; False for one without area, which the kernel refuses."""
    if len(ring) < 3:
        return False
    try:
        points = ring[:, ::-1] if upright else ring
        return bool(kernel.AddPath(points.astype(np.int64).tolist(), role, True))
    except pyclipper.ClipperException:
        return False


def _nested(rings: list[FloatArray]) -> NestedRings:
    """Give every hole (a ring that winds backwards) to the smallest outer ring round it.

    The kernel's own nesting tree is not used: such trees were seen to lose holes that touch their outer ring.
    """
    rings = [ring for ring in rings if not is_sliver(ring)]
    outers = [k for k, ring in enumerate(rings) if ring_area_mm2(ring) > 0.0]
    holes = [k for k, ring in enumerate(rings) if ring_area_mm2(ring) < 0.0]
    nested = {k: [rings[k]] for k in outers}
    if not holes:
        return list(nested.values())
    around = smallest_around(_simple(rings, holes), _simple(rings, outers))
    for hole, owner in zip(holes, around.tolist(), strict=True):
        if owner >= 0:
            nested[outers[owner]].append(rings[hole])
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
    """Shapely polygons in mm from nested rings in grid steps, each valid by itself.

    The kernel may return rings that touch themselves in a vertex; those are rebuilt.
    """
    return checked_multipolygon(nested)[0]


def checked_multipolygon(nested: NestedRings) -> tuple[MultiPolygon, bool]:
    """As as_multipolygon, and whether they are valid together, too: no two of them share an edge."""
    polygons = np.array(
        [Polygon(rings[0] * GRID_MM, [hole * GRID_MM for hole in rings[1:]]) for rings in nested],
        dtype=object,
    )
    whole = MultiPolygon(list(polygons))
    if whole.is_valid:
        return whole, True
    valid = shapely.is_valid(polygons)
    if valid.all():
        return whole, False
    mended = [sound(p) for p in polygons[~valid]]
    whole = polygons_of(shapely.union_all([*polygons[valid], *mended]))
    return whole, bool(whole.is_valid)


def sound(geometry: Any) -> MultiPolygon:
    """Polygons that are valid: those that rounding let touch or cross themselves are put in order."""
    if not shapely.is_valid(geometry):
        geometry = shapely.make_valid(geometry, method="structure", keep_collapsed=False)
    return polygons_of(geometry)


def polygons_of(geometry: Any) -> MultiPolygon:
    """Only the polygons of any shapely geometry; lines and points carry no film."""
    parts = [p for p in shapely.get_parts([geometry]).tolist() if p.geom_type in ("Polygon", "MultiPolygon")]
    flat = [q for p in parts for q in shapely.get_parts([p]).tolist() if not q.is_empty]
    return MultiPolygon(flat)
