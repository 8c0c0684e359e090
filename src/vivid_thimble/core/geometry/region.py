"""Regions: filled areas of film, exact for booleans and inspections, curved on the outside.

A region holds the same boundary twice: ``polygons`` (a valid shapely MultiPolygon whose
vertices lie within FLATTEN_MM of the curves) and ``outline`` (a path of lines and cubics,
one closed contour a ring). Filled means kept. Operations are total: empty, touching,
self-crossing and doubled input give a valid region.
"""

from __future__ import annotations

import logging
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.clip import NestedRings, checked_multipolygon, combine, polygons_of, to_grid
from vivid_thimble.core.geometry.booleans.cross_check import disagreement
from vivid_thimble.core.geometry.booleans.kernels import KERNELS, FillRule, Kernel, Operation
from vivid_thimble.core.geometry.booleans.lone_segments import Shortened, lengthened, shortened
from vivid_thimble.core.geometry.booleans.plain_rings import plain_rings
from vivid_thimble.core.geometry.booleans.recover import TaggedEdges, matched_edges, recover, tagged_edges
from vivid_thimble.core.geometry.booleans.shared_vertices import with_shared_vertices
from vivid_thimble.core.geometry.flatten import FlatPath, flatten
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM, GRID_MM, TOUCH_MM
from vivid_thimble.core.pauses import pause

log = logging.getLogger(__name__)

MANY, GROUP = 1000, 192
"""More outlines than this are united in groups of at most so many."""
FLATTEN_SHARE = 5e-5
"""What is looked at closely is flattened within this share of its size, if that is less."""


@dataclass(frozen=True, eq=False)
class Region:
    """A set of filled areas with holes."""

    polygons: MultiPolygon = field(default_factory=MultiPolygon)
    outline: Path = field(default_factory=Path)

    @classmethod
    def from_path(cls, path: Path, rule: FillRule = "nonzero", tolerance: float = FLATTEN_MM) -> Region:
        """What a filled path covers; open contours are closed by a straight line first."""
        closed = _without_twins(_closed(path), rule)
        plain = plain_rings(closed, rule, tolerance)
        return cls(*plain) if plain is not None else _boolean("union", [closed], [], rule, tolerance)

    @classmethod
    def from_polygons(cls, geometry: shapely.Geometry) -> Region:
        """From any shapely geometry (invalid ones are resolved even-odd); straight lines outside."""
        rings = [
            Contour.from_points(np.asarray(ring.coords))
            for polygon in polygons_of(geometry).geoms
            for ring in (polygon.exterior, *polygon.interiors)
        ]
        return cls.from_path(Path(tuple(rings)), "evenodd")

    @property
    def is_empty(self) -> bool:
        return bool(self.polygons.is_empty)

    @property
    def area(self) -> float:
        return float(self.polygons.area)

    @cached_property
    def bounds(self) -> Box | None:
        return self.outline.bounds

    def transformed(self, affine: Affine) -> Region:
        """The region mapped, its curves flattened anew at the new size.

        The rings keep their nesting, so no boolean is needed unless rounding spoils one.
        """
        path = self.outline.transformed(affine)
        return Region.from_path(path, "evenodd") if affine.determinant <= 0.0 else self.with_outline(path)

    def with_outline(self, path: Path, tolerance: float = FLATTEN_MM) -> Region:
        """The region whose outline became ``path``, contour by contour, by a map that turns none inside out.

        Flattened within ``tolerance`` mm. The nesting is kept; only what a map spoiled goes through a boolean.
        """
        sizes = [1 + len(p.interiors) for p in self.polygons.geoms]
        if sum(sizes) != len(path.contours):
            return Region.from_path(path, "evenodd")
        rings = flatten(path, tolerance).rings()
        ends = np.cumsum(sizes)
        if min((len(ring) for ring in rings), default=3) < 3:
            return Region.from_path(path, "evenodd")
        polygons = MultiPolygon(
            [(rings[end - size], rings[end - size + 1 : end]) for size, end in zip(sizes, ends, strict=True)]
        )
        return Region(polygons, path) if polygons.is_valid else Region.from_path(path, "evenodd")

    def as_cut(self) -> MultiPolygon:
        """The polygons of the outline, as whoever reads a file of it gets them.

        ``polygons`` came out of booleans on vertices: where outlines cross at a small angle, they may lie a hundredth
        of a millimetre beside the outline, whose crossings are exact. Small ones are flattened finer: what is measured
        on them is the same at any size.
        """
        left, top, right, bottom = self.bounds or (0.0, 0.0, 0.0, 0.0)
        finest = max(FLATTEN_SHARE * max(right - left, bottom - top), GRID_MM)
        return self.with_outline(self.outline, min(FLATTEN_MM, finest)).polygons

    def shifted(self, dx: float, dy: float) -> Region:
        """The same region elsewhere; cheaper than any other map."""
        return self.carried(Affine.translation(dx, dy))

    def carried(self, affine: Affine) -> Region:
        """The region mapped vertex by vertex, nothing flattened anew: neighbours keep the vertices that they share.

        For maps that turn nothing inside out and hardly change its size (flattening errors grow with it).
        """
        return Region(shapely.transform(self.polygons, affine.apply), self.outline.transformed(affine))

    def pieces(self) -> list[Region]:
        """Each connected piece as a region of its own, in the order of ``polygons``."""
        if len(self.polygons.geoms) <= 1:
            return [self] if not self.is_empty else []
        sizes = [1 + len(p.interiors) for p in self.polygons.geoms]
        if sum(sizes) != len(self.outline.contours):
            return [Region.from_polygons(p) for p in self.polygons.geoms]
        ends = np.cumsum(sizes)
        return [
            Region(MultiPolygon([polygon]), Path(self.outline.contours[end - size : end]))
            for polygon, size, end in zip(self.polygons.geoms, sizes, ends, strict=True)
        ]


def union(regions: Iterable[Region]) -> Region:
    """Everything that any region covers (non-zero: overlaps are kept once).

    Very many regions are united in groups of neighbours, then the groups: what lies inside is gone before most of the
    crossings are looked for (a third of the time for thousands of overlapping blobs), and work can pause between.
    """
    outlines = _different_outlines(regions)
    if len(outlines) <= MANY:
        return _boolean("union", outlines, [], "nonzero", oriented=True)
    boxes = [(outline, box) for outline in outlines if (box := outline.bounds) is not None]
    return _grouped_union([outline for outline, _ in boxes], np.array([box for _, box in boxes]).reshape(-1, 4))


def _grouped_union(outlines: Sequence[Path], boxes: np.ndarray) -> Region:
    """``boxes`` (n, 4) of the outlines; halved along the longer side until a group is small."""
    pause()
    if len(outlines) <= GROUP:
        return _boolean("union", outlines, [], "nonzero", oriented=True)
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2.0
    axis = int(np.ptp(middles[:, 1]) > np.ptp(middles[:, 0]))
    order = np.argsort(middles[:, axis], kind="stable")
    halves = [_grouped_union([outlines[k] for k in half.tolist()], boxes[half]) for half in np.array_split(order, 2)]
    first, second = (half.bounds for half in halves)
    if first is None or second is None or _are_apart(first, second):
        return side_by_side(halves)
    return _boolean("union", [half.outline for half in halves], [], "nonzero", oriented=True)


def _are_apart(one: Box, other: Box) -> bool:
    return one[2] < other[0] or other[2] < one[0] or one[3] < other[1] or other[3] < one[1]


def difference(kept: Region, taken: Sequence[Region]) -> Region:
    """What remains of ``kept`` when all of ``taken`` is removed."""
    if not taken or kept.is_empty:
        return kept
    return _boolean("difference", [kept.outline], _different_outlines(taken), "nonzero", oriented=True)


def intersection(first: Region, second: Region) -> Region:
    """What both cover."""
    return _boolean("intersection", [first.outline], [second.outline], "evenodd")


def symmetric_difference(first: Region, second: Region) -> Region:
    """What exactly one of the two covers."""
    return _boolean("xor", [first.outline], [second.outline], "evenodd")


def side_by_side(regions: Sequence[Region]) -> Region:
    """Regions whose boxes do not meet, taken together without any computation."""
    polygons = [p for region in regions for p in region.polygons.geoms]
    return Region(MultiPolygon(polygons), Path.joined(region.outline for region in regions))


def _different_outlines(regions: Iterable[Region]) -> list[Path]:
    """The outlines of regions, those that are the very same told once."""
    found = {b"".join(c.segments.tobytes() for c in region.outline.contours): region.outline for region in regions}
    return list(found.values())


def _without_twins(path: Path, rule: FillRule) -> Path:
    """Contours that are the very same told once (even-odd: those drawn an even number of times not at all).

    Many outlines on top of each other make the kernel slow beyond measure. Non-zero: only when all are drawn equally
    often, since a hole may lie in one of two equal outlines.
    """
    if len(path.contours) < 2:
        return path
    counts: dict[bytes, int] = {}
    for contour in path.contours:
        key = contour.segments.tobytes()
        counts[key] = counts.get(key, 0) + 1
    if len(counts) == len(path.contours) or (rule == "nonzero" and len(set(counts.values())) > 1):
        return path
    kept = []
    for contour in path.contours:
        count = counts.pop(contour.segments.tobytes(), 0)
        if count % 2 == 1 or (count and rule == "nonzero"):
            kept.append(contour)
    return Path(tuple(kept))


def _closed(path: Path) -> Path:
    if all(c.closed for c in path.contours):
        return path
    return Path(tuple(contour.closed_straight() for contour in path.contours))


def _boolean(
    operation: Operation,
    subjects: Sequence[Path],
    clips: Sequence[Path],
    rule: FillRule,
    tolerance: float = FLATTEN_MM,
    *,
    oriented: bool = False,
) -> Region:
    """Flatten, combine, recover the curves. ``oriented``: subjects are outlines of regions,
    whose holes must wind against their outer rings for the non-zero rule (they do).

    The result is checked along lines across it; where it does not agree all points are taken, then other kernels.
    """
    pause()
    sources = Path.joined([*subjects, *clips])
    flat = flatten(sources, tolerance)
    if not len(flat.points):
        return Region()
    rings = _rings_of(flat, to_grid(flat.points))
    count = sum(1 for p in subjects for c in p.contours if len(c))
    best, least = Region(), np.inf
    brief = shortened(sources, flat)
    for kernel, short in ((KERNELS[0], brief), *((kernel, None) for kernel in (KERNELS if brief else KERNELS[1:]))):
        region, nested = _combined(operation, sources, flat, short, count, rule, kernel)
        result = _rings(region.polygons, nested)
        off = disagreement(operation, rings[:count], rings[count:], rule, result) * GRID_MM
        between = abs(region.outline.area - region.area)
        if off == 0.0 and between <= (tolerance + FLATTEN_MM) * region.polygons.length + TOUCH_MM:
            return region
        log.info("%s by %s: %.6f mm off along a line, %.6f mm2 lost", operation, kernel.__name__, off, between)
        if off + between < least:
            best, least = region, off + between
    log.warning("%s of %d outlines: no kernel agrees with its check", operation, len(rings))
    return best


def _combined(
    operation: Operation,
    sources: Path,
    flat: FlatPath,
    brief: Shortened | None,
    count: int,
    rule: FillRule,
    kernel: Kernel,
) -> tuple[Region, NestedRings]:
    """The result by one kernel, and its rings; the first ``count`` contours of the sources are its subjects. ``brief``:
    the sources without the inner points of segments that nothing can cross."""
    short, grid = _shared(flat if brief is None else brief.flat, sources)
    rings = _rings_of(short, grid)
    nested = combine(operation, rings[:count], rings[count:], rule, kernel)
    pause()
    if not nested:
        return Region(), []
    edges = tagged_edges(short, grid)
    whole = nested if brief is None else _lengthened(nested, edges, flat, brief, short)
    polygons, valid = checked_multipolygon(whole)
    if not valid:
        nested, polygons = _apart(whole)
        edges = tagged_edges(*_shared(flat, sources))
        whole = nested
    return Region(polygons, recover(nested, edges, sources)), whole


def _lengthened(
    nested: NestedRings, edges: TaggedEdges, flat: FlatPath, brief: Shortened, short: FlatPath
) -> NestedRings:
    origin, forward = matched_edges(nested, edges)
    return lengthened(nested, origin, forward, flat, to_grid(flat.points), brief.lone, short.segment)


def _rings(polygons: MultiPolygon, nested: NestedRings) -> list[np.ndarray]:
    """The rings of polygons in grid steps, open: those they were made of, unless they had to be mended."""
    given = [ring for polygon in nested for ring in polygon]
    if shapely.get_num_coordinates(polygons) == sum(len(ring) + 1 for ring in given):
        return given
    return [to_grid(np.asarray(ring.coords)[:-1]) for ring in shapely.get_rings(shapely.get_parts(polygons))]


def _shared(flat: FlatPath, sources: Path) -> tuple[FlatPath, np.ndarray]:
    """A flattened path with vertices that lie on edges of others, and its points on the grid."""
    grid = to_grid(flat.points)
    contours = [c for c in sources.contours if len(c)]
    if len(contours) < 2:
        return flat, grid
    return with_shared_vertices(flat, grid, np.concatenate([c.is_line for c in contours]))


def _apart(nested: NestedRings) -> tuple[NestedRings, MultiPolygon]:
    """Join polygons that the kernel left side by side along a common edge."""
    again = combine("union", [ring for polygon in nested for ring in polygon], (), "nonzero")
    polygons, valid = checked_multipolygon(again)
    if valid:
        return again, polygons
    joined = polygons_of(shapely.orient_polygons(shapely.union_all(list(polygons.geoms))))
    rings = [
        [to_grid(np.asarray(ring.coords)[:-1]) for ring in (polygon.exterior, *polygon.interiors)]
        for polygon in joined.geoms
    ]
    return rings, joined


def _rings_of(flat: FlatPath, grid: np.ndarray) -> list[np.ndarray]:
    return [grid[a:b] for a, b in zip(flat.starts[:-1], flat.starts[1:], strict=True)]
