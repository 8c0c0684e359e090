"""Hairline gaps and hairline film: what drawings leave where two shapes nearly meet.

No knife can cut them and nobody drew them on purpose. They are found by closing and by
opening with half the width; the rest of the outline stays as it is.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TypeVar

import numpy as np
import shapely

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.containment import GeometryArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.tolerances import SEAM_MM

LONGER_SEAMS = 10.0
"""Hairlines are longer than so many seams: an acute corner that a closing rounds is shorter."""
ROUND_SEAMS = 25.0
"""A box to look into is grown by so many seams, so that hairlines that lead out of it count as long."""
OVERLAP_MM = 1e-4
"""Patches reach this far into what they are joined to."""
WIDER_SEAM, PARTS = 4.0, 1.5
"""Two shapes merely touch when more than so many times as much of them is within so many times a seam."""
TOUCH_SEAMS = 2.0
"""GeometryArray that hang together by film narrower than so many seams merely touch."""
FEW_POINTS = 400
"""A shape of so few points is not parted further."""
MOST_ROUNDS = 6
"""A second round seldom finds more; where a gap hovers about the seam's width, a few do."""


def close_seams(region: Region, seam: float = SEAM_MM) -> Region:
    """Fill hairline gaps up to ``seam`` mm wide."""
    patches = seams_in(region.polygons, seam)
    return union([region, *patches]) if patches else region


def without_hairlines(region: Region) -> Region:
    """A region with hairline gaps filled and hairline film taken away, until neither is left.

    What is filled or taken away may leave a shorter one beside it: whoever reads a file of the region would find that.
    """
    for _ in range(MOST_ROUNDS):
        tidied = drop_hairs(close_seams(region))
        if tidied is region:
            break
        region = tidied
    return region


def seams_between(regions: Sequence[Region], seam: float = SEAM_MM) -> list[Region]:
    """Patches over the hairline gaps up to ``seam`` mm wide that would be left between united regions.

    Looked for where the boxes of two regions overlap: only there a seam between them can be.
    """
    around = ROUND_SEAMS * seam
    areas = [region.polygons for region in regions]
    boxes = shapely.box(*shapely.bounds(areas).T) if areas else np.zeros(0, dtype=object)
    tree = shapely.STRtree(shapely.buffer(boxes, seam, join_style="mitre"))
    first, second = tree.query(boxes, predicate="intersects")
    patches = []
    for i, j in zip(first.tolist(), second.tolist(), strict=True):
        if i < j:
            zone = np.array(shapely.intersection(*shapely.buffer(boxes[[i, j]], seam, join_style="mitre")).bounds)
            zone += np.array([-around, -around, around, around])
            near = [areas[k] for k in tree.query(shapely.box(*zone))]
            patches += seams_in(polygons_of(shapely.union_all(shapely.intersection(near, shapely.box(*zone)))), seam)
    return patches


def seams_in(place: shapely.MultiPolygon, seam: float = SEAM_MM) -> list[Region]:
    """Patches over the hairline gaps in an area, but for those beside a point in which two shapes merely touch."""
    patches = _hairlines(_moved_out_and_back(place, seam / 2.0), place, seam)
    if not patches:
        return patches
    whole = np.array(place.geoms, dtype=object)
    windows = [_window(patch.polygons.bounds, seam) for patch in patches]
    kept: list[Region] = []
    for rows, pieces in _parted(whole, np.array(windows), np.arange(len(patches))):
        kept += [patches[k] for k in rows if not _lies_at_a_touch(pieces, windows[k], patches[k].polygons, seam)]
    return kept


def _window(bounds: Box, seam: float) -> Box:
    """What is looked at round a patch."""
    left, top, right, bottom = bounds
    around = WIDER_SEAM * max(right - left, bottom - top, seam)
    return left - around, top - around, right + around, bottom + around


def _parted(pieces: GeometryArray, windows: FloatArray, rows: IntArray) -> Iterator[tuple[list[int], GeometryArray]]:
    """Windows (n, 4) in groups that lie beside each other, with the pieces clipped to each group: what is large is
    halved again and again rather than clipped as a whole for every window."""
    left, top = windows[rows, :2].min(axis=0).tolist()
    right, bottom = windows[rows, 2:].max(axis=0).tolist()
    clipped = shapely.get_parts(shapely.clip_by_rect(pieces, left, top, right, bottom))
    clipped = clipped[~shapely.is_empty(clipped)]
    if len(rows) == 1 or int(shapely.get_num_coordinates(clipped).sum()) <= FEW_POINTS:
        yield rows.tolist(), clipped
        return
    axis = 0 if right - left >= bottom - top else 1
    order = rows[np.argsort(windows[rows, axis], kind="stable")]
    for half in (order[: len(order) // 2], order[len(order) // 2 :]):
        yield from _parted(clipped, windows, half)


def _lies_at_a_touch(pieces: GeometryArray, window: Box, patch: shapely.Geometry, seam: float) -> bool:
    """Whether the gap under a patch lies beside a point in which two shapes touch, or all but touch.

    Edges of two shapes that were meant to be one run on beside each other, however wide a gap one calls a seam; round a
    point in which they touch they part, and far more of them is within four times a distance.
    """
    film = shapely.clip_by_rect(pieces, *window)
    less = TOUCH_SEAMS * seam / 2.0
    parts = shapely.get_parts(shapely.buffer(film, -less, quad_segs=1, join_style="mitre"))
    one, *others = parts[shapely.dwithin(parts, patch, seam)].tolist() or [None]
    if not others:
        return False
    other, rim = shapely.union_all(others), shapely.boundary(one)
    gap = min(max(float(shapely.distance(one, other)) - 2.0 * less, 0.0), seam)
    near, far = (_run_of(rim, other, patch, gap + by * (seam - gap) + 2.0 * less) for by in (1.0, WIDER_SEAM))
    return far > PARTS * near


def _run_of(rim: shapely.Geometry, other: shapely.Geometry, patch: shapely.Geometry, within: float) -> float:
    """How much of an outline at a patch is within a distance of another shape, in mm."""
    close = shapely.line_merge(shapely.intersection(rim, shapely.buffer(other, within)))
    return float(sum(run.length for run in shapely.get_parts(close) if shapely.dwithin(run, patch, within)))


def drop_hairs(region: Region, seam: float = SEAM_MM) -> Region:
    """Take away hairline film up to ``seam`` mm wide."""
    patches = hairs_in(region.polygons, seam)
    return difference(region, patches) if patches else region


def hairs_in(place: shapely.MultiPolygon, seam: float = SEAM_MM) -> list[Region]:
    """The hairline film of an area, as patches to be taken away."""
    pieces = np.array(place.geoms, dtype=object)
    opened = _moved_out_and_back(pieces, -seam / 2.0)
    return [hair for piece, rest in zip(pieces, opened, strict=True) for hair in _hairlines(piece, rest, seam)]


G = TypeVar("G", shapely.Geometry, GeometryArray)


def _moved_out_and_back(polygons: G, by: float) -> G:
    """Of one geometry or an array of them."""
    moved = shapely.buffer(polygons, by, quad_segs=4, join_style="mitre")
    back: G = shapely.buffer(moved, -by, quad_segs=4, join_style="mitre")
    return back


def _hairlines(larger: shapely.Geometry, smaller: shapely.Geometry, seam: float) -> list[Region]:
    """Long narrow pieces by which one shape exceeds the other."""
    if larger.area - smaller.area < LONGER_SEAMS * seam * seam / 4.0:
        return []
    pieces = polygons_of(shapely.difference(larger, smaller)).geoms
    hairlines = [p for p in pieces if p.area > seam * seam / 100.0 and p.length / 2.0 > LONGER_SEAMS * seam]
    return [Region.from_polygons(shapely.buffer(p, OVERLAP_MM, join_style="mitre")) for p in hairlines]
