"""Thicken: every part grows by a small distance; a negative distance thins."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Part, Parts


class Thicken(Struct, frozen=True, tag="thicken", kw_only=True):
    """``by`` mm at the final size: a line becomes twice that wider."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Thicken"
    id: str
    by: float
    enabled: bool = True

    def describe(self) -> str:
        verb = "Thicken" if self.by >= 0 else "Thin"
        return f"{verb} by {abs(self.by):g} mm: every edge moves out by that much"

    def apply(self, parts: Parts) -> Parts:
        grown = tuple(Part(part.label, offset(part.region, self.by), part.word) for part in parts)
        kept = tuple(part for part in grown if not part.region.is_empty)
        if not kept:
            raise InputRefused(f"Thinning by {-self.by:g} mm leaves nothing: choose a smaller distance.")
        return kept
