"""Spots where a place may be, as a quick look tells them: to be measured, the thinnest first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.widths.field import Field
from vivid_thimble.core.widths.tips import may_stand
from vivid_thimble.core.widths.walls import Rings, Samples

BAND = 1.02
"""Widths within this factor are about the same."""


@dataclass(frozen=True, eq=False)
class Spots:
    """Chords by their width (mm) and their two ends (n, 2), the thinnest first."""

    width: FloatArray
    start: FloatArray
    end: FloatArray

    @classmethod
    def joined(cls, several: Sequence[Spots]) -> Spots:
        if not several:
            return cls(np.zeros(0), np.zeros((0, 2)), np.zeros((0, 2)))
        width, start, end = (np.concatenate([getattr(s, name) for s in several]) for name in ("width", "start", "end"))
        return cls(width, start, end)._chosen(np.argsort(width, kind="stable"))._thinned()

    def batches(self, size: int, most: int) -> Iterator[Spots]:
        """Batches of so many spots; where more than ``most`` are about as wide, only the first of them."""
        band = np.floor(np.log(self.width) / np.log(BAND)).astype(np.int64)
        starts = np.flatnonzero(np.r_[True, band[1:] != band[:-1]]) if len(band) else band
        rank = np.arange(len(band)) - np.repeat(starts, np.diff(np.r_[starts, len(band)]))
        rows = np.flatnonzero(rank < most)
        for at in range(0, len(rows), size):
            yield self._chosen(rows[at : at + size])

    def _chosen(self, rows: IntArray) -> Spots:
        return Spots(self.width[rows], self.start[rows], self.end[rows])

    def _thinned(self) -> Spots:
        """The first spot in every square about as large as the thinnest is wide."""
        if not len(self.width):
            return self
        cells = np.floor((self.start + self.end) / 2.0 / self.width[0]).astype(np.int64)
        cells -= cells.min(axis=0)
        _, first = np.unique(cells[:, 0] * (cells[:, 1].max() + 1) + cells[:, 1], return_index=True)
        return self._chosen(np.sort(first))


def spots_of(rings: Rings, samples: Samples, field: Field, beyond: float) -> Spots:
    """The chords of samples that count as a line or a gap and are wider than ``beyond`` mm."""
    width = may_stand(rings, samples, field).width
    rows = np.flatnonzero((width > beyond) & np.isfinite(width))
    return Spots(width[rows], samples.point[rows], field.foot[rows])
