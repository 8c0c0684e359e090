"""Which thin samples stand for a line or gap, and which merely belong to a tip.

Near every tip the width falls to nothing by itself, so a width alone tells nothing. Seen
from a sample and the wall it faces, the tip is the shorter stretch of boundary between
the two; half its length is the sample's *depth*. The chords between boundary points at a
share f of that depth tell how the outline narrows: in a wedge they are f times the width,
in a bar they are the width. The *bluntness* extrapolates them to the tip: 0 for a point,
1 for a bar, more when the end is a blob.

A sample *stands* when the stretch behind it is long enough for its bluntness: 1.5 widths
for a bar, several for a tapering stroke, never for a point. This looks at shape only, not
at any limit, so what stands is the same at every size. What tapers for long without
standing is a needle tip. A burr stands like any bar, but it is short beside what it sticks out
of: it counts only when it is longer than a share of the film's width on the whole, or when the
outline goes on as narrow as it farther in, as at the free end of a stroke.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import TOUCH_MM
from vivid_thimble.core.widths.field import Field, Side, chords_of
from vivid_thimble.core.widths.walls import Meetings, Rings, Samples

STUB_WIDTHS = 1.5
"""A bar's end stands from so many widths of depth on; shorter ones are stubs or rounded ends."""
POINT_BLUNTNESS = 0.2
"""Up to this bluntness an end is a point, however long."""
LONG_ENOUGH = 12.0
"""A taper stands when its depth in widths, times its bluntness above POINT_BLUNTNESS over what it
lacks of a bar's, reaches this: 1.7 widths at a bluntness of 0.9, 4 at 0.8, 20 at 0.5."""
SHARES = (0.25, 0.5, 0.75)
"""Shares of the depth at which the outline towards the tip is looked at."""
STRAIGHT_ON = 1.05
"""Close to a square end a sample stands when the outline is no wider than so many times one width farther in ..."""
TAPER, TAPER_WIDTHS = 0.085, 3.0
"""... or no wider than by this share a width, for so many widths: leaves and blades open more ..."""
INWARD, PARALLEL = 0.1, 0.0105
"""... and its walls are about parallel there: so little wider at this share of the width farther in, as when they open
by 6 degrees. Those of a round end open more."""
ROUND_END, SATURATES = 0.002, 5.0
"""A taper grows on; a round end has grown all it will: it is no wider farther in than so many times of that."""
OTHER_END_DEPTHS = 16.0
"""Both ends of a piece are looked at when its outline is shorter than so many depths."""
BURR_SHARE = 0.2
"""What sticks out no farther than this share of the width of film on the whole is a burr."""
FIRM_SHARE = 1.0 / 16.0
"""Depth, as a share of the outline's length, from which a sample belongs to no burr."""
LOOSE_MARGIN, LOOSELY_PARALLEL = -0.25, 0.05
"""The same for a first sight."""
GOES_ON = 1.3
"""It is no burr either when a burr's length farther in the outline is no wider than so many times."""
WELL_WITHIN = 0.95
"""Widths up to this share of what was searched have neighbours that face nothing because a wall ends."""
MOST_FALL = 1.3
"""Along a wall its width falls by at most so many times the way: facing walls open by at most 60 degrees."""
HALVINGS = 7
"""The border of what stands is found to this many halvings of the way between two samples."""


_Spots = tuple[IntArray, FloatArray]
"""Places on outlines: the ring of each, and how far along it in mm."""


@dataclass(frozen=True, eq=False)
class Standing:
    """Per sample: ``width`` in mm from which it counts as thin (inf: never), and ``depth`` of the tip
    it belongs to in mm (inf: it faces another outline, or nothing); ``point`` and ``foot`` (n, 2) are the
    ends of the chord that is as wide as that, on a taper just where it begins to stand."""

    width: FloatArray
    depth: FloatArray
    point: FloatArray
    foot: FloatArray


def standing(rings: Rings, samples: Samples, field: Field, side: Side) -> Standing:
    """Judge every sample that faces a wall; see the module's text.

    On a taper the border of what stands is looked for between the samples.
    """
    found, flips = _judged_samples(rings, samples, field)
    if len(flips[0]):
        _move_to_the_border(rings, samples, field, side, flips, found)
    return found


def may_stand(rings: Rings, samples: Samples, field: Field) -> Standing:
    """The same at first sight, for samples far apart: what all but stands may, a taper as far as to the next sample."""
    found, (stands, falls) = _judged_samples(rings, samples, field, loosely=True)
    np.minimum.at(found.width, stands, field.width[falls])
    return found


def _judged_samples(
    rings: Rings, samples: Samples, field: Field, *, loosely: bool = False
) -> tuple[Standing, tuple[IntArray, IntArray]]:
    """All samples by themselves, and pairs of neighbours of which the first stands and the second does not."""
    found = Standing(
        np.full(len(samples), np.inf), np.full(len(samples), np.inf), samples.point.copy(), field.foot.copy(),
    )  # fmt: skip
    facing = np.flatnonzero(field.partner >= 0)
    found.width[facing] = field.width[facing]
    own = samples.ring[facing] == samples.ring[field.partner[facing]]
    index = facing if len(rings.meetings) else facing[own]
    if not len(index):
        return found, (index, index)
    stands, depth = _judged(rings, samples, field, index, loosely=loosely)
    found.depth[index] = depth
    found.width[index[~stands]] = np.inf
    following = samples.following(index)
    first, second = np.r_[index, following], np.r_[following, index]
    ends = np.isfinite(found.width[first]) & np.isinf(found.width[second])
    flips = ends & (np.isfinite(field.width[second]) | (field.width[first] < WELL_WITHIN * field.reach))
    return found, (first[flips], second[flips])


def _judged(
    rings: Rings, samples: Samples, field: Field, index: IntArray, *, loosely: bool = False
) -> tuple[NDArray[np.bool_], FloatArray]:
    """Whether samples that face their own outline stand, and the depth of the tip that each belongs to."""
    partner = field.partner[index]
    along = ((field.foot[index] - samples.point[partner]) * samples.direction[partner]).sum(axis=1)
    first = samples.ring[index], samples.arc[index]
    second = samples.ring[partner], samples.arc[partner] + along
    return chords_stand(rings, first, second, field.width[index], loosely=loosely)


def chords_stand(
    rings: Rings, first: _Spots, second: _Spots, width: FloatArray, *, loosely: bool = False
) -> tuple[NDArray[np.bool_], FloatArray]:
    """Whether chords between places of rings stand, and the depth of their tips (inf: they belong to none).

    A place is a ring and a distance in mm along it. ``loosely``: for a first sight.
    """
    stands, depth = np.ones(len(width), dtype=bool), np.full(len(width), np.inf)
    own = np.flatnonzero(first[0] == second[0])
    if len(own):
        ring, start, end = first[0][own], first[1][own], second[1][own]
        stands[own], depth[own] = _stand_on_a_ring(rings, ring, start, end, width[own], loosely=loosely)
    if len(rings.meetings):
        _mind_the_cusps(rings, first, second, width, stands, depth)
    return stands, depth


def _mind_the_cusps(
    rings: Rings, first: _Spots, second: _Spots, width: FloatArray, stands: NDArray[np.bool_], depth: FloatArray
) -> None:
    """Where two outlines meet the width falls to nothing as it does at a tip: the stretch between the ends of a chord
    then leads over the meeting point. What is no wider than a hair is the meeting itself. Outlines that only all but
    meet are judged as if they were moved together.
    """
    meetings = rings.meetings.both_ways()
    wide = np.flatnonzero(width > rings.hair)
    rows, which = _pairs_of_rings(rings, (first[0][wide], second[0][wide]), meetings)
    if not len(rows):
        return
    rows = wide[rows]
    forth, back = (
        (
            np.mod(turn * (meetings.arc[which] - first[1][rows]), rings.ring_length[first[0][rows]]),
            np.mod(turn * (second[1][rows] - meetings.other_arc[which]), rings.ring_length[second[0][rows]]),
        )
        for turn in (1.0, -1.0)
    )
    turns = np.where(forth[0] + forth[1] <= back[0] + back[1], 1.0, -1.0)
    before, after = (np.where(turns > 0.0, one, other) for one, other in zip(forth, back, strict=True))
    order = np.lexsort((before + after, rows))
    nearest = order[np.r_[True, np.diff(rows[order]) != 0]]
    half, bend = (before + after)[nearest] / 2.0, (after - before)[nearest] / 2.0
    nearer = half < depth[rows[nearest]]
    half, bend, nearest = half[nearer], bend[nearer], nearest[nearer]
    rows, which, turns = rows[nearest], which[nearest], turns[nearest]
    if not len(rows):
        return

    def point(away: FloatArray) -> FloatArray:
        """So far behind the meeting point (negative: before it) on the way over it."""
        ring = np.where(away < 0.0, meetings.ring[which], meetings.other_ring[which])
        return rings.point_at(ring, turns * away + np.where(away < 0.0, meetings.arc[which], meetings.other_arc[which]))

    def chord(away: FloatArray) -> FloatArray:
        across = np.hypot(*(point(bend + away) - point(bend - away)).T)
        return np.asarray(np.maximum(across - apart, 0.0))

    apart = meetings.apart[which]
    stands[rows] = _margin(chord, half, np.maximum(width[rows] - apart, TOUCH_MM)) >= 0.0
    depth[rows] = half


def _pairs_of_rings(rings: Rings, pairs: tuple[IntArray, IntArray], meetings: Meetings) -> tuple[IntArray, IntArray]:
    """All rows of pairs of rings with each meeting of those two."""
    count = len(rings.ring_length)
    order = np.argsort(meetings.ring * count + meetings.other_ring, kind="stable")
    known, wanted = (meetings.ring * count + meetings.other_ring)[order], pairs[0] * count + pairs[1]
    low, high = np.searchsorted(known, wanted, side="left"), np.searchsorted(known, wanted, side="right")
    several = high - low
    rows = np.repeat(np.arange(len(wanted)), several)
    within = np.arange(len(rows)) - np.repeat(np.cumsum(several) - several, several)
    return rows, order[np.repeat(low, several) + within]


def _stand_on_a_ring(
    rings: Rings,
    ring: IntArray,
    start: FloatArray,
    end: FloatArray,
    width: FloatArray,
    *,
    loosely: bool = False,
) -> tuple[NDArray[np.bool_], FloatArray]:
    """Whether chords between two places of one ring (distances along it, mm) stand, and the depth of their tips.

    ``loosely``: for a first sight.
    """
    middle, half = _tips(rings, ring, start, end)
    margin = _margin(partial(_chord, rings, ring, middle), half, width)
    _mind_the_other_end(rings, ring, middle, half, width, margin)
    least, parallel = (LOOSE_MARGIN, LOOSELY_PARALLEL) if loosely else (0.0, PARALLEL)
    straight = _goes_straight_on(rings, ring, middle, half, width, parallel)
    return ((margin >= least) | straight) & ~_is_burr(rings, ring, middle, half, width), half


def _tips(rings: Rings, ring: IntArray, start: FloatArray, end: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Middle (along the ring) and half length of the shorter stretch between two places of a ring."""
    total = rings.ring_length[ring]
    forth = np.mod(end - start, total)
    is_ahead = forth <= total - forth
    half = np.where(is_ahead, forth, total - forth) / 2.0
    return np.where(is_ahead, start, end) + half, half


def _margin(chord: Callable[[FloatArray], FloatArray], depth: FloatArray, width: FloatArray) -> FloatArray:
    """How much a sample is beyond standing (negative: it does not stand). ``chord`` tells how wide the outline is so
    far (mm) before and behind the middle of the way round the tip."""
    bluntness = np.full(len(width), -np.inf)
    for share in SHARES:
        bluntness = np.maximum(bluntness, (chord(share * depth) / width - share) / (1.0 - share))
    widths = depth / width
    lacking = np.maximum(1.0 - bluntness, 1e-3)
    return np.asarray(
        np.minimum(widths / STUB_WIDTHS - 1.0, (bluntness - POINT_BLUNTNESS) * widths / (LONG_ENOUGH * lacking) - 1.0)
    )


def _mind_the_other_end(
    rings: Rings, ring: IntArray, middle: FloatArray, depth: FloatArray, width: FloatArray, margin: FloatArray
) -> None:
    """Lower the margin of samples that belong to a taper as well when seen the longer way round.

    Only pieces of a few depths' length are small enough for that.
    """
    total = rings.ring_length[ring]
    rows = np.flatnonzero((margin >= 0.0) & (total < OTHER_END_DEPTHS * depth))
    away, across = total[rows] / 2.0 - depth[rows], middle[rows] + total[rows] / 2.0
    margin[rows] = np.minimum(margin[rows], _margin(partial(_chord, rings, ring[rows], across), away, width[rows]))


def _goes_straight_on(
    rings: Rings, ring: IntArray, middle: FloatArray, depth: FloatArray, width: FloatArray, parallel: float
) -> NDArray[np.bool_]:
    """Samples beside a square end whose outline keeps its width farther in."""
    out = (depth < STUB_WIDTHS * width) & (depth + width <= rings.ring_length[ring] / 4.0)
    rows = np.flatnonzero(out)
    chord = _chord(rings, ring[rows], middle[rows], depth[rows] + width[rows]) / width[rows]
    near = _chord(rings, ring[rows], middle[rows], depth[rows] + INWARD * width[rows]) / width[rows]
    most = np.minimum(np.maximum(ROUND_END, (chord - 1.0) / SATURATES), parallel)
    far = _chord(rings, ring[rows], middle[rows], depth[rows] + TAPER_WIDTHS * width[rows]) / width[rows]
    is_even = (chord <= STRAIGHT_ON) & (chord >= 1.0 / STRAIGHT_ON)
    is_even |= (chord >= 1.0) & (np.maximum((far - 1.0) / TAPER_WIDTHS, chord - 1.0) <= TAPER)
    out[rows] = is_even & (np.abs(near - 1.0) <= most)
    return out


def _is_burr(
    rings: Rings, ring: IntArray, middle: FloatArray, depth: FloatArray, width: FloatArray
) -> NDArray[np.bool_]:
    """Samples of what hardly sticks out and has the outline spread beside it."""
    most = BURR_SHARE * rings.body[ring]
    out = depth < np.minimum(most, FIRM_SHARE * rings.ring_length[ring])
    rows = np.flatnonzero(out)
    farther = _chord(rings, ring[rows], middle[rows], depth[rows] + most[rows])
    out[rows] = farther > GOES_ON * width[rows]
    return np.asarray(out)


def _chord(rings: Rings, ring: IntArray, middle: FloatArray, away: FloatArray) -> FloatArray:
    """Distance between the boundary points ``away`` mm before and after a place on a ring."""
    return np.asarray(np.hypot(*(rings.point_at(ring, middle + away) - rings.point_at(ring, middle - away)).T))


def _move_to_the_border(
    rings: Rings, samples: Samples, field: Field, side: Side, flips: tuple[IntArray, IntArray], found: Standing
) -> None:
    """Give the first standing sample of a taper the width at which the taper begins to stand.

    Otherwise where the samples happen to lie would tell how thin it is. The border is halved in between them.
    """
    stands, falls = flips
    walls = samples.near(samples.point[stands], 2.0 * field.reach + 4.0 * float(samples.half.max()))
    ring = samples.ring[stands]
    low = samples.arc[stands]
    total = rings.ring_length[ring]
    high = low + np.mod(samples.arc[falls] - low + total / 2.0, total) - total / 2.0
    for _ in range(HALVINGS):
        between = (low + high) / 2.0
        extended = walls.extended(rings, ring, between)
        at = len(walls) + np.arange(len(ring))
        chords = chords_of(extended, at, walls.tree, field.reach, side)
        faces = chords.partner[at] >= 0
        rows = at[faces]
        standing_now = np.zeros(len(ring), dtype=bool)
        standing_now[np.flatnonzero(faces)] = _judged(rings, extended, chords, rows)[0]
        most = field.width[stands] - MOST_FALL * np.abs(between - samples.arc[stands])
        standing_now &= chords.width[at] >= most  # less: that is another wall
        thinner = standing_now & (chords.width[at] < found.width[stands])
        for k in np.flatnonzero(thinner).tolist():
            who = stands[k]
            if chords.width[at[k]] < found.width[who]:
                found.width[who] = chords.width[at[k]]
                found.point[who], found.foot[who] = extended.point[at[k]], chords.foot[at[k]]
        low, high = np.where(standing_now, between, low), np.where(standing_now, high, between)
