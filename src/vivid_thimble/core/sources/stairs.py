"""Staircases: outlines as somebody else's tracing of pixels leaves them, and the line they stand for.

The middles of the steps lie on the line that was traced; joined and freed from ripples they give it back. All
lengths are in units of the drawing, so that it does not matter how large the design becomes.
"""

from __future__ import annotations

import numpy as np

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.fitting.ripples import smooth_ring
from vivid_thimble.core.geometry.path import Contour

FEWEST_STAIRS = 16
STRAIGHT_SHARE = 0.8
"""So much of a staircase runs level or upright."""
LARGEST_STEP = 0.012
"""Steps larger than this share of the drawing are its shape."""
STEP_OF_OUTLINE = 0.06
"""Steps larger than this share of the outline are its shape."""
FITTED = 0.03
"""The new outline keeps within this share of a step of the smoothed line."""
SMOOTHED = 0.8
"""No point moves by more than this share of a step."""


def step_of(contour: Contour, drawing_size: float) -> float | None:
    """The size of the steps of a staircase; None for other outlines."""
    if len(contour) < FEWEST_STAIRS or contour.is_line.mean() < STRAIGHT_SHARE:
        return None
    step = contour.segments[:, 3] - contour.segments[:, 0]
    length = np.hypot(*step.T)
    level = (np.abs(step).min(axis=1) <= 1e-3 * length) & contour.is_line
    if length[level].sum() < STRAIGHT_SHARE * length.sum() or level.sum() < FEWEST_STAIRS:
        return None
    upright = np.abs(step[:, 0]) < np.abs(step[:, 1])
    turns = upright != np.roll(upright, -1)
    size = float(np.ptp(contour.segments[:, 0], axis=0).max())
    typical = float(np.percentile(length[level], 40))
    largest = min(LARGEST_STEP * drawing_size, STEP_OF_OUTLINE * size)
    return typical if turns.mean() >= 0.5 and 0.0 < typical <= largest else None


def without_steps(contour: Contour, step: float) -> Contour:
    """The line that a staircase with steps of this size stands for."""
    unit = Affine.scaling(1.0 / step)
    points = unit.apply(contour.segments[:, 0])
    middles = (points + np.roll(points, -1, axis=0)) / 2.0
    smooth = smooth_ring(np.concatenate([middles, middles[:1]]), SMOOTHED)
    return fit_rings([smooth], FITTED)[0].transformed(Affine.scaling(step))
