"""A made-up step: only the left part of a shape stays."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.geometry.plain_shapes import rectangle
from vivid_thimble.core.geometry.region import intersection
from vivid_thimble.core.ranges import Fraction
from vivid_thimble.core.steps.step import StepKind


class Halve(StepKind, Struct, frozen=True, tag="halve", kw_only=True):
    """``share`` of the width stays."""

    TITLE: ClassVar[str] = "Halve"
    HAS_LENGTHS: ClassVar[bool] = False
    id: str
    share: Fraction = 0.5
    enabled: bool = True

    def describe(self) -> str:
        return "Halve: only the left part stays"

    def apply(self, parts: Parts) -> Parts:
        box = bounds_of(parts)
        if box is None:
            return parts
        left = rectangle((box[0], box[1], box[0] + self.share * (box[2] - box[0]), box[3]))
        return tuple(part.with_region(intersection(part.region, left)) for part in parts)
