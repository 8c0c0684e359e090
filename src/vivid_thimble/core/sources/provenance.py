"""Where a drawing came from, by whom, and what may be done with it."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from vivid_thimble.core.messages import Message, Said

Licence = Literal["unknown", "own", "free", "credit", "commercial", "personal"]
LICENCE_WORDS: dict[Licence, str] = {
    "unknown": "not known yet",
    "own": "my own work",
    "free": "free for every use",
    "credit": "free when credit is given",
    "commercial": "bought, may be sold on things",
    "personal": "personal use only",
}


class Provenance(Struct, frozen=True, kw_only=True):
    """All of it as a person typed it; empty where nothing is known."""

    origin: str = ""
    """A shop, a page, a friend."""
    maker: str = ""
    licence: Licence = "unknown"
    credit: str = ""
    """The line that has to be shown."""
    note: str = ""

    @property
    def is_empty(self) -> bool:
        return self == Provenance()

    def sentence(self, name: str) -> str:
        """One line for the job sheet."""
        parts = [f"by {self.maker}" if self.maker else "", f"from {self.origin}" if self.origin else ""]
        parts += [LICENCE_WORDS[self.licence], f"credit: {self.credit}" if self.credit else "", self.note]
        return f"{name}: {', '.join(part for part in parts if part)}"


def licence_in(notes: str) -> Licence:
    """What notes that came with a drawing seem to say; a person decides."""
    text = " ".join(notes.casefold().split())
    if "personal use" in text or "non-commercial" in text or "noncommercial" in text:
        return "personal"
    if "commercial" in text:
        return "commercial"
    if "public domain" in text or "no rights reserved" in text:
        return "free"
    return "credit" if "credit" in text or "attribution" in text else "unknown"


def may_not_be_sold(provenance: Provenance | None, name: str) -> Message | None:
    """The reminder for a job that is marked for sale; None when there is nothing to say."""
    if provenance is None or provenance.licence != "personal":
        return None
    text = "{name} may be used personally only, and this job is for sale: ask its maker or take another drawing."
    return Message.of(text, name=Said(name))
