"""Which label each pixel of a picture gets: flat colours found, colours reduced, dirt removed.

Pictures of flat colours have mixed pixels along every edge. Such a pixel takes one of the colours that lie pure within
two pixels of it; the nearest colour of all would often be a third one. Photos have no pure pixels: there the nearest
colour counts. Colour distances are plain ones in red, green and blue for mixtures, which are linear there, and in CIE
Lab for what looks alike.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.colour_space import lab
from vivid_thimble.core.tracing.cracks import LabelImage
from vivid_thimble.core.tracing.label_map import ColourImage

EVEN_RANGE = 20
"""A pixel whose neighbours differ by no more in any channel is even ground."""
MOST_FLAT = 12
"""A picture of more flat colours is taken as a photo."""
LEAST_SHARE = 0.0008
"""Flat colours that cover less of the even ground are dirt."""
ALIKE_LAB = 11.0
"""Colours closer than this are one: compression makes several of each."""
EVEN_ENOUGH = 0.7
"""So much of a picture of flat colours is even ground of one of them."""
FLAT_SPREAD_LAB = 7.0
FLAT_ENOUGH = 0.93
"""So much of the even ground of flat colours is within that distance (the sum of all three) of one of them; under
uneven light less is."""
PURE_PX = (2, 4, 6)
"""Mixed pixels take colours that lie pure within so many pixels: the nearest reach that shows two of them."""
PURE_DISTANCE = 36.0
"""A pixel this close to a flat colour may be pure."""
UNMIXED = 40.0
"""A pixel farther than this from every mixture of colours nearby belongs to a line too thin to be pure."""
THIN_SHARE = 0.3
"""A pixel of such a line needs so much of its colour to belong to it."""
FRINGE_PX, CORE_SHARE = 7, 0.02
"""Of a fringe no more than this share is so many pixels wide."""
FRINGE_LAB, BETWEEN_RGB = 32.0, 24.0
"""A fringe looks at least so much like a colour that is more frequent, or is so near to a mixture of two."""
SAMPLED_FROM = 500_000
"""Of pictures of more pixels every second one, each way, tells the flat colours."""
MOST_SHADES = 300
"""Flat colours, as compression leaves them, are mostly of so many shades; photos are of more."""
SAMPLE = 8_000
SEED = 7
TRIES = 3
"""Times that colours are brought together, from other beginnings; the best is taken."""


def flat_colours(picture: ColourImage) -> FloatArray | None:
    """The flat colours of a picture (k, 3), the most frequent first; None when it has none, like a photo."""
    even = even_ground(picture)
    step = 1 + (even.size > SAMPLED_FROM)
    even = even[::step, ::step]
    pixels = picture[::step, ::step][even]
    if len(pixels) < EVEN_ENOUGH * even.size * 0.7:
        return None
    code = _codes(pixels, 5)
    counts = np.bincount(code, minlength=1 << 15)
    used = np.flatnonzero(counts)
    used = used[np.argsort(-counts[used], kind="stable")]
    if np.searchsorted(np.cumsum(counts[used]), EVEN_ENOUGH * len(pixels)) > MOST_SHADES:
        return None
    sums = np.stack([np.bincount(code, weights=pixels[:, k], minlength=1 << 15)[used] for k in range(3)], axis=1)
    means, weights = sums / counts[used, None], counts[used].astype(np.float64)
    groups = _grouped(means, weights)
    share = np.array([weight for _, weight in groups]) / len(pixels)
    colours = np.array([colour for colour, _ in groups])
    spread = np.abs(lab(means)[:, None] - lab(colours)[None]).sum(axis=2).min(axis=1)
    if counts[used][spread < FLAT_SPREAD_LAB].sum() < FLAT_ENOUGH * len(pixels):
        return None
    strong = share >= LEAST_SHARE
    colours, share = colours[strong], share[strong]
    if len(colours) <= 2 * MOST_FLAT:
        strong = ~_are_fringes(picture, colours)
        colours, share = colours[strong], share[strong]
    if not 2 <= len(colours) <= MOST_FLAT or share.sum() < EVEN_ENOUGH:
        return None
    return colours


def _are_fringes(picture: ColourImage, colours: FloatArray) -> NDArray[np.bool_]:
    """Which colours (k, 3; the most frequent first) are but fringes round others, as compression leaves them.

    They look rather like a colour that is more frequent, or lie between two, and nowhere fill an area of some pixels.
    """
    import cv2

    labels = nearest_labels(picture, colours)
    seen = lab(colours)
    kernel = np.ones((FRINGE_PX, FRINGE_PX), np.uint8)
    fringes = np.zeros(len(colours), dtype=bool)
    for k in range(2, len(colours)):
        own = (labels == k).astype(np.uint8)
        if cv2.erode(own, kernel).sum() > CORE_SHARE * own.sum():
            continue
        stronger = np.flatnonzero(~fringes[:k])
        is_like = np.sqrt(((seen[stronger] - seen[k]) ** 2).sum(axis=1)).min() < FRINGE_LAB
        fringes[k] = is_like or _lies_between(colours[k], colours[stronger])
    return fringes


def _lies_between(colour: FloatArray, others: FloatArray) -> bool:
    """Whether a colour is about a mixture of two others."""
    for first in range(len(others)):
        ways = others[first + 1 :] - others[first]
        share = (ways @ (colour - others[first])) / np.maximum((ways**2).sum(axis=1), 1e-9)
        off = np.sqrt(((colour - others[first] - share[:, None] * ways) ** 2).sum(axis=1))
        if ((share > 0.1) & (share < 0.9) & (off < BETWEEN_RGB)).any():
            return True
    return False


def even_ground(picture: ColourImage) -> NDArray[np.bool_]:
    """Pixels whose neighbours are nearly the same (rows, columns)."""
    import cv2  # here: it delays the first paint

    kernel = np.ones((3, 3), np.uint8)
    spread = cv2.dilate(picture, kernel) - cv2.erode(picture, kernel)
    even: NDArray[np.bool_] = cv2.max(cv2.max(spread[:, :, 0], spread[:, :, 1]), spread[:, :, 2]) <= EVEN_RANGE
    return even


def _grouped(means: FloatArray, weights: FloatArray) -> list[tuple[FloatArray, float]]:
    """Colours brought together with the most frequent one that looks like them."""
    seen = lab(means)
    groups: list[tuple[FloatArray, float]] = []
    homes: list[FloatArray] = []
    for colour, own, weight in zip(means, seen, weights.tolist(), strict=True):
        if homes:
            away = np.hypot(*(np.array(homes) - own)[:, 1:].T) + 0.7 * np.abs((np.array(homes) - own)[:, 0])
            near = int(away.argmin())
            if away[near] < ALIKE_LAB:
                held, mass = groups[near]
                groups[near] = (held * mass + colour * weight) / (mass + weight), mass + weight
                continue
        if len(groups) < 4 * MOST_FLAT:
            groups.append((colour, weight))
            homes.append(own)
    return groups


def reduced_colours(picture: ColourImage, count: int) -> FloatArray:
    """``count`` colours (k, 3) that stand for all, the most frequent first: k-means in Lab on a sample."""
    import cv2

    pixels = picture.reshape(-1, 3)
    step = max(len(pixels) // SAMPLE, 1)
    sample = lab(pixels[::step].astype(np.float64)).astype(np.float32)
    count = min(count, len(np.unique(sample, axis=0)))
    cv2.setRNGSeed(SEED)
    ends = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.2)
    best = np.inf
    label = np.zeros(len(sample), dtype=np.int32)
    for _ in range(TRIES):
        pause("Reducing colours")
        miss, told, _ = cv2.kmeans(sample, count, None, ends, 1, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]  # None: no labels yet
        if miss < best:
            best, label = miss, told.ravel()
    colours = np.stack([pixels[::step][label == k].mean(axis=0) for k in range(count)])
    order = np.argsort(-np.bincount(label, minlength=count), kind="stable")
    return np.asarray(colours[order], dtype=np.float64)


def nearest_labels(picture: ColourImage, palette: FloatArray) -> LabelImage:
    """For each pixel the number of the colour that looks most like it, told through a table of 64 levels a channel."""
    levels = (np.arange(64) * 4 + 2).astype(np.float64)
    grid = np.stack(np.meshgrid(levels, levels, levels, indexing="ij"), axis=-1).reshape(-1, 3)
    away = ((lab(grid)[:, None] - lab(palette)[None]) ** 2).sum(axis=2)
    table = away.argmin(axis=1).astype(np.uint8)
    return np.asarray(table[_codes(picture, 6)])


def _codes(picture: NDArray[np.uint8], bits: int) -> NDArray[np.int32]:
    """One number for the upper bits of the three channels."""
    shift = 8 - bits
    red, green, blue = (picture[..., k] >> shift for k in range(3))
    return (red.astype(np.int32) << (2 * bits)) | (green.astype(np.int32) << bits) | blue


def flat_labels(picture: ColourImage, palette: FloatArray) -> LabelImage:
    """Labels for a picture of flat colours; mixed pixels take a colour that is pure nearby."""
    import cv2

    nearest = nearest_labels(picture, palette)
    away = np.sqrt(((picture.astype(np.float32) - palette.astype(np.float32)[nearest]) ** 2).sum(axis=2))
    pure = even_ground(picture) & (away < PURE_DISTANCE)
    labels = nearest.copy()
    rows, columns = np.nonzero(~pure)
    if not len(rows):
        return labels
    own = [(pure & (nearest == k)).astype(np.uint8) for k in range(len(palette))]
    present = np.zeros((len(rows), len(palette)), dtype=bool)
    for reach in PURE_PX:
        wanting = present.sum(axis=1) < 2
        if not wanting.any():
            break
        kernel = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
        at = rows[wanting], columns[wanting]
        present[wanting] = np.stack([cv2.dilate(one, kernel)[at] > 0 for one in own], axis=1)
    mixed = picture[rows, columns].astype(np.float64)
    labels[rows, columns] = _unmixed(mixed, palette, present, nearest[rows, columns])
    return labels


def _unmixed(colours: FloatArray, palette: FloatArray, present: NDArray[np.bool_], nearest: LabelImage) -> LabelImage:
    """The label of mixed pixels (n, 3): the greater share of the best mixture of two colours that are present
    (n, k). Where none fits, one of the two may be any colour."""
    count = len(palette)
    best = np.full(len(colours), np.inf)
    found = nearest.copy()
    for first in range(count):
        for second in range(first + 1, count):
            way = palette[second] - palette[first]
            share = np.clip((colours - palette[first]) @ way / max(float(way @ way), 1e-9), 0.0, 1.0)
            off = np.sqrt(((colours - palette[first] - share[:, None] * way) ** 2).sum(axis=1))
            strange = 2.0 - present[:, first].astype(np.float64) - present[:, second]
            cost = off + np.where(strange == 2.0, np.inf, strange * UNMIXED)
            better = cost < best
            best = np.where(better, cost, best)
            level = 0.5 + (0.5 - THIN_SHARE) * (present[:, second].astype(np.float64) - present[:, first])
            found = np.where(better, np.where(share > level, second, first), found).astype(np.uint8)
    return found


def despeckled(labels: LabelImage, least_px: float) -> LabelImage:
    """Connected areas of fewer than ``least_px`` pixels given to what surrounds them."""
    import cv2

    if least_px <= 1.0:
        return labels
    small = np.zeros(labels.shape, dtype=bool)
    for label in np.unique(labels).tolist():
        _, piece, stats, _ = cv2.connectedComponentsWithStats((labels == label).astype(np.uint8), connectivity=8)
        tiny = stats[:, cv2.CC_STAT_AREA] < least_px
        tiny[0] = False  # everything else
        if tiny.any():
            small |= tiny[piece]
    return filled(labels, small)


def filled(labels: LabelImage, gone: NDArray[np.bool_]) -> LabelImage:
    """Labels where some pixels take that of the nearest pixel that stays; all the same when none stays."""
    import cv2

    if not gone.any() or gone.all():
        return labels
    _, number = cv2.distanceTransformWithLabels(gone.astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    stays = ~gone
    table = np.zeros(int(number.max()) + 1, dtype=np.uint8)
    table[number[stays]] = labels[stays]
    found = labels.copy()
    found[gone] = table[number[gone]]
    return found
