"""Register marks: the same marks in every film, so that one colour lies where it belongs over the other.

Squares beside the design's lower corners and a round one in the middle above it, which shows the design's centre line
as well. A loose disc of the round one's size can be cut beside the sheet, to be stuck where the round mark comes to
lie: on a collar, a rim, a board.
"""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.plain_shapes import disc, rectangle
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.ranges import Room, Size

MarkShape = Literal["squares", "rounds", "angles"]
ANGLE_SHARE = 0.35
"""The width of an angle's arms, as a share of its size."""
BESIDE_MM = 4.0
"""Between the sheet and the loose disc beside it."""
SCRAP_ROOM_MM = 10.0
"""A scrap that catches a mark's print reaches so far beyond the mark."""


class RegisterMarks(Struct, frozen=True, kw_only=True):
    """``size`` mm across, ``away`` mm from the design. ``above``: the round mark that shows the centre; ``sticker``: a
    loose disc of its size."""

    shape: MarkShape = "squares"
    size: Size = 6.0
    away: Room = 5.0
    above: bool = True
    sticker: bool = False

    @property
    def reach(self) -> float:
        """How far the marks reach beyond the design."""
        return self.away + self.size

    def marks(self, design: Box) -> list[Region]:
        """The marks round a design's box: lower left, lower right, and above."""
        left, _, right, bottom = design
        lower = [(left - self.reach, bottom - self.size), (right + self.away, bottom - self.size)]
        found = [self._mark(x, y, mirrored=k == 1) for k, (x, y) in enumerate(lower)]
        if self.above:
            found.append(disc(self.centre(design), self.size / 2.0))
        return found

    def centre(self, design: Box) -> tuple[float, float]:
        """The middle of the round mark."""
        return (design[0] + design[2]) / 2.0, design[1] - self.away - self.size / 2.0

    def loose_disc(self, sheet: Box) -> Region | None:
        """The sticker beside the sheet's upper right corner; None when it is not wanted."""
        if not self.sticker:
            return None
        radius = self.size / 2.0
        return disc((sheet[2] + BESIDE_MM + radius, sheet[1] + radius), radius)

    @property
    def scrap_size(self) -> float:
        """The side in mm of a scrap of paper or film that catches the print of one mark."""
        return self.size + 2.0 * SCRAP_ROOM_MM

    def _mark(self, x: float, y: float, *, mirrored: bool) -> Region:
        """The mark whose box begins at a place."""
        end_x, end_y, middle = x + self.size, y + self.size, self.size / 2.0
        if self.shape == "rounds":
            return disc((x + middle, y + middle), middle)
        if self.shape == "squares":
            return rectangle((x, y, end_x, end_y))
        arm = ANGLE_SHARE * self.size
        upright = (end_x - arm, y, end_x, end_y) if mirrored else (x, y, x + arm, end_y)
        return union([rectangle(upright), rectangle((x, end_y - arm, end_x, end_y))])
