"""A drawing painted in a process with limits: what is soon read may cover more than can be worked out.

Five thousand lines that cross each other, or one wide one with as many corners, are a file of forty kilobytes. What is
small for certain is painted here: the process would take longer than the work.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from msgspec.structs import replace as with_fields

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.sources.artwork import Artwork, Painted, painted
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.strangers.ask import read_within_limits
from vivid_thimble.core.strangers.plain_data import packed, unpacked
from vivid_thimble.core.strangers.reading import answer_classes

MOST_SEGMENTS_HERE = 400
"""Of a drawing that is painted in the program's own process; lines in dashes are never."""


def painted_apart(drawing: Drawing, artwork: Artwork, least_width: float = 0.0) -> Painted:
    """The same as ``painted``; raises InputRefused when it takes too much time or memory."""
    if _is_small(drawing):
        return painted(drawing, artwork, least_width)
    order = packed((replace(drawing, pictures=()), _plain(artwork), least_width))
    found = read_within_limits("painted", order, refusal=InputRefused, name=artwork.name)
    parts, areas, report, outlines = found
    return Painted(drawing, tuple(_own(part, drawing) for part in parts), areas, report, outlines)


def painted_here(order: bytes) -> tuple[Any, ...]:
    """What a process with limits answers: parts by their number in the drawing where they are as they were read."""
    drawing, artwork, least_width = unpacked(order, answer_classes())
    found = painted(drawing, artwork, least_width)
    numbers = {id(part): k for k, part in enumerate(drawing.parts)}
    return tuple(numbers.get(id(part), part) for part in found.parts), found.areas, found.report, found.outlines


def _own(part: Any, drawing: Drawing) -> Any:
    return drawing.parts[part] if isinstance(part, int) else part


def _plain(artwork: Artwork) -> Artwork:
    """Without what painting does not ask for."""
    return with_fields(artwork, provenance=type(artwork.provenance)())


def _is_small(drawing: Drawing) -> bool:
    clipped = [one for part in drawing.parts for clip in part.clips for one, _ in clip.areas]
    paths = [*drawing.parts, *clipped]
    if any(one.stroke is not None and one.stroke.dashes for one in paths):
        return False
    return sum(len(contour) for one in paths for contour in one.path.contours) <= MOST_SEGMENTS_HERE
