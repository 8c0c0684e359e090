"""What every step of the recipe is, what it is given, and what comes out of it.

A step is a frozen value with a stable tag (its id in saved files) and a VERSION that changes when its result does.
Whoever runs steps knows nothing of a single kind: all that differs between kinds is asked of the step.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Literal, Protocol, Self

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.steps.remarks import Remark

Scope = Literal["element", "film"]
Point = tuple[float, float]


class Shown(Protocol):
    """Something a step found that the window shows: bridges, pieces; places in mm."""

    def shifted(self, dx: float, dy: float) -> Shown: ...


@dataclass(frozen=True, eq=False)
class Outcome:
    """``keeps_box``: sizes and places of the parts go on meaning the box of the parts before."""

    parts: Parts
    remarks: tuple[Remark, ...] = ()
    shown: tuple[Shown, ...] = ()
    keeps_box: bool = False


@dataclass(frozen=True, eq=False)
class Other:
    """Another shape, where it lies while the step runs, with the content key of both; worked out when asked for."""

    key: str
    region: Callable[[], Region]


@dataclass(frozen=True)
class Held:
    """Letters as a step leaves them that makes them hold together by ``width`` mm.

    ``moves``: how far each closed up towards the one before it (None when this step moves none); ``nudged``: how far
    letters are moved by hand, by their numbers.
    """

    parts: Parts
    width: float
    moves: tuple[float, ...] | None = None
    nudged: Mapping[int, float] = field(default_factory=dict)


def _nothing_else(element_id: str) -> Other:
    raise InputRefused("There are no other elements here: remove the step.")


@dataclass(frozen=True, eq=False)
class Around:
    """What is round the parts of a step: how its words are aligned and turned (about ``middle``), the other elements by
    their ids (raises InputRefused for one that is gone), and for a film the designs of those ``above`` it."""

    scope: Scope = "element"
    align: Align = "left"
    turn_deg: float = 0.0
    middle: Point = (0.0, 0.0)
    element: Callable[[str], Other] = _nothing_else
    above: tuple[Other, ...] = ()


class StepKind:
    """What is asked of a step, and what most of them answer."""

    __slots__ = ()
    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = ""
    SCOPES: ClassVar[frozenset[Scope]] = frozenset(("element", "film"))
    """Where it does something; elsewhere it is passed over."""
    HAS_LENGTHS: ClassVar[bool] = True
    """Something of it does not grow with the design."""
    CLOSES_UP: ClassVar[bool] = False
    """It changes how wide words are: their width is the one after it (see ``closed_up``)."""

    def describe(self) -> str:
        """What it does, in one line."""
        raise NotImplementedError

    def apply(self, parts: Parts) -> Parts:
        """The parts after it with nothing round them; raises ThimbleError when it cannot be done. A step has this or
        ``run`` of its own."""
        return self.run(parts, Around()).parts

    def remarks(self, before: Parts, after: Parts) -> tuple[Remark, ...]:
        """What there is to say about an outcome."""
        return ()

    def needs(self, around: Around) -> tuple[str, ...]:
        """Content of all that its outcome hangs on beside its values and the parts; raises ThimbleError."""
        return ()

    def run(self, parts: Parts, around: Around) -> Outcome:
        """The outcome for parts and what is round them; raises ThimbleError when it cannot be done."""
        after = self.apply(parts)
        return Outcome(after, self.remarks(parts, after))

    def closed_up(self, parts: Parts, align: Align) -> Parts:
        """Level letters as a step that CLOSES_UP brings them together."""
        return parts

    def hold(self, letters: Parts, align: Align) -> Held | None:
        """Level letters as it leaves them when it makes them hold together; None when that is not what it does."""
        return None

    @property
    def elements(self) -> tuple[str, ...]:
        """The ids of the elements that it names."""
        return ()

    def naming(self, elements: tuple[str, ...]) -> Self:
        """The same step with other elements in the place of those that it names."""
        return self

    def without(self, element_id: str) -> Self:
        """The same step when an element goes."""
        return self
