"""From points along edges to curves: true corners, straight lines straight, smooth joints, few nodes.

Points are put in order, corners found, and the stretches between them smoothed by a parabola through each point and
its neighbours, from which the tangents come as well. Corners stay where the sides meet. All stretches of all lines are
then fitted together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.fitting.smooth_fit import SmoothLines, fit_smooth
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Contour
from vivid_thimble.core.tracing.corners import LEAST_TURN_DEG, Corners, Lines, corners_of, lines_from, no_corners
from vivid_thimble.core.tracing.line_ends import with_ends
from vivid_thimble.core.tracing.polynomials import fitted_polynomials
from vivid_thimble.core.tracing.subpixel import Coverage

FINEST_TOLERANCE_PX = 0.085
"""Curves stay within this of the edges of a clean picture."""
TOLERANCE_IN_NOISE = 6.0
"""Curves through noisy points stay within so many standard deviations, which averages the noise away."""
SUMMED = 4.0
"""The place of an edge, a sum over pixels, strays by so many times the noise of the ground."""
STEPS_PX = 0.36
"""Lines along pixels without their steps are straight within so much."""
LOOKED_AT = 3000
"""Points from which it is told how far all of them stray."""
LEAST_MISS_PX = 0.02
"""Parabolas that miss their points by less are good whatever the noise."""
SHARP_SPREAD_PX2, SOFT_SPREAD_PX2 = 0.4, 1.8
"""The variance of an edge: a pixel grid alone makes an eighth to a quarter, a lens or compression more."""


@dataclass(frozen=True)
class Smoothing:
    """``tolerance_px`` that curves may stray from the edge; ``window`` points on either side that smooth one;
    ``skip`` points on either side of a corner that the picture has rounded; ``noise_px`` that points stray."""

    tolerance_px: float = FINEST_TOLERANCE_PX
    window: int = 3
    skip: int = 1
    noise_px: float = 0.0


def suited_smoothing(noise_px: float, spread_px2: float, ease: float = 1.0) -> Smoothing:
    """For edges whose points stray by ``noise_px`` and whose variance is ``spread_px2``; ``ease`` times the usual
    tolerance."""
    skip = 1 if spread_px2 < SHARP_SPREAD_PX2 else 2 if spread_px2 < SOFT_SPREAD_PX2 else 3
    tolerance = ease * max(FINEST_TOLERANCE_PX, TOLERANCE_IN_NOISE * noise_px)
    return Smoothing(tolerance, 3 if noise_px < 0.02 else 4, skip, noise_px)


@dataclass(frozen=True, eq=False)
class Stretches:
    """Lines cut at corners. ``line_of`` tells whose part each stretch is, in order along it."""

    lines: Lines
    line_of: IntArray


@dataclass(frozen=True, eq=False)
class FittedLines:
    """Curves along lines, with what they were fitted to, so that some can be fitted closer."""

    contours: list[Contour]
    stretches: Stretches
    points: FloatArray
    along: FloatArray
    smoothing: Smoothing
    plain: Lines | None = None
    """The middles of the cracks, which never cross, with the ends that lines share."""
    fixed: frozenset[int] = frozenset()
    """Lines that are known exactly."""

    def closer(self, which: Sequence[int], share: float) -> list[Contour]:
        """Some lines again, within a share of the tolerance; 0: along the pixels without their steps; less than 0:
        along the pixels. Lines that are ``fixed`` stay."""
        free = [k for k in which if k not in self.fixed]
        found = dict(zip(free, self._closer(free, share) if free else (), strict=True))
        return [found.get(k, self.contours[k]) for k in which]

    def _closer(self, which: Sequence[int], share: float) -> list[Contour]:
        if share <= 0.0 and self.plain is not None:
            bounds, closed = self.plain.start, self.plain.closed
            straight = [(self.plain.points[bounds[k] : bounds[k + 1]], bool(closed[k])) for k in which]
            if share == 0.0:
                straight = [(_thinned(points, is_closed), is_closed) for points, is_closed in straight]
            return [Contour.from_points(points, closed=is_closed) for points, is_closed in straight]
        lines = self.stretches.lines
        chosen = np.flatnonzero(np.isin(self.stretches.line_of, which))
        sizes = lines.sizes[chosen]
        start = np.r_[0, np.cumsum(sizes)]
        index = np.repeat(lines.start[chosen] - start[:-1], sizes) + np.arange(start[-1])
        own = lines_from(self.points[index], start, lines.closed[chosen])
        smoothing = replace(self.smoothing, tolerance_px=self.smoothing.tolerance_px * share)
        fitted = _fit(own, own.points, self.along[index], smoothing)
        found = _together(self.stretches.line_of[chosen], fitted, [self.contours[k].closed for k in sorted(which)])
        order = dict(zip(sorted(which), found, strict=True))
        return [order[k] for k in which]


def _thinned(points: FloatArray, closed: bool) -> FloatArray:
    """A line along pixels without the points that its steps do not need."""
    if len(points) < 4:
        return points
    line = shapely.LineString(np.concatenate([points, points[:1]]) if closed else points)
    found = np.asarray(shapely.simplify(line, STEPS_PX).coords)
    return found[:-1] if closed and len(found) > 4 else points if closed else found


def curves(
    lines: Lines, coverage: Coverage, smoothing: Smoothing, least_turn_deg: float | None = LEAST_TURN_DEG
) -> FittedLines:
    """One contour a line, in their order."""
    if least_turn_deg is not None:
        lines = with_ends(lines, coverage, smoothing.skip)
        corners = corners_of(lines, coverage, smoothing.skip, smoothing.noise_px, least_turn_deg)
    else:
        corners = no_corners(smoothing.skip)
    stretches = cut_at(lines, corners)
    points, along = smoothed(stretches.lines, smoothing.window, smoothing.noise_px)
    fitted = _fit(stretches.lines, points, along, smoothing)
    return FittedLines(_together(stretches.line_of, fitted, lines.closed.tolist()), stretches, points, along, smoothing)


def strayed_px(lines: Lines) -> float:
    """The standard deviation of points from a parabola through their neighbours, told from the median."""
    if len(lines.points) < 16:
        return 0.0
    held = _repeated(lines)
    which = np.arange(0, len(held.points), max(len(held.points) // LOOKED_AT, 1))
    points, along, _ = _parabolas(held, which, 3)
    along = along / np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    off = held.points[which] - points
    across = off[:, 0] * along[:, 1] - off[:, 1] * along[:, 0]
    return float(np.median(np.abs(across))) * 1.4826 * 1.3  # the parabola follows a third of the noise


def _repeated(lines: Lines) -> Lines:
    """Closed lines with their first point once more at their end."""
    sizes = lines.sizes + lines.closed
    start = np.r_[0, np.cumsum(sizes)]
    of = np.repeat(np.arange(len(sizes)), sizes)
    index = lines.start[of] + (np.arange(len(of)) - start[of]) % np.maximum(lines.sizes[of], 1)
    return Lines(lines.points[index], start, lines.closed, lines.crack[index], lines.tips[index])


def in_order(lines: Lines) -> Lines:
    """Points that lie behind the one before them, seen along the way, are left out."""
    keep = np.ones(len(lines.points), dtype=bool)
    everywhere = np.arange(len(lines.points))
    before, _ = lines.at(everywhere, -1)
    after, _ = lines.at(everywhere, 1)
    wide_before, _ = lines.at(everywhere, -2)
    wide_after, _ = lines.at(everywhere, 2)
    way = lines.points[wide_after] - lines.points[wide_before]
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    forward = ((lines.points - lines.points[before]) * way).sum(axis=1)
    onward = ((lines.points[after] - lines.points) * way).sum(axis=1)
    ends = ~lines.closed[lines.of] & ((before == everywhere) | (after == everywhere))
    keep[(np.minimum(forward, onward) < 0.15) & (forward <= onward) & ~ends] = False
    sizes = np.bincount(lines.of[keep], minlength=len(lines.closed))
    keep[(sizes < 4)[lines.of]] = True
    return lines.kept(keep)


def cut_at(lines: Lines, corners: Corners) -> Stretches:
    """Lines cut at their corners, whose tips replace the points that they have spoilt."""
    spoilt = np.zeros(len(lines.points), dtype=bool)
    for step in range(1 - corners.skip, corners.skip):
        there, inside = lines.at(corners.at, step)
        spoilt[there[inside]] = True
    is_tip = lines.tips.copy()
    is_tip[corners.at] = True
    spoilt[is_tip] = False
    keep = ~spoilt
    of = lines.of
    points = lines.points.copy()
    points[corners.at] = corners.tip
    pieces: list[FloatArray] = []
    closed: list[bool] = []
    line_of: list[int] = []
    bounds = lines.start.tolist()
    corner_lines = set(of[is_tip].tolist())
    for k, (a, b) in enumerate(zip(bounds[:-1], bounds[1:], strict=True)):
        own = points[a:b][keep[a:b]]
        if k not in corner_lines:
            pieces.append(np.concatenate([own, own[:1]]) if lines.closed[k] else own)
            closed.append(bool(lines.closed[k]))
            line_of.append(k)
            continue
        cuts = np.flatnonzero(is_tip[a:b][keep[a:b]])
        if lines.closed[k]:
            own = np.roll(own, -cuts[0], axis=0)
            own = np.concatenate([own, own[:1]])
            cuts = np.r_[cuts - cuts[0], len(own) - 1]
        else:
            cuts = np.unique(np.r_[0, cuts, len(own) - 1])
        for i, j in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True):
            pieces.append(own[i : j + 1])
            closed.append(False)
            line_of.append(k)
    sizes = [len(piece) for piece in pieces]
    joined = np.concatenate(pieces) if pieces else np.zeros((0, 2))
    return Stretches(
        lines_from(joined, np.r_[0, np.cumsum(sizes)].astype(np.int64), np.array(closed, dtype=bool)),
        np.array(line_of, dtype=np.int64),
    )


def smoothed(lines: Lines, window: int, noise_px: float) -> tuple[FloatArray, FloatArray]:
    """Points and unit tangents from parabolas through ``window`` neighbours on either side.

    Where a parabola misses its points by more than their noise the line bends too fast for it: a narrower window is
    taken. Ends of open stretches stay where they are; near them the window reaches farther to the other side. Closed
    lines repeat their first point.
    """
    points, along, miss = _parabolas(lines, np.arange(len(lines.points)), window)
    for narrower in range(window - 1, 0, -1):
        poor = np.flatnonzero(miss > max(LEAST_MISS_PX, 2.0 * noise_px))
        if not len(poor):
            break
        points[poor], along[poor], miss[poor] = _parabolas(lines, poor, narrower)
    first, last = lines.start[:-1], lines.start[1:] - 1
    open_ends = np.r_[first[~lines.closed], last[~lines.closed]]
    points[open_ends] = lines.points[open_ends]
    whole = first[lines.closed], last[lines.closed]
    points[whole[1]], along[whole[1]] = points[whole[0]], along[whole[0]]
    of = lines.of
    few = ((lines.sizes - lines.closed)[of] < 3)[:, None]
    along = np.where(few, (lines.points[last] - lines.points[first])[of], along)
    points = np.where(few, lines.points, points)
    return points, along / np.maximum(np.hypot(*along.T), 1e-9)[:, None]


def _parabolas(lines: Lines, which: IntArray, window: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """For some points the parabola through their neighbours: point, direction, root mean square of its misses."""
    start = lines.start
    of = np.searchsorted(start, which, side="right") - 1
    size = lines.sizes[of] - lines.closed[of]  # of different points
    local = which - start[of]
    span = 2 * window + 1
    shift = np.arange(span)[None, :] - window
    wrapped = (local[:, None] + shift) % np.maximum(size, 1)[:, None]
    base = np.clip(local - window, 0, np.maximum(size - span, 0))
    plain = base[:, None] + np.arange(span)[None, :]
    closed = lines.closed[of][:, None]
    there = closed | (plain < size[:, None])
    index = start[of][:, None] + np.where(closed, wrapped, np.minimum(plain, size[:, None] - 1))
    rel = lines.points[index] - lines.points[which][:, None]
    sign = np.where(closed, shift, plain - local[:, None])
    way = _chord_lengths(rel, sign)
    reach = np.abs(way).max(axis=1, keepdims=True) * 1.15 + 1e-9
    unit = np.abs(way / reach)
    off_one = 1.0 - unit * unit * unit
    weight = np.where(there, off_one * off_one * off_one, 0.0)
    bend, off = fitted_polynomials(way / reach, rel, 2, weight)
    left = off[:, :, 0] ** 2 + off[:, :, 1] ** 2
    miss = np.sqrt((left * weight).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-9))
    return lines.points[which] + bend[:, 0], bend[:, 1] / reach, miss


def _chord_lengths(rel: FloatArray, sign: IntArray) -> FloatArray:
    """Signed length of the way from the point itself to each neighbour of a row (n, k)."""
    steps = np.hypot(*np.moveaxis(np.diff(rel, axis=1), 2, 0))
    run = np.concatenate([np.zeros((len(rel), 1)), np.cumsum(steps, axis=1)], axis=1)
    own = np.abs(sign).argmin(axis=1)
    return np.asarray(run - run[np.arange(len(rel)), own][:, None])


def _fit(lines: Lines, points: FloatArray, along: FloatArray, smoothing: Smoothing) -> list[Contour]:
    straight = max(0.35 * smoothing.tolerance_px, 1.5 * smoothing.noise_px)
    held = SmoothLines(points, along, lines.start, lines.closed)
    return fit_smooth(held, smoothing.tolerance_px, straight, everywhere=False)


def _together(line_of: IntArray, fitted: Sequence[Contour], closed: Sequence[bool]) -> list[Contour]:
    """The stretches of each line put together again."""
    if not len(line_of):
        return []
    bounds = np.flatnonzero(np.r_[True, np.diff(line_of) != 0, True]).tolist()
    found = []
    for i, j, is_closed in zip(bounds[:-1], bounds[1:], closed, strict=True):
        segments = np.concatenate([one.segments for one in fitted[i:j]])
        is_line = np.concatenate([one.is_line for one in fitted[i:j]])
        if is_closed and len(segments):
            segments = segments.copy()
            segments[-1, 3] = segments[0, 0]
        found.append(Contour(segments, is_line, is_closed))
    return found


def usable(lines: Lines, sure: NDArray[np.bool_], square: NDArray[np.bool_]) -> Lines:
    """The points worth fitting: those from sums along the better axis; of lines that have few of those, all."""
    good = sure & square
    of = lines.of
    count = np.bincount(of[good], minlength=len(lines.closed))
    half = np.bincount(of[square], minlength=len(lines.closed))
    poor = (count < 6) | (count < 0.5 * half)
    some = np.bincount(of[square], minlength=len(lines.closed)) >= 4
    keep = np.where(poor[of], np.where(some[of], square, True), good)
    ends = ~lines.closed[of]
    keep |= ends & np.isin(np.arange(len(of)), np.r_[lines.start[:-1], lines.start[1:] - 1])
    return lines.kept(keep)
