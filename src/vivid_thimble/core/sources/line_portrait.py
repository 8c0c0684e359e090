"""A photo as lines whose width follows its darkness: one spiral, or concentric rings, or waves.

Neighbouring lines lie one pitch apart. A line may be as thin as the film's thinnest line and as wide as leaves its
thinnest gap; between these its width follows how dark the photo is there. Both limits are kept along the normal of
the line's middle, with an allowance for the tolerance of the curves, so they hold however fast the width changes:
every way from wall to wall crosses that middle (or the middle of the gap), and each wall lies at least half a limit
away from it. More turns show more of the photo but leave less difference between its light and its dark; ``TONES``
is the ratio of widest to thinnest line that the recommended number of turns leaves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.fitting.smooth_fit import SmoothLines, fit_smooth
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.path_text import arc_cubics
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.holding.strips import straight_strip
from vivid_thimble.core.ranges import Factor, Few, Fine, Limit, Room, SharePlace, Turns
from vivid_thimble.core.sources.source import OneFile
from vivid_thimble.core.tracing.prepare import AS_IT_IS, Preparing

if TYPE_CHECKING:  # it brings the tracer
    from vivid_thimble.core.tracing.label_map import ColourImage

Lines = Literal["spiral", "rings", "waves"]
MOST_TURNS = 100.0
"""No photo has more to show, and nobody would weed it."""
TONES = 3.0
"""The widest line over the thinnest one at the recommended number of turns."""
LEAST_TONES = 1.4
"""With less difference between light and dark nothing is recognised any more."""
GROWN, MOST_GROWN = 1.06, 2.0
"""The circle is searched for in steps of this factor, up to so many times the size of what its lines cover."""
NEARLY_SIZED = 1e-4
"""The circle is found to within this share of the size; what is left is scaled."""
TOLERANCE_MM = 0.0015
"""Of the curves along the walls."""
ALLOWANCE_MM = 0.005
"""By so much lines and gaps stay above their limits on each side: curves and flattening stray by less."""
STEP_SHARE = 0.16
"""Points along a line lie this share of the pitch apart."""
BLUR_SHARE = 0.35
"""The photo is blurred by this share of the pitch: finer detail would only make the lines rough."""
SMOOTHED = 1.5
"""Widths along a line are smoothed over so many points, or they would have a kink where they meet a limit."""
DARKEST, LIGHTEST = 0.98, 0.02
"""Quantiles of darkness that become the widest and the thinnest line."""
INNER_SHARE = 0.9
"""The spiral begins so many pitches from the middle, where its bends are wider than its line."""
LEAST_OPENING = 3.0
"""Ties leave at least so many pitches between them."""
WAVE_LENGTH, WAVE_HEIGHT = 14.0, 0.9
"""Of waves, in pitches."""


class LinePortrait(OneFile, Struct, frozen=True, tag="line-portrait", kw_only=True):
    """A photo kept with the job, and how lines show it. ``centre`` and ``radius`` tell the round crop, in shares of the
    photo and of half its shorter side. ``turns`` None: as many as the limits allow. ``min_line``, ``min_gap`` in mm.

    ``ties``: how often a turn or line is broken by ``tie_width`` mm, so that a rigid sheet holds together between
    lines that are cut out of it.
    """

    WORD: ClassVar[str] = "line portrait"
    HAS_LENGTHS: ClassVar[bool] = True
    asset: str
    name: str
    preparing: Preparing = AS_IT_IS
    lines: Lines = "spiral"
    centre: SharePlace = (0.5, 0.5)
    radius: Factor = 1.0
    turns: Turns | None = None
    inner: Room | None = None
    """Radius in mm at which a spiral begins; None: as far in as it bends no tighter than the film bears."""
    clockwise: bool = True
    outer_ring: bool = False
    min_line: Limit = 0.8
    min_gap: Limit = 0.8
    ties: Few = 0
    tie_width: Fine = 1.5

    @property
    def is_one_strip(self) -> bool:
        return self.lines == "spiral"


@dataclass(frozen=True, eq=False)
class DrawnLines:
    """``kept``: the film that stays, its middle at the origin. ``turns`` used, ``most_turns`` recommended. ``tones``:
    the widest over the thinnest line. Where to begin pulling: the outer end of the kept line and of the waste strip;
    both None where lines are not one."""

    kept: Region
    turns: float
    most_turns: float
    pitch: float
    tones: float
    kept_end: tuple[float, float] | None
    waste_end: tuple[float, float] | None
    circle: float = 0.0
    """Diameter of the circle that the lines fill; what they cover of it is a little smaller."""


def most_turns(diameter: float, min_line: float, min_gap: float, tones: float = TONES) -> float:
    """The most turns with which lines may still be ``tones`` times as wide as the thinnest."""
    return diameter / 2.0 / _least_pitch(min_line, min_gap, tones)


def smallest_diameter(turns: float, min_line: float, min_gap: float, tones: float = TONES) -> float:
    """The size below which so many turns no longer cut."""
    return 2.0 * turns * _least_pitch(min_line, min_gap, tones)


def _least_pitch(min_line: float, min_gap: float, tones: float) -> float:
    return tones * (min_line + 2 * ALLOWANCE_MM) + min_gap + 2 * ALLOWANCE_MM


def draw_to_size(pixels: ColourImage, portrait: LinePortrait, size: float, axis: int = 0) -> DrawnLines:
    """A portrait ``size`` mm wide (axis 0) or high (axis 1), the middle of its box at the origin.

    How much of their circle lines cover depends on where they end, so the circle is searched for by the lines' walls,
    before any curve is made. Raises as draw_lines.
    """
    from scipy.optimize import brentq  # here: it delays the first paint

    def short_by(diameter: float) -> float:
        box = _planned(pixels, portrait, diameter).box
        return size - (box[axis + 2] - box[axis])

    diameter, largest = size, size
    while short_by(largest) > 0.0 and largest < MOST_GROWN * size:
        diameter, largest = largest, largest * GROWN
    if largest > diameter:
        diameter = float(brentq(short_by, diameter, largest, xtol=NEARLY_SIZED * size, maxiter=40, disp=False))
    drawn = draw_lines(pixels, portrait, diameter)
    bounds = drawn.kept.bounds
    if bounds is None:
        return drawn
    middle = (bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0
    last = Affine.translation(-middle[0], -middle[1]).then(Affine.scaling(size / (bounds[axis + 2] - bounds[axis])))

    def moved(at: tuple[float, float] | None) -> tuple[float, float] | None:
        if at is None:
            return None
        x, y = last.apply(np.array(at)).tolist()
        return x, y

    kept = drawn.kept.transformed(last)
    return replace(drawn, kept=kept, kept_end=moved(drawn.kept_end), waste_end=moved(drawn.waste_end))


def draw_lines(pixels: ColourImage, portrait: LinePortrait, diameter: float) -> DrawnLines:
    """Lines that fill a circle of this diameter, its middle at the origin; ``pixels``: the prepared photo.

    Raises InputRefused for more turns than the limits allow, or a size too small.
    """
    plan = _planned(pixels, portrait, diameter)
    kept, kept_end, waste_end = plan.kept(), plan.kept_end, plan.waste_end
    if portrait.ties > 0:
        kept, kept_end, waste_end = difference(kept, _ties(portrait, diameter / 2.0, plan.room)), None, None
    return DrawnLines(kept, plan.turns, plan.best, plan.room.pitch, plan.room.tones, kept_end, waste_end, diameter)


def _planned(pixels: ColourImage, portrait: LinePortrait, diameter: float) -> _Plan:
    best = min(most_turns(diameter, portrait.min_line, portrait.min_gap), MOST_TURNS)
    turns = best if portrait.turns is None else portrait.turns
    pitch = diameter / 2.0 / max(turns, 1e-9)
    if not turns >= 2.0:
        raise InputRefused(
            f"{turns:.1f} turns show nothing at {diameter:g} mm: make it larger or take a film for finer lines."
        )
    room = _Room(pitch, portrait.min_line + 2 * ALLOWANCE_MM, portrait.min_gap + 2 * ALLOWANCE_MM)
    if room.tones < LEAST_TONES:
        least = smallest_diameter(turns, portrait.min_line, portrait.min_gap, LEAST_TONES)
        most = most_turns(diameter, portrait.min_line, portrait.min_gap, LEAST_TONES)
        raise InputRefused(
            f"{turns:g} turns need {least:.0f} mm at least: make it as large, or take {math.floor(most)} turns."
        )
    dark = _Darkness(pixels, portrait, diameter, pitch)
    draw = {"spiral": _spiral, "rings": _rings, "waves": _waves}[portrait.lines]
    return _Plan(turns, best, room, *draw(portrait, diameter / 2.0, room, dark))


@dataclass(frozen=True)
class _Room:
    """How wide lines may be between their neighbours."""

    pitch: float
    thinnest: float
    gap: float

    @property
    def tones(self) -> float:
        return (self.pitch - self.gap) / self.thinnest

    def widths(self, darkness: FloatArray, pitch: FloatArray) -> FloatArray:
        """Line widths for darkness 0 to 1, where neighbours are ``pitch`` away along the normal."""
        widest = np.maximum(pitch - self.gap, self.thinnest)
        return np.asarray(self.thinnest + np.clip(darkness, 0.0, 1.0) * (widest - self.thinnest))


class _Darkness:
    """How dark the photo is at places in mm from the middle, 0 (the lightest) to 1."""

    def __init__(self, pixels: ColourImage, portrait: LinePortrait, diameter: float, pitch: float) -> None:
        import cv2  # here, both: they delay the first paint

        from vivid_thimble.core.tracing.tones import grays

        rows, columns = pixels.shape[:2]
        self.px_per_mm = portrait.radius * min(rows, columns) / diameter
        self.middle = portrait.centre[0] * columns - 0.5, portrait.centre[1] * rows - 0.5
        dark = 1.0 - grays(pixels).astype(np.float32) / np.float32(255.0)
        reach = BLUR_SHARE * pitch * self.px_per_mm
        self.values = np.asarray(cv2.GaussianBlur(dark, (0, 0), reach), np.float32) if reach > 0.2 else dark
        angle, share = np.meshgrid(np.linspace(0, 2 * np.pi, 360, endpoint=False), np.sqrt((np.arange(60) + 0.5) / 60))
        seen = self._looked_up(
            0.5 * diameter * np.stack([share * np.cos(angle), share * np.sin(angle)], axis=-1).reshape(-1, 2)
        )
        self.low, self.high = (float(v) for v in np.quantile(seen, [LIGHTEST, DARKEST]))

    def at(self, points: FloatArray) -> FloatArray:
        if self.high - self.low < 0.01:
            return np.full(len(points), 0.5)
        return np.clip((self._looked_up(points) - self.low) / (self.high - self.low), 0.0, 1.0)

    def _looked_up(self, points: FloatArray) -> FloatArray:
        from scipy.ndimage import map_coordinates  # here: it delays the first paint

        x, y = (points * self.px_per_mm + self.middle).T
        return np.asarray(map_coordinates(self.values, [y, x], order=1, mode="constant", cval=0.0), dtype=np.float64)


@dataclass(frozen=True, eq=False)
class _Line:
    """A line by its middle (n, 2), the directions along it (n, 2) and its smoothed widths (n)."""

    middle: FloatArray
    along: FloatArray
    width: FloatArray
    closed: bool

    @staticmethod
    def of(middle: FloatArray, along: FloatArray, width: FloatArray, *, closed: bool = False) -> _Line:
        from scipy.ndimage import gaussian_filter1d  # here: it delays the first paint

        return _Line(middle, along, gaussian_filter1d(width, SMOOTHED, mode="wrap" if closed else "nearest"), closed)

    @property
    def walls(self) -> list[FloatArray]:
        across = np.stack([-self.along[:, 1], self.along[:, 0]], axis=1)
        return [self.middle + sign * across * self.width[:, None] / 2.0 for sign in (1.0, -1.0)]

    @property
    def reached(self) -> FloatArray:
        """Points (n, 2) whose box is that of the film along the line, its round ends included."""
        tips = [
            self.middle[k] + self.width[k] / 2.0 * way
            for k in (0, -1)
            for way in (np.array([1.0, 0.0]), np.array([-1.0, 0.0]), np.array([0.0, 1.0]), np.array([0.0, -1.0]))
        ]
        return np.concatenate([*self.walls, *([] if self.closed else [np.array(tips)])])


Drawn = tuple[list[_Line], float, tuple[float, float] | None, tuple[float, float] | None]


@dataclass(frozen=True, eq=False)
class _Plan:
    """Where all lines run. ``ring``: radius of a ring round them, tied to the end of the last one; 0 for none."""

    turns: float
    best: float
    room: _Room
    lines: list[_Line]
    ring: float
    kept_end: tuple[float, float] | None
    waste_end: tuple[float, float] | None

    @property
    def box(self) -> Box:
        points = np.concatenate([line.reached for line in self.lines])
        out = self.ring + self.room.thinnest / 2.0 if self.ring else 0.0
        low, high = np.minimum(points.min(axis=0), -out), np.maximum(points.max(axis=0), out)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def kept(self) -> Region:
        ribbons = [_ribbon(line) for line in self.lines]
        if not self.ring:
            return ribbons[0] if len(ribbons) == 1 else union(ribbons)
        end = self.lines[-1].middle[-1]
        bar = straight_strip(end, end / np.hypot(*end) * self.ring, self.room.thinnest)
        return union([*ribbons, _ring(self.ring, self.room.thinnest), Region.from_polygons(bar)])


def _spiral(portrait: LinePortrait, radius: float, room: _Room, dark: _Darkness) -> Drawn:
    """One line from the middle outwards, with round ends."""
    p, sense = room.pitch, 1.0 if portrait.clockwise else -1.0
    kept_free = room.thinnest + room.gap if portrait.outer_ring else 0.0
    inner = max(portrait.inner or 0.0, INNER_SHARE * p)
    outer = radius - kept_free - p / 2.0
    if outer - inner < p:
        raise InputRefused("There is no room for a spiral: make it larger, or begin nearer to the middle.")
    angle = _even_angles(inner, outer, p, STEP_SHARE * p)
    r = p * angle / (2 * np.pi)
    cos, sin = np.cos(angle), sense * np.sin(angle)
    middle = np.stack([r * cos, r * sin], axis=1)
    slope = p / (2 * np.pi)
    along = np.stack([slope * cos - r * sin * sense, slope * sin + r * cos * sense], axis=1)
    along /= np.hypot(*along.T)[:, None]
    line = _Line.of(middle, along, room.widths(dark.at(middle), p * r / np.hypot(r, slope)))
    end = middle[-1] + along[-1] * line.width[-1] / 2.0
    out = middle[-1] / np.hypot(*middle[-1])
    waste = middle[-1] - out * p / 2.0 + along[-1] * p / 2.0
    if portrait.outer_ring:
        end = out * radius
    ring = radius - room.thinnest / 2.0 if portrait.outer_ring else 0.0
    return [line], ring, (float(end[0]), float(end[1])), (float(waste[0]), float(waste[1]))


def _even_angles(inner: float, outer: float, pitch: float, step: float) -> FloatArray:
    """Angles of a spiral from one radius to another, about ``step`` apart along it."""
    count = max(int(np.pi * (outer**2 - inner**2) / pitch / step), 16)
    squares = np.linspace(inner**2, outer**2, count + 1)
    return np.sqrt(squares) * 2 * np.pi / pitch


def _ribbon(line: _Line) -> Region:
    """The film along a line, with round ends."""
    middle, along, walls, closed = line.middle, line.along, line.walls, line.closed
    points = np.concatenate(walls)
    size = len(middle)
    start = np.array([0, size, 2 * size])
    tangents = np.concatenate([_tangents(wall, closed=closed) for wall in walls])
    lines = SmoothLines(points, tangents, start, np.array([closed, closed]))
    one, two = fit_smooth(lines, TOLERANCE_MM, TOLERANCE_MM / 2.0)
    if closed:
        return Region.from_path(Path((one, two)), "evenodd")
    two = two.reversed()
    caps = [
        _cap(one.segments[-1, 3], two.segments[0, 0], along[-1]),
        _cap(two.segments[-1, 3], one.segments[0, 0], -along[0]),
    ]
    pieces = [one.segments, caps[0], two.segments, caps[1]]
    is_line = [one.is_line, np.zeros(len(caps[0]), dtype=bool), two.is_line, np.zeros(len(caps[1]), dtype=bool)]
    return Region.from_path(Path((Contour(np.concatenate(pieces), np.concatenate(is_line), True),)), "nonzero")


def _tangents(points: FloatArray, *, closed: bool) -> FloatArray:
    """Unit tangents along evenly spaced points, of second order also at the ends."""
    if closed:
        inner = points[:-1]
        way = np.roll(inner, -1, axis=0) - np.roll(inner, 1, axis=0)
        way = np.concatenate([way, way[:1]])
    else:
        way = np.gradient(points, axis=0, edge_order=2)
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-12)[:, None])


def _cap(start: FloatArray, end: FloatArray, outwards: FloatArray) -> FloatArray:
    """A half circle from one wall to the other, bulging outwards (2, 4, 2)."""
    middle, radius = (start + end) / 2.0, float(np.hypot(*(end - start))) / 2.0
    first = start - middle
    turn = first[0] * outwards[1] - first[1] * outwards[0]
    angle = math.atan2(first[1], first[0])
    cubics = np.array(arc_cubics(angle, math.copysign(math.pi, turn))) * radius + middle
    cubics[0, 0], cubics[-1, 3] = start, end
    return cubics


def _ring(radius: float, width: float) -> Region:
    circles = [np.array(arc_cubics(0.0, 2 * math.pi)) * r for r in (radius + width / 2.0, radius - width / 2.0)]
    for cubics in circles:
        cubics[-1, 3] = cubics[0, 0]
    return Region.from_path(Path(tuple(Contour(c, np.zeros(len(c), dtype=bool), True) for c in circles)), "evenodd")


def _rings(portrait: LinePortrait, radius: float, room: _Room, dark: _Darkness) -> Drawn:
    """Rings round each other, one pitch apart."""
    p = room.pitch
    count = int((radius - p / 2.0) / p)
    rings = []
    for k in range(1, count + 1):
        r = radius - p / 2.0 - (count - k) * p
        if r < 0.4 * p:
            continue
        size = max(int(2 * np.pi * r / (STEP_SHARE * p)), 24)
        angle = np.linspace(0.0, 2 * np.pi, size + 1)
        angle[-1] = 0.0
        way = np.stack([np.cos(angle), np.sin(angle)], axis=1)
        along = np.stack([-np.sin(angle), np.cos(angle)], axis=1)
        rings.append(_Line.of(r * way, along, room.widths(dark.at(r * way), np.full(size + 1, p)), closed=True))
    return rings, 0.0, None, None


def _waves(portrait: LinePortrait, radius: float, room: _Room, dark: _Darkness) -> Drawn:
    """Wavy lines from side to side of the circle, one pitch apart along their normal where they are steepest."""
    length, height = WAVE_LENGTH * room.pitch, WAVE_HEIGHT * room.pitch
    steepest = 2 * np.pi * height / length
    spacing = room.pitch * math.hypot(1.0, steepest)
    lines = []
    for _, base, reach in _wave_places(radius, room.pitch):
        x = np.linspace(-reach, reach, max(int(2 * reach / (STEP_SHARE * room.pitch)), 16))
        slope = steepest * np.cos(2 * np.pi * x / length)
        middle = np.stack([x, base + height * np.sin(2 * np.pi * x / length)], axis=1)
        along = np.stack([np.ones_like(x), slope], axis=1) / np.hypot(1.0, slope)[:, None]
        lines.append(_Line.of(middle, along, room.widths(dark.at(middle), spacing / np.hypot(1.0, slope))))
    return lines, 0.0, None, None


def _wave_places(radius: float, pitch: float) -> list[tuple[int, float, float]]:
    """Number, height and half length of each wave."""
    height = WAVE_HEIGHT * pitch
    spacing = pitch * math.hypot(1.0, 2 * np.pi * WAVE_HEIGHT / WAVE_LENGTH)
    count = int((radius - pitch) / spacing)
    found = []
    for k in range(-count, count + 1):
        reach = math.sqrt(max((radius - pitch / 2.0) ** 2 - (abs(k * spacing) + height) ** 2, 0.0))
        if reach >= 2 * pitch:
            found.append((k, k * spacing, reach))
    return found


def _ties(portrait: LinePortrait, radius: float, room: _Room) -> list[Region]:
    """Bars across the lines, one pitch long, each half way between those of the line before."""
    p, width = room.pitch, portrait.tie_width
    bars: list[FloatArray] = []
    if portrait.lines == "waves":
        step = 2 * radius / (portrait.ties + 1)
        for k, base, reach in _wave_places(radius, p):
            places = -radius + step * (np.arange(portrait.ties + 1) + (0.5 if k % 2 else 1.0))
            for x in places[np.abs(places) < reach - LEAST_OPENING * p].tolist():
                y = base + WAVE_HEIGHT * p * math.sin(2 * np.pi * x / (WAVE_LENGTH * p))
                bars.append(np.array([[x, y], [0.0, 1.0]]))
    else:
        turns = int(radius / p)
        for k in range(turns + 1):
            r = radius - p / 2.0 - k * p
            number = min(portrait.ties, int(2 * np.pi * r / (width + LEAST_OPENING * p)))
            for n in range(number):
                angle = 2 * np.pi * (n + 0.5 * (k % 2)) / number
                at = r + (p * angle / (2 * np.pi) if portrait.lines == "spiral" and portrait.clockwise else 0.0)
                if portrait.lines == "spiral" and not portrait.clockwise:
                    at = r + p * (2 * np.pi - angle) / (2 * np.pi)
                way = np.array([math.cos(angle), math.sin(angle)])
                bars.append(np.array([at * way, way]))
    strips = [straight_strip(middle - out * p / 2.0, middle + out * p / 2.0, width) for middle, out in bars]
    return [Region.from_polygons(strip) for strip in strips]


def seen_from_afar(region: Region, diameter: float, distance_mm: float = 2000.0, size: int = 360) -> NDArray[np.uint8]:
    """The portrait as eyes see it from a distance: gray levels (size, size), blurred by what they resolve there."""
    import cv2

    over = 4
    scale = size * over / diameter
    picture = np.full((size * over, size * over), 255, np.uint8)
    for polygon in region.polygons.geoms:
        rings = [np.asarray(ring.coords) for ring in (polygon.exterior, *polygon.interiors)]
        shift = 4
        points = [np.rint(((ring * scale) + size * over / 2.0) * 2**shift).astype(np.int32) for ring in rings]
        cv2.fillPoly(picture, points, 0, cv2.LINE_AA, shift)
    small = cv2.resize(picture, (size, size), interpolation=cv2.INTER_AREA)
    resolved = distance_mm * math.radians(1.0 / 60.0)  # one minute of arc
    sigma = max(resolved / 2.0 * size / diameter, 0.3)
    return np.asarray(cv2.GaussianBlur(small, (0, 0), sigma), dtype=np.uint8)
