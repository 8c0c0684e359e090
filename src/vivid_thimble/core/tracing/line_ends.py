"""Where thin lines end: two corners across the line, placed so that the ink there has the right area.

At the end of a line of one to three pixels the points along the edge are all spoilt, by the end and by the other side.
But the two sides are known from farther back, and the ink beyond tells how far they go on: as far as a strip between
them covers as much as the picture does.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.tracing.corners import FINE, KEPT_SIDE, Lines, Side, fitted_sides, pixels_round
from vivid_thimble.core.tracing.subpixel import Coverage

WIDEST_PX = 3.7
SIDE_POINTS = 6
MOST_TURNED = 0.96
"""Sides whose directions have a larger cosine to each other's reverse run side by side."""
WINDOW_PX = 5
"""Pixels on each side of an end whose coverage is summed."""


def with_ends(lines: Lines, coverage: Coverage, skip: int) -> Lines:
    """The lines with two tips in place of the points round each end of a thin line."""
    at, spoilt = _ends(lines, skip)
    if not len(at):
        return lines
    one, two = (_side(lines, at, sign * spoilt, sign) for sign in (-1, 1))
    centre = lines.points[at]
    axis = one.along + two.along
    axis /= np.maximum(np.hypot(*axis.T), 1e-9)[:, None]
    end, found = _end(one, two, axis, centre, lines.crack[at], coverage)
    first, second = (_meeting(side, axis, end) + centre for side in (one, two))
    apart = np.hypot(*(first - second).T)
    found &= (apart > 0.25) & (apart < WIDEST_PX + 0.5) & (np.hypot(*(first - centre).T) < 6.0)
    return _replaced(lines, at[found], spoilt[found], first[found], second[found])


def _ends(lines: Lines, skip: int) -> tuple[IntArray, IntArray]:
    """The middle point of each end, and how many points to either side of it are spoilt."""
    everywhere = np.arange(len(lines.points))
    long_enough = (lines.sizes >= 2 * (SIDE_POINTS + 6))[lines.of]
    best = np.full(len(everywhere), np.inf)
    spoilt = np.zeros(len(everywhere), dtype=np.int64)
    for reach in range(5 + skip, 1 + skip, -1):
        i, _ = lines.at(everywhere, -reach)
        j, _ = lines.at(everywhere, reach)
        i0, there_i = lines.at(everywhere, -reach - SIDE_POINTS + 1)
        j0, there_j = lines.at(everywhere, reach + SIDE_POINTS - 1)
        one, two = lines.points[i] - lines.points[i0], lines.points[j] - lines.points[j0]
        one /= np.maximum(np.hypot(*one.T), 1e-9)[:, None]
        two /= np.maximum(np.hypot(*two.T), 1e-9)[:, None]
        axis = (one + two) / 2.0
        across = lines.points[j] - lines.points[i]
        uneven = np.abs((across * axis).sum(axis=1))
        width = np.abs(across[:, 0] * axis[:, 1] - across[:, 1] * axis[:, 0])
        out = ((lines.points - (lines.points[i] + lines.points[j]) / 2.0) * axis).sum(axis=1)
        good = there_i & there_j & long_enough & ((one * two).sum(axis=1) > MOST_TURNED) & (uneven < 1.1)
        good &= (width < WIDEST_PX) & (width > 0.2) & (out > -0.5) & (out < 5.0)
        rank = np.where(good, reach + uneven, np.inf)
        better = rank < best
        best[better], spoilt[better] = rank[better], reach
    order = np.argsort(best, kind="stable")
    taken = np.zeros(len(everywhere), dtype=bool)
    chosen = []
    for k in order[np.isfinite(best[order])].tolist():
        around, _ = lines.at(np.full(25, k), np.arange(-12, 13))
        if not taken[around].any():
            taken[k] = True
            chosen.append(k)
    at = np.sort(np.array(chosen, dtype=np.int64))
    return at, spoilt[at]


def _side(lines: Lines, at: IntArray, offset: IntArray, sign: int) -> Side:
    """The straight line through the points of one side, towards the end."""
    steps = sign * np.arange(SIDE_POINTS - 1, -1, -1)
    index, _ = lines.at(at[:, None], offset[:, None] + steps[None, :])
    side, _ = fitted_sides(lines.points[index] - lines.points[at][:, None], bends=False)
    return side


def _end(
    one: Side, two: Side, axis: FloatArray, centre: FloatArray, crack: IntArray, coverage: Coverage
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """How far along the axis each line goes, from its middle point."""
    rows, columns, x, y = pixels_round(centre, centre, WINDOW_PX)
    near = np.hypot(columns + 0.5 - centre[:, :1], rows + 0.5 - centre[:, 1:]) < WINDOW_PX
    strip = np.minimum(one.holds(x, y, KEPT_SIDE), two.holds(x, y, -KEPT_SIDE))
    before = np.clip(0.5 - (x * axis[:, 0, None, None] + y * axis[:, 1, None, None]) * FINE, 0.0, 1.0)
    ink = np.where(near, coverage(crack, rows, columns), 0.0).sum(axis=1)
    covered = np.where(near, (strip * before).mean(axis=2), 0.0).sum(axis=1)
    none = np.zeros(len(axis))
    width = np.hypot(*(_meeting(one, axis, none) - _meeting(two, axis, none)).T)
    end = (ink - covered) / np.maximum(width, 0.3)
    return end, np.abs(end) < 3.5


def _meeting(side: Side, axis: FloatArray, end: FloatArray) -> FloatArray:
    """Where a straight side is as far along the axis as ``end``."""
    base = side.origin + side.bend[:, :1] * side.across
    behind = end - (base * axis).sum(axis=1)
    ahead = behind / np.maximum((side.along * axis).sum(axis=1), 0.2)
    return np.asarray(base + ahead[:, None] * side.along)


def _replaced(lines: Lines, at: IntArray, spoilt: IntArray, first: FloatArray, second: FloatArray) -> Lines:
    """Two tips in place of the points less than ``spoilt`` steps away."""
    points, tips = lines.points.copy(), lines.tips.copy()
    keep = np.ones(len(points), dtype=bool)
    for k, reach in zip(at.tolist(), spoilt.tolist(), strict=True):
        around, _ = lines.at(np.full(2 * reach - 1, k), np.arange(1 - reach, reach))
        keep[around] = False
    next_one, _ = lines.at(at, 1)
    points[at], points[next_one] = first, second
    for rows in (at, next_one):
        keep[rows] = tips[rows] = True
    return lines.kept(keep, points, tips)
