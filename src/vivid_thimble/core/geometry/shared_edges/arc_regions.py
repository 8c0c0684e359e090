"""Areas from arcs that they share: each arc one chain of curves for both neighbours.

Curves of arcs that run close to each other may cross. Those are looked for and fitted again, closer, until none does.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import ring_area_mm2
from vivid_thimble.core.geometry.flatten import IntArray, flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.pauses import pause

CLOSER = (0.3, 0.05, 0.0)
"""Arcs that cross where areas are thin are fitted again within these shares of the tolerance; 0: not at all."""
MOST_REPAIRS = 24
"""Arcs that are mended may come close to others in turn."""

Use = tuple[int, bool]
"""The number of an arc, and whether it is gone along as it is (or backwards)."""


@dataclass(frozen=True, eq=False)
class ArcPlan:
    """``uses``: the arcs of each ring, in order. ``polygon_of``: the polygon of each ring, outer ones before their
    holes; ``area_of``: the area of each polygon. ``leftwards``: whether a ring goes round with its inside on the
    left, y up. ``plain``: lines along the arcs that never cross, when they are known."""

    uses: Sequence[Sequence[Use]]
    polygon_of: IntArray
    area_of: IntArray
    leftwards: Sequence[bool]
    plain: Sequence[FloatArray] | None = None


def arc_regions(
    plan: ArcPlan,
    curves: Sequence[Contour],
    count: int,
    closer: Callable[[list[int], float], list[Contour]],
    shares: Sequence[float] = CLOSER,
    tolerance: float = FLATTEN_MM,
) -> tuple[list[Region], list[Contour]]:
    """The region of each of ``count`` areas, and the curves that they are made of.

    ``closer`` fits some arcs again within a share of the tolerance, one of ``shares`` after the other. Polygons stay
    within ``tolerance`` of the curves.
    """
    built = _Built(plan, list(curves), tolerance)
    tried = np.zeros(len(curves), dtype=np.int64)
    changed: Sequence[int] = range(len(curves))
    for _ in range(MOST_REPAIRS if shares else 0):
        pause("Making areas that share their edges")
        wanted = [arc for arc in sorted(built.to_mend(changed)) if tried[arc] < len(shares)]
        if not wanted:
            break
        for share in sorted({float(shares[tried[arc]]) for arc in wanted}):
            again = [arc for arc in wanted if shares[tried[arc]] == share]
            for arc, contour in zip(again, closer(again, share), strict=True):
                built.curves[arc] = contour
        tried[wanted] += 1
        built.renew(wanted)
        changed = wanted
    return built.regions(count), built.curves


class _Built:
    """The polygons that the arcs make; only those round a changed arc are made anew."""

    def __init__(self, plan: ArcPlan, curves: list[Contour], tolerance: float) -> None:
        self.tolerance = tolerance
        # once for both neighbours: their vertices are the very same
        self.lines = flatten(Path(tuple(curves)), tolerance).rings()
        plan = _apart_where_they_touch(plan, self.lines if plan.plain is None else plan.plain, curves)
        self.uses, self.curves, self.area_of, self.leftwards = plan.uses, curves, plan.area_of, plan.leftwards
        uses, polygon_of, area_of = plan.uses, plan.polygon_of, plan.area_of
        bounds = np.searchsorted(polygon_of, np.arange(len(area_of) + 1)).tolist()
        self.rings = [[r for r in range(i, j) if uses[r]] for i, j in zip(bounds[:-1], bounds[1:], strict=True)]
        self.rings = [rings if rings and rings[0] == i else [] for rings, i in zip(self.rings, bounds, strict=False)]
        self.users: dict[int, set[int]] = {}
        for polygon, rings in enumerate(self.rings):
            for arc in (arc for ring in rings for arc, _ in uses[ring]):
                self.users.setdefault(arc, set()).add(polygon)
        self.backwards = [curve.reversed() for curve in curves]
        self.strings = self._strings(range(len(curves)))
        self.contours: list[list[Contour]] = [[] for _ in self.rings]
        self.shapes: list[Polygon | None] = [None for _ in self.rings]
        self._make(range(len(self.rings)))

    def _make(self, polygons: Iterable[int]) -> None:
        for k in polygons:
            chosen = [self.uses[ring] for ring in self.rings[k]]
            self.contours[k] = [_contour(ring, self.curves, self.backwards) for ring in chosen]
            rings = [_ring(ring, self.lines, self.curves) for ring in chosen]
            turned = any(runs_leftwards(r) is not self.leftwards[n] for r, n in zip(rings, self.rings[k], strict=True))
            self.shapes[k] = _polygon(rings) if rings and not turned else None

    def renew(self, arcs: Sequence[int]) -> None:
        """Take changed arcs over."""
        lines = flatten(Path(tuple(self.curves[arc] for arc in arcs)), self.tolerance).rings()
        for arc, line in zip(arcs, lines, strict=True):
            self.backwards[arc], self.lines[arc] = self.curves[arc].reversed(), line
        self.strings[arcs] = self._strings(arcs)
        self._make(sorted({polygon for arc in arcs for polygon in self.users.get(arc, ())}))

    def _strings(self, arcs: Sequence[int]) -> NDArray[np.object_]:
        found = np.empty(len(arcs), dtype=object)
        for k, arc in enumerate(arcs):
            line = self.lines[arc]
            closed = self.curves[arc].closed and len(line) > 2
            found[k] = shapely.LinearRing(line) if closed else shapely.LineString(line)
        return found

    def to_mend(self, changed: Sequence[int]) -> set[int]:
        """Of some arcs that were changed those that cross themselves or others, and these others; of a polygon that the
        curves spoilt otherwise all arcs."""
        which = np.array(changed, dtype=np.int64)
        lines = self.strings[which]
        first, second = shapely.STRtree(self.strings).query(lines, predicate="crosses")
        real = self._really_cross(which[first], second)
        first, second = first[real], second[real]
        found = {*which[~shapely.is_simple(lines)].tolist(), *which[first].tolist(), *second.tolist()}
        for rings, shape in zip(self.rings, self.shapes, strict=True):
            if rings and shape is None:
                arcs = {arc for ring in rings for arc, _ in self.uses[ring]}
                found |= set() if arcs & found else arcs
        return found

    def _really_cross(self, first: IntArray, second: IntArray) -> NDArray[np.bool_]:
        """Whether pairs of arcs meet anywhere but at their ends. An arc that leaves a junction and comes back to it has
        no ends for the predicate, and counts as crossing every other one there."""
        real = np.ones(len(first), dtype=bool)
        loop = np.array(
            [not c.closed and bool((s[0] == s[-1]).all()) for c, s in zip(self.curves, self.lines, strict=True)]
        )
        for k in np.flatnonzero(loop[first] | loop[second]).tolist():
            one, two = self.strings[first[k]], self.strings[second[k]]
            met = shapely.get_coordinates(shapely.intersection(one, two))
            ends = np.concatenate([shapely.get_coordinates(line)[[0, -1]] for line in (one, two)])
            real[k] = bool((met[:, None] != ends[None]).any(axis=2).all(axis=1).any())
        return real

    def regions(self, count: int) -> list[Region]:
        found = []
        for number in range(count):
            own = [k for k in np.flatnonzero(self.area_of == number).tolist() if self.rings[k]]
            path = Path(tuple(contour for k in own for contour in self.contours[k]))
            shapes = [shape for k in own if (shape := self.shapes[k]) is not None]
            whole = MultiPolygon(shapes)
            sound = len(shapes) == len(own) and (len(shapes) < 2 or whole.is_valid)
            found.append(Region(whole, path) if sound else Region.from_path(path, "evenodd", self.tolerance))
        return found


def _apart_where_they_touch(plan: ArcPlan, lines: Sequence[FloatArray], curves: list[Contour]) -> ArcPlan:
    """Rings that pass a junction twice fall apart there into rings that do not; what they go round stays the same."""
    uses: list[Sequence[Use]] = []
    polygon_of: list[int] = []
    area_of: list[int] = []
    leftwards: list[bool] = []
    bounds = np.searchsorted(plan.polygon_of, np.arange(len(plan.area_of) + 1)).tolist()
    for i, j, area in zip(bounds[:-1], bounds[1:], plan.area_of.tolist(), strict=True):
        rings, sides = list(plan.uses[i:j]), list(plan.leftwards[i:j])
        loops = [_loops(ring, lines) for ring in rings]
        groups = [(rings, sides)]
        if any(len(own) > 1 for own in loops):
            groups = _regrouped([loop for own in loops for loop in own], lines, curves)
        for group, own_sides in groups:
            uses += group
            leftwards += own_sides
            polygon_of += [len(area_of)] * len(group)
            area_of.append(area)
    return ArcPlan(uses, np.array(polygon_of, dtype=np.int64), np.array(area_of, dtype=np.int64), leftwards)


def _loops(ring: Sequence[Use], lines: Sequence[FloatArray]) -> list[list[Use]]:
    """A ring taken apart wherever it comes back to a place."""
    found: list[list[Use]] = []
    way: dict[tuple[float, ...], Use] = {}
    for arc, forwards in ring:
        place = tuple(lines[arc][0 if forwards else -1].tolist())
        if place in way:
            loop = []
            while True:
                last, use = way.popitem()
                loop.append(use)
                if last == place:
                    break
            found.append(loop[::-1])
        way[place] = arc, forwards
    return [*found, list(way.values())]


def _regrouped(
    loops: list[list[Use]], lines: Sequence[FloatArray], curves: list[Contour]
) -> list[tuple[list[Sequence[Use]], list[bool]]]:
    """Loops as polygons: those that go round leftwards, each with the others that lie in it."""
    rings = [_ring(loop, lines, curves) for loop in loops]
    shapes = {k: Polygon(ring).buffer(0) for k, ring in enumerate(rings) if len(ring) > 2}
    groups: dict[int, list[int]] = {k: [] for k in shapes if runs_leftwards(rings[k])}
    for k in (k for k in shapes if k not in groups):
        holding = [n for n in groups if shapes[n].intersection(shapes[k]).area > 0.5 * shapes[k].area]
        if holding:
            groups[min(holding, key=lambda n: shapes[n].area)].append(k)
    return [
        ([loops[k], *(loops[hole] for hole in holes)], [True, *(False for _ in holes)]) for k, holes in groups.items()
    ]


def _contour(ring: Sequence[Use], curves: list[Contour], backwards: list[Contour]) -> Contour:
    chosen = [curves[arc] if forwards else backwards[arc] for arc, forwards in ring]
    if len(chosen) == 1:
        return Contour(chosen[0].segments, chosen[0].is_line, True)
    segments = np.concatenate([contour.segments for contour in chosen])
    return Contour(segments, np.concatenate([contour.is_line for contour in chosen]), True)


def _ring(ring: Sequence[Use], lines: Sequence[FloatArray], curves: list[Contour]) -> FloatArray:
    """The vertices of a ring; arcs that are open bring their last point along, which the next one repeats."""
    chosen = [
        (lines[arc] if forwards else lines[arc][::-1])[: None if curves[arc].closed else -1] for arc, forwards in ring
    ]
    return np.concatenate(chosen)


def runs_leftwards(ring: FloatArray) -> bool:
    """Whether a ring goes round with its inside on the left, y up; one that curves turned over does not any more."""
    return ring_area_mm2(ring) > 0.0


def _polygon(rings: list[FloatArray]) -> Polygon | None:
    if min(len(ring) for ring in rings) < 3:
        return None
    shape = Polygon(rings[0], rings[1:])
    return shape if shapely.is_valid(shape) else None
