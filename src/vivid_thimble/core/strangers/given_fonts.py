"""Installed fonts in a process that can open no file: it asks for the names, then for the files that it needs."""

from __future__ import annotations

from dataclasses import dataclass


class FontsWanted(Exception):
    """An installed font of this name is needed, or the names of all of them (empty)."""


@dataclass
class GivenFonts:
    """What there is: the names (None: not told), and some files by their names."""

    names: tuple[str, ...] | None
    files: dict[str, bytes]

    def families(self) -> dict[str, str]:
        if self.names is None:
            raise FontsWanted("")
        return {name: name for name in self.names}

    def file(self, name: str) -> bytes:
        if name not in self.files:
            raise FontsWanted(name)
        return self.files[name]


_given: list[GivenFonts] = []


def use_only(fonts: GivenFonts) -> None:
    """From now on there are no installed fonts but these."""
    _given[:] = [fonts]


def given_fonts() -> GivenFonts | None:
    """None in every other process: installed fonts are at hand."""
    return _given[0] if _given else None
