"""Areas side by side that share their edges exactly: one curve for both neighbours.

Vertices that lie on a neighbour's edge are given to it, edges are followed from junction to junction
(where more than two areas meet), and each such arc becomes one chain of curves that all areas round it use.
So neighbours have neither gap nor overlap, whatever the tolerance of the curves.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import sound, to_grid
from vivid_thimble.core.geometry.booleans.shared_vertices import packed_points, with_shared_vertices
from vivid_thimble.core.geometry.fitting.fit import fit_lines, fit_rings
from vivid_thimble.core.geometry.flatten import FlatPath, IntArray
from vivid_thimble.core.geometry.path import Contour
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.shared_edges.arc_regions import ArcPlan, arc_regions, runs_leftwards
from vivid_thimble.core.geometry.tolerances import FIT_MM, GRID_MM

SAME_VERTEX_STEPS = 3.5
"""Vertices this close, in grid steps, are crossings of the same edges, rounded apart."""
ON_EDGE_STEPS = SAME_VERTEX_STEPS + 1.5
"""Vertices this close to an edge lie on it: the edge's own ends may have been moved as far."""
MOST_SETTLINGS = 4
"""Putting an area in order may move vertices that its neighbours have, once more."""
MOST_SHARINGS = 4
"""An edge that is bent to a vertex may come close to others."""


def mosaic(areas: Sequence[MultiPolygon], tolerance: float = FIT_MM) -> list[Region]:
    """The areas as regions whose common edges are the same curves, within ``tolerance`` mm; in their order.

    Areas must not overlap by more than the rounding of booleans. An area that vanishes gives an empty region.
    """
    points, chains, polygon_of, area_of = _settled(areas)
    if not chains:
        return [Region() for _ in areas]
    edges = _Edges(chains, area_of[polygon_of] if len(polygon_of) else polygon_of)
    arcs, uses = _arcs(edges, points)
    leftwards = [runs_leftwards(points[chain]) for chain in chains]
    plan = ArcPlan(uses, polygon_of, area_of, leftwards)
    regions, _ = arc_regions(
        plan,
        _curved(arcs, tolerance),
        len(areas),
        lambda which, share: _curved([arcs[arc] for arc in which], tolerance * share),
    )
    return regions


def _settled(areas: Sequence[MultiPolygon]) -> tuple[FloatArray, list[IntArray], IntArray, IntArray]:
    """Common vertices in mm, each ring as their numbers, the polygon of each ring and the area of each polygon.

    Moving vertices to common ones can let an area touch or cross itself; it is put in order and all begin again.
    """
    held = list(areas)
    for _ in range(MOST_SETTLINGS):
        rings, polygon_of, area_of = _rings(held)
        if not rings:
            return np.zeros((0, 2)), [], polygon_of, area_of
        points, chains = _vertex_chains(rings)
        moved = _from_chains(points, chains, polygon_of, area_of, len(areas))
        if shapely.is_valid(moved).all():
            break
        held = [sound(area) for area in moved]
    return points, chains, polygon_of, area_of


def _from_chains(
    points: FloatArray, chains: list[IntArray], polygon_of: IntArray, area_of: IntArray, count: int
) -> list[MultiPolygon]:
    """The areas with straight edges; rings that vanished left out."""
    pieces: list[list[Polygon]] = [[] for _ in range(count)]
    bounds = np.searchsorted(polygon_of, np.arange(len(area_of) + 1)).tolist()
    for area, i, j in zip(area_of.tolist(), bounds[:-1], bounds[1:], strict=True):
        if len(chains[i]):
            holes = [points[chain] for chain in chains[i + 1 : j] if len(chain)]
            pieces[area].append(Polygon(points[chains[i]], holes))
    return [MultiPolygon(own) for own in pieces]


def _rings(areas: Sequence[MultiPolygon]) -> tuple[list[FloatArray], IntArray, IntArray]:
    """All rings, outer ones before their holes; the polygon of each ring and the area of each polygon."""
    rings: list[FloatArray] = []
    polygon_of: list[int] = []
    area_of: list[int] = []
    for number, area in enumerate(areas):
        for polygon in area.geoms:
            for ring in (polygon.exterior, *polygon.interiors):
                rings.append(np.asarray(ring.coords)[:-1, :2])
                polygon_of.append(len(area_of))
            area_of.append(number)
    return rings, np.array(polygon_of, dtype=np.int64), np.array(area_of, dtype=np.int64)


def _vertex_chains(rings: list[FloatArray]) -> tuple[FloatArray, list[IntArray]]:
    """Common vertices in mm, and each ring as their numbers."""
    sizes = np.array([len(ring) for ring in rings])
    starts = np.r_[0, np.cumsum(sizes)]
    grid = _merged_vertices(to_grid(np.concatenate(rings)))
    segment = np.arange(len(grid))
    flat = FlatPath(grid * GRID_MM, starts, segment, np.zeros(len(grid)))
    straight = np.ones(len(grid), dtype=bool)
    for _ in range(MOST_SHARINGS):
        before = len(grid)
        flat, grid = with_shared_vertices(flat, grid, straight, ON_EDGE_STEPS)
        if len(grid) == before:
            break
    packed, number = np.unique(packed_points(grid), return_inverse=True)
    vertices = np.column_stack([packed.real, packed.imag])
    chains = [_clean(number[a:b]) for a, b in zip(flat.starts[:-1], flat.starts[1:], strict=True)]
    return vertices * GRID_MM, chains


def _merged_vertices(grid: FloatArray) -> FloatArray:
    """Vertices closer than SAME_VERTEX_STEPS moved to one of them."""
    from scipy.sparse import coo_array  # here: they delay the first paint
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    packed, number = np.unique(packed_points(grid), return_inverse=True)
    vertices = np.column_stack([packed.real, packed.imag])
    pairs = cKDTree(vertices).query_pairs(SAME_VERTEX_STEPS, output_type="ndarray")
    if not len(pairs):
        return grid
    count = len(vertices)
    _, group = connected_components(
        coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count)), directed=False
    )
    first = np.full(group.max() + 1, count)
    np.minimum.at(first, group, np.arange(count))
    return np.asarray(vertices[first[group]][number])


def _clean(chain: IntArray) -> IntArray:
    """A ring of vertex numbers without repeats and without spikes that lead there and back."""
    kept: list[int] = []
    for vertex in chain.tolist():
        if kept and kept[-1] == vertex:
            continue
        if len(kept) > 1 and kept[-2] == vertex:
            kept.pop()
            continue
        kept.append(vertex)
    while len(kept) > 1 and kept[0] == kept[-1]:
        kept.pop()
    while len(kept) > 2 and kept[1] == kept[-1]:
        kept = kept[1:-1]
    return np.array(kept if len(kept) > 2 else [], dtype=np.int64)


class _Edges:
    """The directed edges of all rings, and the undirected ones that they run along."""

    def __init__(self, chains: list[IntArray], area_of_ring: IntArray) -> None:
        self.sizes = [len(chain) for chain in chains]
        self.a = np.concatenate(chains) if chains else np.zeros(0, dtype=np.int64)
        self.b = np.concatenate([np.roll(chain, -1) for chain in chains]) if chains else self.a
        self.ring = np.repeat(np.arange(len(chains)), self.sizes)
        low, high = np.minimum(self.a, self.b), np.maximum(self.a, self.b)
        self.ends, self.line = np.unique(np.column_stack([low, high]), axis=0, return_inverse=True)
        self.line = self.line.reshape(-1)
        area = area_of_ring[self.ring]
        count = len(self.ends)
        least, most = np.full(count, np.iinfo(np.int64).max), np.full(count, -1)
        np.minimum.at(least, self.line, area)
        np.maximum.at(most, self.line, area)
        uses = np.bincount(self.line, minlength=count)
        self.label = np.column_stack([np.where(uses > 1, least, -1), most])
        self.label = np.unique(self.label, axis=0, return_inverse=True)[1].reshape(-1)


@dataclass(frozen=True, eq=False)
class _Arc:
    points: FloatArray
    closed: bool


def _arcs(edges: _Edges, points: FloatArray) -> tuple[list[_Arc], list[list[tuple[int, bool]]]]:
    """The arcs between junctions, and for each ring its arcs in order with their direction (True: forwards)."""
    ends = edges.ends
    degree = np.bincount(ends.ravel(), minlength=len(points))
    low = np.full(len(points), np.iinfo(np.int64).max)
    high = np.full(len(points), -1)
    for k in (0, 1):
        np.minimum.at(low, ends[:, k], edges.label)
        np.maximum.at(high, ends[:, k], edges.label)
    junction = (degree != 2) | (low != high)
    arc_of = np.full(len(ends), -1, dtype=np.int64)
    arcs: list[_Arc] = []
    uses: list[list[tuple[int, bool]]] = []
    at = 0
    for size in edges.sizes:
        ring = slice(at, at + size)
        at += size
        vertices, lines = edges.a[ring], edges.line[ring]
        uses.append(_ring_arcs(vertices, lines, junction, arc_of, arcs, points))
    return arcs, uses


def _ring_arcs(
    vertices: IntArray,
    lines: IntArray,
    junction: NDArray[np.bool_],
    arc_of: IntArray,
    arcs: list[_Arc],
    points: FloatArray,
) -> list[tuple[int, bool]]:
    """Cut a ring at its junctions; arcs that another ring has made already are taken from there."""
    if not len(vertices):
        return []
    cuts = np.flatnonzero(junction[vertices])
    if not len(cuts):
        known = int(arc_of[lines[0]])
        if known >= 0:
            same = _runs_the_same_way(arcs[known].points, points[vertices[0]], points[vertices[1]])
            return [(known, same)]
        arc_of[lines] = len(arcs)
        arcs.append(_Arc(points[vertices], True))
        return [(len(arcs) - 1, True)]
    vertices, lines = np.roll(vertices, -cuts[0]), np.roll(lines, -cuts[0])
    bounds = [*(cuts - cuts[0]).tolist(), len(vertices)]
    around = np.r_[vertices, vertices[:1]]
    found = []
    for i, j in zip(bounds[:-1], bounds[1:], strict=True):
        known = int(arc_of[lines[i]])
        if known < 0:
            known = len(arcs)
            arc_of[lines[i:j]] = known
            arcs.append(_Arc(points[around[i : j + 1]], False))
        own = points[around[i : i + 2]]
        forwards = bool(np.array_equal(arcs[known].points[:2], own))
        found.append((known, forwards))
    return found


def _runs_the_same_way(ring: FloatArray, a: FloatArray, b: FloatArray) -> bool:
    at = int(np.flatnonzero((ring == a).all(axis=1))[0])
    return bool(np.array_equal(ring[(at + 1) % len(ring)], b))


def _curved(arcs: list[_Arc], tolerance: float) -> list[Contour]:
    if tolerance <= 0.0:
        return [Contour.from_points(arc.points, closed=arc.closed) for arc in arcs]
    closed = iter(fit_rings([arc.points for arc in arcs if arc.closed], tolerance))
    opened = iter(fit_lines([arc.points for arc in arcs if not arc.closed], tolerance))
    return [next(closed if arc.closed else opened) for arc in arcs]
