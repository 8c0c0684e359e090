"""Kept pieces and waste pieces: areas, places, the largest circle inside.

Waste is everything inside the weeding box that is not kept: the surround and the
counters, each connected piece being one pick. Islands are sheet pieces that hang on
nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.containment import GeometryArray, smallest_around
from vivid_thimble.core.geometry.path import Box

SURROUND_MM = 5.0
"""Room between the design and its weeding box."""

ROUGHLY_MM, ROUGHLY, CLOSELY = 0.02, 0.02, 0.001
"""Shares of a piece's size to which its circle is measured, and measured where it decides."""
LEAST_HANGING_LIMITS = 12.0
"""Parts that hang by less than the limit are told from so many squares of it on; smaller ones are bits of outline."""
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
    geoms = shapely.get_parts(polygons)
    outlines = shapely.get_exterior_ring(geoms)
    rings, owner = shapely.get_rings(geoms, return_index=True)
    is_hole = np.r_[False, owner[1:] == owner[:-1]] if len(owner) else np.zeros(0, dtype=bool)
    holes = shapely.polygons(rings[is_hole])
    inside: dict[int, list[int]] = {}
    for piece, hole in enumerate(smallest_around(geoms, holes).tolist()):
        inside.setdefault(hole, []).append(piece)
    outer = [(frame, outlines[inside.pop(-1, [])])]
    outer += [(area, outlines[inside.get(h, [])]) for h, area in enumerate(holes.tolist())]
    surround, *counters = _cut_out(outer)
    pieces = _pieces([*surround, *(p for rest in counters for p in rest)], circle_below)
    on_rim = shapely.intersects(frame.exterior, shapely.get_exterior_ring([p.polygon for p in pieces]))
    marked = [replace(p, is_surround=bool(rim)) for p, rim in zip(pieces, on_rim, strict=True)]
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


def hanging(sheet: MultiPolygon, limit: float, least_area: float) -> list[Piece]:
    """Parts of a stencil's frame that hang on it by less than ``limit`` mm everywhere, largest first.

    What is left of the frame when its edges move in by half the limit tells which parts hold together.
    """
    frame = max(sheet.geoms, key=lambda p: shapely.box(*p.bounds).area, default=shapely.Polygon())
    parts = polygons_of(shapely.buffer(frame, -limit / 2.0, quad_segs=4)).geoms
    if len(parts) < 2:
        return []
    sizes = [shapely.box(*part.bounds).area for part in parts]
    found = []
    for k, part in enumerate(parts):
        whole = shapely.intersection(shapely.buffer(part, limit / 2.0, quad_segs=4), frame)
        if k != int(np.argmax(sizes)) and whole.area >= max(least_area, LEAST_HANGING_LIMITS * limit**2):
            at = shapely.point_on_surface(part)
            found.append(Piece(whole, float(whole.area), (float(at.x), float(at.y)), None, -1))
    return sorted(found, key=lambda piece: -piece.area)


def _cut_out(areas: list[tuple[shapely.Polygon, GeometryArray]]) -> list[list[shapely.Polygon]]:
    """Each polygon without what its rings enclose; as plain holes wherever that is valid at once."""
    shells = shapely.get_exterior_ring([area for area, _ in areas])
    plain = [
        area if not len(rings) else shapely.polygons(shell, holes=rings)
        for (area, rings), shell in zip(areas, shells, strict=True)
    ]
    cut = []
    for (area, rings), polygon, valid in zip(areas, plain, shapely.is_valid(plain), strict=True):
        if valid:
            cut.append([polygon])
            continue
        rest = shapely.difference(area, shapely.union_all(shapely.polygons(rings))) if len(rings) else area
        cut.append([p for p in polygons_of(shapely.make_valid(rest)).geoms if p.area > 0.0])
    return cut


def _pieces(polygons: list[shapely.Polygon], circle_below: float) -> list[Piece]:
    if not polygons:
        return []
    area, length = shapely.area(polygons), shapely.length(polygons)
    # the largest inside circle has at least the radius area / perimeter
    unsure = 2.0 * area / np.maximum(length, 1e-12) < circle_below
    places = shapely.get_coordinates(shapely.point_on_surface(polygons))
    pieces = []
    for k, polygon in enumerate(polygons):
        circle = inscribed_circle(polygon) if unsure[k] else None
        if circle is not None and circle < circle_below <= circle + ROUGHLY_MM:
            circle = inscribed_circle(polygon, CLOSELY)
        pieces.append(Piece(polygon, float(area[k]), (float(places[k, 0]), float(places[k, 1])), circle, k))
    return sorted(pieces, key=lambda p: (-p.area, p.at))


def inscribed_circle(polygon: shapely.Polygon, share: float = ROUGHLY) -> float:
    """Diameter of the largest circle inside: never too large, too small by 0.02 mm at most and, for
    small pieces, by twice the share of it."""
    rough = 2.0 * polygon.area / max(polygon.length, 1e-12)
    tolerance = min(0.01, max(share * rough, 1e-6))
    return 2.0 * float(shapely.maximum_inscribed_circle(polygon, tolerance=tolerance).length)


def deciding_piece(pieces: Sequence[Piece], smallest_area: float, smallest_circle: float) -> tuple[float, Piece] | None:
    """The scale from which none of the kept pieces is small, and the piece that decides it.

    Circles are measured only where they can matter.
    """
    best: tuple[float, Piece] | None = None
    bounds = [_highest_clean_scale(piece, smallest_area, smallest_circle) for piece in pieces]
    for k in np.argsort(-np.asarray(bounds), kind="stable").tolist():
        if best is not None and bounds[k] <= best[0]:
            break
        piece = replace(pieces[k], circle=inscribed_circle(pieces[k].polygon, CLOSELY))
        scale = clean_scale(piece, smallest_area, smallest_circle)
        if best is None or scale > best[0]:
            best = scale, piece
    return best


def _highest_clean_scale(piece: Piece, smallest_area: float, smallest_circle: float) -> float:
    """What a piece's clean scale is at most, from its circle as far as known, or its area and outline alone."""
    if piece.circle is not None:
        return clean_scale(piece, smallest_area, smallest_circle)
    rough = 2.0 * piece.area / max(piece.polygon.length, 1e-12)
    by_area = float(np.sqrt(smallest_area / piece.area))
    return max(by_area, min(float(smallest_circle / rough), by_area * float(np.sqrt(SLENDER_AREAS))))


def is_small(piece: Piece, smallest_area: float, smallest_circle: float) -> bool:
    """Whether a kept piece lifts with the waste: too little area, or too slender for its area."""
    return clean_scale(piece, smallest_area, smallest_circle) > 1.0


def clean_scale(piece: Piece, smallest_area: float, smallest_circle: float) -> float:
    """The scale from which a kept piece is no longer small."""
    by_area = float(np.sqrt(smallest_area / piece.area))
    if piece.circle is None or piece.circle <= 0.0:
        return by_area
    return max(by_area, min(smallest_circle / piece.circle, by_area * float(np.sqrt(SLENDER_AREAS))))
