"""From cracks to curves: places from gray levels, how noisy and soft the picture is, curves that suit it."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.tracing.corners import Lines, lines_from
from vivid_thimble.core.tracing.cracks import Cracks
from vivid_thimble.core.tracing.curves import (
    SUMMED,
    FittedLines,
    curves,
    in_order,
    strayed_px,
    suited_smoothing,
    usable,
)
from vivid_thimble.core.tracing.subpixel import Coverage, edge_points, ground_noise


class LineEnds(Protocol):
    """The ends that open lines share."""

    def places(self, lines: Lines) -> FloatArray:
        """Where they are (n, 2), told from the lines that end there."""
        ...

    def given(self, lines: Lines, places: FloatArray, spoilt_px: float) -> Lines:
        """The lines with these ends, and without the points closer to them than ``spoilt_px``."""
        ...


def fitted_along(
    cracks: Cracks,
    coverage: Coverage,
    ease: float,
    least_turn_deg: float | None,
    noisy: Cracks | None = None,
    ends: LineEnds | None = None,
) -> FittedLines:
    """One line of curves for each line of cracks. The noise is told from ``noisy``, by default all of them;
    ``ends`` are those that open lines share."""
    judged = cracks if noisy is None else noisy
    ground = ground_noise(judged, coverage) if len(judged.inner) else 0.0
    edge = edge_points(cracks, coverage, ground)
    pause("Smoothing outlines")
    lines = in_order(usable(lines_from(edge.points, cracks.start, cracks.closed), edge.sure, edge.square))
    known = edge.spread[edge.square & edge.sure & np.isfinite(edge.spread)]
    spread = float(np.median(known)) if len(known) else 0.0
    smoothing = suited_smoothing(max(strayed_px(lines), SUMMED * ground), spread, ease)
    plain = lines_from(cracks.inner[:, ::-1] + 0.5 + 0.5 * cracks.step[:, ::-1], cracks.start, cracks.closed)
    if ends is not None:
        places = ends.places(lines)
        lines, plain = ends.given(lines, places, smoothing.skip + 0.3), ends.given(plain, places, 0.0)
    pause()
    return replace(curves(lines, coverage, smoothing, least_turn_deg=least_turn_deg), plain=plain)
