"""Booleans of rings on an integer grid, nested as polygons, by any of the kernels."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.kernels import FillRule, Kernel, Operation, sweep
from vivid_thimble.core.geometry.containment import smallest_around
from vivid_thimble.core.geometry.tolerances import GRID_MM

NestedRings = list[list[FloatArray]]
"""One entry a polygon: its outer ring, then its holes."""
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
    kernel: Kernel = sweep,
) -> NestedRings:
    """Boolean of rings in grid steps (each (n, 2)); one fill rule holds for both sides."""
    return _nested(kernel(operation, subjects, clips, rule))


def _slivers(rings: Sequence[FloatArray]) -> tuple[FloatArray, NDArray[np.bool_]]:
    """Signed areas of rings in mm2, and which are slivers."""
    sizes = np.array([len(ring) for ring in rings])
    points = np.concatenate(rings)
    starts = np.cumsum(sizes) - sizes
    following = np.arange(1, len(points) + 1)
    following[starts + sizes - 1] = starts
    x, y = (points - np.repeat(points[starts], sizes, axis=0)).T
    next_x, next_y = x[following], y[following]
    area = np.add.reduceat(x * next_y - next_x * y, starts) / 2.0 * GRID_MM * GRID_MM
    around = np.add.reduceat(np.hypot(next_x - x, next_y - y), starts) * GRID_MM
    return area, np.abs(area) <= np.maximum(SMALLEST_RING_MM2, SLIVER_STEPS * GRID_MM * around / 2.0)


def _nested(rings: list[FloatArray]) -> NestedRings:
    """Give every hole (a ring that winds backwards) to the smallest outer ring round it.

    The kernel's own nesting tree is not used: such trees were seen to lose holes that touch their outer ring.
    """
    rings = [ring for ring in rings if len(ring) > 2]
    if not rings:
        return []
    area, sliver = _slivers(rings)
    outers = np.flatnonzero(~sliver & (area > 0.0)).tolist()
    holes = np.flatnonzero(~sliver & (area < 0.0)).tolist()
    nested = {k: [rings[k]] for k in outers}
    if not holes:
        return list(nested.values())
    around = smallest_around(_simple(rings, holes), _simple(rings, outers))
    for hole, owner in zip(holes, around.tolist(), strict=True):
        if owner >= 0:
            nested[outers[owner]].append(rings[hole])
    return list(nested.values())


def _simple(rings: list[FloatArray], which: list[int]) -> shapely.Geometry:
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


def checked_multipolygon(nested: NestedRings) -> tuple[MultiPolygon, bool]:
    """Shapely polygons in mm from nested rings in grid steps, and whether they were valid: no two share an edge.

    Kernels may return rings that touch themselves in a vertex; those are rebuilt.
    """
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


def sound(geometry: shapely.Geometry) -> MultiPolygon:
    """Polygons that are valid: those that rounding let touch or cross themselves are put in order."""
    if not shapely.is_valid(geometry):
        geometry = shapely.make_valid(geometry, method="structure", keep_collapsed=False)
    return polygons_of(geometry)


def polygons_of(geometry: shapely.Geometry) -> MultiPolygon:
    """Only the polygons of any shapely geometry; lines and points carry no film."""
    parts = [p for p in shapely.get_parts([geometry]).tolist() if p.geom_type in ("Polygon", "MultiPolygon")]
    flat = [q for p in parts for q in shapely.get_parts([p]).tolist() if not q.is_empty]
    return MultiPolygon(flat)
