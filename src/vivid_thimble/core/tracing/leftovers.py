"""What would still be cut although it looks like background or dirt.

Every connected piece is looked at: one much smaller than what the picture is made of is dirt, one that never becomes
full is faint (a shadow, a smudge, a compression ghost), one that hangs on the picture's frame while the rest does not
is an edge, one of nearly the ground's colour is background that was missed.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.tracing.cracks import FloatImage
from vivid_thimble.core.tracing.prepare import Share

Why = Literal["dirt", "faint", "edge", "background"]
DIRT_SHARE = 0.004
"""Of the area of the piece in which a typical pixel of ink lies."""
FAINT = 0.8
"""Pieces whose fullest pixel is covered less are faint, unless they are as thin as a line."""
FAINT_WIDTH_PX = 3.0
EDGE_SHARE = 0.25
"""Pieces at the frame of at most this share of the ink are edges."""


@dataclass(frozen=True)
class Leftover:
    """``at``: a place in it, in shares of the picture; ``area_px``: in pixels of the picture that was looked at."""

    at: Share
    area_px: float
    why: Why


@dataclass(frozen=True, eq=False)
class Pieces:
    """``number`` (rows, columns): the piece of each pixel, 0 for none."""

    number: NDArray[np.int32]
    area: NDArray[np.int64]
    leftovers: tuple[tuple[int, Leftover], ...]


def looked_through(ink: NDArray[np.bool_], strength: FloatImage, away: FloatImage | None = None) -> Pieces:
    """``strength``: how full each pixel is; ``away``: how far its colour is from the ground's (1: too near to be told
    apart), where that matters."""
    import cv2  # here: it delays the first paint

    count, labelled, found, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    number, stats = np.asarray(labelled, dtype=np.int32), np.asarray(found, dtype=np.int32)
    area = stats[:, cv2.CC_STAT_AREA].astype(np.int64)
    if count < 3:
        return Pieces(number, area, ())
    flat = number.ravel()
    peak = np.full(count, -1.0)
    inked = flat > 0
    np.maximum.at(peak, flat[inked], strength.ravel()[inked])
    whole = area[1:].astype(np.float64)
    order = np.sort(whole)
    typical = order[np.searchsorted(np.cumsum(order), 0.5 * whole.sum())]
    left, top = stats[:, cv2.CC_STAT_LEFT], stats[:, cv2.CC_STAT_TOP]
    right, bottom = left + stats[:, cv2.CC_STAT_WIDTH], top + stats[:, cv2.CC_STAT_HEIGHT]
    rows, columns = ink.shape
    at_frame = (left == 0) | (top == 0) | (right == columns) | (bottom == rows)
    some_inside = whole[~at_frame[1:]].sum() > 0.5 * whole.sum()
    reasons: dict[int, Why] = {}
    wide = area / np.maximum(np.maximum(right - left, bottom - top), 1)
    for k in range(1, count):
        if at_frame[k] and some_inside and area[k] <= EDGE_SHARE * whole.sum():
            reasons[k] = "edge"
        elif peak[k] < FAINT and wide[k] > FAINT_WIDTH_PX:
            reasons[k] = "faint"
        elif area[k] < DIRT_SHARE * typical:
            reasons[k] = "dirt"
    if away is not None:
        near = np.bincount(flat, weights=away.ravel(), minlength=count) / np.maximum(area, 1)
        for k in np.flatnonzero(near[1:] < 1.0).tolist():
            reasons.setdefault(k + 1, "background")
    return Pieces(number, area, tuple((k, _leftover(number, stats, k, why)) for k, why in sorted(reasons.items())))


def _leftover(number: NDArray[np.int32], stats: NDArray[np.int32], k: int, why: Why) -> Leftover:
    left, top, wide, high, area = (int(v) for v in stats[k])
    inside = np.argwhere(number[top : top + high, left : left + wide] == k)
    row, column = (int(v) for v in inside[len(inside) // 2])
    rows, columns = number.shape
    return Leftover(((left + column + 0.5) / columns, (top + row + 0.5) / rows), float(area), why)
