"""A made-up step that needs others: what of a shape lies within another element's box."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.plain_shapes import rectangle
from vivid_thimble.core.geometry.region import intersection
from vivid_thimble.core.steps.step import Around, Outcome, Scope, StepKind


class Within(StepKind, Struct, frozen=True, tag="within", kw_only=True):
    """``of`` (ids): the elements; the first of them counts."""

    TITLE: ClassVar[str] = "Within"
    SCOPES: ClassVar[frozenset[Scope]] = frozenset(("element",))
    id: str
    of: tuple[str, ...] = ()
    enabled: bool = True

    @property
    def elements(self) -> tuple[str, ...]:
        return self.of

    def naming(self, elements: tuple[str, ...]) -> Within:
        return replace(self, of=elements)

    def describe(self) -> str:
        return "Within: what lies within others stays"

    def needs(self, around: Around) -> tuple[str, ...]:
        return tuple(around.element(one).key for one in self.of)

    def run(self, parts: Parts, around: Around) -> Outcome:
        boxes = [around.element(one).region().bounds for one in self.of]
        if not boxes or boxes[0] is None:
            return Outcome(parts)
        return Outcome(tuple(part.with_region(intersection(part.region, rectangle(boxes[0]))) for part in parts))
