"""The fewest cubics through smooth lines whose directions are known, as traces are.

A cubic with given ends and end tangents has two free lengths. They are found so that the curve encloses the same area
with its chord as the points do, and that this area has the same centre of gravity along the chord: two equations,
solved by Newton's method (the idea of fitting by area and moment is Raph Levien's, 2021). Both integrals of any stretch
are differences of running sums, so that a stretch of any length costs the same to fit; only its error is sampled.
From each of the places a few points apart it is searched how far one curve reaches, and the way over the fewest
curves is taken; among those the one that strains them least.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Contour, line_segments
from vivid_thimble.core.pauses import pause

PLACES_APART = 3
"""Curves end at every so many-th point."""
SAMPLES = 20
"""Points of a stretch at which its curve is compared, evenly spread."""
ENOUGH = 1.2
"""A curve whose samples were within tolerance may exceed it by so much elsewhere."""
NEWTON = 7
WIDEST_DEG = 100.0
"""An end tangent that leaves its chord by more is not tried."""
STRAIGHTEST_DEG = 5.0
"""Straight lines leave the tangents of the points at their ends by no more than this."""
LEAST_LINE_POINTS = 6
"""Straight lines are looked for over at least so many points, unless both ends are ends of the line."""


@dataclass(frozen=True, eq=False)
class SmoothLines:
    """Points (n, 2) of many lines laid end to end, and unit tangents (n, 2). Line k has those from ``start[k]`` to
    ``start[k + 1]``; one that is ``closed`` repeats its first point at its end."""

    points: FloatArray
    along: FloatArray
    start: IntArray
    closed: NDArray[np.bool_]


def fit_smooth(
    lines: SmoothLines, tolerance: float, straight_within: float, *, everywhere: bool = True
) -> list[Contour]:
    """One contour a line, within ``tolerance`` of its points; what strays from a straight line by no more than
    ``straight_within`` becomes one. A line of a single point gives a contour without segments.

    Not ``everywhere``: single points of long stretches may stray farther, as those of noisy lines do.
    """
    search = _Search(lines, tolerance, straight_within, everywhere=everywhere)
    starts, stops, line_of = search.fewest()
    starts, cubics, is_line, line_of = search.fitted(starts, stops, line_of)
    bounds = np.searchsorted(line_of, np.arange(len(lines.closed) + 1))
    contours = []
    for i, j, is_closed in zip(bounds[:-1].tolist(), bounds[1:].tolist(), lines.closed.tolist(), strict=True):
        segments = cubics[i:j].copy()
        if is_closed and len(segments):
            segments[-1, 3] = segments[0, 0]
        contours.append(Contour(segments, is_line[i:j].copy(), is_closed))
    return contours


class _Sums:
    """Running integrals along polylines, corrected for the arc between two points, which their tangents tell."""

    def __init__(self, lines: SmoothLines) -> None:
        line = np.repeat(np.arange(len(lines.start) - 1), np.diff(lines.start))
        self.origin = lines.points[lines.start[:-1]][line] if len(line) else lines.points
        p = lines.points - self.origin
        a, b = p[:-1], p[1:]
        d = b - a
        x, y, u, v = a[:, 0], a[:, 1], b[:, 0], b[:, 1]
        dx, dy = d[:, 0], d[:, 1]
        length = np.hypot(dx, dy)
        cross = lines.along[:-1, 0] * lines.along[1:, 1] - lines.along[:-1, 1] * lines.along[1:, 0]
        # between chord and arc, positive where the arc bulges so that the integral of y dx grows
        bulge = -(length**2) * np.arcsin(np.clip(cross, -1.0, 1.0)) / 12.0
        mx, my = (x + u) / 2.0, (y + v) / 2.0
        xy = (2 * x * y + x * v + u * y + 2 * u * v) / 6.0
        xx, yy = (x * x + x * u + u * u) / 3.0, (y * y + y * v + v * v) / 3.0
        rows = [
            my * dx + bulge,  # y dx
            mx * dy - bulge,  # x dy
            xy * dx + mx * bulge,  # x y dx
            yy * dx + 2 * my * bulge,  # y^2 dx
            xx * dy - 2 * mx * bulge,  # x^2 dy
            xy * dy - my * bulge,  # x y dy
        ]
        self.run = np.concatenate([np.zeros((1, 6)), np.cumsum(np.stack(rows, axis=1), axis=0)])
        self.p = p

    def area_moment(self, i: IntArray, j: IntArray, cos: FloatArray, sin: FloatArray) -> tuple[FloatArray, FloatArray]:
        """For stretches from i to j the integrals of v du and u v du; u runs along (cos, sin) from i, v across."""
        ydx, xdy, xydx, yydx, xxdy, xydy = (self.run[j] - self.run[i]).T
        x0, y0 = self.p[i].T
        x1, y1 = self.p[j].T
        dx, dy = x1 - x0, y1 - y0
        # those with an underscore are of coordinates from point i
        x_dx, y_dy = dx * dx / 2.0, dy * dy / 2.0
        y_dx, x_dy = ydx - y0 * dx, xdy - x0 * dy
        xdx, ydy = (x1 * x1 - x0 * x0) / 2.0, (y1 * y1 - y0 * y0) / 2.0
        xx_dx, yy_dy = dx**3 / 3.0, dy**3 / 3.0
        xy_dx = xydx - y0 * xdx - x0 * ydx + x0 * y0 * dx
        yy_dx = yydx - 2 * y0 * ydx + y0 * y0 * dx
        xx_dy = xxdy - 2 * x0 * xdy + x0 * x0 * dy
        xy_dy = xydy - x0 * ydy - y0 * xdy + x0 * y0 * dy
        c, s = cos, sin
        area = -s * c * x_dx - s * s * x_dy + c * c * y_dx + c * s * y_dy
        turn = c * c - s * s
        moment = c * (-c * s * xx_dx + turn * xy_dx + c * s * yy_dx) + s * (
            -c * s * xx_dy + turn * xy_dy + c * s * yy_dy
        )
        return np.asarray(area), np.asarray(moment)


class _Search:
    def __init__(self, lines: SmoothLines, tolerance: float, straight_within: float, *, everywhere: bool) -> None:
        self.measured = self._off_everywhere if everywhere else self._off
        self.lines, self.tolerance, self.straight_within = lines, tolerance, straight_within
        self.sums = _Sums(lines)
        self.is_end = np.zeros(len(lines.points), dtype=bool)
        ends = np.r_[lines.start[:-1], lines.start[1:] - 1]
        self.is_end[ends[(ends >= 0) & (ends < len(self.is_end))]] = True
        step = np.hypot(*np.diff(lines.points, axis=0).T) if len(lines.points) > 1 else np.zeros(0)
        self.run = np.r_[0.0, np.cumsum(step)]

    def fewest(self) -> tuple[IntArray, IntArray, IntArray]:
        """Starts, stops and lines of the stretches that become one curve each."""
        places, first = _places(self.lines.start)
        reach = self._reaches(places, first)
        starts: list[IntArray] = []
        stops: list[IntArray] = []
        line_of: list[IntArray] = []
        for k, (a, b) in enumerate(zip(first[:-1].tolist(), first[1:].tolist(), strict=True)):
            if b - a < 2:
                continue
            way = _shortest_way(reach[a:b] - a, self.run[places[a:b]])
            starts.append(places[a + way[:-1]])
            stops.append(places[a + way[1:]])
            line_of.append(np.full(len(way) - 1, k))
        none = np.zeros(0, dtype=np.int64)
        return np.concatenate([none, *starts]), np.concatenate([none, *stops]), np.concatenate([none, *line_of])

    def _reaches(self, places: IntArray, first: IntArray) -> IntArray:
        """The farthest place that one curve reaches from each place."""
        line = np.searchsorted(first, np.arange(len(places)), side="right") - 1
        end = first[1:][line] - 1
        good = np.minimum(np.arange(len(places)) + 1, end)
        bad = end + 1
        step = np.full(len(places), 2)
        growing = np.ones(len(places), dtype=bool)
        while True:
            tried = np.where(growing, np.minimum(good + step, end), (good + bad) // 2)
            rows = np.flatnonzero((tried > good) & (tried < bad))
            if not len(rows):
                return np.asarray(good)
            fine = self.within(places[rows], places[tried[rows]])
            good[rows[fine]] = tried[rows[fine]]
            bad[rows[~fine]] = tried[rows[~fine]]
            growing[rows[~fine]] = False
            step *= 2

    def within(self, i: IntArray, j: IntArray) -> NDArray[np.bool_]:
        """Whether one straight line or curve serves each stretch."""
        good = self._straight(i, j)
        rest = np.flatnonzero(~good)
        cubics, solved = self._cubics(i[rest], j[rest])
        off = self._off(i[rest], j[rest], cubics)
        good[rest] = solved & (off <= self.tolerance)
        return good

    def fitted(
        self, i: IntArray, j: IntArray, line_of: IntArray
    ) -> tuple[IntArray, FloatArray, NDArray[np.bool_], IntArray]:
        """Starts, segments (n, 4, 2), which are straight, the line of each; what no curve serves is halved."""
        done: list[tuple[IntArray, FloatArray, NDArray[np.bool_], IntArray]] = []
        while len(i):
            is_line = self._straight(i, j)
            cubics, solved = self._cubics(i, j)
            bad = ~is_line & ~(solved & (self.measured(i, j, cubics) <= ENOUGH * self.tolerance))
            short = bad & (j - i < 2)
            cubics[short], straight = self._plain(i[short], j[short])
            is_line[short] = straight
            cubics[is_line] = line_segments(self.lines.points[i[is_line]], self.lines.points[j[is_line]])
            bad &= ~short
            fine = ~bad
            done.append((i[fine], cubics[fine], is_line[fine], line_of[fine]))
            middle = (i[bad] + j[bad]) // 2
            i, j, line_of = np.r_[i[bad], middle], np.r_[middle, j[bad]], np.r_[line_of[bad], line_of[bad]]
        if not done:
            return i, np.zeros((0, 4, 2)), np.zeros(0, dtype=bool), line_of
        order = np.argsort(np.concatenate([part[0] for part in done]), kind="stable")
        starts, segments, lines, of = (np.concatenate([part[k] for part in done])[order] for k in range(4))
        return starts, segments, lines, of

    def _plain(self, i: IntArray, j: IntArray) -> tuple[FloatArray, NDArray[np.bool_]]:
        """Between neighbouring points: a curve along their tangents, or a straight line where those disagree."""
        p, q = self.lines.points[i], self.lines.points[j]
        t0, t1 = self.lines.along[i], self.lines.along[j]
        length = np.hypot(*(q - p).T)
        third = length[:, None] / 3.0
        agree = ((t0 * (q - p)).sum(axis=1) > 0.5 * length) & ((t1 * (q - p)).sum(axis=1) > 0.5 * length)
        return np.stack([p, p + third * t0, q - third * t1, q], axis=1), ~agree

    def _straight(self, i: IntArray, j: IntArray) -> NDArray[np.bool_]:
        p, q = self.lines.points[i], self.lines.points[j]
        chord = q - p
        length = np.maximum(np.hypot(*chord.T), 1e-12)
        unit = chord / length[:, None]
        both_ends = self.is_end[i] & self.is_end[j]
        good: NDArray[np.bool_] = (length > 1e-9) & ((j - i >= LEAST_LINE_POINTS) | both_ends)
        steepest = np.cos(np.radians(STRAIGHTEST_DEG))
        for ends in (i, j):
            good &= both_ends | ((self.lines.along[ends] * unit).sum(axis=1) > steepest)
        rows = np.flatnonzero(good)
        for part in _batches(rows, SAMPLES):
            index, _ = self._sampled(i[part], j[part])
            rel = self.lines.points[index] - p[part][:, None]
            across = rel[:, :, 0] * unit[part][:, 1:] - rel[:, :, 1] * unit[part][:, :1]
            good[part] = np.abs(across).max(axis=1) <= self.straight_within
        return good

    def _sampled(self, i: IntArray, j: IntArray) -> tuple[IntArray, FloatArray]:
        """Up to SAMPLES points of each stretch (n, SAMPLES), and their share of its length."""
        share = (np.arange(SAMPLES) + 0.5) / SAMPLES
        index = np.minimum(i[:, None] + np.rint(share * (j - i)[:, None]).astype(np.int64), j[:, None])
        whole = np.maximum(self.run[j] - self.run[i], 1e-12)
        return index, (self.run[index] - self.run[i][:, None]) / whole[:, None]

    def _cubics(self, i: IntArray, j: IntArray) -> tuple[FloatArray, NDArray[np.bool_]]:
        """Cubics with the area and moment of each stretch, and whether there is such a one."""
        p, q = self.lines.points[i], self.lines.points[j]
        chord = q - p
        length = np.maximum(np.hypot(*chord.T), 1e-12)
        c, s = (chord / length[:, None]).T
        t0, t1 = self.lines.along[i], self.lines.along[j]
        c0, s0 = t0[:, 0] * c + t0[:, 1] * s, t0[:, 1] * c - t0[:, 0] * s
        c1, s1 = t1[:, 0] * c + t1[:, 1] * s, -(t1[:, 1] * c - t1[:, 0] * s)
        area, moment = self.sums.area_moment(i, j, c, s)
        d0, d1, solved = _handles(c0, s0, c1, s1, area / length**2, moment / length**3)
        cubics = np.stack([p, p + (d0 * length)[:, None] * t0, q - (d1 * length)[:, None] * t1, q], axis=1)
        least = np.cos(np.radians(WIDEST_DEG))
        return cubics, solved & (c0 > least) & (c1 > least) & (length > 1e-9)

    def _off(self, i: IntArray, j: IntArray, cubics: FloatArray) -> FloatArray:
        """How far the sampled points lie from the curves."""
        off = np.zeros(len(i))
        for rows in _batches(np.arange(len(i)), SAMPLES):
            index, t = self._sampled(i[rows], j[rows])
            off[rows] = _away(cubics[rows], self.lines.points[index], t).max(axis=1)
            pause()
        return off

    def _off_everywhere(self, i: IntArray, j: IntArray, cubics: FloatArray) -> FloatArray:
        """How far any point lies from its curve."""
        if not len(i):
            return np.zeros(0)
        sizes = j - i + 1
        first = np.cumsum(sizes) - sizes
        of = np.repeat(np.arange(len(i)), sizes)
        index = np.arange(len(of)) - first[of] + i[of]
        whole = np.maximum(self.run[j] - self.run[i], 1e-12)
        t = (self.run[index] - self.run[i][of]) / whole[of]
        away = _away(cubics[of], self.lines.points[index][:, None], t[:, None])[:, 0]
        return np.asarray(np.maximum.reduceat(away, first))


def _away(cubics: FloatArray, points: FloatArray, t: FloatArray) -> FloatArray:
    """The distance of points (n, k, 2) from cubics (n, 4, 2), each near the parameter t (n, k)."""
    p0, p1, p2, p3 = np.moveaxis(cubics, 1, 0)
    c1, c2, c3 = 3.0 * (p1 - p0), 3.0 * (p0 - 2.0 * p1 + p2), p3 - p0 + 3.0 * (p1 - p2)
    (ax, ay), (bx, by), (cx, cy) = (c[:, :, None].transpose(1, 0, 2) for c in (c1, c2, c3))
    x, y = points[:, :, 0] - p0[:, :1], points[:, :, 1] - p0[:, 1:]
    for _ in range(2):
        u, v = ((cx * t + bx) * t + ax) * t - x, ((cy * t + by) * t + ay) * t - y
        du, dv = (3.0 * cx * t + 2.0 * bx) * t + ax, (3.0 * cy * t + 2.0 * by) * t + ay
        t = np.clip(t - (u * du + v * dv) / np.maximum(du * du + dv * dv, 1e-18), 0.0, 1.0)
    return np.asarray(np.hypot(((cx * t + bx) * t + ax) * t - x, ((cy * t + by) * t + ay) * t - y))


def _handles(
    c0: FloatArray, s0: FloatArray, c1: FloatArray, s1: FloatArray, area: FloatArray, moment: FloatArray
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """The lengths of both handles for a chord of length 1, and whether they were found."""
    both = c0 * s1 + c1 * s0
    half = np.sqrt(np.maximum((1.0 + c0 * c1 - s0 * s1) / 2.0, 0.0))  # cosine of half the turn
    d0 = d1 = np.minimum(2.0 / 3.0 / np.maximum(1.0 + half, 0.4), 1.5) * np.ones_like(c0)
    for _ in range(NEWTON):
        f = 3 / 20 * (2 * d0 * s0 + 2 * d1 * s1 - d0 * d1 * both) - area
        f0, f1 = 3 / 20 * (2 * s0 - d1 * both), 3 / 20 * (2 * s1 - d0 * both)
        cross = 3 * (3 * c0 * s1 + 11 * c1 * s0) / 280
        g = (
            -9 / 280 * c0 * both * d0 * d0 * d1
            + 3 / 56 * c0 * s0 * d0 * d0
            + 9 / 280 * c1 * both * d0 * d1 * d1
            - cross * d0 * d1
            + 17 / 140 * s0 * d0
            - 3 / 56 * c1 * s1 * d1 * d1
            + 5 / 28 * s1 * d1
            - moment
        )
        g0 = -9 / 140 * c0 * both * d0 * d1 + 3 / 28 * c0 * s0 * d0 + 9 / 280 * c1 * both * d1 * d1 - cross * d1
        g0 = g0 + 17 / 140 * s0
        g1 = -9 / 280 * c0 * both * d0 * d0 + 9 / 140 * c1 * both * d0 * d1 - cross * d0 - 3 / 28 * c1 * s1 * d1
        g1 = g1 + 5 / 28 * s1
        # damped a little, for lines that are nearly straight any handles would do
        a, b, d = f0 * f0 + g0 * g0 + 1e-9, f0 * f1 + g0 * g1, f1 * f1 + g1 * g1 + 1e-9
        r0, r1 = f0 * f + g0 * g, f1 * f + g1 * g
        below = np.maximum(a * d - b * b, 1e-24)
        d0 = np.clip(d0 - (d * r0 - b * r1) / below, 0.01, 3.0)
        d1 = np.clip(d1 - (a * r1 - b * r0) / below, 0.01, 3.0)
    return d0, d1, (d0 > 0.011) & (d1 > 0.011) & (d0 < 2.9) & (d1 < 2.9)


def _batches(rows: IntArray, each: int, most: int = 1_500_000) -> list[IntArray]:
    """Rows in batches, so that with ``each`` values a row no more than ``most`` are held at once."""
    size = max(most // each, 1)
    return [rows[k : k + size] for k in range(0, len(rows), size)]


def _places(start: IntArray) -> tuple[IntArray, IntArray]:
    """The points where curves may end: every PLACES_APART-th of each line and its last; where each line's begin."""
    places: list[IntArray] = []
    for a, b in zip(start[:-1].tolist(), start[1:].tolist(), strict=True):
        count = max((b - 1 - a) // PLACES_APART, 1) if b - a > 1 else 0
        places.append(a + np.rint(np.linspace(0, max(b - 1 - a, 0), count + 1)).astype(np.int64))
    first = np.r_[0, np.cumsum([len(p) for p in places])].astype(np.int64)
    return np.concatenate([np.zeros(0, dtype=np.int64), *places]), first


def _shortest_way(reach: IntArray, run: FloatArray) -> IntArray:
    """The places of a way from the first to the last over the fewest curves; of those the one that uses the least
    of what each could reach."""
    last = len(reach) - 1
    far = reach.tolist()
    count = [0] * (last + 1)
    cost = [0.0] * (last + 1)
    following = [last] * (last + 1)
    way_run = run.tolist()
    for i in range(last - 1, -1, -1):
        fewest = min(count[i + 1 : far[i] + 1])
        count[i] = fewest + 1
        most = max(way_run[far[i]] - way_run[i], 1e-9) * (1.1 if far[i] == last else 1.0)
        best = float("inf")
        for j in range(i + 1, far[i] + 1):
            if count[j] == fewest:
                whole = ((way_run[j] - way_run[i]) / most) ** 6 + cost[j]
                if whole < best:
                    best, following[i] = whole, j
        cost[i] = best
    way = [0]
    while way[-1] < last:
        way.append(following[way[-1]])
    return np.array(way, dtype=np.int64)
