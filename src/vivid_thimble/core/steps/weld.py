"""Weld: overlapping parts become one, so that no cut runs through an overlap."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

import msgspec
from msgspec import Struct

from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.seams import seams_between
from vivid_thimble.core.geometry.short_edges import without_short_segments
from vivid_thimble.core.steps.step import StepKind


class Weld(StepKind, Struct, frozen=True, tag="weld", kw_only=True):
    """Unite all parts, or only those of the elements named in ``only``. Gaps narrower than SEAM_MM between them are
    closed as drawing noise."""

    VERSION: ClassVar[int] = 3
    TITLE: ClassVar[str] = "Weld"
    HAS_LENGTHS: ClassVar[bool] = False
    id: str
    only: tuple[str, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        return "Weld: overlapping letters and parts become one outline"

    @property
    def elements(self) -> tuple[str, ...]:
        return self.only

    def naming(self, elements: tuple[str, ...]) -> Weld:
        return msgspec.structs.replace(self, only=elements)

    def apply(self, parts: Parts) -> Parts:
        if not self.only:
            return self._welded(parts)
        chosen = tuple(part for part in parts if part.owner in self.only)
        return (*(part for part in parts if part.owner not in self.only), *self._welded(chosen))

    def _welded(self, parts: Parts) -> Parts:
        if len(parts) < 2:
            return parts
        label = "".join(part.label for part in parts)
        seams = [Part("", patch) for patch in seams_between([part.region for part in parts])]
        owners = {part.owner for part in parts}
        welded = Part(label if len(label) <= 40 else f"{label[:39]}…", _tidied(merged((*parts, *seams))))
        return (replace(welded, owner=owners.pop() if len(owners) == 1 else ""),)


def _tidied(region: Region) -> Region:
    """A welded region without segments that no cutter follows."""
    path = without_short_segments(region.outline)
    changed = any(len(new) != len(old) for new, old in zip(path.contours, region.outline.contours, strict=True))
    return region.with_outline(path) if changed else region
