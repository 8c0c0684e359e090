"""The sheet of a stencil round its design: margins, corners, holes to hang it by, a tab to lift it."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.plain_shapes import disc, rectangle
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.ranges import Room, Shift, Size

Fit = Literal["design", "item", "sheet"]
Side = Literal["left", "right", "top", "bottom"]
SIDES: tuple[Side, ...] = ("left", "right", "top", "bottom")
HOLE_FROM_EDGE = 1.5
"""The middle of a hole lies so many of its diameters from the sheet's edges."""
TAB_LENGTH_MM, TAB_DEPTH_MM, TAB_RADIUS_MM = 30.0, 14.0, 6.0
LEAST_SIDE_MM = 1e-6


class Frame(Struct, frozen=True, kw_only=True):
    """How large the sheet is: ``margins`` mm round the design (None: the usual surround), up to the ``item``'s outline,
    or a ``sheet`` of given size with the design in its middle.

    ``radius`` of the corners; ``holes`` of ``hole`` mm diameter: 1 in the middle of the top edge, 2 in the upper
    corners, 4 in all; ``tab``: the side that a tab stands out from.
    """

    fit: Fit = "design"
    left: Shift | None = None
    right: Shift | None = None
    top: Shift | None = None
    bottom: Shift | None = None
    width: Size = 297.0
    height: Size = 210.0
    radius: Room = 0.0
    holes: Literal[0, 1, 2, 4] = 0
    hole: Size = 6.0
    tab: Side | None = None

    def margins(self, surround: float) -> tuple[float, float, float, float]:
        """Left, right, top and bottom margins round the design in mm."""
        left, right, top, bottom = (
            surround if own is None else own for own in (self.left, self.right, self.top, self.bottom)
        )
        return left, right, top, bottom

    def box(self, design: Box, surround: float, item: Box) -> Box:
        """Where the sheet lies, without its tab; ``item``: as far as the thing takes film."""
        if self.fit == "item":
            return item
        if self.fit == "sheet":
            x, y = (design[0] + design[2]) / 2.0, (design[1] + design[3]) / 2.0
            return x - self.width / 2.0, y - self.height / 2.0, x + self.width / 2.0, y + self.height / 2.0
        left, right, top, bottom = self.margins(surround)
        return design[0] - left, design[1] - top, design[2] + right, design[3] + bottom

    def outline(self, box: Box) -> Region:
        """The sheet over a box: corners, holes and tab; raises InputRefused when nothing is left of it."""
        left, top, right, bottom = box
        if right - left < LEAST_SIDE_MM or bottom - top < LEAST_SIDE_MM:
            raise InputRefused("The margins leave nothing of the sheet: make them larger.")
        sheet = rectangle(box, self.radius)
        if self.tab is not None:
            sheet = union([sheet, rectangle(self._tab(box, self.tab), TAB_RADIUS_MM)])
        return difference(sheet, [disc(at, self.hole / 2.0) for at in self.hole_places(box)])

    def hole_places(self, box: Box) -> list[tuple[float, float]]:
        """The middles of the holes."""
        left, top, right, bottom = box
        away = max(HOLE_FROM_EDGE * self.hole, self.radius)
        if self.holes == 1:
            return [((left + right) / 2.0, top + HOLE_FROM_EDGE * self.hole)]
        corners = [(x, y) for y in (top + away, bottom - away) for x in (left + away, right - away)]
        return corners[: self.holes]

    def _tab(self, box: Box, side: Side) -> Box:
        """A tab in the middle of a side; half of it lies under the sheet, so that it joins without a notch."""
        left, top, right, bottom = box
        x, y = (left + right) / 2.0, (top + bottom) / 2.0
        half = min(TAB_LENGTH_MM, (right - left if side in ("top", "bottom") else bottom - top) * 0.8) / 2.0
        if side == "left":
            return left - TAB_DEPTH_MM, y - half, left + TAB_DEPTH_MM, y + half
        if side == "right":
            return right - TAB_DEPTH_MM, y - half, right + TAB_DEPTH_MM, y + half
        if side == "top":
            return x - half, top - TAB_DEPTH_MM, x + half, top + TAB_DEPTH_MM
        return x - half, bottom - TAB_DEPTH_MM, x + half, bottom + TAB_DEPTH_MM


def tightest_margin(box: Box, design: Box) -> tuple[Side, float]:
    """The side on which the sheet reaches least beyond the design, and how far."""
    rooms: dict[Side, float] = {
        "left": design[0] - box[0],
        "right": box[2] - design[2],
        "top": design[1] - box[1],
        "bottom": box[3] - design[3],
    }
    side = min(rooms, key=lambda one: rooms[one])
    return side, rooms[side]
