"""The weeding list: every piece of waste as a numbered pick, in the order to pull.

Outside first when many small or slender kept pieces hang in it (they stay put while
the rest is done), inside first when the counters are few and large.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from vivid_thimble.core.inspect.inspection import Inspection
from vivid_thimble.core.inspect.pieces import Piece

FIDDLY_MM2 = 30.0
"""A waste piece below this is fiddly: easier while everything round it is still held."""
MANY_FRAGILE = 4
"""From so many small kept pieces on, the surround goes first."""
FRAGILE_MM2 = 60.0
TINY_MM2 = 8.0


@dataclass(frozen=True, eq=False)
class Pick:
    """One piece to pull: its number, place (mm on the item), area and what to watch."""

    number: int
    piece: Piece
    what: str
    at: tuple[float, float]
    area: float


@dataclass(frozen=True, eq=False)
class WeedingPlan:
    picks: tuple[Pick, ...]
    outside_first: bool
    reason: str


def weeding_plan(inspection: Inspection, *, is_sheet: bool) -> WeedingPlan:
    """The picks of one layer. For a stencil's sheet the openings are pulled, reading order."""
    surround = [p for p in inspection.waste if p.is_surround]
    inner = sorted((p for p in inspection.waste if not p.is_surround), key=_reading_order)
    if is_sheet:
        reason = "Stencil: pull the design out of the sheet and leave the surround."
        return WeedingPlan(_numbered(inner, "Opening"), False, reason)
    fragile = [p for p in inspection.kept if p.area < FRAGILE_MM2]
    outside_first = len(fragile) >= MANY_FRAGILE
    if outside_first:
        reason = f"Outside first: {len(fragile)} small pieces hang in it and stay put while the rest is done."
        order = [*surround, *inner]
    elif inner:
        reason = "Inside first: the middles are few, and the film round them still holds everything."
        order = [*inner, *surround]
    else:
        reason = "One pull: only the surround comes off."
        order = surround
    return WeedingPlan(_numbered(order, "Middle"), outside_first, reason)


def _reading_order(piece: Piece) -> tuple[float, float]:
    return piece.at[0], piece.at[1]


def _numbered(pieces: Sequence[Piece], word: str) -> tuple[Pick, ...]:
    picks = []
    for number, piece in enumerate(pieces, start=1):
        if piece.is_surround:
            what = "Surround: peel it off from a corner, folded back flat"
        elif piece.area < TINY_MM2:
            what = f"{word}, tiny: lift it with a pin hook"
        elif piece.area < FIDDLY_MM2:
            what = f"{word}, small: lift a corner with the hook"
        else:
            what = f"{word}: lift a corner and pull"
        picks.append(Pick(number, piece, what, piece.at, piece.area))
    return tuple(picks)
