"""Colours as they look: CIE L*a*b*, in which distances are about as large as they appear."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from vivid_thimble.core.geometry.affine import FloatArray

_WHITE_POINT = np.array([0.95047, 1.0, 1.08883])
_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)


def lab(colours: ArrayLike) -> FloatArray:
    """CIE L*a*b* (n, 3) of sRGB colours (n, 3) from 0 to 255, white point D65 (CIE 15:2004)."""
    share = np.asarray(colours, dtype=np.float64).reshape(-1, 3) / 255.0
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    xyz = linear @ _TO_XYZ.T / _WHITE_POINT
    f = np.where(xyz > 216 / 24389, np.cbrt(xyz), (24389 / 27 * xyz + 16) / 116)
    return np.column_stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])])
