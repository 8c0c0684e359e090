"""A drawing as it was read: painted parts in painting order, before any decision.

A reader (SVG today) fills it; ``artwork`` turns it into film. What the reader met and
does not understand is counted by name, so that nothing disappears silently.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from vivid_thimble.core.geometry.clip import FillRule
from vivid_thimble.core.geometry.path import Path

Colour = tuple[int, int, int]
"""red, green, blue, 0 to 255"""

WHITE_FROM = 250
"""A colour whose three values all reach this is paper white: it cuts away."""


def is_white(colour: Colour) -> bool:
    return min(colour) >= WHITE_FROM


@dataclass(frozen=True, eq=False)
class DrawingPart:
    """One painted shape, in the drawing's own units and with its transforms applied."""

    name: str
    path: Path
    rule: FillRule
    colour: Colour

    @property
    def is_white(self) -> bool:
        return is_white(self.colour)


@dataclass(frozen=True, eq=False)
class Drawing:
    """``mm_per_unit`` is the physical scale that the file states, or None."""

    parts: tuple[DrawingPart, ...]
    mm_per_unit: float | None = None
    not_understood: Mapping[str, int] = field(default_factory=dict)

    @property
    def colours(self) -> tuple[Colour, ...]:
        """The colours in painting order of their first use."""
        return tuple(dict.fromkeys(part.colour for part in self.parts))
