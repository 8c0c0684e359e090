"""How the letters of words hold together once Join and Tie are done: pairs, loose marks, crossings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.steps.join import Join, Pair, by_hand, measured_pairs
from vivid_thimble.core.steps.tie import Crossing, LooseMark, Tie, crossings, loose_marks


@dataclass(frozen=True)
class Holding:
    """What was found, each in reading order."""

    pairs: tuple[Pair, ...]
    marks: tuple[LooseMark, ...]
    crossings: tuple[Crossing, ...]


def holding_of(letters: Parts, steps: Sequence[object], align: Align = "left") -> Holding | None:
    """The placed letters after the joining and tying among their steps; None when there is neither."""
    placed, moves, nudges = letters, (0.0,) * len(letters), dict[int, float]()
    neck = None
    for step in steps:
        if isinstance(step, Join) and step.enabled:
            nudges = by_hand(placed, step.nudges)
            placed, moves = step.placed(placed, align)
            neck = step.neck
        elif isinstance(step, Tie) and step.enabled:
            placed = step.apply(placed)
            neck = neck or step.width
    if neck is None:
        return None
    pairs = measured_pairs(placed, moves, neck)
    return Holding(
        tuple(replace(pair, nudged=nudges.get(pair.letter, 0.0)) for pair in pairs),
        tuple(loose_marks(placed)),
        tuple(crossings(placed)),
    )
