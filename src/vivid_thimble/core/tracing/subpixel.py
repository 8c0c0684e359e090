"""Where an edge really runs between two pixels, from the gray levels across it.

A gray level at an edge tells how much of a pixel is covered. Summed across the edge until it is full on one side and
empty on the other, the coverage gives the mean place of the edge over the width of one pixel, which is exact for
straight edges, whatever their slope. Sums run along the axis that the edge is more nearly square to. Where a line is
too thin ever to be full, its coverage summed from side to side is its width, and the centre of gravity its middle; the
same for gaps. Where neither holds (gradients, the tips of corners) the edge is where the level is crossed.

Coverage is 1 inside and 0 outside. Points are (x, y) in pixels from the picture's top-left, so that a pixel's
centre lies at a half.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.tracing.cracks import Cracks

ALMOST_SQUARE = 0.7
"""Edges that are a little nearer to the other axis are still summed along this one: both may be true of one."""
WAY_CRACKS = 4
"""Over so many cracks to either side it is seen which way an edge runs."""
REACH = 6
"""Pixels to either side of a crack within which an edge becomes full or empty; blurred ones take five."""
SHARP_LINE = 0.8
"""Lines over three pixels that cover the middle one by less are blurred."""
LINE_PX = 4
"""Lines thinner than this show paper on both sides so many pixels away."""
FULL = 0.006
"""So close to full or empty counts as reached when there is no noise."""
BATCH = 200_000
"""Cracks that are looked at together: bounds the memory."""

Coverage = Callable[[IntArray, IntArray, IntArray], FloatArray]
"""(numbers of cracks (n,), rows (n, k), columns (n, k)) -> coverage (n, k); beyond the picture 0."""


@dataclass(frozen=True, eq=False)
class EdgePoints:
    """One point a crack (n, 2). ``sure``: from sums; ``square``: sums ran along the better axis.
    ``spread`` is the variance of the edge along its axis in px2, NaN where not known."""

    points: FloatArray
    sure: NDArray[np.bool_]
    square: NDArray[np.bool_]
    spread: FloatArray


def edge_points(cracks: Cracks, coverage: Coverage, noise: float = 0.0) -> EdgePoints:
    """A point for each crack; ``noise`` is the standard deviation of the coverage on even ground."""
    parts = [
        _some(cracks.inner[a : a + BATCH], cracks.step[a : a + BATCH], a, coverage, noise)
        for a in range(0, max(len(cracks.inner), 1), BATCH)
    ]
    points, sure, spread = (np.concatenate([part[k] for part in parts]) for k in range(3))
    return EdgePoints(points, sure, _is_square(cracks), spread)


def ground_noise(cracks: Cracks, coverage: Coverage, looked_at: int = 20_000) -> float:
    """The standard deviation of the coverage on even ground near edges; 0 when there is none.

    Told from the pixels four and five steps to either side that are nearly full or empty.
    """
    count = len(cracks.inner)
    which = np.unique(np.linspace(0, count - 1, min(count, looked_at)).astype(np.int64))
    places = np.array([-4, -3, 5, 6])
    values = _profile(which, cracks.inner[which], cracks.step[which], places, coverage)
    off = np.concatenate([1.0 - values[:, :2].ravel(), values[:, 2:].ravel()])
    even = off[np.abs(off) < 0.15]
    return float(np.median(np.abs(even))) * 1.4826 if len(even) > 0.2 * len(off) else 0.0


def _some(
    inner: IntArray, step: IntArray, first: int, coverage: Coverage, noise: float
) -> tuple[FloatArray, NDArray[np.bool_], FloatArray]:
    which = np.arange(first, first + len(inner))
    reached = max(FULL, 3.0 * noise)
    profile = _profile(which, inner, step, np.arange(1 - REACH, REACH + 1), coverage)
    inside, outside = profile[:, REACH - 1 :: -1], profile[:, REACH:]  # each from the crack away
    full, thin, stop_in = _stops(inside, reached)
    empty, narrow, stop_out = _stops(1.0 - outside, reached)
    lacking = _sum_to(1.0 - inside, stop_in)
    surplus = _sum_to(outside, stop_out)
    shift = surplus - lacking
    sure = full & empty
    spread = np.where(sure, _spread(inside, outside, stop_in, stop_out), np.nan)
    lines = np.flatnonzero(~full & thin & (empty | narrow))
    if len(lines):
        shift[lines], fine = _thin(which[lines], inner[lines], step[lines], coverage, reached, gaps=False)
        sure[lines] = fine
    gaps = np.flatnonzero(full & ~empty & narrow)
    if len(gaps):
        shift[gaps], fine = _thin(which[gaps], inner[gaps], step[gaps], coverage, reached, gaps=True)
        sure[gaps] = fine
    ends = np.flatnonzero(~sure & ~full & empty)
    if len(ends):
        shift[ends], fine = _line_ends(which[ends], inner[ends], step[ends], inside[ends], outside[ends], coverage)
        sure[ends] = fine
    rest = ~sure
    shift[rest] = _crossed(inside[rest], outside[rest], stop_in[rest], stop_out[rest])
    centre = inner[:, ::-1] + 0.5
    points = centre + step[:, ::-1] * (0.5 + shift)[:, None]
    return points, sure, spread


def _profile(which: IntArray, inner: IntArray, step: IntArray, places: IntArray, coverage: Coverage) -> FloatArray:
    """Coverage at so many steps from the inner pixel outwards (n, len(places))."""
    rows = inner[:, :1] + step[:, :1] * places
    columns = inner[:, 1:] + step[:, 1:] * places
    return coverage(which, rows, columns)


def _stops(values: FloatArray, reached: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_], IntArray]:
    """Going away from the crack: whether values become 1, whether they turn back before, and where that is."""
    is_full = values >= 1.0 - reached
    turns = np.zeros_like(is_full)
    turns[:, :-1] = values[:, 1:] < values[:, :-1] - reached
    ends = is_full | turns
    ends[:, -1] = True
    stop = ends.argmax(axis=1)
    at = np.arange(len(values))
    full = is_full[at, stop]
    return full, turns[at, stop] & ~full, stop


def _sum_to(values: FloatArray, stop: IntArray) -> FloatArray:
    """The sum of each row up to and with its stop."""
    return np.asarray(np.cumsum(values, axis=1)[np.arange(len(values)), stop])


def _spread(inside: FloatArray, outside: FloatArray, stop_in: IntArray, stop_out: IntArray) -> FloatArray:
    """The variance of the edge's place along the axis: of the steps between neighbouring pixels."""
    line = np.concatenate([inside[:, ::-1], outside], axis=1)
    drop = line[:, :-1] - line[:, 1:]
    at = np.arange(drop.shape[1]) - (REACH - 1)
    drop = np.where((at >= -stop_in[:, None]) & (at <= stop_out[:, None]), drop, 0.0)
    mass = np.maximum(drop.sum(axis=1), 1e-6)
    mean = (drop * at).sum(axis=1) / mass
    return np.asarray((drop * (at - mean[:, None]) ** 2).sum(axis=1) / mass)


def _thin(
    which: IntArray, inner: IntArray, step: IntArray, coverage: Coverage, reached: float, *, gaps: bool
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """The shift of the near edge of a thin line (or gap) from its width and middle, and whether that is known."""
    places = np.arange(1 - 2 * REACH, REACH + 1)
    if gaps:
        places = 1 - places[::-1]
    values = _profile(which, inner, step, places, coverage)
    if gaps:  # turned round, so that a gap is a line that is met from its other side
        values = 1.0 - values[:, ::-1]
    crack = 2 * REACH - 1  # of the pixel on the line's side of the crack
    near, far = values[:, crack + 1 :], values[:, crack::-1]
    _, shared, stop_near = _stops(1.0 - near, reached)
    peak = _first_peak(far, reached)
    beyond = 1.0 - far
    beyond = np.where(np.arange(far.shape[1]) <= peak[:, None], 0.0, beyond)
    gone, back, stop_far = _stops(beyond, reached)
    at = np.arange(values.shape[1]) - crack
    weight = ((at <= stop_near[:, None] + 1) & (at >= -stop_far[:, None])).astype(np.float64)
    rows = np.arange(len(values))
    weight[rows[back], (crack - stop_far)[back]] = 0.5  # a valley that another line shares
    weight[rows[shared], (crack + 1 + stop_near)[shared]] = 0.5
    mass = (values * weight).sum(axis=1)
    middle = (values * weight * at).sum(axis=1) / np.maximum(mass, 1e-6)
    near_side = _in_front(values * weight, at, mass, middle, reached)
    shift = near_side - 0.5
    fine = (gone | back) & (mass > 0.05) & (np.abs(shift) < 2.5)
    return (-shift if gaps else shift), fine


def _in_front(values: FloatArray, at: IntArray, mass: FloatArray, middle: FloatArray, reached: float) -> FloatArray:
    """Where the near side of a thin line is, from its pixels (n, k) at ``at``.

    Half its width from the middle, if it is so blurred that pixels do not matter. A sharp line that covers parts of
    just two pixels meets their common border, one of three the middle pixel: all beyond that lies in front.
    """
    inked = values > reached
    first, last = inked.argmax(axis=1), values.shape[1] - 1 - inked[:, ::-1].argmax(axis=1)
    pixels = last - first + 1
    rows = np.arange(len(values))
    centre = np.minimum(first + 1, values.shape[1] - 1)
    through = values[rows, centre]
    beyond = np.where(np.arange(values.shape[1]) > centre[:, None], values, 0.0).sum(axis=1)
    found = middle + mass / 2.0
    two = pixels == 2
    found = np.where(two, at[first] + 0.5 + values[rows, last], found)
    three = (pixels == 3) & (through > SHARP_LINE)
    return np.asarray(np.where(three, at[centre] + through / 2.0 + beyond, found))


def _line_ends(
    which: IntArray, inner: IntArray, step: IntArray, inside: FloatArray, outside: FloatArray, coverage: Coverage
) -> tuple[FloatArray, NDArray[np.bool_]]:
    """The shift at the end of a thin line that runs along the axis, and whether this is one.

    Its pixels are covered by as much as the line is wide there: that counts as full.
    """
    level = inside[:, 2:5].mean(axis=1)
    even = (np.ptp(inside[:, 2:5], axis=1) < 0.15 * level) & (level > 0.15)
    beside = np.array([-LINE_PX, LINE_PX])
    rows = (inner - 2 * step)[:, :1] + step[:, 1:] * beside
    columns = (inner - 2 * step)[:, 1:] + step[:, :1] * beside
    alone = coverage(which, rows, columns).max(axis=1) < 0.15
    safe = np.maximum(level, 0.1)[:, None]
    shift = (outside[:, :3] / safe).sum(axis=1) - (1.0 - inside[:, :3] / safe).sum(axis=1)
    return shift, even & alone & (np.abs(shift) < 1.5)


def _first_peak(values: FloatArray, reached: float) -> IntArray:
    """Where each row first turns down by more than the noise."""
    turns = np.zeros(values.shape, dtype=bool)
    turns[:, :-1] = values[:, 1:] < values[:, :-1] - reached
    turns[:, -1] = True
    return np.asarray(turns.argmax(axis=1))


def _crossed(inside: FloatArray, outside: FloatArray, stop_in: IntArray, stop_out: IntArray) -> FloatArray:
    """The shift of the place where the middle between the levels on both sides is crossed."""
    rows = np.arange(len(inside))
    high, low = inside[rows, stop_in], outside[rows, stop_out]
    a, b = inside[:, 0], outside[:, 0]
    level = np.clip((high + low) / 2.0, np.minimum(a, b), np.maximum(a, b))
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(np.abs(a - b) > 1e-6, (a - level) / (a - b), 0.5)
    return np.asarray(np.clip(share, 0.0, 1.0) - 0.5)


def _is_square(cracks: Cracks) -> NDArray[np.bool_]:
    """Whether the way over the cracks on either side runs along the axis that is square to each crack's step."""
    start, sizes = cracks.start, cracks.sizes
    of = np.repeat(np.arange(len(cracks)), sizes)
    local = np.arange(len(of)) - start[of]
    size, closed = sizes[of], cracks.closed[of]
    middle = cracks.inner + 0.5 * cracks.step
    reach = np.minimum(WAY_CRACKS, np.maximum((size - 1) // 3, 1))
    before = start[of] + np.where(closed, (local - reach) % size, np.maximum(local - reach, 0))
    after = start[of] + np.where(closed, (local + reach) % size, np.minimum(local + reach, size - 1))
    way = np.abs(middle[after] - middle[before])
    down = cracks.step[:, 0] != 0
    along, across = np.where(down, way[:, 1], way[:, 0]), np.where(down, way[:, 0], way[:, 1])
    square: NDArray[np.bool_] = along >= ALMOST_SQUARE * across
    return square
