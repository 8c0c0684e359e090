"""How wide kept film and waste are everywhere, for looking at: bands of width, and a histogram.

A chord leads from a sample of the boundary to the wall it faces; together the chords of one side
cover whatever is narrower than the reach. What belongs to a mere tip (see ``tips``) has no width of
its own and is left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.widths.field import Field, width_fields
from vivid_thimble.core.widths.tips import may_stand
from vivid_thimble.core.widths.walls import Rings, Samples, rings_of, sample_walls

REACH_LIMITS = 5.0
"""Widths are shown up to so many limits."""
SAMPLES_PER_LIMIT = 2.5
BINS_PER_LIMIT = 4
SHORTEST_LIMITS = 0.25
"""Stretches shorter than so many limits are no place to go to."""


@dataclass(frozen=True)
class Spot:
    """A place of some width: the middle and the ends of its shortest chord, its length, in mm."""

    at: tuple[float, float]
    ends: tuple[tuple[float, float], tuple[float, float]]
    width: float
    length: float


@dataclass(frozen=True, eq=False)
class Chords:
    """One side's chords in order along the boundary, and the limit to compare them with (mm)."""

    limit: float
    start: FloatArray
    foot: FloatArray
    width: FloatArray
    along: FloatArray
    """From the middle of each sampled stretch of wall to its end (n, 2)."""
    ring: IntArray
    order: IntArray
    """Number of the sample: consecutive chords of a ring have consecutive numbers."""

    def within(self, low: float, high: float) -> NDArray[np.bool_]:
        return np.asarray((self.width >= low) & (self.width < high))

    @property
    def edges(self) -> FloatArray:
        """The edges of the histogram's bins in mm, with one at the limit."""
        return np.arange(int(REACH_LIMITS * BINS_PER_LIMIT) + 1) * self.limit / BINS_PER_LIMIT

    @property
    def lengths(self) -> FloatArray:
        """Length in mm of film or gap in each bin: two walls that face each other count once."""
        return np.asarray(np.histogram(self.width, self.edges, weights=np.hypot(*self.along.T))[0], dtype=np.float64)

    def spots(self, low: float, high: float) -> list[Spot]:
        """The places with widths from ``low`` to ``high`` mm, the narrowest first."""
        rows = np.flatnonzero(self.within(low, high))
        if not len(rows):
            return []
        breaks = (np.diff(self.order[rows]) > 3) | (np.diff(self.ring[rows]) != 0)
        runs = np.split(rows, np.flatnonzero(breaks) + 1)
        best = [run[np.argmin(self.width[run])] for run in runs]
        lengths = [2.0 * float(np.hypot(*self.along[run].T).sum()) for run in runs]
        spots: list[Spot] = []
        taken: list[FloatArray] = []
        for k in np.argsort(self.width[best], kind="stable").tolist():
            if lengths[k] < SHORTEST_LIMITS * self.limit:
                continue
            row = best[k]
            middle = (self.start[row] + self.foot[row]) / 2.0
            width = float(self.width[row])
            if any(np.hypot(*(middle - other)) < max(width, self.limit) for other in taken):
                continue  # the same place seen from its other wall
            taken.append(middle)
            (ax, ay), (bx, by) = self.start[row].tolist(), self.foot[row].tolist()
            spots.append(Spot((float(middle[0]), float(middle[1])), ((ax, ay), (bx, by)), width, lengths[k]))
        return spots


@dataclass(frozen=True, eq=False)
class WidthMap:
    """The chords of kept film and of waste."""

    lines: Chords
    gaps: Chords


def width_map(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> WidthMap:
    """Both sides of a shape against its limits (mm); without chords for empty film."""
    limit = max(line_limit, gap_limit)
    rings = rings_of(polygons)
    samples = sample_walls(rings, min(line_limit, gap_limit) / SAMPLES_PER_LIMIT)
    kept, waste = width_fields(samples, REACH_LIMITS * limit)
    return WidthMap(_chords(rings, samples, kept, line_limit), _chords(rings, samples, waste, gap_limit))


def _chords(rings: Rings, samples: Samples, field: Field, limit: float) -> Chords:
    stands = np.isfinite(may_stand(rings, samples, field).width)
    rows = np.flatnonzero((field.width < REACH_LIMITS * limit) & (samples.half > 0.0) & stands)
    along = samples.direction[rows] * samples.half[rows][:, None]
    return Chords(limit, samples.point[rows], field.foot[rows], field.width[rows], along, samples.ring[rows], rows)
