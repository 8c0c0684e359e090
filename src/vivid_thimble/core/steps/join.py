"""Join: bring the letters of each word together until every pair has the asked neck."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.steps.necks import neck_width, shift_to_hold

CONNECTED_SHARE = 0.6
"""A face connects when more than this share of its lower-case pairs touch by themselves."""
FARTHEST_SHARE = 0.12
"""A letter moves at most this share of the tallest letter's height: more would look squeezed."""
WIDEST_NECK_LIMITS = 3.0
"""Necks are measured up to so many times the asked neck."""


@dataclass(frozen=True)
class Pair:
    """Two neighbouring letters of a word after joining: their neck and how far the second moved."""

    left: str
    right: str
    joined: bool
    neck: float
    moved: float
    at: tuple[float, float] = (0.0, 0.0)
    """Where the two meet, or the middle between them."""
    is_wider: bool = False
    """The neck is wider than was measured for."""


class Join(Struct, frozen=True, tag="join", kw_only=True):
    """Close up letters pair by pair, never more than needed, to a neck of ``neck`` mm.

    Pairs that cannot be joined by a small shift stay as they are.
    """

    VERSION: ClassVar[int] = 2
    TITLE: ClassVar[str] = "Join"
    id: str
    neck: float = 1.0
    enabled: bool = True

    def describe(self) -> str:
        return f"Join: letters of a connecting face close up until they hold by {self.neck:g} mm"

    def apply(self, parts: Parts) -> Parts:
        return joined(parts, self.neck)[0] if connects(parts) else parts


def connects(parts: Parts) -> bool:
    """Whether letters come from a face that connects: most of their lower-case pairs touch by themselves.

    Without a lower-case pair nothing speaks against it.
    """
    touching = [touch for both_lower, touch in touching_pairs(parts) if both_lower]
    return not touching or sum(touching) > CONNECTED_SHARE * len(touching)


def touching_pairs(parts: Parts) -> list[tuple[bool, bool]]:
    """For neighbouring letters of a word: whether both are lower-case, and whether they touch."""
    found = []
    for left, right in zip(parts[:-1], parts[1:], strict=True):
        if left.word is not None and left.word == right.word:
            touching = bool(shapely.intersects(left.region.polygons, right.region.polygons))
            found.append((left.label.islower() and right.label.islower(), touching))
    return found


def joined(parts: Parts, neck: float) -> tuple[Parts, tuple[float, ...]]:
    """Moved parts, and by how much each moved against the letter before it (mm, to the left)."""
    farthest = FARTHEST_SHARE * _tallest(parts)

    def move_of(k: int) -> float:
        # a new word keeps its distance from the word before it
        if k == 0 or parts[k].word is None or parts[k].word != parts[k - 1].word:
            return 0.0
        return shift_to_hold(parts[k - 1].region, parts[k].region, neck, farthest) or 0.0

    moves = tuple(move_of(k) for k in range(len(parts)))
    shifts = np.cumsum(moves).tolist()
    return tuple(p.shifted(-by, 0.0) if by else p for p, by in zip(parts, shifts, strict=True)), moves


def measured_pairs(parts: Parts, moves: tuple[float, ...], neck: float) -> list[Pair]:
    """Every neighbouring pair of letters within a word, with its neck as it stands."""
    pairs = []
    for k in range(1, len(parts)):
        if parts[k].word is None or parts[k].word != parts[k - 1].word:
            continue
        widest = WIDEST_NECK_LIMITS * neck
        width = neck_width(parts[k - 1].region, parts[k].region, widest)
        at = _meeting(parts[k - 1].region.polygons, parts[k].region.polygons)
        pairs.append(
            Pair(parts[k - 1].label, parts[k].label, width >= neck - 0.02, width, moves[k], at, width >= widest)
        )
    return pairs


def pairs_of(parts: Parts, neck: float) -> list[Pair]:
    """The pairs of placed letters as a Join with this neck leaves them."""
    moved, moves = joined(parts, neck) if connects(parts) else (parts, (0.0,) * len(parts))
    return measured_pairs(moved, moves, neck)


def _meeting(left: shapely.MultiPolygon, right: shapely.MultiPolygon) -> tuple[float, float]:
    common = shapely.intersection(left, right)
    middle = shapely.shortest_line(left, right).centroid if common.is_empty else common.centroid
    return float(middle.x), float(middle.y)


def _tallest(parts: Parts) -> float:
    heights = [box[3] - box[1] for part in parts if (box := part.region.bounds)]
    return max(heights, default=0.0)
