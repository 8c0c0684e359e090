"""Faults of source outlines: left open, or drawn twice.

Both are judged on the outlines as they came, at the final size, before any boolean
heals them.
"""

from __future__ import annotations

from dataclasses import dataclass

from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.repeats import repeats

SAME_PLACE_MM = 0.05
"""Outlines that stay this close all along are the same line drawn twice."""
CLOSED_MM = 0.01
"""An outline whose ends are this close is closed."""


@dataclass(frozen=True)
class OpenOutline:
    at: tuple[float, float]
    gap: float

    def shifted(self, dx: float, dy: float) -> OpenOutline:
        return OpenOutline((self.at[0] + dx, self.at[1] + dy), self.gap)


@dataclass(frozen=True)
class DoubledOutline:
    at: tuple[float, float]
    length: float

    def shifted(self, dx: float, dy: float) -> DoubledOutline:
        return DoubledOutline((self.at[0] + dx, self.at[1] + dy), self.length)


def open_outlines(path: Path) -> list[OpenOutline]:
    """Outlines whose ends do not meet, with the distance between the ends."""
    found = []
    for contour in path.contours:
        if contour.gap > CLOSED_MM:
            start = contour.segments[0, 0]
            found.append(OpenOutline((float(start[0]), float(start[1])), contour.gap))
    return found


def doubled_outlines(path: Path) -> list[DoubledOutline]:
    """Outlines that repeat an earlier one within SAME_PLACE_MM, whatever their direction or start."""
    found = []
    for _, k, length in repeats(path.contours, SAME_PLACE_MM):
        at = path.contours[k].segments[0, 0]
        found.append(DoubledOutline((float(at[0]), float(at[1])), length))
    return sorted(found, key=lambda d: d.at)
