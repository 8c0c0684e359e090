"""Mirror: the shape turned over, left for right or top for bottom."""

from __future__ import annotations

from typing import ClassVar, Literal

from msgspec import Struct

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.steps.step import StepKind


class Mirror(StepKind, Struct, frozen=True, tag="mirror", kw_only=True):
    """Turned over about the middle of its box."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Mirror"
    HAS_LENGTHS: ClassVar[bool] = False
    id: str
    across: Literal["sideways", "upside-down"] = "sideways"
    enabled: bool = True

    def describe(self) -> str:
        return "Mirror: left becomes right" if self.across == "sideways" else "Mirror: top becomes bottom"

    def apply(self, parts: Parts) -> Parts:
        box = bounds_of(parts)
        if box is None:
            return parts
        x, y = box[0] + box[2], box[1] + box[3]
        over = Affine.mirroring() if self.across == "sideways" else Affine.scaling(1.0, -1.0)
        turn = over.then(Affine.translation(x, 0.0) if self.across == "sideways" else Affine.translation(0.0, y))
        return tuple(part.with_region(part.region.transformed(turn)) for part in parts)
