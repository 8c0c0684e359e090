"""Trim: where colours overlap, the lower film gives way to those above, but for a small overlap."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from msgspec import Struct

from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.ranges import Gentle
from vivid_thimble.core.steps.step import Around, Outcome, Scope, StepKind


class Trim(StepKind, Struct, frozen=True, tag="trim", kw_only=True):
    """Of a film only what no upper film covers, and ``trap`` mm under their edges, so that no gap shows when the films
    are laid a little off."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Trim"
    SCOPES: ClassVar[frozenset[Scope]] = frozenset(("film",))
    id: str
    trap: Gentle = 0.3
    enabled: bool = True

    def describe(self) -> str:
        return f"Trim: what upper films cover is cut away, but for {self.trap:g} mm under their edges"

    def needs(self, around: Around) -> tuple[str, ...]:
        return tuple(one.key for one in around.above)

    def run(self, parts: Parts, around: Around) -> Outcome:
        if not around.above:
            return Outcome(parts, keeps_box=True)
        return Outcome(self.trimmed(parts, [one.region() for one in around.above]))

    def trimmed(self, parts: Parts, above: Sequence[Region]) -> Parts:
        """``above``: the designs of the upper films."""
        cover = [shrunk for one in above if not (shrunk := offset(one, -self.trap)).is_empty]
        left = (part.with_region(difference(part.region, cover)) for part in parts)
        return tuple(part for part in left if not part.region.is_empty)
