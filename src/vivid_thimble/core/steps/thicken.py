"""Thicken: every part grows by a small distance; a negative distance thins."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.offset import Corners, offset
from vivid_thimble.core.geometry.parts import Parts, merged
from vivid_thimble.core.ranges import Fine, Moved
from vivid_thimble.core.steps.remarks import Remark, closed_by, lost_by
from vivid_thimble.core.steps.step import StepKind
from vivid_thimble.core.widths.survey import survey_widths

CLEARLY = 1.002
"""What is not this much wider than asked is thickened."""
ROOM_MM = 0.004
"""A little more than computed, so that fitted curves leave no finding."""
TRIES = 4


class Thicken(StepKind, Struct, frozen=True, tag="thicken", kw_only=True):
    """``by`` mm at the final size: a line becomes twice that wider.

    With ``to`` the distance is the smallest one that brings every line to that width, worked out anew at every size;
    ``openings``: the parts are openings of a sheet, and it is the film between them that gets it.
    """

    VERSION: ClassVar[int] = 2
    TITLE: ClassVar[str] = "Thicken"
    id: str
    by: Moved = 0.2
    to: Fine | None = None
    openings: bool = False
    corners: Corners = "round"
    enabled: bool = True

    def describe(self) -> str:
        if self.to is not None:
            return f"Thicken just enough: no line is thinner than {self.to:g} mm then"
        verb = "Thicken" if self.by >= 0 else "Thin"
        return f"{verb} by {abs(self.by):g} mm: every edge moves out by that much"

    def apply(self, parts: Parts) -> Parts:
        return self._moved(parts, self.by) if self.to is None else self._just_enough(parts, self.to)

    def remarks(self, before: Parts, after: Parts) -> tuple[Remark, ...]:
        grows = self.by > 0.0 if self.to is None else not self.openings
        return closed_by(before, after, "Thickening") if grows else lost_by(before, after, "Thinning")

    def _moved(self, parts: Parts, by: float) -> Parts:
        grown = tuple(part.with_region(offset(part.region, by, corners=self.corners)) for part in parts)
        kept = tuple(part for part in grown if not part.region.is_empty)
        if not kept:
            raise InputRefused(f"Thinning by {-by:g} mm leaves nothing: choose a smaller distance.")
        return kept

    def _just_enough(self, parts: Parts, to: float) -> Parts:
        by, moved = 0.0, parts
        for _ in range(TRIES):
            lacks = self._lack(moved, to)
            if lacks <= 0.0:
                break
            by += lacks / 2.0 + ROOM_MM
            moved = self._moved(parts, -by if self.openings else by)
        return moved

    def _lack(self, parts: Parts, to: float) -> float:
        """How much the thinnest line lacks; pointed tips do not count."""
        lines, gaps = survey_widths(merged(parts).polygons, to * CLEARLY, to * CLEARLY)
        side = gaps if self.openings else lines
        widths = [p.thinnest for p in side.places if not p.is_touching and not p.is_needle]
        return max((to - width for width in widths), default=0.0)
