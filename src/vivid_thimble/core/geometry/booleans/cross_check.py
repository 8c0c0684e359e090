"""Whether a boolean's result covers what it should: told along lines across it, without any boolean.

Along a line it is exact what rings cover: between two crossings nothing changes. So the lengths that a result
covers and should not, or should and does not, are measured along lines in both directions, close to each other where
vertices are, and must be nothing but rounding. A lost face is missed only when it lies between two lines each way.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.kernels import Edges, FillRule, Operation, belongs
from vivid_thimble.core.geometry.flatten import IntArray

LINES, FEWEST_LINES = 40, 4
VALUES = 4096
"""Lines lie between vertices; of more vertices than this some are looked at."""
CROSSINGS, CROSSINGS_AN_EDGE = 8_000, 1.5
"""Lines are fewer where they would cross more edges than this, or than so many times all edges."""
ROUNDED_STEPS = 300.0
"""Each border may be so many grid steps off (0.3 micrometres): crossings are rounded, edges are led through vertices
that lie on them, and slivers of rounding are left out."""
BESIDE_STEPS = 700.0
"""What is wrong must be so along a line beside, too: along a sliver of rounding a line may run a long way."""
RESULT = 2


def disagreement(
    operation: Operation,
    subjects: Sequence[FloatArray],
    clips: Sequence[FloatArray],
    rule: FillRule,
    result: Sequence[FloatArray],
) -> float:
    """The longest stretch along a line, in grid steps, on which the result is not what it should be; 0: nowhere.

    Rings (n, 2) in grid steps; the result's cover what lies inside an odd number of them.
    """
    edges = Edges(subjects, clips, result)
    if not len(edges.a):
        return 0.0
    levels = _thinned(edges, [_levels(edges.a[:, axis]) for axis in (0, 1)])
    wrong = _wrong_along(edges, levels, operation, rule)
    if not wrong.any():
        return 0.0
    found = np.split(wrong > 0.0, [len(levels[0])])
    beside = [
        np.sort(np.r_[one[w] - BESIDE_STEPS, one[w] + BESIDE_STEPS]) for one, w in zip(levels, found, strict=True)
    ]
    return float(min(wrong.max(), _wrong_along(edges, beside, operation, rule).max(initial=0.0)))


def _wrong_along(edges: Edges, levels: list[FloatArray], operation: Operation, rule: FillRule) -> FloatArray:
    """Of each line the longest stretch that is wrong."""
    worst = np.zeros(sum(len(one) for one in levels))
    line, edge, at, slope, turn = _crossings(edges, levels)
    if not len(edge):
        return worst
    order = np.lexsort((at, line))
    line, at, turn, side = line[order], at[order], turn[order], edges.side[edge[order]]
    # each line is crossed as often one way as the other, so counts end at nothing before the next one begins
    subject, clip = (np.cumsum(np.where(side == k, turn, 0)) for k in (0, 1))
    covered = np.cumsum(side == RESULT) % 2 == 1
    wrong = (belongs(operation, rule, subject, clip) != covered)[:-1] & (line[1:] == line[:-1])
    rounding = ROUNDED_STEPS * (1.0 + np.abs(slope[order]))
    stretch = at[1:] - at[:-1]
    rows = np.flatnonzero(wrong & (stretch > rounding[1:] + rounding[:-1]))
    np.maximum.at(worst, line[rows], stretch[rows])
    return worst


def _crossings(edges: Edges, levels: list[FloatArray]) -> tuple[IntArray, IntArray, FloatArray, FloatArray, IntArray]:
    """Where lines cross edges: the line's number, the edge, how far along the line, how much farther that is for every
    step of the line to the side, and 1 where the edge goes up or -1.

    Horizontal and vertical lines alike: each edge counts twice, the second time with x and y swapped.
    """
    count = len(edges.a)
    following = np.r_[edges.following, edges.following + count]
    below = _below(edges, levels)
    below[count:] += len(levels[0])
    goes_up = below[following] - below
    counts = np.abs(goes_up)
    crossing = np.repeat(np.arange(2 * count), counts)
    within = np.arange(len(crossing)) - np.repeat(np.cumsum(counts) - counts, counts)
    line = np.minimum(below, below[following])[crossing] + within
    across, along = edges.a.T.ravel(), edges.a[:, ::-1].T.ravel()
    start, end = crossing, following[crossing]
    slope = (along[end] - along[start]) / (across[end] - across[start])
    at = along[start] + (np.concatenate(levels)[line] - across[start]) * slope
    return line, crossing % count, at, slope, np.sign(goes_up)[crossing]


def _below(edges: Edges, levels: list[FloatArray]) -> IntArray:
    """How many levels of x lie below each edge's start, then of y."""
    return np.concatenate([np.searchsorted(levels[axis], edges.a[:, axis]) for axis in (0, 1)])


def _thinned(edges: Edges, levels: list[FloatArray]) -> list[FloatArray]:
    """Every other level, and so on, until not too many edges are crossed."""
    count = len(edges.a)
    most = max(CROSSINGS, int(CROSSINGS_AN_EDGE * count))
    following = np.r_[edges.following, edges.following + count]
    below = _below(edges, levels)
    while np.abs(below[following] - below).sum() > most and max(len(one) for one in levels) > FEWEST_LINES:
        levels = [one[::2] for one in levels]
        below = (below + 1) // 2
    return levels


def _levels(values: FloatArray) -> FloatArray:
    """Levels midway between two neighbouring values, spread evenly among them.

    None is a whole number of grid steps, so no line passes through a vertex.
    """
    distinct = np.unique(values[:: max(len(values) // VALUES, 1)])
    chosen = np.linspace(0, len(distinct) - 2, LINES).astype(np.int64) if len(distinct) > LINES else slice(None)
    return np.asarray(np.floor((distinct[:-1][chosen] + distinct[1:][chosen]) / 2.0) + 0.5)
