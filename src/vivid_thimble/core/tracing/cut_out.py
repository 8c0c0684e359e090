"""An object cut out of a photo from a few scribbles on what stays and on what goes.

Where the object ends is found on a small copy by a graph cut between colour models of both (GrabCut; Rother, Kolmogorov
and Blake 2004). Its outline is then placed on the whole picture: near it each pixel is covered by as much as its colour
lies from that of the ground nearby towards that of the object nearby; where both look alike the small copy's outline
stays.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.colour_space import lab
from vivid_thimble.core.tracing.cracks import FloatImage
from vivid_thimble.core.tracing.label_map import ColourImage

SMALL_PX = 420
"""The longer side of the copy on which the object is found."""
ROUNDS = 4
"""Of fitting colour models and cutting the graph, one after the other."""
LOOKS = 4
"""Colours that stand for each scribble at first."""
SEED = 3
BAND = 1.6
"""The outline is looked for within so many pixels of the small copy to either side."""
APART = 26.0
"""Colours of object and ground nearer to each other than this, in red, green and blue together, place no edge."""


def cut_out(picture: ColourImage, stays: NDArray[np.bool_], goes: NDArray[np.bool_]) -> FloatImage:
    """How much of each pixel is object (rows, columns). ``stays``, ``goes``: the scribbles; without any of the second
    kind the picture's frame is ground."""
    import cv2  # here: it delays the first paint

    rows, columns = picture.shape[:2]
    share = min(SMALL_PX / max(rows, columns), 1.0)
    size = max(round(columns * share), 1), max(round(rows * share), 1)
    small = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
    own, other = _shrunk(stays, size), _shrunk(goes, size)
    if not other.any():
        other = np.ones_like(own)
        other[1:-1, 1:-1] = False
    other &= ~own
    if not own.any() or not other.any() or min(small.shape[:2]) < 3:
        return np.where(stays, 1.0, 0.0).astype(np.float32)
    object_px = _found(small, own, other)
    enlarged = cv2.resize(object_px.astype(np.float32), (columns, rows), interpolation=cv2.INTER_CUBIC)
    # so that its edge is about a pixel wide again
    coverage = np.clip(0.5 + (enlarged - 0.5) / max(share, 0.05), 0.0, 1.0).astype(np.float32)
    if share < 1.0 or min(rows, columns) > 8:
        coverage = _placed(picture, coverage, max(round(BAND / share), 2))
    return np.where(stays, 1.0, np.where(goes, 0.0, coverage)).astype(np.float32)


def _shrunk(mask: NDArray[np.bool_], size: tuple[int, int]) -> NDArray[np.bool_]:
    import cv2

    held = cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    found: NDArray[np.bool_] = held > 0.2
    return found


def _found(small: ColourImage, own: NDArray[np.bool_], other: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The object on the small copy."""
    import cv2

    seen = lab(small.reshape(-1, 3).astype(np.float64))
    near = _distance(seen, _looks(seen[own.ravel()])) < _distance(seen, _looks(seen[other.ravel()]))
    mask = np.where(near.reshape(own.shape), cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    mask[own], mask[other] = cv2.GC_FGD, cv2.GC_BGD
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(SEED)
    for _ in range(ROUNDS):
        pause("Finding where the object ends")
        cv2.grabCut(small[:, :, ::-1].copy(), mask, None, *models, 1, cv2.GC_INIT_WITH_MASK)  # type: ignore[call-overload]  # no rectangle is needed
    return np.asarray((mask == cv2.GC_FGD) | (mask == cv2.GC_PR_FGD))


def _looks(seen: FloatArray) -> FloatArray:
    """A few colours that stand for many (k, 3)."""
    import cv2

    count = min(LOOKS, len(np.unique(seen, axis=0)))
    cv2.setRNGSeed(SEED)
    ends = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
    held = seen.astype(np.float32)
    _, _, middles = cv2.kmeans(held, count, None, ends, 1, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]  # no labels yet
    return np.asarray(middles, dtype=np.float64)


def _distance(seen: FloatArray, looks: FloatArray) -> FloatArray:
    return np.asarray(((seen[:, None] - looks[None]) ** 2).sum(axis=2).min(axis=1))


def _placed(picture: ColourImage, coverage: FloatImage, band: int) -> FloatImage:
    """Coverage whose edge lies where the colours change, at most ``band`` pixels away."""
    import cv2

    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * band + 1, 2 * band + 1))
    inside = cv2.erode((coverage > 0.5).astype(np.uint8), kernel) > 0
    outside = cv2.dilate((coverage > 0.5).astype(np.uint8), kernel) == 0
    between = ~inside & ~outside
    if not between.any() or not inside.any() or not outside.any():
        return coverage
    pause()
    full, empty = _nearby(picture, inside, band), _nearby(picture, outside, band)
    way = full - empty
    apart = np.sqrt((way * way).sum(axis=2))
    share = ((picture.astype(np.float32) - empty) * way).sum(axis=2) / np.maximum(apart * apart, 1.0)
    trust = np.clip(apart / APART - 1.0, 0.0, 1.0)
    mixed = np.clip(trust * share + (1.0 - trust) * coverage, 0.0, 1.0)
    return np.where(between, mixed, coverage).astype(np.float32)


def _nearby(picture: ColourImage, where: NDArray[np.bool_], band: int) -> NDArray[np.float32]:
    """The mean colour of those pixels in the neighbourhood of each pixel (rows, columns, 3)."""
    import cv2

    size = (6 * band + 1, 6 * band + 1)
    weight = cv2.boxFilter(where.astype(np.float32), -1, size, normalize=False)
    held = np.where(where[:, :, None], picture, 0).astype(np.float32)
    total = cv2.boxFilter(held, -1, size, normalize=False)
    return np.asarray(total / np.maximum(weight, 1e-3)[:, :, None], dtype=np.float32)
