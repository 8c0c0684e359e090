"""Operations of the recipe: parts in, parts out, always at the final size.

A step is a frozen value with a stable tag (its id in saved files), a VERSION that
changes when its result does, a title, and ``apply`` or ``run``. Adding one means a new module
here and a name in ``Step`` (see ``step`` for what is asked of it).
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TypeVar

from vivid_thimble.core.steps.band import Band, RoundCorners
from vivid_thimble.core.steps.bridges import Bridges
from vivid_thimble.core.steps.clean import FillPinholes, RemoveSpecks
from vivid_thimble.core.steps.join import Join
from vivid_thimble.core.steps.mirror import Mirror
from vivid_thimble.core.steps.slice import Slice
from vivid_thimble.core.steps.smooth import Smooth
from vivid_thimble.core.steps.step import StepKind
from vivid_thimble.core.steps.strengthen import Strengthen
from vivid_thimble.core.steps.stretch import Stretch
from vivid_thimble.core.steps.thicken import Thicken
from vivid_thimble.core.steps.tie import Tie
from vivid_thimble.core.steps.trim import Trim
from vivid_thimble.core.steps.weld import Weld

Step = (
    Join
    | Weld
    | Thicken
    | Strengthen
    | Smooth
    | RemoveSpecks
    | FillPinholes
    | Tie
    | Bridges
    | Band
    | RoundCorners
    | Slice
    | Trim
    | Mirror
    | Stretch
)
S = TypeVar("S", bound=StepKind)


def of_kind(steps: Iterable[Step], kind: type[S]) -> tuple[S, ...]:
    """The steps of one kind among others."""
    return tuple(step for step in steps if isinstance(step, kind))


__all__ = [
    "Band",
    "Bridges",
    "FillPinholes",
    "Join",
    "Mirror",
    "RemoveSpecks",
    "RoundCorners",
    "Slice",
    "Smooth",
    "Step",
    "Strengthen",
    "Stretch",
    "Thicken",
    "Tie",
    "Trim",
    "Weld",
    "of_kind",
]
