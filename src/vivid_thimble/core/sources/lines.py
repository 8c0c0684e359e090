"""Shaped lines brought together: one below the other, aligned or justified, or bent round an arc.

Everything is in ems, y down, the first baseline at y = 0.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from msgspec import Struct

from vivid_thimble.core.ranges import Turn

Align = Literal["left", "centre", "right", "justified"]
WIDEST_ARC_DEG = 359.0
SMALLEST_BASELINE = 0.1
"""Lines beyond the circle's centre are not drawn any tighter than this share of its radius."""


class Arc(Struct, frozen=True, kw_only=True):
    """A circle that the baselines follow: ``angle_deg`` is what the longest line spans. Over a hill
    the letters stand on the outside of the circle, through a valley inside it."""

    angle_deg: Turn = 120.0
    through_valley: bool = False


@dataclass(frozen=True)
class Glyph:
    """One glyph of a line, placed from the line's start."""

    label: str
    word: int
    number: int
    at: tuple[float, float]
    advance: float
    is_space: bool


@dataclass(frozen=True)
class Line:
    glyphs: tuple[Glyph, ...]
    width: float


@dataclass(frozen=True)
class Place:
    """Where a glyph's origin lies, how far the glyph is turned (counter-clockwise as seen), its line."""

    line: int
    at: tuple[float, float]
    turn_deg: float = 0.0


def arranged(
    lines: Sequence[Line], align: Align, line_spacing: float, arc: Arc | None = None
) -> list[tuple[Glyph, Place]]:
    """Every glyph with its place, in reading order."""
    widest = max((line.width for line in lines), default=0.0)
    if align == "justified":
        last = len(lines) - 1
        lines = [line if k == last and len(lines) > 1 else _justified(line, widest) for k, line in enumerate(lines)]
    placed = []
    for number, line in enumerate(lines):
        left = {"left": 0.0, "centre": (widest - line.width) / 2.0, "right": widest - line.width}.get(align, 0.0)
        for glyph in line.glyphs:
            x, y = left + glyph.at[0], number * line_spacing + glyph.at[1]
            place = Place(number, (x, y)) if arc is None else _bent(glyph, number, x, y, widest, arc, line_spacing)
            placed.append((glyph, place))
    return placed


def _justified(line: Line, width: float) -> Line:
    """A line stretched to a width: between its words, or between its letters when it is one word."""
    between_words = any(glyph.is_space for glyph in line.glyphs)
    gaps = sum(glyph.is_space for glyph in line.glyphs) if between_words else len(line.glyphs) - 1
    if gaps < 1 or width <= line.width:
        return line
    extra, shift, glyphs = (width - line.width) / gaps, 0.0, []
    for glyph in line.glyphs:
        glyphs.append(replace(glyph, at=(glyph.at[0] + shift, glyph.at[1])))
        shift += extra if glyph.is_space or not between_words else 0.0
    return Line(tuple(glyphs), width)


def _bent(glyph: Glyph, line: int, x: float, y: float, widest: float, arc: Arc, line_spacing: float) -> Place:
    """The glyph turned about the middle of its advance, which lies on the circle.

    The circle's centre lies below the middle of the first baseline for a hill, above it for a valley.
    Each line keeps the distance of its letters along its own baseline.
    """
    angle = math.radians(min(max(abs(arc.angle_deg), 1.0), WIDEST_ARC_DEG))
    radius = max(widest, 1e-9) / angle
    middle = x + glyph.advance / 2.0
    sense = -1.0 if arc.through_valley else 1.0
    baseline = max(radius - sense * line * line_spacing, SMALLEST_BASELINE * radius)
    turn = (middle - widest / 2.0) / baseline  # clockwise as seen, from the top of the hill
    reach = radius - sense * y
    sine, cosine = math.sin(turn), math.cos(turn)
    foot = (widest / 2.0 + reach * sine, sense * (radius - reach * cosine))
    back = glyph.advance / 2.0
    at = (foot[0] - back * cosine, foot[1] - sense * back * sine)
    return Place(line, at, -sense * math.degrees(turn))
