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

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.widths.field import Field
from vivid_thimble.core.widths.walls import Rings, Samples

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
"""Close to a square end a sample stands when the outline is no wider than this one width farther in ..."""
PARALLEL = 0.9945
"""... and its two walls are parallel within 6 degrees (the cosine): those of a round end are not."""
OTHER_END_DEPTHS = 16.0
"""Both ends of a piece are looked at when its outline is shorter than so many depths."""
BURR_SHARE = 0.2
"""What sticks out no farther than this share of the width of film on the whole is a burr."""
FIRM_SHARE = 1.0 / 16.0
"""Depth, as a share of the outline's length, from which a sample belongs to no burr."""
GOES_ON = 1.3
"""It is no burr either when a burr's length farther in the outline is no wider than so many times."""
ONE_TAPER = 0.94
"""Cosine of the largest turn of the walls between two samples of one taper."""


@dataclass(frozen=True, eq=False)
class Standing:
    """Per sample: ``width`` in mm from which it counts as thin (inf: never), and ``depth`` of the tip
    it belongs to in mm (inf: it faces another outline, or nothing)."""

    width: FloatArray
    depth: FloatArray


def standing(rings: Rings, samples: Samples, field: Field) -> Standing:
    """Judge every sample that faces a wall; see the module's text."""
    width, depth = np.full(len(samples), np.inf), np.full(len(samples), np.inf)
    facing = np.flatnonzero(field.partner >= 0)
    width[facing] = field.width[facing]
    partner = field.partner[facing]
    index = facing[samples.ring[facing] == samples.ring[partner]]
    if not len(index):
        return Standing(width, depth)
    middle, half = _tips(rings, samples, field, index)
    margin = _margin(rings, samples.ring[index], middle, half, field.width[index])
    _mind_the_other_end(rings, samples.ring[index], middle, half, field.width[index], margin)
    straight = _goes_straight_on(rings, samples.ring[index], middle, half, field.width[index])
    straight &= (samples.normal[index] * samples.normal[field.partner[index]]).sum(axis=1) <= -PARALLEL
    depth[index] = half
    width[index[(margin < 0.0) & ~straight]] = np.inf
    _move_to_the_border(samples, field, index, margin, straight, width)
    width[index[_is_burr(rings, samples.ring[index], middle, half, field.width[index])]] = np.inf
    return Standing(width, depth)


def _tips(rings: Rings, samples: Samples, field: Field, index: IntArray) -> tuple[FloatArray, FloatArray]:
    """Middle (along the ring) and half length of the stretch between each sample and its foot."""
    partner = field.partner[index]
    along = ((field.foot[index] - samples.point[partner]) * samples.direction[partner]).sum(axis=1)
    foot = samples.arc[partner] + along
    total = rings.ring_length[samples.ring[index]]
    forth = np.mod(foot - samples.arc[index], total)
    is_ahead = forth <= total - forth
    half = np.where(is_ahead, forth, total - forth) / 2.0
    return np.where(is_ahead, samples.arc[index], foot) + half, half


def _margin(rings: Rings, ring: IntArray, middle: FloatArray, depth: FloatArray, width: FloatArray) -> FloatArray:
    """How much a sample is beyond standing (negative: it does not stand)."""
    bluntness = np.full(len(width), -np.inf)
    for share in SHARES:
        chord = _chord(rings, ring, middle, share * depth)
        bluntness = np.maximum(bluntness, (chord / width - share) / (1.0 - share))
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
    margin[rows] = np.minimum(margin[rows], _margin(rings, ring[rows], across, away, width[rows]))


def _goes_straight_on(
    rings: Rings, ring: IntArray, middle: FloatArray, depth: FloatArray, width: FloatArray
) -> NDArray[np.bool_]:
    """Samples beside a square end whose outline keeps its width farther in."""
    out = (depth < STUB_WIDTHS * width) & (depth + width <= rings.ring_length[ring] / 4.0)
    rows = np.flatnonzero(out)
    chord = _chord(rings, ring[rows], middle[rows], depth[rows] + width[rows]) / width[rows]
    out[rows] = (chord <= STRAIGHT_ON) & (chord >= 1.0 / STRAIGHT_ON)
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
    samples: Samples,
    field: Field,
    index: IntArray,
    margin: FloatArray,
    straight: NDArray[np.bool_],
    width: FloatArray,
) -> None:
    """Give the first standing sample of a taper the width at which the taper begins to stand.

    Otherwise a coarser sampling would let it stand later.
    """
    following = samples.following(index)
    known = np.full(len(samples), np.nan)
    known[index] = np.where(straight, np.nan, margin)
    for stands, falls in ((index, following), (following, index)):
        a, b = known[stands], known[falls]
        near = np.hypot(*(field.foot[stands] - field.foot[falls]).T) <= 2.0 * (
            samples.half[stands] + samples.half[falls] + np.abs(field.width[stands] - field.width[falls])
        )
        on = near & _turn_little(samples, stands, falls)
        on &= _turn_little(samples, field.partner[stands], field.partner[falls])
        rows = np.flatnonzero((a >= 0.0) & (b < 0.0) & (field.width[falls] < field.width[stands]) & on)
        s, f = stands[rows], falls[rows]
        share = a[rows] / (a[rows] - b[rows])
        border = field.width[s] + (field.width[f] - field.width[s]) * share
        np.minimum.at(width, s, border)


def _turn_little(samples: Samples, first: IntArray, second: IntArray) -> NDArray[np.bool_]:
    """Whether the walls of two samples run about the same way: not round the corner of a cap."""
    return np.asarray((samples.normal[first] * samples.normal[second]).sum(axis=1) >= ONE_TAPER)
