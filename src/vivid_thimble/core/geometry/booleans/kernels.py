"""Kernels for booleans of rings on an integer grid: two sweeps, and an arrangement for what both get wrong.

Only this module knows them. Rings go in and come out as float64 arrays that hold whole numbers of grid steps, so a
vertex that no crossing touched comes back exactly as it went in (``recover`` depends on that). Outer rings come back
counter-clockwise, holes clockwise.

The first kernel is Clipper2, by way of a package that has wheels for this platform. On outlines on coarse grids, whose
edges meet in many points, it loses area in one of 500 booleans, its predecessor in one of 270. Neither tells, so
results are checked (see ``cross_check``) and the next kernel is asked when they do not agree.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

import manifold3d
import numpy as np
import pyclipper
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray

Operation = Literal["union", "difference", "intersection", "xor"]
FillRule = Literal["nonzero", "evenodd"]
Kernel = Callable[[Operation, Sequence[FloatArray], Sequence[FloatArray], FillRule], list[FloatArray]]

_STEP = 1e-8
"""The first kernel takes numbers of any kind and puts them on a grid of this size: a step of ours is one of its."""
_NEW_RULES: dict[FillRule, Any] = {
    "nonzero": manifold3d.FillRule.NonZero,
    "evenodd": manifold3d.FillRule.EvenOdd,
}
_NEW_OPERATIONS: dict[Operation, Any] = {
    "union": manifold3d.OpType.Add,
    "difference": manifold3d.OpType.Subtract,
    "intersection": manifold3d.OpType.Intersect,
}
_OLD_OPERATIONS: dict[Operation, int] = {
    "union": pyclipper.CT_UNION,
    "difference": pyclipper.CT_DIFFERENCE,
    "intersection": pyclipper.CT_INTERSECTION,
    "xor": pyclipper.CT_XOR,
}
_OLD_RULES: dict[FillRule, int] = {"nonzero": pyclipper.PFT_NONZERO, "evenodd": pyclipper.PFT_EVENODD}


def sweep(
    operation: Operation, subjects: Sequence[FloatArray], clips: Sequence[FloatArray], rule: FillRule
) -> list[FloatArray]:
    """The usual kernel: Clipper2."""
    upright = _is_wide([*subjects, *clips])

    def area_of(rings: Sequence[FloatArray]) -> Any:
        scaled = [(ring[:, ::-1] if upright else ring) * _STEP for ring in rings if len(ring) > 2]
        return manifold3d.CrossSection(scaled, _NEW_RULES[rule])

    area = area_of(subjects)
    if clips or operation == "intersection":
        other = area_of(clips)
        area = (area - other) + (other - area) if operation == "xor" else _two(area, other, operation)
    rings = [np.rint(ring / _STEP) for ring in area.to_polygons()]
    return [ring[::-1, ::-1].copy() for ring in rings] if upright else rings


def older_sweep(
    operation: Operation, subjects: Sequence[FloatArray], clips: Sequence[FloatArray], rule: FillRule
) -> list[FloatArray]:
    """Its predecessor: slower, wrong in other places."""
    kernel = pyclipper.Pyclipper()
    kernel.PreserveCollinear = True
    upright = _is_wide([*subjects, *clips])
    given = [_add(kernel, ring, pyclipper.PT_SUBJECT, upright=upright) for ring in subjects]
    if not any(given):
        return []
    for ring in clips:
        _add(kernel, ring, pyclipper.PT_CLIP, upright=upright)
    code = _OLD_RULES[rule]
    rings = [np.array(ring, dtype=np.float64) for ring in kernel.Execute(_OLD_OPERATIONS[operation], code, code)]
    return [ring[::-1, ::-1].copy() for ring in rings] if upright else rings


def arrangement(
    operation: Operation, subjects: Sequence[FloatArray], clips: Sequence[FloatArray], rule: FillRule
) -> list[FloatArray]:
    """Cut the plane by all edges and keep the faces that belong: slow, and sure.

    Edges are cut at their crossings by snap rounding; each face is asked at a point inside it how often either side
    winds round it.
    """
    whole = Edges(subjects, clips)
    if not len(whole.a):
        return []
    lines = shapely.linestrings(np.stack([whole.a, whole.b], axis=1))
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all(lines, grid_size=1.0)]))
    if not len(faces):
        return []
    inside = _wound_round(shapely.get_coordinates(shapely.point_on_surface(faces)), whole, lines)
    kept = shapely.union_all(faces[belongs(operation, rule, inside[0], inside[1])])
    polygons = shapely.orient_polygons(np.array([p for p in shapely.get_parts([kept]) if p.geom_type == "Polygon"]))
    return [np.rint(shapely.get_coordinates(ring)[:-1]) for ring in shapely.get_rings(polygons)]


KERNELS: tuple[Kernel, ...] = (sweep, older_sweep, arrangement)


class Edges:
    """Edges of rings: from ``a`` (n, 2) to ``a[following]``, and of which side each is: 0 the subjects, 1 the clips."""

    def __init__(self, *sides: Sequence[FloatArray]) -> None:
        rings = [(ring, k) for k, side in enumerate(sides) for ring in side if len(ring) > 2]
        self.a: FloatArray = np.concatenate([np.zeros((0, 2)), *(ring for ring, _ in rings)])
        sizes = np.array([len(ring) for ring, _ in rings], dtype=np.int64)
        ends = np.cumsum(sizes)
        self.following = np.arange(1, len(self.a) + 1)
        self.following[ends - 1] = ends - sizes
        self.side = np.repeat(np.array([k for _, k in rings], dtype=np.int64), sizes)

    @property
    def b(self) -> FloatArray:
        return np.asarray(self.a[self.following])


def belongs(
    operation: Operation, rule: FillRule, wound: NDArray[np.int64], clip_wound: NDArray[np.int64]
) -> NDArray[np.bool_]:
    """Whether places round which the subjects wind so often, and the clips so often, are in the result."""
    subject, clip = ((w % 2 != 0) if rule == "evenodd" else (w != 0) for w in (wound, clip_wound))
    if operation == "union":
        return np.asarray(subject | clip)
    if operation == "intersection":
        return np.asarray(subject & clip)
    return np.asarray(subject & ~clip if operation == "difference" else subject ^ clip)


def _wound_round(points: FloatArray, edges: Edges, lines: NDArray[np.object_]) -> NDArray[np.int64]:
    """How often each side winds round each point (2, n): the edges that a ray to the right crosses."""
    right = float(edges.a[:, 0].max()) + 1.0
    far = np.stack([np.full(len(points), right), points[:, 1]], axis=1)
    which, edge = shapely.STRtree(lines).query(shapely.linestrings(np.stack([points, far], axis=1)))
    a, b, p = edges.a[edge], edges.a[edges.following[edge]], points[which]
    up = (a[:, 1] <= p[:, 1]) & (b[:, 1] > p[:, 1])
    down = (b[:, 1] <= p[:, 1]) & (a[:, 1] > p[:, 1])
    left = (b[:, 0] - a[:, 0]) * (p[:, 1] - a[:, 1]) - (p[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
    turns = (up & (left > 0.0)).astype(np.int64) - (down & (left < 0.0))
    wound = np.zeros((2, len(points)), dtype=np.int64)
    np.add.at(wound, (edges.side[edge], which), turns)
    return wound


def _two(area: Any, other: Any, operation: Operation) -> Any:
    return manifold3d.CrossSection.batch_boolean([area, other], _NEW_OPERATIONS[operation])


def _is_wide(rings: Sequence[FloatArray]) -> bool:
    """Whether all rings together are wider than high. Kernels sweep from top to bottom and are slow where many edges
    lie side by side, as in a line of words: then they get them with x and y swapped."""
    wide, high = np.ptp(np.concatenate(rings), axis=0) if rings else (0.0, 0.0)
    return bool(wide > high)


def _add(kernel: Any, ring: FloatArray, role: int, *, upright: bool) -> bool:
    """Hand a ring to the kernel; False for one without area, which the kernel refuses."""
    if len(ring) < 3:
        return False
    try:
        points = ring[:, ::-1] if upright else ring
        return bool(kernel.AddPath(points.astype(np.int64).tolist(), role, True))
    except pyclipper.ClipperException:
        return False
