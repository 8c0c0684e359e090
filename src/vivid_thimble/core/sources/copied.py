"""A linked copy of another element: whatever is done to that one shows here as well."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.sources.source import SourceKind


class Copied(SourceKind, Struct, frozen=True, tag="copied", kw_only=True):
    """The shape of element ``of`` after its steps, in its size; only its place, turn and further steps are its own."""

    WORD: ClassVar[str] = "linked copy"
    of: str
    led: str = ""
    """The copy whose place it has, when it is a copy of a further film."""

    @property
    def follows(self) -> str:
        return self.led

    @property
    def elements(self) -> tuple[str, ...]:
        return (self.of, self.led) if self.led else (self.of,)

    def naming(self, ids: Mapping[str, str]) -> Copied:
        return replace(self, of=ids.get(self.of, self.of), led=ids.get(self.led, self.led))

    def led_by(self, leader: SourceKind) -> Copied:
        return self
