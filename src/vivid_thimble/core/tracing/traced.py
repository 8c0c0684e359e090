"""What a trace yields: curves along edges, and the rings of each label in terms of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Box, Contour, Path, box_round
from vivid_thimble.core.geometry.region import Region, difference, side_by_side
from vivid_thimble.core.geometry.shared_edges.arc_regions import ArcPlan, Use, arc_regions
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.tracing.cracks import Cracks
from vivid_thimble.core.tracing.curves import FittedLines

Ring = tuple[Use, ...]
DUST_PX2 = 4.0
"""Smaller pieces are loops where curves cross themselves."""
NOISY_PX = 0.02
FAITHFULLY, NOISILY, ROUGHLY = (0.3, 0.05, -1.0), (0.3, -1.0), (0.3, 0.0, -1.0)
"""How arcs are fitted that cross: ever closer, in the end along the pixels. Where points stray, following them into
their noise mends nothing."""
ROUGH_PX = 0.5
SMALL_PX2 = 24.0
"""In traces that may stray by ROUGH_PX, as those of photos, pieces below this may hang together by a hair or not."""


@dataclass(frozen=True, eq=False)
class Traced:
    """``polygons`` of each label: outer rings with their holes. Curves are in pixels of the picture.

    ``shapes``: what the curves of each label enclose, in pixels, once crossings are mended; polygons there stay
    ``within_px`` of the curves.
    """

    fitted: FittedLines
    polygons: tuple[tuple[tuple[Ring, ...], ...], ...]
    shapes: tuple[Region, ...] = ()
    within_px: float = 0.0

    @property
    def arcs(self) -> list[Contour]:
        return self.fitted.contours

    @property
    def node_count(self) -> int:
        """Nodes of all arcs, those that two labels share counted once."""
        return sum(len(arc) for arc in self.arcs)

    @property
    def box(self) -> Box | None:
        """The box round everything in pixels; None for nothing."""
        if self.shapes:
            return box_round(shape.bounds for shape in self.shapes)
        return box_round(self.path(label).bounds for label in range(len(self.polygons)))

    def path(self, label: int) -> Path:
        """The outlines of one label, as they were fitted."""
        return Path(tuple(_contour(ring, self.arcs) for rings in self.polygons[label] for ring in rings))

    def sound(self, within_px: float = FLATTEN_MM) -> Traced:
        """The same without crossings, its shapes made: as good for all sizes at which ``within_px`` is fine enough."""
        if self.shapes and self.within_px <= within_px:
            return self
        alone = self._alone(within_px) if len(self.polygons) == 1 else None
        if alone is not None:
            return replace(self, shapes=(alone,), within_px=within_px)
        regions, contours = self._built(within_px)
        fitted = replace(self.fitted, contours=contours)
        return replace(self, fitted=fitted, shapes=tuple(regions), within_px=within_px)

    def _shares(self) -> tuple[float, ...]:
        """Of the tolerance, within which arcs that cross are fitted again."""
        if self.fitted.smoothing.noise_px < NOISY_PX:
            return FAITHFULLY
        return ROUGHLY if self.fitted.smoothing.tolerance_px > ROUGH_PX else NOISILY

    def regions(self, mm_per_px: float) -> list[Region]:
        """Each label as a region in mm; neighbours share their edges exactly, and no curves cross."""
        held = self.sound(FLATTEN_MM / mm_per_px)
        scale = Affine.scaling(mm_per_px)
        return [Region(_scaled(one.polygons, mm_per_px), one.outline.transformed(scale)) for one in held.shapes]

    def _built(self, within_px: float) -> tuple[list[Region], list[Contour]]:
        """The regions in pixels, and the curves that they were made of, those that crossed fitted again."""
        uses: list[Ring] = []
        polygon_of: list[int] = []
        area_of: list[int] = []
        leftwards: list[bool] = []
        for label, polygons in enumerate(self.polygons):
            for rings in polygons:
                for number, ring in enumerate(rings):
                    uses.append(ring)
                    polygon_of.append(len(area_of))
                    leftwards.append(number == 0)  # with y down, outer rings run so that their area counts as positive
                area_of.append(label)
        plain = self.fitted.plain
        bounds = [] if plain is None else zip(plain.start[:-1].tolist(), plain.start[1:].tolist(), strict=True)
        lines = None if plain is None else [plain.points[i:j] for i, j in bounds]
        plan = ArcPlan(uses, np.array(polygon_of, dtype=np.int64), np.array(area_of, dtype=np.int64), leftwards, lines)
        return arc_regions(plan, self.arcs, len(self.polygons), self.fitted.closer, self._shares(), within_px)

    def _alone(self, within_px: float) -> Region | None:
        """A label without neighbours, crossings resolved and the dust that they leave dropped; None when that would
        break or join pieces of any size."""
        region = Region.from_path(self.path(0), "nonzero", within_px)
        if len(region.polygons.geoms) == len(self.polygons[0]):
            return region
        areas = shapely.area(list(region.polygons.geoms))
        keep = areas > DUST_PX2
        if int(keep.sum()) == len(self.polygons[0]):
            pieces = zip(region.pieces(), keep.tolist(), strict=True)
            return side_by_side([piece for piece, stays in pieces if stays])
        wanted = sum(self._plain_area(rings) > SMALL_PX2 for rings in self.polygons[0])
        if self.fitted.smoothing.tolerance_px <= ROUGH_PX or int((areas > SMALL_PX2).sum()) != wanted:
            return None
        dust = [p for p, stays in zip(region.polygons.geoms, keep.tolist(), strict=True) if not stays]
        return difference(region, [Region.from_polygons(MultiPolygon(dust))]) if dust else region

    def _plain_area(self, rings: Sequence[Ring]) -> float:
        """The area of a polygon in pixels, told from its edges between pixels."""
        assert self.fitted.plain is not None
        lines = [k for ring in rings for k, _ in ring]
        start = self.fitted.plain.start
        points = [self.fitted.plain.points[start[k] : start[k + 1]] for k in lines]
        bounds = np.r_[0, np.cumsum([len(p) for p in points])]
        return float(_signed_areas(np.concatenate(points), bounds).sum())


def _scaled(polygons: MultiPolygon, factor: float) -> MultiPolygon:
    return shapely.transform(polygons, lambda points: points * factor)


def _contour(ring: Ring, arcs: Sequence[Contour]) -> Contour:
    chosen = [arcs[k] if forwards else arcs[k].reversed() for k, forwards in ring]
    segments = np.concatenate([one.segments for one in chosen])
    return Contour(segments, np.concatenate([one.is_line for one in chosen]), True)


def nested(rings: Sequence[Ring], around: Cracks) -> tuple[tuple[Ring, ...], ...]:
    """The rings of one label as polygons, each outer one followed by its holes, told from the closed lines of cracks
    that they stand for, in the same order."""
    middles = around.inner[:, ::-1] + 0.5 + 0.5 * around.step[:, ::-1]
    area = _signed_areas(middles, around.start)
    outer, holes = np.flatnonzero(area > 0.0), np.flatnonzero(area <= 0.0)
    held: dict[int, list[Ring]] = {int(k): [rings[k]] for k in outer}
    if len(holes):
        bounds = around.start.tolist()
        shapes = [shapely.Polygon(_ring(middles[bounds[k] : bounds[k + 1]])) for k in outer.tolist()]
        tree = shapely.STRtree(shapes)
        inside = middles[around.start[holes]]
        hole, home = tree.query(shapely.points(inside), predicate="intersects")
        order = np.lexsort((area[outer[home]], hole))
        first = np.r_[True, np.diff(hole[order]) > 0]
        for k, j in zip(hole[order][first].tolist(), home[order][first].tolist(), strict=True):
            held[int(outer[j])].append(rings[holes[k]])
    return tuple(tuple(held[int(k)]) for k in outer)


def _ring(points: FloatArray) -> FloatArray:
    return points if len(points) > 3 else np.repeat(points, 2, axis=0)


def _signed_areas(points: FloatArray, start: IntArray) -> FloatArray:
    """The area of each closed line of points, positive when it goes round from x to y."""
    of = np.repeat(np.arange(len(start) - 1), np.diff(start))
    following = np.arange(1, len(points) + 1)
    following[start[1:] - 1] = start[:-1]
    nxt = points[following]
    cross = points[:, 0] * nxt[:, 1] - points[:, 1] * nxt[:, 0]
    return np.asarray(np.bincount(of, weights=cross, minlength=len(start) - 1) / 2.0)
