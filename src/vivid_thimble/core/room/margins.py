"""Margins as people say them: "5 cm left, centred", "top 2in", "3cm left and right".

They are those of the thing: from its true edges, where a tape begins, and not from the room that is left on it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from vivid_thimble.core.blanks.kinds import Tapered
from vivid_thimble.core.errors import InputRefused, LengthNotUnderstood
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import moved_design, scaled_design
from vivid_thimble.core.job.values import Item, Job
from vivid_thimble.core.lengths import Unit, parse_length
from vivid_thimble.core.room.thing import thing_box, true_share

SIDES = {"left": ("left",), "right": ("right",), "top": ("top",), "above": ("top",), "bottom": ("bottom",),
         "below": ("bottom",), "sides": ("left", "right"), "around": ("left", "right", "top", "bottom"),
         "round": ("left", "right", "top", "bottom"), "all": ("left", "right", "top", "bottom")}  # fmt: skip
CENTRED = ("centred", "centered", "centre", "center", "middle")
FILLING = ("and", "from", "the", "at", "on", "of", "margin", "edge", "in", "to")
EXAMPLE = "5 cm left, centred"
ROUNDS = 8


@dataclass(frozen=True)
class Margins:
    """Room wanted at some sides in mm, and whether the other direction is centred."""

    left: float | None = None
    right: float | None = None
    top: float | None = None
    bottom: float | None = None
    centred: bool = False


@dataclass(frozen=True)
class Move:
    """How a design gets its margins: grown by ``factor`` about its middle, then moved."""

    factor: float
    dx: float
    dy: float


def parse_margins(text: str, unit: Unit) -> Margins:
    """Raises InputRefused with what was understood so far and an example."""
    found: dict[str, float] = {}
    centred = False
    length: float | None = None
    waiting: list[str] = []
    for word, kind in _words(text):
        if kind == "length":
            try:
                value = parse_length(word, unit)
            except LengthNotUnderstood as error:
                raise _not_understood(text) from error
            if value < 0.0:
                raise InputRefused(f"A margin cannot be less than nothing: {word} was typed.")
            for side in waiting:
                found[side] = value
            length, waiting = (None if waiting else value), []
        elif word in SIDES:
            if length is None:
                waiting += SIDES[word]
            else:
                found.update(dict.fromkeys(SIDES[word], length))
        elif word in CENTRED:
            centred, length = True, None
        elif word == ",":
            length = None if found else length
        elif word not in FILLING:
            raise _not_understood(text)
    if waiting or not (found or centred):
        raise _not_understood(text)
    return Margins(**found, centred=centred)


def _words(text: str) -> list[tuple[str, str]]:
    """Lengths with their units, words and commas, in order."""
    number = r"[\d.]+(?:\s+\d+/\d+|/\d+)?\s*(?:mm|cm|in\b|inch(?:es)?|\"|m\b)?"
    pattern = re.compile(rf"(?P<length>{number})|(?P<word>[a-z]+)|(?P<comma>,)")
    lowered = re.sub(r"(\d),(\d)", r"\1.\2", text.lower())
    found, end = [], 0
    for match in pattern.finditer(lowered):
        if lowered[end : match.start()].strip():
            raise _not_understood(text)
        end = match.end()
        kind = "length" if match["length"] else "word"
        found.append((match[0].strip(), kind))
    if lowered[end:].strip():
        raise _not_understood(text)
    return found


def _not_understood(text: str) -> InputRefused:
    return InputRefused(f'"{text.strip()}" tells no margins: say a length and a side, such as "{EXAMPLE}".')


def move_for(margins: Margins, bounds: Box, item: Item) -> Move:
    """How to bring a design of these bounds there; centred is in the middle of the room.

    Both sides of one direction decide its size; one of both directions together must agree, else the smaller
    size is taken and centred in the other. Raises InputRefused when nothing would be left.
    """
    middle_y = (bounds[1] + bounds[3]) / 2.0
    move = _move(margins, bounds, item, true_share(item, middle_y))
    for _ in range(ROUNDS if isinstance(item.blank, Tapered) else 0):  # the girth there depends on where it ends up
        move = _move(margins, bounds, item, true_share(item, middle_y + move.dy))
    return move


def _move(margins: Margins, bounds: Box, item: Item, grown: float) -> Move:
    """``grown``: how long a mm of the level rectangle is across."""
    edges, scales = thing_box(item), (grown, 1.0)
    pairs = ((margins.left, margins.right), (margins.top, margins.bottom))
    goals: list[tuple[float | None, float | None]] = []
    factors = []
    for axis, ((low, high), scale) in enumerate(zip(pairs, scales, strict=True)):
        start = None if low is None else edges[axis] + low / scale
        end = None if high is None else edges[axis + 2] - high / scale
        if start is not None and end is not None:
            if end - start <= 0.0:
                raise InputRefused("These margins leave no room for the design: type smaller ones.")
            factors.append((end - start) / (bounds[axis + 2] - bounds[axis]))
        goals.append((start, end))
    factor = min(factors, default=1.0)
    shifts = []
    for axis, (start, end) in enumerate(goals):
        middle = (bounds[axis] + bounds[axis + 2]) / 2.0
        half = (bounds[axis + 2] - bounds[axis]) * factor / 2.0
        if start is not None and end is not None:
            wanted = (start + end) / 2.0
        elif start is not None:
            wanted = start + half
        elif end is not None:
            wanted = end - half
        else:
            wanted = (item.width, item.height)[axis] / 2.0 if margins.centred else middle
        shifts.append(wanted - middle)
    return Move(factor, *shifts)


def with_margins(job: Job, margins: Margins, bounds: Box) -> Job:
    """The design of the item in hand, which has these bounds, brought to its margins; raises as move_for."""
    move = move_for(margins, bounds, job.item)
    if abs(move.factor - 1.0) < 1e-9:
        return moved_design(job, move.dx, move.dy)
    x, y = job.item.width / 2.0, job.item.height / 2.0  # it grows about the item's middle
    grown_x = (move.factor - 1.0) * ((bounds[0] + bounds[2]) / 2.0 - x)
    grown_y = (move.factor - 1.0) * ((bounds[1] + bounds[3]) / 2.0 - y)
    return moved_design(scaled_design(job, move.factor), move.dx - grown_x, move.dy - grown_y)


def centred(job: Job, bounds: Box, *, across: bool = True, down: bool = True) -> Job:
    """The design of the item in hand, which has these bounds, in the middle of its room."""
    x, y = (bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0
    return moved_design(job, job.item.width / 2.0 - x if across else 0.0, job.item.height / 2.0 - y if down else 0.0)
