"""Monograms: two or three initials fitted into a circle, a shield or a row.

Every letter is bent to fill its own place. That would make strokes thick where a letter is stretched
and thin where it is squeezed, so each letter is first given the width and the strokes of its place:
upright and level strokes are measured on scan lines and moved to the common widths by growing or
shrinking across and down apart. The result is in units of half the monogram's width, y down.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np
import shapely
from msgspec import Struct
from shapely.affinity import scale, translate

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.holding.strips import strip_between
from vivid_thimble.core.ranges import Band, Factor, Fraction
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.lettering import ShapedWords, Shaper, Words, shape_words
from vivid_thimble.core.sources.source import InOneFace

Frame = Literal["circle", "shield", "row"]
Border = Literal["none", "ring", "band"]
SIZE_MM = 200.0
"""Half the width while the letters are bent, so that tolerances fit."""
OUTER_EDGE = 0.93
"""Letters at the sides of a circle end here, as a share of the radius, and bulge out to the circle."""
SOFT_EDGE = 0.03
SIDE_HEIGHT = 0.72
"""In a row, the height of the letters beside the centre one."""
NARROWEST, WIDEST = 0.26, 1.1
"""Letters count as at least and at most so wide, as shares of their height, when the room is shared out."""
SCANS = 32
MOST_STROKE_SHARE = 0.62
"""Chords longer than this share of a letter are no strokes."""
THICKEST_LEVEL = 1.25
"""Level strokes are about as thick as upright ones or thinner; what seems thicker slants."""
MOST_CHANGE = 0.45
"""Strokes change by at most this share of their width on either side."""
FITTING_ROUNDS = 4
EVEN = 0.02
"""Growing along one axis, the other one grows by this share of it."""
BEND_STEP = 0.01
SHIELD_SIDE, SHIELD_POINT = 0.1, 1.12
"""Where a shield's sides begin to turn inwards, and its point, below the middle."""
SHIELD_WIDTH = 0.88
ROW_HEIGHT = 0.5
FREE_OF_LETTERS: dict[str, float] = {"ring": 0.65, "band": 0.85}
"""Letters that are welded to a border leave so much of its width free."""
LEAST_ROOM = 0.02
"""Letters need so much width and height at least, as a share of a monogram's."""
TIE_SHARE = 0.6
"""Strips that tie a welded monogram are so wide, as a share of its thinnest ring."""
BAND_SHARES = (0.5, 0.2, 0.3)
"""A band: outer ring, space and inner ring as shares of its width."""


class Monogram(InOneFace, Struct, frozen=True, tag="monogram", kw_only=True):
    """Initials in a face. ``centre`` enlarges the middle one of three; ``gap`` and ``line`` (the border's
    width) are shares of the whole width; ``welded`` makes one piece of everything."""

    WORD: ClassVar[str] = "monogram"
    initials: str
    face: str
    frame: Frame = "circle"
    border: Border = "ring"
    centre: Factor = 1.3
    gap: Fraction = 0.02
    line: Band = 0.04
    welded: bool = False

    @property
    def lettering(self) -> list[Words]:
        return words_of_monogram(self)


@dataclass(frozen=True)
class Strokes:
    """Widths of upright and level strokes; ``level`` is None when a letter has none."""

    upright: float
    level: float | None


@dataclass(frozen=True)
class _Cell:
    """The place of one letter: its sides, and its edges above and below at any x. ``bulge`` pushes
    the outer side of a round frame out."""

    left: float
    right: float
    top: Callable[[FloatArray], FloatArray]
    bottom: Callable[[FloatArray], FloatArray]
    bulge: int = 0

    @property
    def height(self) -> float:
        x = np.linspace(self.left, self.right, 21)
        return float((self.bottom(x) - self.top(x)).mean())


def compose_monogram(monogram: Monogram, shape: Shaper = shape_words) -> Composed:
    """The finished monogram; ``shape`` sets words. Raises InputRefused for other than two or three letters."""
    letters = initials_of(monogram)
    if not 2 <= len(letters) <= 3:
        raise InputRefused("A monogram takes two or three initials: type them without dots.")
    shapes = [_letter(shape(words)) for words in words_of_monogram(monogram)]
    border = 2.0 * monogram.line if monogram.border != "none" else 0.0
    gap = 0.0 if monogram.welded else 2.0 * monogram.gap
    inner = 1.0 - (border * FREE_OF_LETTERS[monogram.border] if monogram.welded else border + gap) if border else 1.0
    has_room = inner > 0.0 and not _frame_shape(monogram.frame, inner).is_empty
    cells = _cells(monogram, [_width_of(shape) for shape in shapes], inner, gap) if has_room else []
    if not cells or min(min(cell.right - cell.left, cell.height) for cell in cells) < LEAST_ROOM * SIZE_MM:
        raise InputRefused("Border and gaps leave no room for the letters: make them narrower.")
    fitted = [_bent(shape, cell) for shape, cell in zip(_stroked(shapes, cells), cells, strict=True)]
    parts = [Part(c, _region(shape)) for c, shape in zip(letters, fitted, strict=True)]
    parts += [Part("border", _region(ring)) for ring in _border(monogram, border)]
    if monogram.welded:
        ring = BAND_SHARES[2] if monogram.border == "band" else 1.0
        width = TIE_SHARE * ring * 2.0 * monogram.line * SIZE_MM
        parts += [Part("spoke", _region(spoke)) for spoke in _spokes(monogram, border)]
        parts = [Part("".join(letters), _in_one(parts, width))]
    return Composed(tuple(parts))


def strokes_of(shape: shapely.Geometry) -> Strokes:
    """Stroke widths of a letter: a low quantile of the chords of level and of upright scan lines."""
    left, top, right, bottom = shape.bounds
    y, x = _between(top, bottom), _between(left, right)
    level_lines = np.stack([np.column_stack([np.full_like(y, edge), y]) for edge in (left - 1, right + 1)], axis=1)
    upright_lines = np.stack([np.column_stack([x, np.full_like(x, edge)]) for edge in (top - 1, bottom + 1)], axis=1)
    upright = _short_chords(shape, level_lines, right - left)
    level = _short_chords(shape, upright_lines, bottom - top)
    upright = upright if upright is not None else right - left
    return Strokes(upright, level if level is not None and level <= THICKEST_LEVEL * upright else None)


def _between(low: float, high: float) -> FloatArray:
    return np.asarray(low + (high - low) * (np.arange(SCANS) + 0.5) / SCANS)


def _short_chords(shape: shapely.Geometry, lines: FloatArray, extent: float) -> float | None:
    """A low quantile of the chords of scan lines (n, 2, 2), without those too long for strokes."""
    chords = shapely.length(shapely.get_parts(shapely.intersection(shapely.linestrings(lines), shape)))
    short = chords[(chords > 1e-9) & (chords < MOST_STROKE_SHARE * extent)]
    return float(np.quantile(short, 0.35)) if len(short) > SCANS // 4 else None


def initials_of(monogram: Monogram) -> list[str]:
    return [c for c in monogram.initials.upper() if not c.isspace()]


def words_of_monogram(monogram: Monogram) -> list[Words]:
    """What is set for a monogram: every initial by itself."""
    return [Words(text=c, face=monogram.face) for c in initials_of(monogram)]


def _letter(shaped: ShapedWords) -> shapely.MultiPolygon:
    """A capital as polygons in SIZE_MM units, its box at 0, 0."""
    outline = Path.joined(one.path for one in shaped.letters)
    shape = Region.from_path(outline.transformed(Affine.scaling(SIZE_MM))).polygons
    return translate(shape, -shape.bounds[0], -shape.bounds[1])


def _width_of(shape: shapely.Geometry) -> float:
    left, top, right, bottom = shape.bounds
    return float(min(max((right - left) / (bottom - top), NARROWEST), WIDEST))


def _cells(monogram: Monogram, widths: Sequence[float], inner: float, gap: float) -> list[_Cell]:
    """The places of the letters, in SIZE_MM units; letters get room by their own widths."""
    weights = [w * (monogram.centre if len(widths) == 3 and k == 1 else 1.0) for k, w in enumerate(widths)]
    half = _half_width(monogram.frame, inner)
    unit = (2.0 * half - gap * (len(widths) - 1)) / sum(weights)
    cells, left = [], -half
    for k, weight in enumerate(weights):
        right = left + unit * weight
        top, bottom = _edges(monogram.frame, inner, is_side=len(widths) == 3 and k != 1)
        is_round = monogram.frame == "circle"
        bulge = -1 if is_round and k == 0 else 1 if is_round and k == len(widths) - 1 else 0
        cells.append(_Cell(left * SIZE_MM, right * SIZE_MM, top, bottom, bulge))
        left = right + gap
    return cells


def _half_width(frame: Frame, inner: float) -> float:
    if frame == "circle":
        return inner * OUTER_EDGE
    return inner if frame == "row" else SHIELD_WIDTH - (1.0 - inner)


_Edge = Callable[[FloatArray], FloatArray]


def _edges(frame: Frame, inner: float, *, is_side: bool) -> tuple[_Edge, _Edge]:
    """The frame above and below any x (SIZE_MM units)."""
    if frame == "row":
        height = (ROW_HEIGHT - (1.0 - inner)) * SIZE_MM * (SIDE_HEIGHT if is_side else 1.0)
        return lambda x: np.full_like(x, -height), lambda x: np.full_like(x, height)
    points = shapely.get_coordinates(_frame_shape(frame, inner).exterior)
    upper, lower = (points[side] for side in (points[:, 1] <= 0.0, points[:, 1] >= 0.0))

    def edge(chain: FloatArray) -> _Edge:
        chain = chain[np.argsort(chain[:, 0], kind="stable")]
        return lambda x: np.interp(x, chain[:, 0], chain[:, 1])

    return edge(upper), edge(lower)


def _shield_below(x: FloatArray) -> FloatArray:
    """The lower edge of a shield of half width SHIELD_WIDTH: two arcs that meet in the point."""
    reach = np.clip(np.abs(x) / SHIELD_WIDTH, 0.0, 1.0)
    return np.asarray(SHIELD_SIDE + (SHIELD_POINT - SHIELD_SIDE) * (1.0 - reach**2.2) ** 0.85)


def _stroked(shapes: Sequence[shapely.Geometry], cells: Sequence[_Cell]) -> list[shapely.Geometry]:
    """Letters as wide and high as their places (before bending), with the same strokes all over."""
    strokes = [strokes_of(shape) for shape in shapes]
    boxes = [shape.bounds for shape in shapes]
    across = [(c.right - c.left) / (b[2] - b[0]) for c, b in zip(cells, boxes, strict=True)]
    upright = math.exp(float(np.mean([math.log(s.upright * f) for s, f in zip(strokes, across, strict=True)])))
    contrasts = [s.level / s.upright for s in strokes if s.level is not None]
    level = upright * float(np.median(contrasts)) if contrasts else None
    return [
        _fitted(shape, stroke, cell, upright, level) for shape, stroke, cell in zip(shapes, strokes, cells, strict=True)
    ]


def _fitted(
    shape: shapely.Geometry, stroke: Strokes, cell: _Cell, upright: float, level: float | None
) -> shapely.Geometry:
    """One letter in its room with the wanted strokes; what slanting and round strokes miss is asked for again."""
    extent, room = shape.bounds[2:], (cell.right - cell.left, cell.height)
    ask_x, ask_y = upright, level
    best: tuple[float, shapely.Geometry] | None = None
    for _ in range(FITTING_ROUNDS):
        by_x = _growth(stroke.upright, ask_x, extent[0], room[0])
        by_y = _growth(stroke.level, ask_y, extent[1], room[1]) if stroke.level and ask_y else 0.0
        left_over = [(r - 2.0 * by) / e for r, by, e in zip(room, (by_x, by_y), extent, strict=True)]
        sized = scale(shape, *left_over, origin=(0, 0))
        grown = _grown(sized, by_x, by_y)
        left, top, right, bottom = grown.bounds
        fitted = scale(translate(grown, -left, -top), room[0] / (right - left), room[1] / (bottom - top), origin=(0, 0))
        has = strokes_of(fitted)
        off = abs(math.log(has.upright / upright))
        if best is None or off < best[0]:
            best = off, fitted
        ask_x *= upright / has.upright
        if ask_y and level and has.level:
            ask_y *= level / has.level
    assert best is not None
    return best[1]


def _growth(stroke: float, wanted: float, extent: float, room: float) -> float:
    """By how much every edge moves so that, scaled to what is left of the room, strokes are as wanted."""
    share = min(stroke / extent, 0.8)
    growth = (wanted - share * room) / (2.0 * (1.0 - share))
    most = MOST_CHANGE * share * room
    return min(max(growth, -most), most)


def _grown(shape: shapely.Geometry, by_x: float, by_y: float) -> shapely.Geometry:
    """Edges moved outwards (or inwards) by different distances across and down: by an ellipse where both
    go the same way, else one after the other."""
    if by_x * by_y < 0.0:
        return _grown(_grown(shape, by_x, 0.0), 0.0, by_y)
    reach = max(abs(by_x), abs(by_y))
    if reach < 1e-6:
        return shape
    radii = [max(abs(by), EVEN * reach) for by in (by_x, by_y)]
    round_space = scale(shape, 1.0 / radii[0], 1.0 / radii[1], origin=(0, 0))
    moved = shapely.buffer(
        round_space, math.copysign(1.0, by_x or by_y), quad_segs=16, join_style="mitre", mitre_limit=2.0
    )
    return scale(moved, radii[0], radii[1], origin=(0, 0)) if not moved.is_empty else shape


def _bent(shape: shapely.Geometry, cell: _Cell) -> shapely.Geometry:
    """A letter of the cell's width and height bent to the cell's edges."""
    left, top, right, bottom = shape.bounds
    fine = shapely.segmentize(shape, BEND_STEP * SIZE_MM)

    def bend(points: FloatArray) -> FloatArray:
        u = (points[:, 0] - left) / (right - left)
        v = (points[:, 1] - top) / (bottom - top)
        x = cell.left + u * (cell.right - cell.left)
        y = cell.top(x) + v * (cell.bottom(x) - cell.top(x))
        if cell.bulge:
            outer = cell.left if cell.bulge < 0 else cell.right
            radius = abs(outer) / OUTER_EDGE
            room = np.sqrt(np.maximum(radius**2 - y**2, 0.0)) - abs(outer)
            near = (1.0 - u) if cell.bulge < 0 else u
            soft = (room + np.hypot(room, SOFT_EDGE * radius)) / 2.0  # no kink where the circle passes the side
            x = x + cell.bulge * near**2 * soft
        return np.column_stack([x, y])

    bent = shapely.transform(fine, bend)
    return bent if bent.is_valid else shapely.make_valid(bent)


def _border(monogram: Monogram, width: float) -> list[shapely.Geometry]:
    """The rings round everything; the inner edge of the border touches the letters' room."""
    if monogram.border == "none":
        return []
    if monogram.border == "ring":
        return [shapely.difference(_frame_shape(monogram.frame, 1.0), _frame_shape(monogram.frame, 1.0 - width))]
    outer, space, _ = (share * width for share in BAND_SHARES)
    rings = ((1.0, 1.0 - outer), (1.0 - outer - space, 1.0 - width))
    return [shapely.difference(_frame_shape(monogram.frame, a), _frame_shape(monogram.frame, b)) for a, b in rings]


def _spokes(monogram: Monogram, width: float) -> list[shapely.Geometry]:
    """What holds the two rings of a band together: a strip on every side."""
    if monogram.border != "band":
        return []
    outer, space, inner = (share * width * SIZE_MM for share in BAND_SHARES)
    left, top, right, bottom = _frame_shape(monogram.frame, 1.0).bounds
    half = inner / 2.0
    start, stop = outer / 2.0, outer + space + inner / 2.0
    middle = 0.0 if monogram.frame != "shield" else (top + SHIELD_SIDE * SIZE_MM) / 2.0
    return [
        shapely.box(-half, top + start, half, top + stop),
        shapely.box(-half, bottom - stop, half, bottom - start),
        shapely.box(left + start, middle - half, left + stop, middle + half),
        shapely.box(right - stop, middle - half, right - start, middle + half),
    ]


def _frame_shape(frame: Frame, inner: float) -> shapely.Polygon:
    """The frame filled, drawn in by the same distance all round from the outermost one."""
    if frame == "circle":
        return shapely.Point(0, 0).buffer(inner * SIZE_MM, quad_segs=128)
    if frame == "row":
        margin = (1.0 - inner) * SIZE_MM
        whole = shapely.box(-SIZE_MM, -ROW_HEIGHT * SIZE_MM, SIZE_MM, ROW_HEIGHT * SIZE_MM)
        outer = shapely.buffer(shapely.buffer(whole, -0.1 * SIZE_MM), 0.1 * SIZE_MM, quad_segs=32)
        return shapely.buffer(outer, -margin, quad_segs=32)
    x = np.linspace(-SHIELD_WIDTH, SHIELD_WIDTH, 401)
    points = np.column_stack([np.r_[x, SHIELD_WIDTH, -SHIELD_WIDTH], np.r_[_shield_below(x), -1.0, -1.0]])
    return shapely.buffer(shapely.Polygon(points * SIZE_MM), -(1.0 - inner) * SIZE_MM, join_style="mitre")


def _region(shape: shapely.Geometry) -> Region:
    """Polygons fitted with curves."""
    rings = [
        np.asarray(ring.coords)
        for polygon in polygons_of(shape).geoms
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return Region.from_path(Path(tuple(fit_rings(rings))), "evenodd")


def _in_one(parts: Sequence[Part], width: float) -> Region:
    """Everything in one piece: what does not hold is tied to what does, nearest first."""
    held, *loose = [part.region for part in parts]
    while loose:
        nearest = min(loose, key=lambda region: region.polygons.distance(held.polygons))
        loose.remove(nearest)
        strip = strip_between(held.polygons, nearest.polygons, width)
        strips = [Region.from_polygons(strip)] if strip is not None else []
        held = union([held, nearest, *strips])
    return held
