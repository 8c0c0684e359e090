"""A band along the outline of a shape, and corners rounded for thick sheet."""

from __future__ import annotations

from typing import ClassVar, Literal

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.ranges import Gentle
from vivid_thimble.core.steps.step import StepKind

Side = Literal["outside", "inside", "centred"]


class Band(StepKind, Struct, frozen=True, tag="band", kw_only=True):
    """Only a band ``width`` mm wide along every edge stays, outside of it, inside, or half on each side."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Band"
    id: str
    width: Gentle = 3.0
    side: Side = "outside"
    enabled: bool = True

    def describe(self) -> str:
        return f"Band: {self.width:g} mm along every edge, {self.side}"

    def apply(self, parts: Parts) -> Parts:
        return tuple(part.with_region(self._band(part.region)) for part in parts)

    def _band(self, region: Region) -> Region:
        out, into = {"outside": (1.0, 0.0), "inside": (0.0, 1.0), "centred": (0.5, 0.5)}[self.side]
        outer = offset(region, out * self.width) if out else region
        inner = offset(region, -into * self.width) if into else region
        return difference(outer, [inner])


class RoundCorners(StepKind, Struct, frozen=True, tag="round-corners", kw_only=True):
    """Corners get a radius of ``by`` mm, those of openings as well; what is thinner than twice that may go."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Round corners"
    id: str
    by: Gentle = 0.5
    enabled: bool = True

    def describe(self) -> str:
        return f"Round corners: a radius of {self.by:g} mm, so that thick sheet does not tear there"

    def apply(self, parts: Parts) -> Parts:
        rounded = tuple(part.with_region(self._rounded(part.region)) for part in parts)
        if any(not p.region.is_empty for p in parts) and all(p.region.is_empty for p in rounded):
            raise InputRefused(f"Nothing is left with corners of {self.by:g} mm: choose a smaller radius.")
        return rounded

    def _rounded(self, region: Region) -> Region:
        convex = offset(offset(region, -self.by), self.by)
        return offset(offset(convex, self.by), -self.by)
