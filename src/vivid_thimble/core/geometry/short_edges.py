"""Edges and segments too short to have a direction.

Where outlines were combined, a crossing may fall beside a vertex and leave an edge of a ten-thousandth of a millimetre.
Its direction is chance: rounding in a file turns it, and a wall that faces anywhere reads as a neck of no width. Such
edges are left out before widths are measured, and such segments do not leave a weld; no wall moves by more than their
length.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Contour, Path, line_segments
from vivid_thimble.core.geometry.tolerances import SHORTEST_EDGE_MM, SHORTEST_SEGMENT_MM, TOUCH_MM

MIXER = np.uint64(0x9E3779B97F4A7C15)
"""An odd factor that spreads every bit over all."""
FEWEST = 3
"""A ring keeps at least so many corners."""


def steady_corners(points: FloatArray, ring: IntArray, shortest: float = SHORTEST_EDGE_MM) -> NDArray[np.bool_]:
    """Which corners (n, 2) of open rings to keep; ``ring`` numbers each corner's ring and ascends.

    Of a run of edges shorter than ``shortest`` mm the first corner stays, and every further one that is far enough from
    the one kept before.
    Corners that another ring, or the same one elsewhere, has too are kept: shapes touch there.
    """
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    ends = np.r_[starts[1:], len(ring)]
    before = np.arange(-1, len(ring) - 1)
    before[starts] = ends - 1
    short = np.hypot(*(points - points[before]).T) < shortest
    kept = np.ones(len(points), dtype=bool)
    if not short.any():
        return kept
    for k in np.unique(np.searchsorted(starts, np.flatnonzero(short), side="right") - 1):
        rows = np.arange(starts[k], ends[k])
        if not short[rows].all():
            rows = np.roll(rows, -int(np.argmin(short[rows])))  # begins behind a long edge: wherever the ring starts
            _leave_out(points, rows, short[rows], kept, shortest)
    if not kept.all():
        kept |= _are_shared(points)
    return kept


def _leave_out(
    points: FloatArray, rows: IntArray, short: NDArray[np.bool_], kept: NDArray[np.bool_], shortest: float
) -> None:
    """Mark, in place, the corners of one ring that lie too close to the one kept before."""
    anchor, last, left = -1, -2, len(rows)
    for at in np.flatnonzero(short).tolist():
        if at - 1 != last:
            anchor = at - 1
        last = at
        if left > FEWEST and np.hypot(*(points[rows[at]] - points[rows[anchor]])) < shortest:
            kept[rows[at]] = False
            left -= 1
        else:
            anchor = at


def _are_shared(points: FloatArray) -> NDArray[np.bool_]:
    """Corners that lie where another one lies."""
    x, y = np.rint(points / TOUCH_MM).astype(np.int64).view(np.uint64).T
    _, place, count = np.unique(x * MIXER + y, return_inverse=True, return_counts=True)
    return np.asarray(count[place] > 1)


def without_short_segments(path: Path) -> Path:
    """Closed outlines without segments shorter than SHORTEST_SEGMENT_MM: the next one begins where they began."""
    return Path(tuple(_without_short(contour) for contour in path.contours))


def _without_short(contour: Contour) -> Contour:
    segments = contour.segments
    hulls = np.hypot(*np.diff(segments, axis=1).transpose(2, 0, 1)).sum(axis=1)
    if not contour.closed or len(segments) <= FEWEST or not (hulls < SHORTEST_SEGMENT_MM).any():
        return contour
    starts = segments[:, 0]
    kept = steady_corners(starts, np.zeros(len(starts), dtype=np.int64), SHORTEST_SEGMENT_MM)
    kept |= np.roll(hulls, 1) >= SHORTEST_SEGMENT_MM  # a loop that ends near where it began is no short segment
    joints = np.flatnonzero(kept)
    if len(joints) < FEWEST:
        return contour
    last = np.roll(joints, -1) - 1  # of the segments from one kept joint to the next, the last is the long one
    chosen, lines = segments[last].copy(), contour.is_line[last]
    moved = segments[joints, 0] - chosen[:, 0]
    chosen[:, :2] += moved[:, None]
    chosen[lines] = line_segments(chosen[lines, 0], chosen[lines, 3])
    return Contour(chosen, lines)
