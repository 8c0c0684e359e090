"""Join: bring the letters of each word together until every pair has the asked neck.

Every line closes up by itself and keeps what it is aligned by, and all lines together keep their middle, so that words
stay where they were put.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.parts import Parts, turned
from vivid_thimble.core.holding.necks import neck_width, shift_to_hold
from vivid_thimble.core.ranges import Fine, Moved, Number
from vivid_thimble.core.sources.lettering import CONNECTED_SHARE
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.steps.step import Around, Held, Outcome, StepKind

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
    letter: int = 0
    """Number of the second letter, counted from 0."""
    nudged: float = 0.0
    """How far the second was moved by hand, in mm to the right."""


class Nudge(Struct, frozen=True, kw_only=True):
    """A letter moved by hand: ``by`` mm to the right, together with all that follow in its line.

    It applies to the letter with this number, counted from 0, as long as that is still the same letter.
    """

    letter: Number
    label: str
    by: Moved


class Join(StepKind, Struct, frozen=True, tag="join", kw_only=True):
    """Close up letters pair by pair, never more than needed, to a neck of ``neck`` mm.

    Pairs that cannot be joined by a small shift stay as they are. What was nudged by hand is moved on
    top of that, in mm whatever the size.
    """

    VERSION: ClassVar[int] = 5
    TITLE: ClassVar[str] = "Join"
    CLOSES_UP: ClassVar[bool] = True
    id: str
    neck: Fine = 1.0
    nudges: tuple[Nudge, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        return f"Join: letters of a connecting face close up until they hold by {self.neck:g} mm"

    def needs(self, around: Around) -> tuple[str, ...]:
        return around.align, repr(around.turn_deg)

    def run(self, parts: Parts, around: Around) -> Outcome:
        """Letters close up along their line, whichever way the words are turned."""
        level = turned(parts, -around.turn_deg, around.middle)
        return Outcome(turned(self.placed(level, around.align)[0], around.turn_deg, around.middle))

    def hold(self, letters: Parts, align: Align) -> Held:
        parts, moves = self.placed(letters, align)
        return Held(parts, self.neck, moves, by_hand(letters, self.nudges))

    def placed(self, parts: Parts, align: Align = "left") -> tuple[Parts, tuple[float, ...]]:
        """The letters as this step leaves them, and how far each was closed up (mm, towards the one before it)."""
        moved, moves = self._closed_up(parts, align)
        return nudged(moved, self.nudges), moves

    def closed_up(self, parts: Parts, align: Align) -> Parts:
        """As ``placed``, before anything is nudged by hand."""
        return self._closed_up(parts, align)[0]

    def _closed_up(self, parts: Parts, align: Align) -> tuple[Parts, tuple[float, ...]]:
        return joined(parts, self.neck, align) if connects(parts) else (parts, (0.0,) * len(parts))


def connects(parts: Parts) -> bool:
    """Whether letters come from a face that connects, as the face itself tells; where it is unknown, many of their
    pairs touch by themselves. Capitals and figures say nothing of that.
    """
    told = [part.connects for part in parts if part.connects is not None]
    if told:
        return all(told)
    touching = [touch for both_small, touch in touching_pairs(parts) if both_small]
    return sum(touching) > CONNECTED_SHARE * len(touching)


def touching_pairs(parts: Parts) -> list[tuple[bool, bool]]:
    """For neighbouring letters of a word: whether both are small letters, or of a script that has no capitals, and
    whether they touch."""
    found = []
    for left, right in zip(parts[:-1], parts[1:], strict=True):
        if left.word is not None and left.word == right.word:
            touching = bool(shapely.intersects(left.region.polygons, right.region.polygons))
            found.append((_is_small(left.label) and _is_small(right.label), touching))
    return found


def _is_small(label: str) -> bool:
    return label.isalpha() and label == label.lower()


def joined(parts: Parts, neck: float, align: Align = "left") -> tuple[Parts, tuple[float, ...]]:
    """Moved parts, and by how much each moved against the letter before it (mm, to the left).

    Lines keep their left end, middle or right end against each other as ``align`` says (justified ones their middle);
    the box round all keeps its middle.
    """
    farthest = FARTHEST_SHARE * _tallest(parts)

    def move_of(k: int) -> float:
        # a new word keeps its distance from the word before it
        if k == 0 or parts[k].word is None or parts[k].word != parts[k - 1].word:
            return 0.0
        return shift_to_hold(parts[k - 1].region, parts[k].region, neck, farthest) or 0.0

    moves = tuple(move_of(k) for k in range(len(parts)))
    if not any(moves):
        return parts, moves
    shifts = _shifts(parts, np.array(moves), align)
    boxes = [(box, by) for part, by in zip(parts, shifts, strict=True) if (box := part.region.bounds)]
    left, right = min(box[0] + by for box, by in boxes), max(box[2] + by for box, by in boxes)
    middle = (min(box[0] for box, _ in boxes) + max(box[2] for box, _ in boxes)) / 2.0
    shifts = shifts + middle - (left + right) / 2.0
    return tuple(part.shifted(float(by), 0.0) for part, by in zip(parts, shifts, strict=True)), moves


def _shifts(parts: Parts, moves: FloatArray, align: Align) -> FloatArray:
    """How far every letter goes to the right when each line closes up towards what it is aligned by."""
    shifts = np.zeros(len(parts))
    starts = [0, *(k for k in range(1, len(parts)) if _starts_line(parts, k)), len(parts)]
    for start, end in zip(starts, starts[1:], strict=False):
        closed = np.cumsum(moves[start:end])
        kept = {"left": 0.0, "right": 1.0}.get(align, 0.5)
        shifts[start:end] = kept * closed[-1] - closed
    return shifts


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
            Pair(parts[k - 1].label, parts[k].label, width >= neck - 0.02, width, moves[k], at, width >= widest, k)
        )
    return pairs


def nudged(parts: Parts, nudges: Sequence[Nudge]) -> Parts:
    """Letters moved by hand; nudges of letters that are no longer there are left aside."""
    shifts = np.zeros(len(parts))
    for nudge in nudges:
        k = nudge.letter
        if _applies(nudge, parts):
            line_ends = next((j for j in range(k + 1, len(parts)) if _starts_line(parts, j)), len(parts))
            shifts[k:line_ends] += nudge.by
    if not shifts.any():
        return parts
    return tuple(part.shifted(float(by), 0.0) if by else part for part, by in zip(parts, shifts, strict=True))


def _starts_line(parts: Parts, k: int) -> bool:
    """Whether a letter stands left of all of the one before it: a new line has begun."""
    box, before = parts[k].region.bounds, parts[k - 1].region.bounds
    return box is not None and before is not None and box[2] < before[0]


def by_hand(parts: Parts, nudges: Sequence[Nudge]) -> dict[int, float]:
    """How far letters are moved by hand, by their numbers; nudges of letters that are gone are left out."""
    return {nudge.letter: nudge.by for nudge in nudges if _applies(nudge, parts)}


def _applies(nudge: Nudge, parts: Parts) -> bool:
    return nudge.letter < len(parts) and parts[nudge.letter].label == nudge.label


def _meeting(left: shapely.MultiPolygon, right: shapely.MultiPolygon) -> tuple[float, float]:
    common = shapely.intersection(left, right)
    middle = shapely.shortest_line(left, right).centroid if common.is_empty else common.centroid
    return float(middle.x), float(middle.y)


def _tallest(parts: Parts) -> float:
    heights = [box[3] - box[1] for part in parts if (box := part.region.bounds)]
    return max(heights, default=0.0)
