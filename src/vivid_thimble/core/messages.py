"""What is to be said, before it is said in anybody's language.

A message is a template and the values that go into its gaps. Whoever shows it looks the template up, so that a reworded
or translated sentence says the same; names that a person gave stay as they are.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Union

_GAP = re.compile(r"\{(\w+)(?::([^}]*))?\}")
_HOLE = re.compile(r"%(\d)")


@dataclass(frozen=True)
class Said:
    """A person's own words, or the name of a file, a face or a thing: the same in every language."""

    text: str


Value = Union[str, int, float, Said, "Message", tuple["Value", ...]]
"""Words of ours are looked up, numbers written with the reader's decimal mark, several values parted by commas."""


@dataclass(frozen=True)
class Message:
    """``text`` has a gap {name}, or {name:format} for a number, for each of the ``values``."""

    text: str
    values: tuple[tuple[str, Value], ...] = ()

    @classmethod
    def of(cls, text: str, /, **values: Value) -> Message:
        return cls(text, tuple(values.items()))

    def __str__(self) -> str:
        """In English."""
        return self.told(_as_it_is, _as_it_is)

    @property
    def template(self) -> str:
        """The text as catalogues have it: its gaps are %1, %2 and so on, in their order."""
        return _GAP.sub(lambda gap: f"%{self._order.index(gap[1]) + 1}", self.text)

    def told(self, word: Callable[[str], str], figure: Callable[[str], str]) -> str:
        """The whole in another language: ``word`` looks up texts of ours, ``figure`` writes numbers."""
        formats = {name: form or "" for name, form in _GAP.findall(self.text)}
        values = dict(self.values)
        order = self._order

        def filled(hole: re.Match[str]) -> str:
            name = order[int(hole[1]) - 1]
            return _said(values[name], formats[name], word, figure)

        return _HOLE.sub(filled, word(self.template))

    def facts(self) -> dict[str, object]:
        """The values by name, as plain data."""
        return {name: _plain(value) for name, value in self.values}

    @property
    def _order(self) -> list[str]:
        return list(dict.fromkeys(name for name, _ in _GAP.findall(self.text)))


def _as_it_is(text: str) -> str:
    return text


def _said(value: Value, form: str, word: Callable[[str], str], figure: Callable[[str], str]) -> str:
    if isinstance(value, Said):
        return value.text
    if isinstance(value, Message):
        return value.told(word, figure)
    if isinstance(value, tuple):
        return ", ".join(_said(one, form, word, figure) for one in value)
    if isinstance(value, str):
        return word(value)
    return figure(format(value, form))


def _plain(value: Value) -> object:
    if isinstance(value, tuple):
        return [_plain(one) for one in value]
    return value.text if isinstance(value, Said) else str(value) if isinstance(value, Message) else value
