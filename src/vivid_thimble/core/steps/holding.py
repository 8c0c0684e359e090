"""How the letters of words hold together once Join and Tie are done: pairs, loose marks, crossings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.join import Pair, measured_pairs
from vivid_thimble.core.steps.tie import Crossing, LooseMark, crossings, loose_marks


@dataclass(frozen=True)
class Holding:
    """What was found, each in reading order."""

    pairs: tuple[Pair, ...]
    marks: tuple[LooseMark, ...]
    crossings: tuple[Crossing, ...]


def holding_of(letters: Parts, steps: Sequence[Step], align: Align = "left") -> Holding | None:
    """The placed letters after the joining and tying among their steps; None when there is neither."""
    placed, moves, nudged = letters, (0.0,) * len(letters), dict[int, float]()
    neck = None
    for step in steps:
        held = step.hold(placed, align) if step.enabled else None
        if held is None:
            continue
        placed, neck = held.parts, neck or held.width
        if held.moves is not None:
            moves, nudged, neck = held.moves, dict(held.nudged), held.width
    if neck is None:
        return None
    pairs = measured_pairs(placed, moves, neck)
    return Holding(
        tuple(replace(pair, nudged=nudged.get(pair.letter, 0.0)) for pair in pairs),
        tuple(loose_marks(placed)),
        tuple(crossings(placed)),
    )
