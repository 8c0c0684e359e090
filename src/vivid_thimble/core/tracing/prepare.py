"""A photo made ready for tracing: cropped, levelled, its tones and sharpness changed.

Everything is told in shares of the picture, so that the same settings hold for a small preview and for the exact
picture. Blur and sharpening are told in thousandths of the longer side.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from vivid_thimble.core.ranges import Fraction, Near, SharePlace, Signed, Soft, Turn

if TYPE_CHECKING:  # it brings the tracer
    from vivid_thimble.core.tracing.label_map import ColourImage

Share = tuple[float, float]
"""A place in a picture, x and y from 0 to 1."""
WHOLE = (0.0, 0.0, 1.0, 1.0)


class Preparing(Struct, frozen=True, kw_only=True):
    """``four_corners`` (top left, top right, bottom right, bottom left) of what should be a rectangle, or empty; then
    ``level_deg``, which turns the picture clockwise as seen; then ``crop`` (left, top, right, bottom).

    ``black``, ``white``: the levels (0 to 1) that become black and white. ``brightness``, ``contrast``: -1 to 1.
    ``soften``: more than 0 blurs, less sharpens, in thousandths of the longer side. ``denoise``: 0 to 1.
    """

    four_corners: tuple[SharePlace, ...] = ()
    level_deg: Turn = 0.0
    crop: tuple[Near, Near, Near, Near] = WHOLE
    black: Fraction = 0.0
    white: Fraction = 1.0
    brightness: Signed = 0.0
    contrast: Signed = 0.0
    soften: Soft = 0.0
    denoise: Fraction = 0.0
    invert: bool = False


AS_IT_IS = Preparing()


def level_angle_deg(one: Share, two: Share, columns: int, rows: int) -> float:
    """The turn that makes the line between two places level; the nearer of level and upright is meant."""
    angle = math.degrees(math.atan2((two[1] - one[1]) * rows, (two[0] - one[0]) * columns))
    return -(angle - 90.0 * round(angle / 90.0))


def prepared_picture(pixels: ColourImage, preparing: Preparing) -> ColourImage:
    """The picture as it is to be traced (rows, columns, 3)."""
    if preparing == AS_IT_IS:
        return pixels
    pixels = _framed(pixels, preparing)
    if preparing.denoise > 0.0:
        pixels = _denoised(pixels, preparing.denoise)
    if preparing.soften != 0.0:
        pixels = _softened(pixels, preparing.soften)
    table = tone_table(preparing)
    return np.ascontiguousarray(table[pixels])


def _framed(pixels: ColourImage, preparing: Preparing) -> ColourImage:
    """Perspective, turn and crop."""
    import cv2  # here: it delays the first paint

    if len(preparing.four_corners) == 4:
        pixels = _rectified(pixels, preparing.four_corners)
    if preparing.level_deg:
        rows, columns = pixels.shape[:2]
        turn = cv2.getRotationMatrix2D((columns / 2 - 0.5, rows / 2 - 0.5), -preparing.level_deg, 1.0)
        edge = cv2.BORDER_REPLICATE
        pixels = np.asarray(
            cv2.warpAffine(pixels, turn, (columns, rows), flags=cv2.INTER_CUBIC, borderMode=edge), dtype=np.uint8
        )
    return np.ascontiguousarray(cropped(pixels, preparing.crop))


def cropped(pixels: ColourImage, crop: tuple[float, float, float, float]) -> ColourImage:
    """The part between the shares left, top, right, bottom; at least one pixel."""
    rows, columns = pixels.shape[:2]
    left, right = _span(crop[0], crop[2], columns)
    top, bottom = _span(crop[1], crop[3], rows)
    return pixels[top:bottom, left:right]


def _span(low: float, high: float, count: int) -> tuple[int, int]:
    first = min(max(round(min(low, high) * count), 0), count - 1)
    return first, min(max(round(max(low, high) * count), first + 1), count)


def _rectified(pixels: ColourImage, corners: tuple[Share, ...]) -> ColourImage:
    """What lies between four corners as a rectangle as wide and high as its sides are on the average."""
    import cv2

    rows, columns = pixels.shape[:2]
    at = np.array(corners, dtype=np.float64) * [columns, rows]
    side = np.hypot(*(np.roll(at, -1, axis=0) - at).T)
    wide, high = max(round((side[0] + side[2]) / 2), 1), max(round((side[1] + side[3]) / 2), 1)
    onto = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], dtype=np.float32)
    matrix = cv2.getPerspectiveTransform((at - 0.5).astype(np.float32), onto - np.float32(0.5))
    edge = cv2.BORDER_REPLICATE
    flat = cv2.warpPerspective(pixels, matrix, (wide, high), flags=cv2.INTER_CUBIC, borderMode=edge)
    return np.asarray(flat, dtype=np.uint8)


def _denoised(pixels: ColourImage, strength: float) -> ColourImage:
    """Even ground evened out, edges kept (bilateral, Tomasi and Manduchi 1998)."""
    import cv2

    return np.asarray(cv2.bilateralFilter(pixels, 5, 10.0 + 60.0 * strength, 1.0 + 2.0 * strength), dtype=np.uint8)


def _softened(pixels: ColourImage, soften: float) -> ColourImage:
    import cv2

    sigma = max(abs(soften) / 1000.0 * max(pixels.shape[:2]), 0.2)
    blurred = np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma), dtype=np.uint8)
    if soften > 0.0:
        return blurred
    return np.asarray(cv2.addWeighted(pixels, 1.8, blurred, -0.8, 0.0), dtype=np.uint8)


def tone_table(preparing: Preparing) -> NDArray[np.uint8]:
    """The level that each of the 256 becomes."""
    level = np.arange(256) / 255.0
    low, high = min(preparing.black, preparing.white), max(preparing.black, preparing.white)
    level = np.clip((level - low) / max(high - low, 1.0 / 255.0), 0.0, 1.0)
    level = level + 0.5 * preparing.brightness
    steep = math.tan((min(max(preparing.contrast, -0.98), 0.98) + 1.0) * math.pi / 4.0)
    level = np.clip(0.5 + (level - 0.5) * steep, 0.0, 1.0)
    if preparing.invert:
        level = 1.0 - level
    return np.rint(level * 255.0).astype(np.uint8)
