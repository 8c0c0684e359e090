"""Bridges by balance: so many places round a middle that no stretch of its rim stays free for long.

The rim is divided into as many stretches as there are bridges; none may be longer than the best possible by more than a
few percent. Among all choices that allow this, the cheapest is found by dynamic programming along the rim. Where the
middle is alike left and right the bridges are: then one half is chosen, and mirrored.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.bridging.candidates import EQUAL_MM, EQUAL_PLACES, Candidates
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray

SLACKS = (1.02, 1.05, 1.08, 1.11, 1.14)
"""The longest free stretch is at most so many times the best possible; the first that is worth it."""
WIDER_SLACKS = (1.25, 1.45, 1.8)
"""Where too few places are usable."""
SLACK_COST = 5.0
"""What a longer stretch costs, a bridge, in lengths of the shortest."""
ALIKE_SHARE, ALIKE_MM = 0.02, 1.0
"""A middle is alike left and right when its mirror image strays from it by no more than this."""
TWIN_MM = 1.0
"""A bridge has a twin when one stands no farther than this from where its mirror image would."""
SAMPLES = 160


def rim_places(ring: FloatArray, points: FloatArray) -> tuple[FloatArray, float]:
    """Where along a ring (n, 2; open) points lie, in mm from its first corner, and the ring's length."""
    line = shapely.LinearRing(ring)
    places = shapely.line_locate_point(line, shapely.points(points))
    return np.round(places, EQUAL_PLACES), round(float(line.length), EQUAL_PLACES)


def balanced(choice: Candidates, ring: FloatArray, count: int) -> IntArray | None:
    """So many rows of the candidates, spread evenly along the ring; None when no choice comes near that."""
    if len(choice) < count:
        return None
    places, around = rim_places(ring, choice.points)
    axis = _mirror_axis(ring)
    for slacks in (SLACKS, WIDER_SLACKS):
        found = list(_mirrored(choice.cost, places, around, count, axis, slacks)) if axis is not None else []
        found = found or list(_evenly(choice.cost, places, around, count, slacks))
        if found:
            _, rows = min(found, key=lambda one: round(one[0], EQUAL_PLACES))
            return rows
    return None


def longest_stretch(places: FloatArray, around: float) -> float:
    """The longest stretch of a rim between two neighbouring places."""
    order = np.sort(places)
    return float(np.diff(np.r_[order, order[0] + around]).max())


def is_alike(ring: FloatArray, axis: int) -> bool:
    """Whether a ring is its own mirror image: left and right (``axis`` 0), or above and below (1)."""
    low, high = ring.min(axis=0), ring.max(axis=0)
    line = shapely.LinearRing(ring)
    points = shapely.get_coordinates(shapely.line_interpolate_point(line, np.linspace(0.0, line.length, SAMPLES)))
    points[:, axis] = (low + high)[axis] - points[:, axis]
    away = shapely.distance(shapely.points(points), line)
    return bool(away.max() <= min(ALIKE_SHARE * float(np.hypot(*(high - low))), ALIKE_MM))


def _mirror_axis(ring: FloatArray) -> tuple[float, float] | None:
    """Where along the ring its upright axis crosses it, highest and lowest; None when its sides differ."""
    if not is_alike(ring, 0):
        return None
    (left, low), (right, high) = ring.min(axis=0), ring.max(axis=0)
    middle, line = (left + right) / 2.0, shapely.LinearRing(ring)
    crossing = shapely.get_coordinates(line.intersection(shapely.LineString([(middle, low - 1), (middle, high + 1)])))
    if len(crossing) < 2:
        return None
    ends = crossing[[crossing[:, 1].argmin(), crossing[:, 1].argmax()]]
    first, second = shapely.line_locate_point(line, shapely.points(ends))
    return float(first), float(second)


def _mirrored(
    cost: FloatArray,
    places: FloatArray,
    around: float,
    count: int,
    axis: tuple[float, float],
    slacks: tuple[float, ...],
) -> Iterator[tuple[float, IntArray]]:
    """Choices of one half and its mirror image, each with its price."""
    away = (places - axis[0]) % around
    half = (axis[1] - axis[0]) % around  # the two ways from end to end are alike in a mirrored ring
    scale = np.where(away <= half, 1.0, half / max(around - half, 1e-9))
    right = np.flatnonzero((away > TWIN_MM) & (away < half - TWIN_MM))
    left = np.flatnonzero(away > half + TWIN_MM)
    ends = [np.flatnonzero(np.minimum(away, around - away) <= TWIN_MM), np.flatnonzero(np.abs(away - half) <= TWIN_MM)]
    single = [rows[cost[rows].argmin()] if len(rows) else -1 for rows in ends]
    pairs, prices, at = [], [], []
    for row in right.tolist():
        off = np.abs((around - away[left]) * scale[left] - away[row])
        twins = left[off <= TWIN_MM]
        if len(twins):
            twin = twins[cost[twins].argmin()]
            pairs.append((row, int(twin)))
            prices.append(float(cost[row] + cost[twin]))
            at.append(float(away[row]))
    order = np.argsort(at, kind="stable")
    u, price = np.array(at)[order] if at else np.zeros(0), np.array(prices)[order] if at else np.zeros(0)
    best = around / count
    for top in (0, 1):
        for bottom in (0, 1):
            several = count - top - bottom
            if several < 0 or several % 2 or (top and single[0] < 0) or (bottom and single[1] < 0):
                continue
            alone = [single[k] for k, wanted in enumerate((top, bottom)) if wanted]
            for slack in slacks:
                longest = slack * best + EQUAL_MM
                found = _cheapest_path(
                    u, price, several // 2, longest,
                    begins=u <= (longest if top else longest / 2.0),
                    ends=half - u <= (longest if bottom else longest / 2.0),
                    alone=half <= (longest if top and bottom else longest / 2.0),
                )  # fmt: skip
                if found is None:
                    continue
                rows = [*alone, *(row for k in found[1] for row in pairs[order[k]])]
                paid = found[0] + float(cost[alone].sum()) + count * SLACK_COST * (slack - 1.0)
                yield paid, np.array(rows, dtype=np.int64)


def _evenly(
    cost: FloatArray, places: FloatArray, around: float, count: int, slacks: tuple[float, ...]
) -> Iterator[tuple[float, IntArray]]:
    """Choices all round, each with its price."""
    order = np.argsort(places, kind="stable")
    at, price = places[order], cost[order]
    for slack in slacks:
        longest = slack * around / count + EQUAL_MM
        for start in np.flatnonzero(at <= at[0] + longest).tolist():
            u = at[start + 1 :] - at[start]
            found = _cheapest_path(
                u, price[start + 1 :], count - 1, longest, begins=u <= longest, ends=around - u <= longest, alone=False
            )
            if found is not None:
                rows = order[np.r_[start, np.array(found[1]) + start + 1]]
                yield found[0] + float(price[start]) + count * SLACK_COST * (slack - 1.0), rows


def _cheapest_path(
    u: FloatArray,
    price: FloatArray,
    count: int,
    longest: float,
    *,
    begins: NDArray[np.bool_],
    ends: NDArray[np.bool_],
    alone: bool,
) -> tuple[float, list[int]] | None:
    """The cheapest ``count`` of ascending places, no two neighbours farther apart than ``longest``.

    ``begins`` and ``ends`` tell which may be first and last; ``alone``: whether none at all will do.
    """
    if count == 0:
        return (0.0, []) if alone else None
    if len(u) < count:
        return None
    near = (u[:, None] < u[None, :]) & (u[None, :] - u[:, None] <= longest)
    total = np.where(begins, price, np.inf)
    back = []
    for _ in range(count - 1):
        through = np.where(near, total[:, None], np.inf)
        back.append(through.argmin(axis=0))
        total = through.min(axis=0) + price
    total = np.where(ends, total, np.inf)
    last = int(total.argmin())
    if not np.isfinite(total[last]):
        return None
    path = [last]
    for step in reversed(back):
        path.append(int(step[path[-1]]))
    return float(total[last]), path[::-1]
