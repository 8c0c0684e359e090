"""Runs of one direction and one script, in the order they are seen.

The levels come from the Unicode bidirectional algorithm (UAX 9) of ``python-bidi``; scripts are told
apart so that every run is shaped by the rules of its own.
"""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass

COMMON_SCRIPTS = ("Zyyy", "Zinh", "Zzzz")


@dataclass(frozen=True)
class Run:
    """Characters ``start`` to ``stop`` of a line; ``script`` is a four-letter code or empty."""

    start: int
    stop: int
    is_rtl: bool
    script: str


def runs_of(text: str) -> list[Run]:
    """The runs of a line from left to right, whatever direction each is read in."""
    if text.isascii():
        return [Run(0, len(text), False, "Latn" if any(c.isalpha() for c in text) else "")] if text else []
    levels = _levels(text)
    runs: list[tuple[int, Run]] = []
    start = 0
    script = _script(text[0])
    for k in range(1, len(text) + 1):
        here = _script(text[k]) if k < len(text) else ""
        ends = k == len(text) or levels[k] != levels[start] or bool(here and script and here != script)
        if ends:
            runs.append((levels[start], Run(start, k, levels[start] % 2 == 1, script)))
            start, script = k, here
        else:
            script = script or here
    return _as_seen(runs)


def _as_seen(runs: list[tuple[int, Run]]) -> list[Run]:
    """Rule L2: from the highest level down, every stretch at that level or above is turned round."""
    for level in range(max(level for level, _ in runs), 0, -1):
        k = 0
        while k < len(runs):
            end = k
            while end < len(runs) and runs[end][0] >= level:
                end += 1
            runs[k:end] = runs[k:end][::-1]
            k = max(end, k + 1)
    return [run for _, run in runs]


def _levels(text: str) -> list[int]:
    """The embedding level of every character; characters that rule X9 removes take their neighbour's."""
    if all(unicodedata.bidirectional(c) not in ("R", "AL", "AN", "RLE", "RLO", "RLI") for c in text):
        return [0] * len(text)
    from bidi import algorithm  # here, as below: only words that need them load these tables

    storage = algorithm.get_empty_storage()
    base = algorithm.get_base_level(text)
    storage["base_level"], storage["base_dir"] = base, ("L", "R")[base]
    algorithm.get_embedding_levels(text, storage)
    for number, char in enumerate(storage["chars"]):
        char["number"] = number
    algorithm.explicit_embed_and_overrides(storage)
    algorithm.resolve_weak_types(storage)
    algorithm.resolve_neutral_types(storage, False)
    algorithm.resolve_implicit_levels(storage, False)
    known = {char["number"]: int(char["level"]) for char in storage["chars"]}
    levels, last = [], base
    for number in range(len(text)):
        last = known.get(number, last)
        levels.append(last)
    while levels and text[len(levels) - 1].isspace():  # rule L1: what trails takes the line's level
        levels.pop()
    return levels + [base] * (len(text) - len(levels))


def _script(char: str) -> str:
    """The script of a character; empty for what all scripts share."""
    from fontTools import unicodedata as scripts

    found: str = scripts.script(char)
    return "" if found in COMMON_SCRIPTS else found
