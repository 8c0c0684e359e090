"""Relief cuts: straight cuts through the surround, so that it comes off in manageable strips.

One neat line through the waist of the design crosses the surround from edge to edge of the weeding
box, stopping short of every kept piece. Where the design leaves whole columns or rows free, it is
parted there as well.
"""

from __future__ import annotations

import numpy as np
import shapely
from shapely import LineString, MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.plain_shapes import rectangle
from vivid_thimble.core.inspect.pieces import SURROUND_MM

CLEAR_MM = 0.6
"""A relief cut ends this far from kept film."""
SHORTEST_MM = 2.0
"""Shorter stretches are left out."""
STRIP_MM = 120.0
"""Strips of waste longer than this are parted where the design leaves room."""
LINES = 41
"""Heights tried for the line through the waist."""
REACH_MM = 200.0
"""Waste is pulled off by one hand up to about this length."""
HAIR_MM = 0.02
MOST_CUTS = 80
"""So many short cuts to pieces of film that waste goes round."""
MIDDLE = (0.3, 0.7)
"""The waist lies between these shares of the height."""


def weeding_box(kept: MultiPolygon, margin: float) -> Box:
    """The rectangle ``margin`` mm round kept film that is not empty."""
    left, top, right, bottom = kept.bounds
    return left - margin, top - margin, right + margin, bottom + margin


def waste_cuts(kept: MultiPolygon, margin: float | None, *, relief: bool) -> tuple[Path, ...]:
    """The weeding box ``margin`` mm round kept film (None: it is not cut) and the relief cuts, as closed paths: a cut
    goes along its line and back."""
    if kept.is_empty or (margin is None and not relief):
        return ()
    box = weeding_box(kept, SURROUND_MM if margin is None else margin)
    cuts = [] if margin is None else [rectangle(box).outline]
    if relief:
        cuts += [Path((Contour.from_points(np.asarray(line.coords)),)) for line in relief_in(kept, box)]
    return tuple(cuts)


def relief_in(kept: MultiPolygon, box: Box) -> tuple[LineString, ...]:
    """Relief cuts through all waste inside a box that reaches its edge."""
    rest = shapely.get_parts(shapely.difference(shapely.box(*box), kept))
    frame = shapely.box(*box).exterior
    surround = shapely.union_all([piece for piece in rest if shapely.intersects(piece, frame)])
    return relief_cuts(kept, box, surround)


def relief_cuts(kept: MultiPolygon, box: Box, surround: shapely.Geometry) -> tuple[LineString, ...]:
    """Straight cuts (mm) through the ``surround`` inside a weeding ``box``; none for empty film."""
    if kept.is_empty:
        return ()
    room = shapely.difference(surround, shapely.buffer(kept, CLEAR_MM, quad_segs=4))
    left, top, right, bottom = box
    rows = [LineString([(left, y), (right, y)]) for y in _free_places(kept, 1, top, bottom)]
    columns = [LineString([(x, top), (x, bottom)]) for x in _free_places(kept, 0, left, right)]
    cuts = [*_waist(kept, box, room), *rows, *columns]
    cuts += _within_reach(room, box, [float(column.coords[0][0]) for column in columns])
    return (*cuts, *_unwrapping(room, cuts))


def _within_reach(room: shapely.Geometry, box: Box, parted: list[float]) -> list[LineString]:
    """Upright cuts through all waste, no farther apart than a hand reaches, each where it crosses the least waste;
    ``parted``: where columns are cut anyway."""
    left, top, right, bottom = box
    stops = sorted([left, *parted, right])
    cuts = []
    for a, b in zip(stops[:-1], stops[1:], strict=True):
        more = int((b - a - HAIR_MM) // REACH_MM)
        for k in range(1, more + 1):
            middle = a + (b - a) * k / (more + 1)
            tries = np.linspace(middle - REACH_MM / 5.0, middle + REACH_MM / 5.0, LINES)
            lines = shapely.intersection(shapely.linestrings([[(x, top), (x, bottom)] for x in tries]), room)
            best = lines[int(np.argmin(shapely.length(lines)))]
            cuts += _long_ones(best, HAIR_MM)
    return cuts


def _unwrapping(room: shapely.Geometry, cuts: list[LineString]) -> list[LineString]:
    """For every piece of film that waste still goes all round, one short cut from it to the waste's other edge."""
    parted = shapely.difference(room, shapely.buffer(shapely.union_all(cuts), HAIR_MM)) if cuts else room
    more: list[LineString] = []
    for piece in shapely.get_parts(parted):
        if piece.geom_type != "Polygon":
            continue
        edge: shapely.Geometry = piece.exterior
        rings = list(piece.interiors)
        while rings and len(more) < MOST_CUTS:
            ring = min(rings, key=lambda one: one.distance(edge))
            rings.remove(ring)
            more.append(shapely.shortest_line(ring, edge))
            edge = shapely.union_all([edge, ring])
    return more


def _waist(kept: MultiPolygon, box: Box, room: shapely.Geometry) -> list[LineString]:
    """The height whose line meets the least film, as its stretches through the surround."""
    left, top, right, bottom = box
    low, high = (kept.bounds[1] + share * (kept.bounds[3] - kept.bounds[1]) for share in MIDDLE)
    heights = np.linspace(low, high, LINES)
    lines = shapely.linestrings([[(left, y), (right, y)] for y in heights])
    crossed = shapely.length(shapely.intersection(lines, kept))
    off_middle = np.abs(heights - (top + bottom) / 2.0) / (bottom - top)
    best = lines[int(np.argmin(crossed * (1.0 + off_middle)))]
    return _long_ones(shapely.intersection(best, room), SHORTEST_MM)


def _long_ones(lines: shapely.Geometry, least: float) -> list[LineString]:
    """The lines in a geometry that have at least some length."""
    return [line for line in shapely.get_parts(lines) if line.geom_type == "LineString" and line.length >= least]


def _free_places(kept: MultiPolygon, axis: int, low: float, high: float) -> list[float]:
    """Middles of the columns (axis 0) or rows (1) that no film reaches: columns no closer together than STRIP_MM."""
    least = STRIP_MM if axis == 0 else 0.0
    places, last = [], low
    for a, b in _free_stretches(kept, axis):
        middle = (a + b) / 2.0
        if b - a >= 2.0 * CLEAR_MM and middle - last >= least and high - middle >= least / 2.0:
            places.append(middle)
            last = middle
    return places


def _free_stretches(kept: MultiPolygon, axis: int) -> list[tuple[float, float]]:
    """Stretches of x or y between pieces, in rising order."""
    bounds: FloatArray = shapely.bounds(shapely.get_parts(kept))
    bounds = bounds[np.argsort(bounds[:, axis])]
    reached = np.maximum.accumulate(bounds[:, axis + 2])
    free = np.flatnonzero(bounds[1:, axis] > reached[:-1])
    return [(float(reached[k]), float(bounds[k + 1, axis])) for k in free]
