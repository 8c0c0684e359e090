"""Tracing a picture of two tones: ink on ground.

The coverage of each pixel is its gray level between the levels of ground and ink. What belongs together is decided at
the middle between the darkest and lightest pixels nearby, so that lines too thin to become full stay whole.
"""

from __future__ import annotations

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.corners import LEAST_TURN_DEG
from vivid_thimble.core.tracing.cracks import FloatImage, followed
from vivid_thimble.core.tracing.follow import fitted_along
from vivid_thimble.core.tracing.traced import Traced, nested

AROUND = 5
"""Pixels across the neighbourhood whose middle level parts ink from ground."""
LEAST_CONTRAST = 0.25
"""Differences of coverage in a neighbourhood below this are dirt: the half decides there."""


def split_field(coverage: FloatImage) -> FloatImage:
    """Positive where a pixel belongs to the ink."""
    import cv2  # here: it delays the first paint

    kernel = np.ones((AROUND, AROUND), np.uint8)
    high, low = cv2.dilate(coverage, kernel), cv2.erode(coverage, kernel)
    level = np.where(high - low > LEAST_CONTRAST, np.clip((high + low) * 0.5, 0.15, 0.85), 0.5)
    return np.asarray(coverage - level, dtype=np.float32)


def traced(
    coverage: FloatImage,
    ease: float = 1.0,
    *,
    least_turn_deg: float | None = LEAST_TURN_DEG,
    field: FloatImage | None = None,
) -> Traced:
    """The outlines of the ink, label 0, in pixels, x right, y down, from the picture's top-left.

    Curves follow the edges as closely as the picture's own noise allows; ``ease`` times that. Corners turn by
    ``least_turn_deg`` at least; None: curves are smooth everywhere. ``field`` is the split field of the coverage if
    known already.
    """
    pause("Following outlines")
    cracks = followed(split_field(coverage) if field is None else field)
    rows, columns = coverage.shape

    def looked_up(_: IntArray, row: IntArray, column: IntArray) -> FloatArray:
        inside = (row >= 0) & (row < rows) & (column >= 0) & (column < columns)
        found = coverage[np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)]
        return np.where(inside, found, 0.0).astype(np.float64)

    rings = tuple(((k, True),) for k in range(len(cracks)))
    return Traced(fitted_along(cracks, looked_up, ease, least_turn_deg), (nested(rings, cracks),))
