"""True corners of traced lines, where the picture has only rounded ones.

A pixel grid and a lens round every corner. At each place where a line turns, both sides are fitted without the points
near the tip; if the two fits miss those points less than one smooth curve through everything does, and meet at an
angle, the corner is where they meet. Short sides are fitted as straight lines, longer ones may bend.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.polynomials import fitted_polynomials
from vivid_thimble.core.tracing.subpixel import Coverage

LEAST_TURN_DEG = 18.0
"""Less is taken as smooth."""
LOOK_TURN_DEG = 14.0
"""Places that turn less than this over a few points are not looked at."""
SIDES = (8, 6, 4, 3)
"""Points to either side that are fitted, the longest first."""
BENDS_FROM = 6
"""Sides of so many points may bend."""
CLEARLY = 2.5
"""So many times better than a smooth curve must a corner be."""
LEAST_MISS_PX = 0.04
"""A smooth curve that misses by less is smooth."""
FARTHEST_TIP_PX = 3.0
SLIGHT_TURN_DEG = 40.0
"""Corners that turn less lack hardly any area when rounded: only the fit tells."""
ROUGHEST_SIDE_PX = 0.08
SHARPEST_ROUND_PX = 0.75
"""Rounds of a smaller radius are corners that the picture could not show."""
AREA_PX = 3
"""Pixels on each side of a tip whose coverage is compared with that of a sharp corner, at FINE by FINE points each."""
FINE = 4
KEPT_SIDE = 1
"""On which side of the way the kept area lies: 1 for the one that a quarter turn from x to y points to."""


@dataclass(frozen=True, eq=False)
class Lines:
    """Points (n, 2) of many lines laid end to end, line k from ``start[k]`` to ``start[k + 1]``."""

    points: FloatArray
    start: IntArray
    closed: NDArray[np.bool_]
    crack: IntArray
    """The number of the crack that each point is of."""
    tips: NDArray[np.bool_]
    """Points that are known to be corners."""

    def kept(
        self, keep: NDArray[np.bool_], points: FloatArray | None = None, tips: NDArray[np.bool_] | None = None
    ) -> Lines:
        """Only some of the points, perhaps moved."""
        points, tips = self.points if points is None else points, self.tips if tips is None else tips
        sizes = np.bincount(self.of[keep], minlength=len(self.closed))
        return Lines(points[keep], np.r_[0, np.cumsum(sizes)], self.closed, self.crack[keep], tips[keep])

    @property
    def sizes(self) -> IntArray:
        return np.asarray(np.diff(self.start))

    @property
    def of(self) -> IntArray:
        """The line of each point."""
        return np.repeat(np.arange(len(self.closed)), self.sizes)

    def at(self, which: IntArray, step: IntArray | int) -> tuple[IntArray, NDArray[np.bool_]]:
        """The points so many steps on, and whether an open line goes so far (its end otherwise)."""
        of = np.searchsorted(self.start, which, side="right") - 1
        first, size = self.start[of], self.sizes[of]
        moved = which - first + step
        there = self.closed[of] | ((moved >= 0) & (moved < size))
        return first + np.where(self.closed[of], moved % size, np.clip(moved, 0, size - 1)), there


def lines_from(points: FloatArray, start: IntArray, closed: NDArray[np.bool_]) -> Lines:
    """Lines whose points are those of as many cracks, none known to be a corner."""
    return Lines(points, start, closed, np.arange(len(points)), np.zeros(len(points), dtype=bool))


@dataclass(frozen=True, eq=False)
class Corners:
    """``at``: the point of the line that is nearest to the tip; ``tip`` (n, 2): where the sides meet; ``skip``: how
    many points on either side of ``at`` the tip has spoilt."""

    at: IntArray
    tip: FloatArray
    skip: int


def no_corners(skip: int) -> Corners:
    return Corners(np.zeros(0, dtype=np.int64), np.zeros((0, 2)), skip)


def corners_of(
    lines: Lines, coverage: Coverage, skip: int, noise_px: float, least_turn_deg: float = LEAST_TURN_DEG
) -> Corners:
    """``skip`` points to either side of a tip are spoilt; ``noise_px`` is how far points stray."""
    looked = np.flatnonzero(_turns(lines, skip) & ~_near_tips(lines, skip + 2))
    best = np.zeros(len(looked))
    tips = np.zeros((len(looked), 2))
    least = max(LEAST_MISS_PX, 2.0 * noise_px)
    for side in SIDES:
        pause()
        to_beat = best * (1.0 if side >= BENDS_FROM else 1.25)
        gain, tip = _judged(lines, coverage, looked, side, skip, least, noise_px, to_beat, least_turn_deg)
        better = gain > to_beat
        best, tips = np.where(better, gain, best), np.where(better[:, None], tip, tips)
    found = best > 1.0
    looked, best, tips = looked[found], best[found], tips[found]
    strongest = _strongest(lines, looked, best, tips, skip + 1)
    return Corners(looked[strongest], tips[strongest], skip)


def _near_tips(lines: Lines, steps: int) -> NDArray[np.bool_]:
    """Points that are a known tip or close to one."""
    near = lines.tips.copy()
    known = np.flatnonzero(lines.tips)
    for step in range(-steps, steps + 1):
        near[lines.at(known, step)[0]] = True
    return near


def _turns(lines: Lines, skip: int) -> NDArray[np.bool_]:
    """Where the way over a few points turns enough to be looked at."""
    everywhere = np.arange(len(lines.points))
    turning = np.zeros(len(everywhere), dtype=bool)
    for reach in (skip + 1, skip + 3):
        before, _ = lines.at(everywhere, -reach)
        after, _ = lines.at(everywhere, reach)
        turning |= _angle_deg(lines.points - lines.points[before], lines.points[after] - lines.points) > LOOK_TURN_DEG
    enough = (lines.sizes >= 2 * skip + 4)[lines.of]
    return np.asarray(turning & enough)


def _judged(
    lines: Lines,
    coverage: Coverage,
    which: IntArray,
    side: int,
    skip: int,
    least: float,
    noise_px: float,
    to_beat: FloatArray,
    least_turn_deg: float,
) -> tuple[FloatArray, FloatArray]:
    """How many times better a corner is than a smooth curve (0: no corner, or not ``to_beat``), and its tip."""
    if not len(which):
        return np.zeros(0), np.zeros((0, 2))
    steps = np.arange(1 - side - skip, side + skip)
    index, there = lines.at(which[:, None], steps[None, :])
    size = lines.sizes[np.searchsorted(lines.start, which, side="right") - 1]
    whole = there.all(axis=1) & (size >= 2 * (side + skip) - 1)
    centre = lines.points[which]
    near = lines.points[index] - centre[:, None]
    before, after = near[:, :side], near[:, -side:][:, ::-1]
    bends = side >= BENDS_FROM
    one, miss_one = fitted_sides(before, bends)
    two, miss_two = fitted_sides(after, bends)
    tip, turn, meets = _met(one, two, before[:, -1], after[:, -1])
    rough = np.maximum(np.sqrt((miss_one**2 + miss_two**2) / 2.0), max(0.012, noise_px))
    rougher = np.maximum(miss_one, miss_two)
    good = whole & meets & (turn > least_turn_deg) & (rougher < max(ROUGHEST_SIDE_PX, 2.5 * noise_px))
    smooth = np.zeros(len(which))
    smooth[good] = _smooth_miss(near[good])
    gain = smooth / rough / np.where(turn < SLIGHT_TURN_DEG, CLEARLY, 1.3)
    good &= (smooth > least) & (rougher < smooth)
    good &= gain > to_beat
    rows = np.flatnonzero(good & (gain > 1.0))
    if len(rows):
        radius = _radius(
            one.chosen(rows), two.chosen(rows), tip[rows], centre[rows], lines.crack[which[rows]], coverage
        )
        good[rows] = radius < SHARPEST_ROUND_PX + 4.0 * noise_px
    return np.where(good, gain, 0.0), tip + centre


def pixels_round(home: FloatArray, origin: FloatArray, reach: int) -> tuple[IntArray, IntArray, FloatArray, FloatArray]:
    """The pixels at most ``reach`` to each side of places (n, 2): rows and columns (n, k), and FINE by FINE points in
    each, x and y (n, k, m) from ``origin`` (n, 2)."""
    around = np.arange(-reach, reach + 1)
    dy, dx = (grid.ravel() for grid in np.meshgrid(around, around, indexing="ij"))
    pixel = np.floor(home).astype(np.int64)
    rows, columns = pixel[:, 1:] + dy, pixel[:, :1] + dx
    share = (np.arange(FINE) + 0.5) / FINE
    fy, fx = (grid.ravel() for grid in np.meshgrid(share, share, indexing="ij"))
    x = columns[:, :, None] + fx - origin[:, 0, None, None]
    y = rows[:, :, None] + fy - origin[:, 1, None, None]
    return rows, columns, x, y


def _radius(
    one: Side, two: Side, tip: FloatArray, centre: FloatArray, crack: IntArray, coverage: Coverage
) -> FloatArray:
    """The radius of the round that would lack as much area as the picture does near each tip.

    The area between two sides and a round of radius r that touches both is r^2 (tan(turn / 2) - turn / 2).
    """
    _, t = one.at(((tip - one.origin) * one.along).sum(axis=1))
    _, s = two.at(((tip - two.origin) * two.along).sum(axis=1))
    signed = np.arctan2(t[:, 1] * s[:, 0] - t[:, 0] * s[:, 1], -(t * s).sum(axis=1))  # from t to -s
    convex = signed * KEPT_SIDE > 0.0
    rows, columns, x, y = pixels_round(tip + centre, centre, AREA_PX)
    first, second = one.holds(x, y, KEPT_SIDE), two.holds(x, y, -KEPT_SIDE)
    kept = np.where(convex[:, None, None], np.minimum(first, second), np.maximum(first, second)).mean(axis=2)
    middle = columns + 0.5 - (tip + centre)[:, :1], rows + 0.5 - (tip + centre)[:, 1:]
    near = np.hypot(*middle) < AREA_PX - 0.4
    lacking = np.where(near, kept - coverage(crack, rows, columns), 0.0).sum(axis=1) * np.where(convex, 1.0, -1.0)
    turn = np.minimum(np.abs(signed), 3.0)
    return np.asarray(np.sqrt(np.abs(lacking) / np.maximum(np.tan(turn / 2.0) - turn / 2.0, 1e-6)))


@dataclass(frozen=True, eq=False)
class Side:
    """A parabola: p(u) = origin + u along + (a + b u + c u^2) across, ``along`` pointing to the tip."""

    origin: FloatArray
    along: FloatArray
    across: FloatArray
    bend: FloatArray

    def at(self, u: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Point and tangent."""
        a, b, c = self.bend.T
        point = self.origin + u[:, None] * self.along + (a + b * u + c * u * u)[:, None] * self.across
        return point, self.along + (b + 2 * c * u)[:, None] * self.across

    def chosen(self, rows: IntArray) -> Side:
        return Side(self.origin[rows], self.along[rows], self.across[rows], self.bend[rows])

    def holds(self, x: FloatArray, y: FloatArray, side: int) -> FloatArray:
        """How much of small squares round points (n, k, m) lies on a side: 1 where ``across`` points to, or -1."""
        rx, ry = x - self.origin[:, 0, None, None], y - self.origin[:, 1, None, None]
        u = rx * self.along[:, 0, None, None] + ry * self.along[:, 1, None, None]
        v = rx * self.across[:, 0, None, None] + ry * self.across[:, 1, None, None]
        a, b, c = (self.bend[:, k, None, None] for k in range(3))
        return np.clip(0.5 + (v - (a + b * u + c * u * u)) * (side * FINE), 0.0, 1.0)


def principal(points: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Mean and direction (n, 2) of the straight line nearest to each row of points (n, k, 2)."""
    mean = points.mean(axis=1)
    x, y = np.moveaxis(points - mean[:, None], 2, 0)
    angle = 0.5 * np.arctan2(2.0 * (x * y).sum(axis=1), (x * x).sum(axis=1) - (y * y).sum(axis=1))
    return mean, np.stack([np.cos(angle), np.sin(angle)], axis=1)


def fitted_sides(points: FloatArray, bends: bool) -> tuple[Side, FloatArray]:
    """Fits of rows of points (n, k, 2), the last one nearest to the tip, and how far they miss (root mean square)."""
    mean, along = principal(points)
    rel = points - mean[:, None]
    towards = ((points[:, -1] - points[:, 0]) * along).sum(axis=1)
    along = np.where((towards < 0.0)[:, None], -along, along)
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    u, v = (rel * along[:, None]).sum(axis=2), (rel * across[:, None]).sum(axis=2)
    bend = np.zeros((len(points), 3))
    count = points.shape[1]
    if not bends:
        miss = np.sqrt((v**2).sum(axis=1) / max(count - 2, 1))
        return Side(mean, along, across, bend), miss
    bend, left = fitted_polynomials(u, v[:, :, None], 2)
    return Side(mean, along, across, bend[:, :, 0]), np.asarray(np.sqrt((left**2).sum(axis=(1, 2)) / (count - 3)))


def _met(
    one: Side, two: Side, end_one: FloatArray, end_two: FloatArray
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """Where two sides meet, by how many degrees the way turns there, and whether that lies ahead of both and near."""
    u = ((end_one - one.origin) * one.along).sum(axis=1)
    w = ((end_two - two.origin) * two.along).sum(axis=1)
    first_u, first_w = u.copy(), w.copy()
    with np.errstate(divide="ignore", invalid="ignore"):
        for _ in range(4):
            p, t = one.at(u)
            q, s = two.at(w)
            gap = q - p
            below = t[:, 1] * s[:, 0] - t[:, 0] * s[:, 1]
            u = u + (gap[:, 1] * s[:, 0] - gap[:, 0] * s[:, 1]) / below
            w = w + (gap[:, 1] * t[:, 0] - gap[:, 0] * t[:, 1]) / below
            u = np.clip(np.nan_to_num(u), first_u - 2.0, first_u + 2 * FARTHEST_TIP_PX)
            w = np.clip(np.nan_to_num(w), first_w - 2.0, first_w + 2 * FARTHEST_TIP_PX)
    p, t = one.at(u)
    q, s = two.at(w)
    turn = _angle_deg(t, -s)
    ahead = (u - first_u > -0.3) & (w - first_w > -0.3)
    near = (np.hypot(*(p - q).T) < 0.05) & (np.maximum(u - first_u, w - first_w) < 2 * FARTHEST_TIP_PX)
    near &= np.hypot(*p.T) < FARTHEST_TIP_PX
    return (p + q) / 2.0, turn, ahead & near


def _smooth_miss(near: FloatArray) -> FloatArray:
    """How far a cubic in the length of the way misses all points (root mean square)."""
    length = np.hypot(*np.moveaxis(np.diff(near, axis=1), 2, 0))
    t = np.concatenate([np.zeros((len(near), 1)), np.cumsum(length, axis=1)], axis=1)
    t = 2.0 * t / np.maximum(t[:, -1:], 1e-9) - 1.0
    _, left = fitted_polynomials(t, near, 3)
    return np.asarray(np.sqrt((left**2).sum(axis=(1, 2)) / (near.shape[1] - 4)))


def _strongest(lines: Lines, at: IntArray, gain: FloatArray, tips: FloatArray, apart: int) -> IntArray:
    """Of corners closer together than ``apart`` points the one with the largest gain."""
    order = np.argsort(-gain, kind="stable")
    taken = np.zeros(len(lines.points), dtype=bool)
    kept = []
    for k in order.tolist():
        around, _ = lines.at(np.full(2 * apart - 1, at[k]), np.arange(1 - apart, apart))
        if taken[around].any():
            continue
        taken[at[k]] = True
        kept.append(k)
    return np.sort(np.array(kept, dtype=np.int64))


def _angle_deg(a: FloatArray, b: FloatArray) -> FloatArray:
    cross = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return np.asarray(np.abs(np.degrees(np.arctan2(cross, (a * b).sum(axis=-1)))))
