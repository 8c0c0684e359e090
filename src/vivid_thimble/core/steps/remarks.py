"""What a step has to say about its own outcome: something closed, something that does not fit any more."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.parts import Parts, merged

Point = tuple[float, float]


@dataclass(frozen=True)
class Remark:
    """One sentence; ``at`` in mm, None when it is about the whole."""

    sentence: str
    at: Point | None = None

    def shifted(self, dx: float, dy: float) -> Remark:
        return self if self.at is None else replace(self, at=(self.at[0] + dx, self.at[1] + dy))


def closed_by(before: Parts, after: Parts, verb: str) -> tuple[Remark, ...]:
    """Whether an operation that moved all edges closed counters, or gaps between pieces."""
    old, new = merged(before).polygons, merged(after).polygons
    counters = _holes(old) - _holes(new)
    gaps = len(old.geoms) - len(new.geoms)
    told = []
    if counters > 0:
        told.append(
            f"{verb} closes {counters} {'counter' if counters == 1 else 'counters'}: choose a smaller distance."
        )
    if gaps > 0:
        told.append(f"{verb} closes gaps: {gaps + 1} pieces or more run together; choose a smaller distance.")
    return tuple(Remark(sentence) for sentence in told)


def lost_by(before: Parts, after: Parts, verb: str) -> tuple[Remark, ...]:
    """Whether an operation that moved all edges in made pieces vanish."""
    pieces = shapely.get_parts(merged(before).polygons)
    held = shapely.STRtree(shapely.get_parts(merged(after).polygons)).query(pieces, predicate="intersects")[0]
    gone = len(pieces) - len(np.unique(held))
    if gone <= 0:
        return ()
    return (Remark(f"{verb} makes {gone} {'piece' if gone == 1 else 'pieces'} vanish: choose a smaller distance."),)


def _holes(area: MultiPolygon) -> int:
    return sum(len(polygon.interiors) for polygon in area.geoms)
