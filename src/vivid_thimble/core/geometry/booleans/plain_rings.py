"""Outlines that need no boolean: rings that do not cross and lie in each other as the fill rule asks.

Most glyphs and many drawings are drawn that way. Telling so is several times cheaper than resolving
them, and the outline keeps every segment as it came in.
"""

from __future__ import annotations

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.booleans.clip import to_grid
from vivid_thimble.core.geometry.booleans.kernels import FillRule
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.tolerances import GRID_MM

MOST_RINGS = 60
"""With more rings the look costs about as much as the boolean."""


def plain_rings(path: Path, rule: FillRule, tolerance: float) -> tuple[MultiPolygon, Path] | None:
    """The filled area and its outline, outer rings first and turned the usual way; None when it is not that plain."""
    contours = [c for c in path.contours if len(c)]
    if not contours or len(contours) > MOST_RINGS or not all(_is_tight(c) for c in contours):
        return None
    rings = [to_grid(ring) * GRID_MM for ring in flatten(Path(tuple(contours)), tolerance).rings()]
    if min(len(ring) for ring in rings) < 3:
        return None
    shapes = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    if not shapely.is_valid(shapes).all():
        return None
    turns = np.where(shapely.is_ccw(shapely.get_exterior_ring(shapes)), 1, -1)
    holders = _holders(shapes)
    outside = np.array([turns[held].sum() if rule == "nonzero" else len(held) for held in holders])
    inside = outside + (turns if rule == "nonzero" else 1)
    filled_outside, filled = (outside != 0, inside != 0) if rule == "nonzero" else (outside % 2 == 1, inside % 2 == 1)
    if (filled == filled_outside).any():
        return None  # a ring that is no border of what is filled
    areas = shapely.area(shapes)
    holes: dict[int, list[int]] = {int(k): [] for k in np.flatnonzero(filled)}
    for k in np.flatnonzero(~filled).tolist():
        holder = min(holders[k], key=lambda j: areas[j])
        if holder not in holes:
            return None
        holes[holder].append(k)
    polygons = MultiPolygon([(rings[k], [rings[j] for j in within]) for k, within in holes.items()])
    if not polygons.is_valid:
        return None
    order = [j for k, within in holes.items() for j in (k, *within)]
    wanted = {j: 1 if j in holes else -1 for j in order}
    return polygons, Path(tuple(contours[j] if turns[j] == wanted[j] else contours[j].reversed() for j in order))


def _is_tight(contour: Contour) -> bool:
    """Closed, without segments that go nowhere."""
    ends = contour.segments[:, 3] - contour.segments[:, 0]
    chained = np.array_equal(contour.segments[1:, 0], contour.segments[:-1, 3])
    loops = np.array_equal(contour.segments[-1, 3], contour.segments[0, 0])
    return contour.closed and chained and loops and bool((np.abs(ends).max(axis=1) > GRID_MM).all())


def _holders(shapes: np.ndarray) -> list[list[int]]:
    """For every ring the others that hold it."""
    holders: list[list[int]] = [[] for _ in shapes]
    if len(shapes) > 1:
        inner, outer = shapely.STRtree(shapes).query(shapes, predicate="within")
        for i, j in zip(inner.tolist(), outer.tolist(), strict=True):
            if i != j:
                holders[i].append(j)
    return holders
