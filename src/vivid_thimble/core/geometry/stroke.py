"""Strokes to area: the outline of a line drawn with a pen of given width, as curves.

Each smooth stretch becomes a strip between its two parallels; joins and caps are small
shapes of their own. All of them wind the same way, so that the non-zero rule takes them
together without any of them cutting another. Parallels are Hermite cubics (exact points and
derivatives of the parallel at their ends), halved until they stay within the tolerance. Where
a curve bends tighter than half the width its inner parallel turns back on itself: there the
outer half keeps its parallel and the inner half is covered by short chords; at cusps both are.

Joins, caps, mitre limit and dashes follow SVG 2 section 13; other joins are drawn as mitres.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path, cubic_speed, evaluate_cubic, line_segments, split_cubic
from vivid_thimble.core.geometry.path_text import arc_cubics
from vivid_thimble.core.geometry.tolerances import STROKE_MM

Cap = Literal["butt", "round", "square"]
Join = Literal["miter", "round", "bevel"]
MOST_HALVINGS = 9
"""A cubic is parted into at most 2 ** 9 strips."""
SAME_DIRECTION = 1e-6
"""Turns below this (radians) are no joins."""
STEEPEST_BEND = 0.97
"""Half width times curvature from where a parallel is no longer trusted."""
MOST_DASHES = 20_000
"""With more dashes a line is drawn whole: no cutter could follow."""
MOST_AT_ONCE = 20_000
"""Segments that are worked on together, which bounds the memory."""
_SAMPLES = np.linspace(0.0, 1.0, 9)


@dataclass(frozen=True)
class StrokeStyle:
    """Width and dashes in the units of the line. ``dashes`` is empty for a whole line."""

    width: float
    cap: Cap = "butt"
    join: Join = "miter"
    miter_limit: float = 4.0
    dashes: tuple[float, ...] = ()
    dash_offset: float = 0.0


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line and the pen that draws it. ``dots`` (n, 2): contours without extent, which only caps show."""

    path: Path
    style: StrokeStyle
    dots: FloatArray | None = None
    tolerance: float = STROKE_MM
    """How far the outline may lie from the exact stroke."""


def stroke_outlines(strokes: Sequence[Stroke]) -> list[Path]:
    """For each stroke closed contours whose non-zero fill it is; nothing for a width that is not positive."""
    found: list[Path] = []
    batch: list[tuple[Stroke, list[Contour]]] = []
    held = 0
    for stroke in strokes:
        contours = _drawn(stroke)
        batch.append((stroke, contours))
        held += sum(map(len, contours))
        if held > MOST_AT_ONCE:
            found += _outlines(batch)
            batch, held = [], 0
    return found + _outlines(batch)


def _drawn(stroke: Stroke) -> list[Contour]:
    """What the pen goes along."""
    if not stroke.style.width > 0.0:
        return []
    dashes = stroke.style.dashes
    lines = dashed(stroke.path, dashes, stroke.style.dash_offset) if dashes else stroke.path
    return [c for c in lines.contours if len(c)]


def _outlines(batch: list[tuple[Stroke, list[Contour]]]) -> list[Path]:
    halves = np.array([stroke.style.width / 2.0 for stroke, own in batch for _ in own])
    tolerances = np.array([stroke.tolerance for stroke, own in batch for _ in own])
    pieces = _pieces_of([contour for _, own in batch for contour in own], halves, tolerances)
    found = []
    for stroke, own in batch:
        style, rings = stroke.style, []
        for contour in own:
            rings += _Stroker(next(pieces), contour.closed, style, stroke.tolerance).rings()
        if stroke.dots is not None and style.cap != "butt" and style.width > 0.0:
            rings += [_dot(dot, style.width / 2.0, style.cap) for dot in stroke.dots]
        found.append(Path(tuple(rings)))
    return found


@dataclass(frozen=True, eq=False)
class _Pieces:
    """The strips of one contour in order: both parallels (n, 4, 2), end points, directions at the ends."""

    left: FloatArray
    right: FloatArray
    is_line: NDArray[np.bool_]
    start: FloatArray
    end: FloatArray
    leaving: FloatArray
    arriving: FloatArray
    tight: NDArray[np.bool_]
    """Chords at a cusp, where there is no parallel."""
    bend: NDArray[np.int8]
    """Too tight for the inner parallel: 1 when the left one is the outer one, -1 when the right one is; else 0."""
    middle: FloatArray
    """The line itself (n, 4, 2)."""


def _pieces_of(contours: list[Contour], half: FloatArray, tolerance: FloatArray) -> Iterator[_Pieces]:
    """``half`` width and ``tolerance`` of each contour."""
    if not contours:
        return
    segments = np.concatenate([c.segments for c in contours])
    is_line = np.concatenate([c.is_line for c in contours])
    of = np.repeat(np.arange(len(contours)), [len(c) for c in contours])
    cubic, chord, tight, bend, origin = _parted(segments, is_line, half[of], tolerance[of])
    cubic[chord] = line_segments(cubic[chord, 0], cubic[chord, 3])
    leaving, arriving = _directions(cubic)
    left, right = _parallels(cubic, half[of[origin]], leaving, arriving)
    left[chord] = line_segments(left[chord, 0], left[chord, 3])
    right[chord] = line_segments(right[chord, 0], right[chord, 3])
    bounds = np.searchsorted(of[origin], np.arange(len(contours) + 1))
    for i, j in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        yield _Pieces(
            left[i:j],
            right[i:j],
            chord[i:j],
            cubic[i:j, 0],
            cubic[i:j, 3],
            leaving[i:j],
            arriving[i:j],
            tight[i:j],
            bend[i:j],
            cubic[i:j],
        )


def _parted(
    segments: FloatArray, is_line: NDArray[np.bool_], half: FloatArray, tolerance: FloatArray
) -> tuple[FloatArray, NDArray[np.bool_], NDArray[np.bool_], NDArray[np.int8], NDArray[np.int64]]:
    """Segments halved until their parallels are good: cubics, which are straight, which of these stand for a cusp,
    which side bends too tightly (see _Pieces), and the segment each came from; in order."""
    count = int(is_line.sum())
    kinds = np.zeros((count, 2), dtype=np.int8)
    done = [(segments[is_line], np.flatnonzero(is_line), np.zeros(count), kinds + np.array([1, 0], dtype=np.int8))]
    curves, origin = segments[~is_line], np.flatnonzero(~is_line)
    t0, span = np.zeros(len(curves)), 1.0
    for round_ in range(MOST_HALVINGS + 1):
        if not len(curves):
            break
        good, bend, flat = _judged(curves, half[origin], tolerance[origin])
        chord = ~good & (bend == 0) & (flat | (round_ == MOST_HALVINGS))
        take = good | (bend != 0) | chord
        kinds = np.column_stack([chord * 2, np.where(good, 0, bend)]).astype(np.int8)
        done.append((curves[take], origin[take], t0[take], kinds[take]))
        curves, origin, t0 = curves[~take], origin[~take], t0[~take]
        span /= 2.0
        zeros, halves, ones = np.zeros(len(curves)), np.full(len(curves), 0.5), np.ones(len(curves))
        curves = np.concatenate([split_cubic(curves, zeros, halves), split_cubic(curves, halves, ones)])
        origin, t0 = np.r_[origin, origin], np.r_[t0, t0 + span]
    cubic = np.concatenate([part[0] for part in done])
    origin = np.concatenate([part[1] for part in done]).astype(np.int64)
    order = np.lexsort((np.concatenate([part[2] for part in done]), origin))
    kinds = np.concatenate([part[3] for part in done])[order]
    return cubic[order].copy(), kinds[:, 0] > 0, kinds[:, 0] == 2, kinds[:, 1], origin[order]


def _judged(
    cubic: FloatArray, half: FloatArray, tolerance: FloatArray
) -> tuple[NDArray[np.bool_], NDArray[np.int8], NDArray[np.bool_]]:
    """Which cubics have both parallels within the tolerance, which only the outer one (1 left, -1 right, else 0),
    and which are as flat as the tolerance."""
    count = len(cubic)
    t = np.tile(_SAMPLES, count)
    each = np.repeat(cubic, len(_SAMPLES), axis=0)
    point, speed, second = evaluate_cubic(each, t), cubic_speed(each, t), _second(each, t)
    pace = np.hypot(*speed.T)
    with np.errstate(divide="ignore", invalid="ignore"):
        curvature = (speed[:, 0] * second[:, 1] - speed[:, 1] * second[:, 0]) / pace**3
        normal = np.column_stack([-speed[:, 1], speed[:, 0]]) / pace[:, None]
    largest = np.abs(cubic[:, 1:] - cubic[:, :1]).max(axis=(1, 2))
    moving = (pace.reshape(count, -1) > 1e-6 * largest[:, None]).all(axis=1)
    turned = np.nan_to_num(curvature, nan=0.0, posinf=0.0, neginf=0.0)
    by_sample = turned.reshape(count, -1)
    gentle = (np.abs(by_sample) * half[:, None] < STEEPEST_BEND).all(axis=1)
    leaving, arriving = _directions(cubic)
    moving &= (leaving * arriving).sum(axis=1) > 0.0
    fits = []
    for parallel, side in zip(_parallels(cubic, half, leaving, arriving), (half, -half), strict=True):
        reach = np.repeat(side, len(_SAMPLES))
        away = evaluate_cubic(np.repeat(parallel, len(_SAMPLES), axis=0), t) - point - reach[:, None] * normal
        across = np.abs((away * normal).sum(axis=1))
        along = np.abs(away[:, 0] * normal[:, 1] - away[:, 1] * normal[:, 0])
        off = across + along**2 * np.abs(turned) / np.maximum(np.abs(1.0 - turned * reach), 0.02)
        fits.append((np.nan_to_num(off, nan=np.inf).reshape(count, -1) <= tolerance[:, None]).all(axis=1) & moving)
    left_outer = (by_sample <= 0.0).all(axis=1) & fits[0]
    right_outer = (by_sample >= 0.0).all(axis=1) & fits[1]
    bend = np.where(left_outer, 1, np.where(right_outer, -1, 0)).astype(np.int8)
    return gentle & fits[0] & fits[1], np.where(gentle, 0, bend).astype(np.int8), _is_flat(cubic, tolerance)


def _is_flat(cubic: FloatArray, tolerance: FloatArray) -> NDArray[np.bool_]:
    chord = cubic[:, 3] - cubic[:, 0]
    length = np.hypot(*chord.T)
    unit = chord / np.maximum(length, 1e-300)[:, None]
    rel = cubic[:, 1:3] - cubic[:, :1]
    off = np.abs(rel[..., 0] * unit[:, None, 1] - rel[..., 1] * unit[:, None, 0]).max(axis=1)
    along = (rel * unit[:, None]).sum(axis=2)
    within = (along.min(axis=1) >= -tolerance) & (along.max(axis=1) <= length + tolerance)
    return np.asarray((off <= tolerance) & within)


def _second(cubic: FloatArray, t: FloatArray) -> FloatArray:
    d = 6.0 * np.diff(cubic, n=2, axis=1)
    return np.asarray((1.0 - t)[:, None] * d[:, 0] + t[:, None] * d[:, 1])


def _directions(cubic: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Unit directions at both ends, also where a handle has no length."""
    return _direction(cubic[:, 1:] - cubic[:, :1]), _direction((cubic[:, 3:] - cubic[:, :3])[:, ::-1])


def _direction(steps: FloatArray) -> FloatArray:
    """The first step (n, 3, 2) of any length, as unit vectors."""
    length = np.hypot(steps[..., 0], steps[..., 1])
    usable = length > 1e-9 * length.max(axis=1, initial=1e-300, keepdims=True)
    first = usable.argmax(axis=1)
    rows = np.arange(len(steps))
    return np.asarray(steps[rows, first] / np.maximum(length[rows, first], 1e-300)[:, None])


def _parallels(
    cubic: FloatArray, half: FloatArray, leaving: FloatArray, arriving: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Hermite cubics with the end points and derivatives of both parallels."""
    ends = np.zeros(len(cubic)), np.ones(len(cubic))
    normals = [np.column_stack([-u[:, 1], u[:, 0]]) for u in (leaving, arriving)]
    sides = []
    for side in (half, -half):
        out = np.empty_like(cubic)
        for at, (corner, handle, sign, u) in enumerate(((0, 1, 1.0, leaving), (3, 2, -1.0, arriving))):
            speed, bend = cubic_speed(cubic, ends[at]), _second(cubic, ends[at])
            pace = np.hypot(*speed.T)
            with np.errstate(divide="ignore", invalid="ignore"):
                curvature = (speed[:, 0] * bend[:, 1] - speed[:, 1] * bend[:, 0]) / pace**3
                reach = pace * (1.0 - curvature * side) / 3.0
            reach = np.where(np.isfinite(reach) & (pace > 0.0), reach, 0.0)
            out[:, corner] = cubic[:, corner] + side[:, None] * normals[at]
            out[:, handle] = out[:, corner] + sign * reach[:, None] * u
        sides.append(out)
    return sides[0], sides[1]


class _Stroker:
    """Puts the strips, joins and caps of one contour together."""

    def __init__(self, pieces: _Pieces, closed: bool, style: StrokeStyle, tolerance: float) -> None:
        self.pieces, self.closed, self.style = pieces, closed, style
        self.half, self.tolerance = style.width / 2.0, tolerance
        self.left, self.right = pieces.left.copy(), pieces.right.copy()

    def rings(self) -> list[Contour]:
        p = self.pieces
        count = len(p.left)
        after = np.arange(1, count + 1) % count
        u, v = p.arriving, p.leaving[after]
        turn = np.arctan2(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], (u * v).sum(axis=1))
        joint = np.abs(turn) > SAME_DIRECTION
        soft = p.tight | p.tight[after]
        if not self.closed:
            joint[-1] = True
        mitred = joint & self._can_be_mitred(turn, after, soft)
        if not self.closed:
            mitred[-1] = False
        self._meet(np.flatnonzero(mitred), after, turn)
        smooth = np.flatnonzero(~joint)
        for side in (self.left, self.right):
            side[after[smooth], 0] = side[smooth, 3]
        joined = joint & ~mitred
        bent = p.bend != 0
        rings = self._strips(np.flatnonzero(joined | bent | bent[after]), count)
        for k in np.flatnonzero(joined).tolist():
            if k == count - 1 and not self.closed:
                continue
            rings += self._join(k, int(after[k]), float(turn[k]), round_=bool(soft[k]))
        if not self.closed and self.style.cap != "butt":
            rings.append(self._cap(p.start[0], -p.leaving[0]))
            rings.append(self._cap(p.end[-1], p.arriving[-1]))
        return rings

    def _can_be_mitred(self, turn: FloatArray, after: NDArray[np.int64], soft: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Corners between straight lines long enough to be cut at the bisector on both sides."""
        p = self.pieces
        tan = np.tan(np.minimum(np.abs(turn), 3.0) / 2.0)
        length = np.hypot(*(p.end - p.start).T)
        room = self.half * (tan + np.roll(tan, 1))
        fits = p.is_line & (length > 1.05 * room)
        tip = self.half * (1.0 / np.cos(np.minimum(np.abs(turn), 3.0) / 2.0) - 1.0)
        limited = 1.0 / np.maximum(np.cos(np.abs(turn) / 2.0), 1e-9) <= self.style.miter_limit
        as_mitre = limited & (self.style.join == "miter") & ~soft
        allowed = (np.abs(turn) < 2.6) & (as_mitre | (tip < self.tolerance))
        return np.asarray(fits & fits[after] & allowed)

    def _meet(self, corners: NDArray[np.int64], after: NDArray[np.int64], turn: FloatArray) -> None:
        """Let the parallels of straight lines meet on the bisector."""
        if not len(corners):
            return
        p, following = self.pieces, after[corners]
        u, v = p.arriving[corners], p.leaving[following]
        bisector = np.column_stack([-(u + v)[:, 1], (u + v)[:, 0]])
        bisector /= np.hypot(*bisector.T)[:, None]
        reach = (self.half / np.cos(turn[corners] / 2.0))[:, None] * bisector
        for side, sign in ((self.left, 1.0), (self.right, -1.0)):
            side[corners, 3] = side[following, 0] = p.end[corners] + sign * reach
        touched = np.union1d(corners, following)
        for side in (self.left, self.right):
            side[touched] = line_segments(side[touched, 0], side[touched, 3])

    def _strips(self, breaks: NDArray[np.int64], count: int) -> list[Contour]:
        """One ring for each run of strips without a join; two for a closed contour without any."""
        if not len(breaks):
            return [self._ring([self.left], [self.pieces.is_line]), self._ring([self.right], [self.pieces.is_line], 1)]
        rings = []
        begins = np.roll(breaks, 1) + 1
        for begin, last in zip(begins.tolist(), breaks.tolist(), strict=True):
            begin %= count
            if self.pieces.bend[last]:
                rings += self._bent(last)
                continue
            run = np.arange(begin, last + 1) if begin <= last else np.r_[begin:count, 0 : last + 1]
            left, right = self.left[run], self.right[run][::-1, ::-1]
            is_line = self.pieces.is_line[run]
            far = line_segments(left[-1:, 3], right[:1, 0])
            near = line_segments(right[-1:, 3], left[:1, 0])
            segments = np.concatenate([left, far, right, near])
            rings.append(Contour(segments, np.concatenate([is_line, [True], is_line[::-1], [True]]), True))
        return rings

    def _bent(self, k: int) -> list[Contour]:
        """A tight bend: its outer half between line and parallel, its inner half as rectangles on chords."""
        p, outer_is_left = self.pieces, self.pieces.bend[k] > 0
        line, outer = p.middle[k : k + 1], (self.left if outer_is_left else self.right)[k : k + 1]
        forth, back = (outer, line) if outer_is_left else (line, outer)
        back = back[:, ::-1]
        far, near = line_segments(forth[:, 3], back[:, 0]), line_segments(back[:, 3], forth[:, 0])
        half_strip = Contour(np.concatenate([forth, far, back, near]), np.array([False, True, False, True]), True)
        points = flatten(Path((Contour(line.copy(), np.zeros(1, dtype=bool), False),)), self.tolerance).points
        step = np.diff(points, axis=0)
        inwards = np.column_stack([-step[:, 1], step[:, 0]]) / np.maximum(np.hypot(*step.T), 1e-300)[:, None]
        inwards *= -self.half if outer_is_left else self.half
        overlap = min(1.0, 4.0 * self.tolerance / self.half) * inwards  # no slit along the line
        a, b = points[:-1] - overlap, points[1:] - overlap
        inwards = inwards + overlap
        corners = [a, b, b + inwards, a + inwards] if outer_is_left else [a, a + inwards, b + inwards, b]
        return [half_strip, *(Contour.from_points(np.array(one)) for one in zip(*corners, strict=True))]

    @staticmethod
    def _ring(sides: list[FloatArray], lines: list[NDArray[np.bool_]], backwards: int = 0) -> Contour:
        segments, is_line = np.concatenate(sides), np.concatenate(lines)
        contour = Contour(segments, is_line, True)
        return contour.reversed() if backwards else contour

    def _join(self, k: int, after: int, turn: float, *, round_: bool) -> list[Contour]:
        """The wedge outside a corner; its winding is that of the strips."""
        p = self.pieces
        at, u = p.end[k], p.arriving[k]
        side = -1.0 if turn > 0.0 else 1.0
        a = at + side * self.half * np.array([-u[1], u[0]])
        v = p.leaving[after]
        b = at + side * self.half * np.array([-v[1], v[0]])
        if round_ or self.style.join == "round":
            return [self._sector(at, a, b, turn)]
        corners = [at, a, b]
        ratio = 1.0 / max(abs(math.cos(turn / 2.0)), 1e-9)
        if self.style.join == "miter" and ratio <= self.style.miter_limit:
            out = a + b - 2.0 * at
            length = float(np.hypot(*out))
            if length > 1e-12:
                corners = [at, a, at + out / length * self.half * ratio, b]
        return [self._wound(Contour.from_points(np.array(corners)), turn)]

    def _sector(self, at: FloatArray, a: FloatArray, b: FloatArray, turn: float) -> Contour:
        arcs = _arc(at, a, b, turn)
        segments = np.concatenate([line_segments(at[None], a[None]), arcs, line_segments(b[None], at[None])])
        is_line = np.zeros(len(segments), dtype=bool)
        is_line[[0, -1]] = True
        return self._wound(Contour(segments, is_line, True), turn)

    @staticmethod
    def _wound(ring: Contour, turn: float) -> Contour:
        """Strips wind from the left parallel over the end to the right one; wedges must do the same."""
        return ring.reversed() if turn > 0.0 else ring

    def _cap(self, at: FloatArray, out: FloatArray) -> Contour:
        """What is added beyond an end; ``out`` leads away from the line."""
        normal = np.array([-out[1], out[0]]) * self.half
        a, b = at + normal, at - normal
        if self.style.cap == "square":
            reach = out * self.half
            return Contour.from_points(np.array([a, a + reach, b + reach, b]))
        segments = np.concatenate([_arc(at, a, b, -math.pi), line_segments(b[None], a[None])])
        is_line = np.zeros(len(segments), dtype=bool)
        is_line[-1] = True
        return Contour(segments, is_line, True)


def _arc(centre: FloatArray, a: FloatArray, b: FloatArray, sweep: float) -> FloatArray:
    """Cubics (n, 4, 2) from a to b round a centre; ``sweep`` in radians."""
    first = math.atan2(a[1] - centre[1], a[0] - centre[0])
    arcs = np.array(arc_cubics(first, sweep)) * float(np.hypot(*(a - centre))) + centre
    arcs[0, 0], arcs[-1, 3] = a, b
    return np.asarray(arcs)


def _dot(at: FloatArray, half: float, cap: Cap) -> Contour:
    if cap == "square":
        return Contour.from_points(at + half * np.array([[-1, -1], [-1, 1], [1, 1], [1, -1]], dtype=float))
    arcs = np.array(arc_cubics(0.0, -2.0 * math.pi)) * half + at
    arcs[-1, 3] = arcs[0, 0]
    return Contour(arcs, np.zeros(len(arcs), dtype=bool), True)


def dashed(path: Path, dashes: tuple[float, ...], offset: float = 0.0) -> Path:
    """Only the dashes of lines, as open contours; lengths along the line, in its units.

    An odd number of lengths is taken twice over. Lengths that sum to nothing, or more than
    MOST_DASHES dashes, leave the line whole.
    """
    pattern = np.array(dashes if len(dashes) % 2 == 0 else dashes * 2, dtype=np.float64)
    period = float(pattern.sum())
    if not period > 0.0 or (pattern < 0.0).any():
        return path
    out: list[Contour] = []
    for contour in path.contours:
        if not len(contour):
            continue
        ruler = _Ruler(contour)
        if ruler.length / period * len(pattern) / 2.0 > MOST_DASHES:
            out.append(contour)
            continue
        out += [ruler.between(a, b) for a, b in _dash_spans(pattern, period, offset, ruler.length) if b > a]
    return Path(tuple(out))


def _dash_spans(pattern: FloatArray, period: float, offset: float, length: float) -> Iterator[tuple[float, float]]:
    at = -(offset % period)
    k = 0
    while at < length:
        step = float(pattern[k % len(pattern)])
        if k % 2 == 0 and at + step > 0.0:
            yield max(at, 0.0), min(at + step, length)
        at += step
        k += 1


class _Ruler:
    """Arc length along a contour, sampled 32 times a curve."""

    STEPS = 32

    def __init__(self, contour: Contour) -> None:
        self.contour = contour
        grid = np.linspace(0.0, 1.0, self.STEPS + 1)
        each = np.repeat(contour.segments, len(grid), axis=0)
        points = evaluate_cubic(each, np.tile(grid, len(contour))).reshape(len(contour), -1, 2)
        steps = np.hypot(*np.moveaxis(np.diff(points, axis=1), 2, 0))
        self.along = np.concatenate([np.zeros((len(contour), 1)), np.cumsum(steps, axis=1)], axis=1)
        self.begin = np.r_[0.0, np.cumsum(self.along[:, -1])]
        self.length = float(self.begin[-1])
        self.grid = grid

    def _place(self, distance: float) -> tuple[int, float]:
        k = int(np.clip(np.searchsorted(self.begin, distance, side="right") - 1, 0, len(self.contour) - 1))
        return k, float(np.interp(distance - self.begin[k], self.along[k], self.grid))

    def between(self, a: float, b: float) -> Contour:
        (i, s), (j, t) = self._place(a), self._place(b)
        segments = self.contour.segments[i : j + 1]
        t0, t1 = np.zeros(len(segments)), np.ones(len(segments))
        t0[0], t1[-1] = s, t
        parts = split_cubic(segments, t0, t1)
        is_line = self.contour.is_line[i : j + 1]
        parts[is_line] = line_segments(parts[is_line, 0], parts[is_line, 3])
        keep = t1 > t0
        return (
            Contour(parts[keep], is_line[keep].copy(), False) if keep.any() else Contour(parts, is_line.copy(), False)
        )
