"""Smooth: take the ripples out of rough outlines, corners kept, within a stated deviation."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.fitting.ripples import smooth_region
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.tolerances import FIT_MM
from vivid_thimble.core.ranges import Gentle
from vivid_thimble.core.steps.step import StepKind


class Smooth(StepKind, Struct, frozen=True, tag="smooth", kw_only=True):
    """No point of the outline moves by more than ``by`` mm."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Smooth"
    id: str
    by: Gentle
    enabled: bool = True

    def describe(self) -> str:
        return f"Smooth: ripples go, corners stay, nothing moves by more than {self.by:g} mm"

    def apply(self, parts: Parts) -> Parts:
        if self.by <= FIT_MM:
            raise InputRefused(f"Smoothing by {self.by:g} mm changes nothing: type more than {FIT_MM:g} mm.")
        smoothed = (part.with_region(smooth_region(part.region, self.by)) for part in parts)
        return tuple(part for part in smoothed if not part.region.is_empty)
