"""A shape as the recipe hands it on: named parts that may still overlap.

Before welding every letter is a part of its own; a weld leaves one part. Each part
is cut as its own closed outlines.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import shapely

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.geometry.region import Region, side_by_side, union


@dataclass(frozen=True, eq=False)
class Part:
    """A region with the name a person knows it by (a letter, a drawing)."""

    label: str
    region: Region
    word: int | None = None
    """Letters of one word share this number; None for everything else."""
    owner: str = ""
    """The id of the element that it belongs to, when known."""
    connects: bool | None = None
    """Whether the letter's face connects its letters by itself; None when that is not known."""

    def with_region(self, region: Region) -> Part:
        """The same part in another shape."""
        return replace(self, region=region)

    def shifted(self, dx: float, dy: float) -> Part:
        return self.with_region(self.region.shifted(dx, dy))


Parts = tuple[Part, ...]


def bounds_of(parts: Iterable[Part]) -> Box | None:
    """The box round all parts; None when there is nothing."""
    return box_round(part.region.bounds for part in parts)


def merged(parts: Parts) -> Region:
    """The film that all parts cover together."""
    solid = [part.region for part in parts if not part.region.is_empty]
    if not solid:
        return Region()
    if len(solid) == 1:
        return solid[0]
    boxes = [shapely.box(*region.bounds) for region in solid if region.bounds]
    first, second = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    return side_by_side(solid) if (first == second).all() else union(solid)


def turned(parts: Parts, turn_deg: float, about: tuple[float, float]) -> Parts:
    """Parts turned counter-clockwise, as a person sees it, about a point."""
    if not turn_deg:
        return parts
    x, y = about
    turn = Affine.translation(-x, -y).then(Affine.turning(turn_deg)).then(Affine.translation(x, y))
    return tuple(part.with_region(part.region.transformed(turn)) for part in parts)


def overlapping_pairs(parts: Parts) -> list[tuple[int, int]]:
    """Index pairs of parts that share area, lower index first."""
    if len(parts) < 2:
        return []
    areas = [part.region.polygons for part in parts]
    first, second = shapely.STRtree(areas).query(areas, predicate="intersects")
    pairs = [(int(i), int(j)) for i, j in zip(first, second, strict=True) if i < j]
    return sorted(p for p in pairs if shapely.relate_pattern(areas[p[0]], areas[p[1]], "T********"))
