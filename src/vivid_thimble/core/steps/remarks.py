"""What a step has to say about its own outcome: something closed, something that does not fit any more."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.parts import Parts, merged
from vivid_thimble.core.messages import Message

Point = tuple[float, float]


RemarkCode = Literal[
    "closes-counters",
    "closes-gaps",
    "pieces-vanish",
    "bridge-unfit",
    "bridge-weak",
    "opening-swallowed",
    "letters-missing",
    "font-missing",
]


@dataclass(frozen=True)
class Remark:
    """One matter in one sentence; ``at`` in mm, None when it is about the whole."""

    code: RemarkCode
    message: Message
    at: Point | None = None

    @property
    def sentence(self) -> str:
        """In English."""
        return str(self.message)

    def shifted(self, dx: float, dy: float) -> Remark:
        return self if self.at is None else replace(self, at=(self.at[0] + dx, self.at[1] + dy))


def closed_by(before: Parts, after: Parts, verb: str) -> tuple[Remark, ...]:
    """Whether an operation that moved all edges closed counters, or gaps between pieces."""
    old, new = merged(before).polygons, merged(after).polygons
    counters = _holes(old) - _holes(new)
    gaps = len(old.geoms) - len(new.geoms)
    told: list[Remark] = []
    if counters > 0:
        word = "counter" if counters == 1 else "counters"
        text = "{verb} closes {count} {word}: choose a smaller distance."
        told.append(Remark("closes-counters", Message.of(text, verb=verb, count=counters, word=word)))
    if gaps > 0:
        text = "{verb} closes gaps: {count} pieces or more run together; choose a smaller distance."
        told.append(Remark("closes-gaps", Message.of(text, verb=verb, count=gaps + 1)))
    return tuple(told)


def lost_by(before: Parts, after: Parts, verb: str) -> tuple[Remark, ...]:
    """Whether an operation that moved all edges in made pieces vanish."""
    pieces = shapely.get_parts(merged(before).polygons)
    held = shapely.STRtree(shapely.get_parts(merged(after).polygons)).query(pieces, predicate="intersects")[0]
    gone = len(pieces) - len(np.unique(held))
    if gone <= 0:
        return ()
    text = "{verb} makes {count} {word} vanish: choose a smaller distance."
    word = "piece" if gone == 1 else "pieces"
    return (Remark("pieces-vanish", Message.of(text, verb=verb, count=gone, word=word)),)


def _holes(area: MultiPolygon) -> int:
    return sum(len(polygon.interiors) for polygon in area.geoms)
