"""Balls that touch a wall from one side and hold no other wall: a quick look for what may face it.

Where two walls come closest, the ball on their chord is empty: whatever lay in it would be closer still. So the
largest empty ball at a wall, found by shrinking a large one until nothing is left in it, finds every such place at a
cost that does not depend on how far away it is (the shrinking ball of Ma, Bae and Choi, 2012). Beside such a place
other walls may be in the way: this tells where to look, the width field how wide it is.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.widths.field import OPPOSED, Field, Side, no_field
from vivid_thimble.core.widths.side_by_side import threads_for
from vivid_thimble.core.widths.walls import Samples

INSIDE = 1.0 - 1e-4
"""A sample is inside a ball when it is nearer to the middle than this share of the radius."""
SHRINKS = 24
"""A ball shrinks at most so many times; a few do, unless walls are full of corners."""
FAN_STEP_DEG = 45.0
"""Directions at corners are this far apart; a corner faces whatever lies within the cone of one of them."""
CORNER_CONE = 0.7
"""Cosine of the angle between a fan's direction and the chord of a corner."""


def ball_walls(samples: Samples, side: Side) -> IntArray:
    """The samples that can be touched from a side: all walls, and the corners that poke into it."""
    return np.flatnonzero(samples.side >= 0 if side == "kept" else samples.side <= 0)


def crowded(samples: Samples, side: Side, diameter: float) -> NDArray[np.bool_]:
    """Which samples have another one inside the ball of this diameter (mm) that touches them from one side."""
    rows = ball_walls(samples, side)
    sign = 1.0 if side == "kept" else -1.0
    middle = samples.point[rows] + samples.normal[rows] * (sign * diameter / 2.0)
    found, _ = samples.tree.query(
        middle, distance_upper_bound=diameter / 2.0 * INSIDE, workers=threads_for(len(middle))
    )
    result = np.zeros(len(samples), dtype=bool)
    result[rows] = np.isfinite(found)
    return result


def facing_by_balls(samples: Samples, side: Side, reach: float) -> Field:
    """The chord from each sample to the wall that its largest empty ball touches, for widths up to ``reach`` mm."""
    sign = 1.0 if side == "kept" else -1.0
    rows = ball_walls(samples, side)
    radius = np.full(len(samples), reach / 2.0)
    touched = np.full(len(samples), -1, dtype=np.int64)
    for _ in range(SHRINKS):
        p, normal = samples.point[rows], sign * samples.normal[rows]
        middle = p + normal * radius[rows, None]
        away, found = samples.tree.query(middle, distance_upper_bound=reach / 2.0, workers=threads_for(len(middle)))
        inside = away < radius[rows] * INSIDE
        rows, found = rows[inside], found[inside]
        if not len(rows):
            break
        gap = samples.point[found] - p[inside]
        ahead = np.maximum((gap * normal[inside]).sum(axis=1), 1e-12)
        radius[rows] = (gap**2).sum(axis=1) / (2.0 * ahead)
        touched[rows] = found
    return _chords(samples, touched, sign, reach)


def _chords(samples: Samples, touched: IntArray, sign: float, reach: float) -> Field:
    """The chords to the touched walls and corners that face back."""
    field = no_field(len(samples))
    rows = np.flatnonzero(touched >= 0)
    other = touched[rows]
    gap = samples.point[other] - samples.point[rows]
    distance = np.hypot(gap[:, 0], gap[:, 1])
    mine, theirs = samples.normal[rows], samples.normal[other]
    cosine = (mine * theirs).sum(axis=1)
    ahead, delta = sign * (gap * mine).sum(axis=1), -sign * (gap * theirs).sum(axis=1)
    is_corner = samples.half[other] == 0.0
    opening = np.maximum(1.0 - cosine, 1e-12)
    width = np.where(is_corner, distance, np.abs(delta) * np.sqrt(2.0 / opening))
    step = (sign * delta / opening)[:, None] * (mine - theirs)
    faces = np.where(is_corner, ahead >= CORNER_CONE * distance, (cosine <= OPPOSED) & (delta > 0.0))
    kept = sign > 0.0
    leaves = samples.too_long(rows, width, kept) | samples.too_long(other, width, kept)
    good = faces & ~leaves & (width <= reach) & (width > 0.0)
    who = rows[good]
    field.width[who], field.partner[who] = width[good], other[good]
    field.foot[who] = samples.point[who] + np.where(is_corner[:, None], gap, step)[good]
    return field
