"""Ripples taken out of rough outlines, corners kept, within a stated deviation.

Rings are sampled evenly, cut at their corners (where the directions over a long stretch before and
after differ by much), and each stretch is blurred along its length by as much as the deviation
allows. The result is turned back into curves.
"""

from __future__ import annotations

import numpy as np
import shapely

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.resample import evenly_spaced
from vivid_thimble.core.geometry.tolerances import FIT_MM

STEPS_PER_DEVIATION = 2.0
"""Samples along the outline for the length of the allowed deviation."""
LARGEST_BLUR = 12.0
"""Standard deviation of the blur in samples, at most."""
ARM_STEPS = 16
"""A corner's directions are taken over so many samples on each side."""
CORNER_DEG = 40.0
"""Outlines that turn more than this between their arms have a corner there."""
FEWEST = 8 * ARM_STEPS
"""Rings with fewer samples are too small to be rough."""


def smooth_region(region: Region, by: float) -> Region:
    """The region with every ring smoothed within ``by`` mm."""
    rings = [
        smooth_ring(shapely.get_coordinates(ring), by - FIT_MM)
        for polygon in region.polygons.geoms
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    return Region.from_path(Path(tuple(fit_rings(rings))), "evenodd")


def smooth_ring(ring: FloatArray, by: float) -> FloatArray:
    """A closed ring (n, 2), its last point repeating the first, smoothed within ``by`` mm; it comes back open.

    Rings too small to be rough come back as they are.
    """
    points = evenly_spaced(ring, by / STEPS_PER_DEVIATION)
    if len(points) < FEWEST:
        return ring[:-1]
    corners = _corners(points)
    if not len(corners):
        return _blurred(np.concatenate([points[-FEWEST:], points, points[:FEWEST]]), by)[FEWEST:-FEWEST]
    points = np.roll(points, -corners[0], axis=0)
    cuts = [*(corners - corners[0]).tolist(), len(points)]
    closed = np.concatenate([points, points[:1]])
    return np.concatenate([_blurred(closed[a : b + 1], by)[:-1] for a, b in zip(cuts[:-1], cuts[1:], strict=True)])


def _corners(points: FloatArray) -> IntArray:
    """Samples where the outline turns sharply between its arms, the sharpest of each neighbourhood."""
    ahead = np.roll(points, -ARM_STEPS, axis=0) - points
    behind = points - np.roll(points, ARM_STEPS, axis=0)
    cross = behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0]
    turn = np.abs(np.degrees(np.arctan2(cross, (behind * ahead).sum(axis=1))))
    highest = np.max([np.roll(turn, k) for k in range(-ARM_STEPS, ARM_STEPS + 1)], axis=0)
    candidates = np.flatnonzero((turn > CORNER_DEG) & (turn >= highest))
    sharp = [k for k in candidates.tolist() if _is_sharp(points, k)]
    return np.asarray(sharp, dtype=np.int64)


def _is_sharp(points: FloatArray, k: int) -> bool:
    """Whether a turn happens at one spot and not along a bend: half the arms see most of it too."""
    n, half = len(points), ARM_STEPS // 2
    behind, ahead = points[k] - points[(k - half) % n], points[(k + half) % n] - points[k]
    turn = np.degrees(np.arctan2(behind[0] * ahead[1] - behind[1] * ahead[0], float(behind @ ahead)))
    return abs(float(turn)) > 0.75 * CORNER_DEG


def _blurred(points: FloatArray, by: float) -> FloatArray:
    """An open stretch blurred along its length as far as the deviation allows; its ends stay."""
    blur = LARGEST_BLUR
    while blur > 0.5 and len(points) > 4:
        smooth = _gaussian(points, blur)
        smooth += _gaussian(points - smooth, blur)  # once more on what was taken: or bends would shrink
        if float(np.hypot(*(smooth - points).T).max()) <= by:
            return smooth
        blur *= 0.75
    return points


def _gaussian(points: FloatArray, blur: float) -> FloatArray:
    """Reflected through its end points, so that these stay where they are."""
    half = min(int(3.0 * blur) + 1, len(points) - 1)
    weights = np.exp(-0.5 * (np.arange(-half, half + 1) / blur) ** 2)
    weights /= weights.sum()
    head = 2.0 * points[0] - points[half:0:-1]
    tail = 2.0 * points[-1] - points[-2 : -half - 2 : -1]
    padded = np.concatenate([head, points, tail])
    return np.column_stack([np.convolve(padded[:, k], weights, mode="valid") for k in (0, 1)])
