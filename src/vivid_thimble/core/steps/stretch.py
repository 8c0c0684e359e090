"""Stretch: wider or higher than it is drawn."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.ranges import Factor
from vivid_thimble.core.steps.step import StepKind


class Stretch(StepKind, Struct, frozen=True, tag="stretch", kw_only=True):
    """So many times as wide and as high, about the middle of its box."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Stretch"
    HAS_LENGTHS: ClassVar[bool] = False
    id: str
    across: Factor = 1.0
    down: Factor = 1.0
    enabled: bool = True

    def describe(self) -> str:
        return f"Stretch: {100 * self.across:.0f} % as wide, {100 * self.down:.0f} % as high as drawn"

    def apply(self, parts: Parts) -> Parts:
        box = bounds_of(parts)
        if self.across <= 0.0 or self.down <= 0.0:
            raise InputRefused("A stretch must be more than 0 %: type how wide and high it should be.")
        if box is None:
            return parts
        x, y = (box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0
        about = Affine.translation(-x, -y).then(Affine.scaling(self.across, self.down)).then(Affine.translation(x, y))
        return tuple(part.with_region(part.region.transformed(about)) for part in parts)
