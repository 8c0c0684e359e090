"""The width field: at every place of the boundary, the distance to the facing wall.

Definition. At a sample p with normal n consider the balls that touch the wall at p
from the side of n. The smallest of them that touches another wall which opposes p's
(normals at least 120 degrees apart) or a corner inside a cone of 30 degrees, without
another wall between, gives the width: the chord from p to the touched point q. For a
straight wall with normal m the radius is r = delta / (1 - n.m), delta being p's
distance from the wall; for a corner q it is r = |q - p|^2 / (2 n.(q - p)). Walls that
meet in a corner of more than 60 degrees therefore never count as facing.

The formulas hold on both sides: the sign of delta tells whether the chord runs through
kept film (positive) or through waste (negative), so one pass yields both fields.
Nothing is rasterised; the only error is that of the polygon itself.

What it cannot see: walls that touch in a point (width exactly 0); ``touching`` does.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import TYPE_CHECKING, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.widths.side_by_side import side_by_side
from vivid_thimble.core.widths.walls import Samples

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

OPPOSED = -0.5
"""n.m of facing walls: at most the cosine of 120 degrees."""
CONE = 0.8660254037844386
"""A corner counts when the chord leaves within 30 degrees of the normal."""
SAMPLES_PER_LIMIT = 5
"""Samples along a wall per limit: a place shorter than that cannot hide between two."""
BEYOND_LIMIT = 1.2
"""To judge at a limit, the field must reach this much farther: the border of what stands may lie
between a sample above the limit and one below."""
CLEAR_SHARE = 0.43
"""Half a chord times the cosine of 30 degrees: nothing between its ends can come nearer."""
ROUNDS = 4
"""So many of a sample's shortest chords are tried until one is not crossed by a wall."""
PAIRS_AT_A_TIME = 1_500_000
"""About so many pairs of samples are looked at in one go: they need some hundred bytes each."""
PAIRS_IN_STAGES, PAIRS_OF_SOME, STAGE = 12_000_000, 1_000_000, 0.5
"""With more pairs than this, or pairs of some samples, walls are looked for within this share of the reach first."""
MAY_BE_OF_SOME = 2_000_000
"""Of pairs that may be near: about a third of them are."""
PROBES = 2_000
"""At about so many samples it is counted how many others are near."""
DOUBTFUL_AT_A_TIME = 40_000
"""So many chords are examined wall by wall in one go."""
Side = Literal["kept", "waste"]


@dataclass(frozen=True, eq=False)
class Field:
    """Widths at the samples; ``inf`` where nothing faces within the searched distance.

    ``partner`` is the sample whose wall is touched (-1: none), ``foot`` (n, 2) the touched point.
    """

    width: FloatArray
    partner: IntArray
    foot: FloatArray
    reach: float = 0.0
    """How far was searched, in mm."""


@dataclass(frozen=True, eq=False)
class _Candidates:
    sample: IntArray
    partner: IntArray
    chord: FloatArray
    kept: NDArray[np.bool_]
    foot: FloatArray

    @property
    def columns(self) -> tuple[IntArray, IntArray, FloatArray, NDArray[np.bool_], FloatArray]:
        return self.sample, self.partner, self.chord, self.kept, self.foot

    def chosen(self, rows: IntArray) -> _Candidates:
        return _Candidates(self.sample[rows], self.partner[rows], self.chord[rows], self.kept[rows], self.foot[rows])


def width_fields(samples: Samples, reach: float, only: Side | None = None) -> tuple[Field, Field]:
    """The fields of kept film and of waste, for widths up to ``reach`` mm.

    With ``only`` the other side comes back without widths.
    """
    if not len(samples):
        return no_field(0), no_field(0)
    if pairs_within(samples, reach + float(samples.half.max())) > PAIRS_IN_STAGES:
        return _in_stages(samples, reach, only)
    return _fields(samples, reach, only)


def _in_stages(samples: Samples, reach: float, only: Side | None) -> tuple[Field, Field]:
    """The same where very many walls are near each other: what faces something near by need not look far."""
    kept, waste = width_fields(samples, reach * STAGE, only)
    if only in (None, "kept"):
        kept = _farther(kept, samples, np.arange(len(samples)), samples.tree, reach, "kept")
    if only in (None, "waste"):
        waste = _farther(waste, samples, np.arange(len(samples)), samples.tree, reach, "waste")
    return kept, waste


def _fields(samples: Samples, reach: float, only: Side | None) -> tuple[Field, Field]:
    radius = reach + float(samples.half.max())

    def facing_in(pairs_of: Callable[[], IntArray]) -> _Candidates:
        return _best(_facing(samples, *_facing_pairs(samples, pairs_of(), only), reach))

    found = side_by_side([partial(facing_in, strip) for strip in _strips(samples, radius)])
    facing = _Candidates(*(np.concatenate(column) for column in zip(*(c.columns for c in found), strict=True)))
    tree = samples.tree
    kept, waste = (
        _nearest_visible(samples, facing, side == "kept", tree, reach)
        if only in (None, side)
        else no_field(len(samples))
        for side in ("kept", "waste")
    )
    return kept, waste


def chords_of(samples: Samples, which: IntArray, tree: cKDTree, reach: float, side: Side) -> Field:
    """The chords of some samples alone, on one side; ``tree`` holds the first of the samples, which are the walls."""
    slack = float(samples.half.max())
    around = tree.query_ball_point(samples.point[which], reach + slack, return_length=True)
    if int(around.sum()) <= PAIRS_OF_SOME or reach < slack:
        return _chords_among(samples, which, tree, reach, side)
    return _farther(chords_of(samples, which, tree, reach * STAGE, side), samples, which, tree, reach, side)


def _farther(found: Field, samples: Samples, which: IntArray, tree: cKDTree, reach: float, side: Side) -> Field:
    """The chords of some samples when those of a shorter reach are known: what has one there keeps it."""
    left = which[found.partner[which] < 0]
    if not len(left):
        return replace(found, reach=reach)
    around = _at_most_near(samples.point[left], tree, reach + float(samples.half.max()))
    batch = np.cumsum(around) // MAY_BE_OF_SOME
    for some in np.split(left, np.flatnonzero(np.diff(batch)) + 1):
        pause()
        if len(some):
            chords = _chords_among(samples, some, tree, reach, side)
            found.width[some], found.partner[some] = chords.width[some], chords.partner[some]
            found.foot[some] = chords.foot[some]
    return replace(found, reach=reach)


def _chords_among(samples: Samples, which: IntArray, tree: cKDTree, reach: float, side: Side) -> Field:
    """The same in one go; each of them has all its neighbours, so chords in one direction are enough."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    radius = reach + float(samples.half.max())
    own = cKDTree(samples.point[which], balanced_tree=False, compact_nodes=False)
    near = own.sparse_distance_matrix(tree, radius, output_type="ndarray")
    first, second = which[near["i"]], near["j"].astype(np.int64)
    opposed = _opposed(samples, first, second)
    found = _chords(samples, _Pairs.of(samples, first[opposed], second[opposed]), reach)
    return _nearest_visible(samples, _best(found), side == "kept", tree, reach)


def _at_most_near(points: FloatArray, tree: cKDTree, radius: float) -> IntArray:
    """How many of a tree's points lie in the nine squares round each point, which are as wide as the radius."""
    low = np.minimum(points.min(axis=0), tree.mins) - radius
    across = int((max(points[:, 1].max(), tree.maxes[1]) - low[1]) / radius) + 3
    numbers = [(np.floor((some - low) / radius).astype(np.int64) @ (across, 1)) for some in (points, tree.data)]
    squares, filled = np.unique(numbers[1], return_counts=True)
    asked, back = np.unique(numbers[0], return_inverse=True)
    near = np.zeros(len(asked), np.int64)
    for step in (across * dx + dy for dx in (-1, 0, 1) for dy in (-1, 0, 1)):
        at = np.minimum(np.searchsorted(squares, asked + step), len(squares) - 1)
        near += np.where(squares[at] == asked + step, filled[at], 0)
    return near[back]


def pairs_within(samples: Samples, radius: float) -> float:
    """About how many pairs of samples are no farther apart than ``radius`` mm."""
    probes = samples.point[:: max(len(samples) // PROBES, 1)]
    around = samples.tree.query_ball_point(probes, radius, return_length=True)
    return float(around.mean()) * len(samples) / 2.0


def _strips(samples: Samples, radius: float) -> list[Callable[[], IntArray]]:
    """What yields all pairs (n, 2) of samples no farther apart than ``radius`` mm, strip by strip: never too many."""
    points = samples.point
    strips = int(np.ceil(pairs_within(samples, radius) / PAIRS_AT_A_TIME))
    if strips <= 1:
        return [partial(samples.tree.query_pairs, radius, output_type="ndarray")]
    across = int(np.argmax(np.ptp(points, axis=0)))
    order = np.argsort(points[:, across], kind="stable")
    sorted_across = points[order, across]
    bounds = np.linspace(0, len(points), strips + 1).astype(np.int64)
    beyond = np.searchsorted(sorted_across, sorted_across[bounds[1:] - 1] + radius, side="right")
    return [
        partial(_pairs_in, points, order[low:last], high - low, radius)
        for (low, high), last in zip(pairwise(bounds.tolist()), beyond.tolist(), strict=True)
    ]


def _pairs_in(points: FloatArray, rows: IntArray, own: int, radius: float) -> IntArray:
    """The close pairs among some points, one of each at least among the first ``own`` of them."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    tree = cKDTree(points[rows], balanced_tree=False, compact_nodes=False)
    pairs = tree.query_pairs(radius, output_type="ndarray")
    return np.asarray(rows[pairs[np.minimum(pairs[:, 0], pairs[:, 1]) < own]])


def _facing_pairs(samples: Samples, pairs: IntArray, only: Side | None) -> tuple[IntArray, IntArray]:
    """The pairs whose walls are opposed, and which face each other on the side asked for."""
    first, second = pairs[:, 0], pairs[:, 1]
    opposed = _opposed(samples, first, second)
    first, second = first[opposed], second[opposed]
    if only is not None:
        wanted = _on_side(samples, first, second, kept=only == "kept")
        first, second = first[wanted], second[wanted]
    return first, second


def _best(all_facing: _Candidates) -> _Candidates:
    """The few shortest chords of each sample on each side."""
    order = np.lexsort((all_facing.chord, all_facing.kept, all_facing.sample))
    who = all_facing.sample[order] * 2 + all_facing.kept[order]
    starts = np.flatnonzero(np.r_[True, who[1:] != who[:-1]]) if len(who) else who
    rank = np.arange(len(who)) - np.repeat(starts, np.diff(np.r_[starts, len(who)]))
    rows = order[rank < ROUNDS]
    return all_facing.chosen(rows)


def _on_side(samples: Samples, first: IntArray, second: IntArray, *, kept: bool) -> NDArray[np.bool_]:
    """Pairs whose connection leaves the first wall roughly towards kept film or towards waste."""
    gap = samples.point[second] - samples.point[first]
    ahead = (gap * (samples.normal[first] - samples.normal[second])).sum(axis=1)
    return np.asarray(ahead > 0.0 if kept else ahead < 0.0)


def _opposed(samples: Samples, first: IntArray, second: IntArray) -> NDArray[np.bool_]:
    nx, ny = samples.normal[:, 0].copy(), samples.normal[:, 1].copy()
    return np.asarray(nx[first] * nx[second] + ny[first] * ny[second] <= OPPOSED)


class _Pairs(NamedTuple):
    """Samples i and what they may face, j.

    ``gap`` leads from i to j, ``ahead`` is its share along i's normal, ``delta`` the distance of i from
    j's wall, ``opening`` 1 - n.m of the two normals.
    """

    i: IntArray
    j: IntArray
    gap: FloatArray
    ahead: FloatArray
    delta: FloatArray
    opening: FloatArray
    distance: FloatArray

    @classmethod
    def of(cls, samples: Samples, i: IntArray, j: IntArray) -> _Pairs:
        nx, ny = samples.normal.T
        gap_x, gap_y = (samples.point[j, k] - samples.point[i, k] for k in (0, 1))
        ahead = gap_x * nx[i] + gap_y * ny[i]
        delta = -(gap_x * nx[j] + gap_y * ny[j])
        opening = 1.0 - (nx[i] * nx[j] + ny[i] * ny[j])
        return cls(i, j, np.stack([gap_x, gap_y], axis=1), ahead, delta, opening, np.hypot(gap_x, gap_y))

    def seen_back(self) -> _Pairs:
        """From the other end how far the wall lies ahead and how far the sample lies from the wall change places."""
        i, j, gap, ahead, delta, opening, distance = self
        return _Pairs(j, i, -gap, delta, ahead, opening, distance)


def _facing(samples: Samples, first: IntArray, second: IntArray, reach: float) -> _Candidates:
    """All chords from a sample to an opposed wall or corner within reach, in both directions."""
    pairs = _Pairs.of(samples, first, second)
    both = _chords(samples, pairs, reach), _chords(samples, pairs.seen_back(), reach)
    return _Candidates(*(np.concatenate(column) for column in zip(*(c.columns for c in both), strict=True)))


def _chords(samples: Samples, pairs: _Pairs, reach: float) -> _Candidates:
    """The chords of pairs that touch the wall or the corner."""
    i, j, gap, ahead, delta, opening, distance = pairs
    is_corner = samples.half[j] == 0.0
    chord = np.where(is_corner, distance, np.abs(delta) * np.sqrt(2.0 / opening))
    side = np.where(np.where(is_corner, ahead, delta) > 0, 1, -1)
    possible = (chord <= reach) & (chord > TOUCH_MM) & (samples.side[i] * side >= 0) & (samples.side[j] * side >= 0)
    rows = np.flatnonzero(possible)
    inside = side[rows] > 0
    leaves = samples.too_long(i[rows], chord[rows], inside) | samples.too_long(j[rows], chord[rows], inside)
    rows = rows[~leaves]
    i, j, gap, chord, kept = i[rows], j[rows], gap[rows], chord[rows], side[rows] > 0
    is_corner, ahead, delta, distance = is_corner[rows], ahead[rows], delta[rows], distance[rows]
    step = (delta / opening[rows])[:, None] * (samples.normal[i] - samples.normal[j])
    along = ((step - gap) * samples.direction[j]).sum(axis=1)
    on_wall = ~is_corner & (np.abs(along) <= samples.half[j] * (1 + 1e-9) + 1e-9)
    inside_cone = (np.abs(ahead) >= CONE * distance) & (np.abs(delta) >= CONE * distance)
    valid = on_wall | (is_corner & inside_cone & (ahead * delta > 0))
    foot = samples.point[i[valid]] + np.where(is_corner[:, None], gap, step)[valid]
    return _Candidates(i[valid], j[valid], chord[valid], kept[valid], foot)


def _nearest_visible(samples: Samples, all_facing: _Candidates, kept: bool, tree: cKDTree, reach: float) -> Field:
    """Each sample's shortest chord on one side that no wall crosses."""
    side = np.flatnonzero(all_facing.kept == kept)
    order = side[np.lexsort((all_facing.chord[side], all_facing.sample[side]))]
    field = no_field(len(samples), reach)
    pending = order
    for _ in range(ROUNDS):
        best = pending[np.r_[True, np.diff(all_facing.sample[pending]) != 0]] if len(pending) else pending
        if not len(best):
            break
        crossed = _is_crossed(samples, all_facing, best, tree)
        good = best[~crossed]
        who = all_facing.sample[good]
        field.width[who] = all_facing.chord[good]
        field.partner[who] = all_facing.partner[good]
        field.foot[who] = all_facing.foot[good]
        again = np.zeros(len(samples), dtype=bool)
        again[all_facing.sample[best[crossed]]] = True
        dead = np.zeros(len(all_facing.sample), dtype=bool)
        dead[best] = True
        pending = pending[again[all_facing.sample[pending]] & ~dead[pending]]
    return field


def _is_crossed(samples: Samples, facing: _Candidates, which: IntArray, tree: cKDTree) -> NDArray[np.bool_]:
    """Whether a wall lies across each chord.

    With nothing between, no wall comes nearer to a chord's middle than its ends' tangents
    allow; only chords that fail this quick look are examined wall by wall.
    """
    start = samples.point[facing.sample[which]]
    chord = facing.foot[which] - start
    length = facing.chord[which]
    nearest, _ = tree.query(start + chord / 2.0)
    crossed = np.zeros(len(which), dtype=bool)
    doubtful = np.flatnonzero(nearest < CLEAR_SHARE * length)
    for at in range(0, len(doubtful), DOUBTFUL_AT_A_TIME):
        some = doubtful[at : at + DOUBTFUL_AT_A_TIME]
        crossed[some] = _walls_across(samples, start[some], chord[some], length[some], tree)
    return crossed


def _walls_across(
    samples: Samples, start: FloatArray, chord: FloatArray, length: FloatArray, tree: cKDTree
) -> NDArray[np.bool_]:
    """The exact look: every wall near a chord's middle against the chord."""
    crossed = np.zeros(len(start), dtype=bool)
    slack = float(samples.half.max())
    near = tree.query_ball_point(start + chord / 2.0, length / 2.0 + slack, return_sorted=False)
    counts = np.fromiter((len(found) for found in near), dtype=np.int64, count=len(near))
    if not counts.sum():
        return crossed
    c = np.repeat(np.arange(len(start)), counts)
    w = np.concatenate([np.asarray(found, dtype=np.int64) for found in near if found])
    rows = samples.half[w] > 0
    c, w = c[rows], w[rows]
    reach = samples.direction[w] * samples.half[w][:, None]
    a, b = samples.point[w] - reach, samples.point[w] + reach
    unit = chord[c] / length[c][:, None]
    side_a = unit[:, 0] * (a - start[c])[:, 1] - unit[:, 1] * (a - start[c])[:, 0]
    side_b = unit[:, 0] * (b - start[c])[:, 1] - unit[:, 1] * (b - start[c])[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = side_a / (side_a - side_b)
        at = ((a + (b - a) * share[:, None] - start[c]) * unit).sum(axis=1) / length[c]
    hit = (side_a * side_b < 0) & (at > 0.02) & (at < 0.98)
    crossed[c[hit]] = True
    return crossed


def no_field(count: int, reach: float = 0.0) -> Field:
    """No widths for so many samples."""
    return Field(np.full(count, np.inf), np.full(count, -1, dtype=np.int64), np.full((count, 2), np.nan), reach)
