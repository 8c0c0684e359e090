"""Rings sampled anew at equal distances."""

from __future__ import annotations

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray


def evenly_spaced(ring: FloatArray, step: float) -> FloatArray:
    """Points (m, 2) about ``step`` mm apart along a closed ring (n, 2) whose last point repeats the first.

    No points when the ring is shorter than a step. Corners are cut by up to half a step.
    """
    along = np.r_[0.0, np.cumsum(np.hypot(*np.diff(ring, axis=0).T))]
    count = int(along[-1] / step)
    places = np.arange(count) * along[-1] / max(count, 1)
    return np.column_stack([np.interp(places, along, ring[:, k]) for k in (0, 1)])
