"""Kept pieces and waste pieces: areas, places, the largest circle inside.

Waste is everything inside the weeding box that is not kept: the surround and the
counters, each connected piece being one pick. Islands are sheet pieces that hang on
nothing.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.clip import polygons_of
from vivid_thimble.core.geometry.path import Box

SURROUND_MM = 5.0
"""Room between the design and its weeding box."""

SLENDER_AREAS = 4.0
"""A piece of so many times the smallest area is held by its length even where it is slender."""


@dataclass(frozen=True, eq=False)
class Piece:
    """One connected piece. ``circle`` is the diameter of the largest circle inside, or None
    when it is certainly above the asked size."""

    polygon: shapely.Polygon
    area: float
    at: tuple[float, float]
    circle: float | None
    index: int
    """Position in the polygons that were looked at."""
    is_surround: bool = False

    @property
    def box(self) -> Box:
        left, top, right, bottom = self.polygon.bounds
        return left, top, right, bottom


def kept_pieces(polygons: MultiPolygon, circle_below: float) -> list[Piece]:
    """The connected pieces of kept film, largest first; circles measured where they may be smaller."""
    return _pieces(list(polygons.geoms), circle_below)


def waste_pieces(polygons: MultiPolygon, box: Box, circle_below: float) -> list[Piece]:
    """The pieces to pull off inside a weeding box, the surround first, then by area."""
    frame = shapely.box(*box)
    surround = list(polygons_of(shapely.difference(frame, _filled(polygons))).geoms)
    counters = _counters(polygons)
    pieces = _pieces([*surround, *counters], circle_below)
    rim = frame.exterior
    marked = [replace(p, is_surround=bool(shapely.intersects(rim, p.polygon.exterior))) for p in pieces]
    return sorted(marked, key=lambda p: (not p.is_surround, -p.area, p.at))


def islands(sheet: MultiPolygon) -> list[int]:
    """Indices of the pieces of a stencil sheet that are not connected with its frame.

    The frame is the piece with the largest box.
    """
    if len(sheet.geoms) < 2:
        return []
    boxes = shapely.bounds(list(sheet.geoms))
    sizes = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    frame = int(np.argmax(sizes))
    return [k for k in range(len(sheet.geoms)) if k != frame]


def _filled(polygons: MultiPolygon) -> shapely.Geometry:
    """Outer outlines without their holes; pieces inside holes vanish into their surrounding."""
    outers = [shapely.Polygon(p.exterior) for p in polygons.geoms]
    return shapely.union_all(outers)


def _counters(polygons: MultiPolygon) -> list[shapely.Polygon]:
    """Every hole, less the pieces that lie inside it."""
    holes = [shapely.Polygon(ring) for p in polygons.geoms for ring in p.interiors]
    if not holes:
        return []
    pieces = list(polygons.geoms)
    probes = shapely.points([p.exterior.coords[0] for p in pieces])
    tree = shapely.STRtree(probes)
    inside: dict[int, list[int]] = {}
    hole_index, probe_index = tree.query(holes, predicate="contains")
    for h, p in zip(hole_index.tolist(), probe_index.tolist(), strict=True):
        inside.setdefault(h, []).append(p)
    out: list[shapely.Polygon] = []
    for k, hole in enumerate(holes):
        if k not in inside:
            out.append(hole)
            continue
        filled = shapely.union_all([shapely.Polygon(pieces[p].exterior) for p in inside[k]])
        out += list(polygons_of(shapely.difference(hole, filled)).geoms)
    return [p for p in out if p.area > 0.0]


def _pieces(polygons: list[shapely.Polygon], circle_below: float) -> list[Piece]:
    if not polygons:
        return []
    area, length = shapely.area(polygons), shapely.length(polygons)
    # the largest inside circle has at least the radius area / perimeter
    unsure = 2.0 * area / np.maximum(length, 1e-12) < circle_below
    places = shapely.get_coordinates(shapely.point_on_surface(polygons))
    pieces = []
    for k, polygon in enumerate(polygons):
        circle = None
        if unsure[k]:
            radius_line = shapely.maximum_inscribed_circle(polygon, tolerance=0.01)
            circle = 2.0 * float(radius_line.length)
        pieces.append(Piece(polygon, float(area[k]), (float(places[k, 0]), float(places[k, 1])), circle, k))
    return sorted(pieces, key=lambda p: (-p.area, p.at))


def is_small(piece: Piece, smallest_area: float, smallest_circle: float) -> bool:
    """Whether a kept piece lifts with the waste: too little area, or too slender for its area."""
    return clean_scale(piece, smallest_area, smallest_circle) > 1.0


def clean_scale(piece: Piece, smallest_area: float, smallest_circle: float) -> float:
    """The scale from which a kept piece is no longer small."""
    by_area = float(np.sqrt(smallest_area / piece.area))
    if piece.circle is None or piece.circle <= 0.0:
        return by_area
    return max(by_area, min(smallest_circle / piece.circle, by_area * float(np.sqrt(SLENDER_AREAS))))
