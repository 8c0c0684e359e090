"""A linked copy of another element: whatever is done to that one shows here as well."""

from __future__ import annotations

from msgspec import Struct


class Copied(Struct, frozen=True, tag="copied", kw_only=True):
    """The shape of element ``of`` after its steps, in its size; only its place, turn and further steps are its own."""

    of: str
    led: str = ""
    """The copy whose place it has, when it is a copy of a further film."""
