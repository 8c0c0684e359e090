"""Words of the window in the user's language.

The sources speak English. ``tr`` looks a text up in the catalogue that Qt has loaded. Sentences with figures and names
in them are told by the core without knowing of any language; they are found by their pattern (``%1`` for what differs),
and what differs is looked up in its turn. A text that no catalogue knows stays as it is.
"""

from __future__ import annotations

import json
import re
from functools import lru_cache
from importlib import resources

from PySide6.QtCore import QCoreApplication

from vivid_thimble.core.messages import Message, Said

CONTEXT = "Vivid Thimble"
PATTERNS = "patterns.json"
_HOLE = re.compile(r"%\d")
_POINT = re.compile(r"(?<![\w./])(?<!\w-)(\d+)\.(\d+)(?!\w|[./-]\w)")
"""The decimal point of a figure; not what stands in names of files, versions and addresses."""
_state = {"on": False, "comma": False}


def tr(text: str | Message | Said) -> str:
    """A text of the window in the language in use, its figures as they are written there; a person's words stay."""
    if isinstance(text, Said):
        return text.text
    if isinstance(text, Message):
        return text.told(_word, figures)
    return figures(_word(text))


def _word(text: str) -> str:
    return text if not _state["on"] or not text else _translated(text)


def figures(text: str) -> str:
    """Figures with the decimal mark in use."""
    return _POINT.sub(r"\1,\2", text) if _state["comma"] else text


def use_catalogue(*, on: bool, comma: bool = False) -> None:
    """Whether a catalogue is loaded, and whether figures have a decimal comma; called when the language changes."""
    _state.update(on=on, comma=comma)
    _translated.cache_clear()


def catalogued(text: str) -> str:
    """The exact text in the catalogue; itself when it is not there."""
    return QCoreApplication.translate(CONTEXT, text)


@lru_cache(maxsize=8192)
def _translated(text: str, depth: int = 0) -> str:
    found = catalogued(text)
    if found != text or depth > 3:
        return found
    lead = len(text) - len(text.lstrip())
    inner = text.strip()
    if inner and inner != text:
        return text[:lead] + _translated(inner, depth) + text[lead + len(inner) :]
    if "\n" in text:
        return "\n".join(_translated(line, depth) for line in text.split("\n"))
    for pattern, source in _patterns_for(text):
        match = pattern.fullmatch(text)
        said = catalogued(source) if match is not None else source
        if match is not None and said != source:
            return _filled(said, [_translated(part, depth + 1) for part in match.groups()])
    pieces = text.split(", ")
    said_each = [_translated(piece, depth + 1) for piece in pieces] if len(pieces) > 1 else []
    return ", ".join(said_each) if said_each and all(a != b for a, b in zip(pieces, said_each, strict=True)) else text


def _filled(said: str, parts: list[str]) -> str:
    return _HOLE.sub(lambda hole: parts[int(hole[0][1:]) - 1], said)


def _patterns_for(text: str) -> list[tuple[re.Pattern[str], str]]:
    """Those that a text may follow: by its first word, and those that begin with something that differs."""
    known = _patterns()
    return known.get(text.split(" ", 1)[0], []) + known.get("", [])


@lru_cache(maxsize=1)
def _patterns() -> dict[str, list[tuple[re.Pattern[str], str]]]:
    """The patterns of all sentences with gaps, by their first word; the longest first, since they tell the most."""
    file = resources.files("vivid_thimble") / "data" / "languages" / PATTERNS
    sources: list[str] = json.loads(file.read_text(encoding="utf-8")) if file.is_file() else []
    found: dict[str, list[tuple[re.Pattern[str], str]]] = {}
    for source in sorted(sources, key=lambda one: -len(_HOLE.sub("", one))):
        first = source.split(" ", 1)[0]
        key = "" if _HOLE.search(first) else first
        found.setdefault(key, []).append((_pattern_of(source), source))
    return found


def _pattern_of(source: str) -> re.Pattern[str]:
    pieces = [re.escape(piece) for piece in _HOLE.split(source)]
    return re.compile("(.+?)".join(pieces), re.DOTALL)
