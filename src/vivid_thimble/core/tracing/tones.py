"""Two tones out of a picture: how much of each pixel is ink.

The level between them is found by Otsu's method (1979) on even ground, where no pixel is mixed; the two tones are the
medians on either side. Under uneven light both are followed across the picture. What the picture's frame mostly shows
is ground.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.tracing.cracks import FloatImage
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.separate import EVEN_RANGE

LEAST_TONES_APART = 12.0
"""Levels closer than this are one tone: there is nothing to trace."""
UNEVEN = 0.35
"""The light is uneven when the ground differs by this share of the contrast across the picture."""
GRADUAL = 0.6
"""And so gradually that no fifth of the picture differs from the next by more than this share of all."""
LOCAL_SHARE = 0.08
"""Uneven light is followed over this share of the shorter side."""


NOISE_APART, LEAST_DARKER = 4.5, 0.06
"""Ink under uneven light is darker than paper by so many times the noise, and by this share."""
NOISE_BLOCKS = 6
"""Noise is told in so many blocks each way."""
LEAST_INK = 2e-4
"""With less ink than this there is none."""


@dataclass(frozen=True, eq=False)
class Tones:
    """``coverage``: how much of each pixel is ink. ``ink``, ``ground``: their levels, 0 to 255; ``level`` between."""

    coverage: FloatImage
    ink: float
    ground: float
    level: float

    @property
    def ink_is_dark(self) -> bool:
        return self.ink < self.ground


def grays(picture: ColourImage) -> NDArray[np.uint8]:
    """Luma (Rec. 601) of each pixel."""
    import cv2  # here: it delays the first paint

    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), dtype=np.uint8)


@dataclass(frozen=True)
class Levels:
    """The dark and the light tone of a picture and the level between, 0 to 255."""

    dark: float
    light: float
    between: float

    @property
    def apart(self) -> float:
        return self.light - self.dark


def two_tones(gray: NDArray[np.uint8], level: float | None = None, levels: Levels | None = None) -> Tones | None:
    """One level for the whole picture, found or given (0 to 255); None when it is all of one tone.

    ``levels`` are those of the picture if known already.
    """
    levels = levels or levels_of(gray)
    if levels.apart < LEAST_TONES_APART:
        return None
    dark, light, middle = levels.dark, levels.light, levels.between
    if level is not None:
        middle = float(np.clip(level, dark + 1.0, light - 1.0))
        half = min(middle - dark, light - middle)
        dark, light = middle - half, middle + half
    covered = np.clip((light - gray.astype(np.float32)) / np.float32(light - dark), -0.25, 1.25)
    return _with_ground(covered, dark, light, middle)


def local_tones(gray: NDArray[np.uint8], levels: Levels | None = None) -> Tones | None:
    """Both tones followed across the picture; None when it is all of one tone."""
    import cv2

    levels = levels or levels_of(gray)
    if levels.apart < LEAST_TONES_APART:
        return None
    window = max(round(min(gray.shape) * LOCAL_SHARE) | 1, 15)
    small = max(min(gray.shape) // 400, 1)
    coarse = cv2.resize(gray, None, fx=1 / small, fy=1 / small, interpolation=cv2.INTER_AREA) if small > 1 else gray
    kernel = np.ones((max(window // small | 1, 3),) * 2, np.uint8)
    ground = cv2.morphologyEx(coarse, cv2.MORPH_CLOSE, kernel)
    ground = cv2.GaussianBlur(ground.astype(np.float32), (0, 0), max(window / small / 2, 1.0))
    ground = cv2.resize(ground, gray.shape[::-1], interpolation=cv2.INTER_LINEAR)
    share = np.asarray(gray, dtype=np.float32) / np.maximum(ground, 1.0)
    covered = _ink_by_share(share)
    return None if covered is None else Tones(covered, levels.dark, levels.light, levels.between)


def _ink_by_share(share: NDArray[np.float32]) -> NDArray[np.float32] | None:
    """Coverage, from the share of the ground's light that each pixel has; None when there is nothing but ground.

    Where there is less light there is more noise, which lifts what was taken for the ground: the paper's own share is
    told block by block. Noise tells how much darker than paper ink has to be; the darker quarter of what is ink tells
    how dark it is.
    """
    import cv2

    blocks = [np.array_split(row, NOISE_BLOCKS, axis=1) for row in np.array_split(share, NOISE_BLOCKS)]
    papers = np.array([[np.median(block) if block.size else 1.0 for block in row] for row in blocks], dtype=np.float32)
    share = share / cv2.resize(papers, share.shape[::-1], interpolation=cv2.INTER_LINEAR)
    off = [
        np.median(np.abs(block / paper - 1.0))
        for row, of_row in zip(blocks, papers, strict=True)
        for block, paper in zip(row, of_row, strict=True)
        if block.size
    ]
    noise = 1.4826 * float(np.quantile(off, 0.9))
    ink = share[share < 1.0 - max(NOISE_APART * noise, LEAST_DARKER)]
    if len(ink) < LEAST_INK * share.size:
        return None
    contrast = 1.0 - float(np.quantile(ink, 0.25))
    return np.asarray(np.clip((1.0 - share) / np.float32(contrast), -0.25, 1.25), dtype=np.float32)


def is_unevenly_lit(gray: NDArray[np.uint8], levels: Levels | None = None) -> bool:
    """Whether the light tone changes so much across the picture that one level would not do."""
    levels = levels or levels_of(gray)
    if levels.apart < LEAST_TONES_APART:
        return False
    rows, columns = (np.array_split(np.arange(n), 5) for n in gray.shape)
    highs = []
    for r in rows:
        for c in columns:
            block = gray[r[0] : r[-1] + 1, c[0] : c[-1] + 1] if len(r) and len(c) else gray
            highs.append(float(np.quantile(block, 0.9)))
    grid = np.array(highs).reshape(len(rows), len(columns))
    spread = float(np.ptp(grid))
    steepest = max((float(np.abs(np.diff(grid, axis=k)).max(initial=0.0)) for k in (0, 1)), default=0.0)
    return spread > UNEVEN * levels.apart and steepest < GRADUAL * spread


def levels_of(gray: NDArray[np.uint8]) -> Levels:
    """Told on even ground; all three are the same in a picture of one tone."""
    import cv2

    kernel = np.ones((3, 3), np.uint8)
    even = cv2.dilate(gray, kernel) - cv2.erode(gray, kernel) <= EVEN_RANGE
    values = gray[even] if even.sum() > 0.02 * even.size else gray.ravel()
    histogram = np.bincount(values.ravel(), minlength=256).astype(np.float64)
    if _one_sided(histogram):  # lines too thin to be even anywhere
        histogram = np.bincount(gray.ravel(), minlength=256).astype(np.float64)
    level = _otsu(histogram)
    if min(histogram[: level + 1].sum(), histogram[level + 1 :].sum()) <= 0.0:
        only = _median_level(histogram, 0, 255)
        return Levels(only, only, only)
    return Levels(_median_level(histogram, 0, level), _median_level(histogram, level + 1, 255), level + 0.5)


def _one_sided(histogram: NDArray[np.float64]) -> bool:
    used = np.flatnonzero(histogram > 2e-4 * histogram.sum())
    return not len(used) or used[-1] - used[0] < 2 * LEAST_TONES_APART


def _otsu(histogram: NDArray[np.float64]) -> int:
    """The last level of the lower class that parts the classes best."""
    levels = np.arange(256)
    below = np.cumsum(histogram)
    total = below[-1]
    mass = np.cumsum(histogram * levels)
    with np.errstate(divide="ignore", invalid="ignore"):
        between = (mass[-1] * below - total * mass) ** 2 / (below * (total - below))
    between = np.nan_to_num(between, nan=0.0, posinf=0.0)
    best = np.flatnonzero(between >= between.max() * (1.0 - 1e-9))
    return int(best[len(best) // 2])


def _median_level(histogram: NDArray[np.float64], first: int, last: int) -> float:
    part = histogram[first : last + 1]
    return float(first + np.searchsorted(np.cumsum(part), part.sum() / 2.0))


def _with_ground(covered: NDArray[np.float32], dark: float, light: float, level: float) -> Tones:
    """Dark is ink unless the picture's frame is mostly dark."""
    frame = np.concatenate([covered[0], covered[-1], covered[:, 0], covered[:, -1]])
    if float((frame > 0.5).mean()) > 0.5 and float((covered > 0.5).mean()) > 0.5:
        return Tones(1.0 - covered, light, dark, level)
    return Tones(covered, dark, light, level)
