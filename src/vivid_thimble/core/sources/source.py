"""What every source tells of itself, so that nobody else has to know one kind from another.

A source is what an element is made from: words, a drawing, a picture. It is a frozen value with a stable tag, its id in
saved files. How it becomes a shape is told by its resolver (see ``evaluate.sources``).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, ClassVar, Self

from msgspec.structs import replace

from vivid_thimble.core.sources.lines import Align

if TYPE_CHECKING:
    from vivid_thimble.core.sources.provenance import Provenance


class SourceKind:
    """What is asked of a source, and what most of them answer."""

    __slots__ = ()
    WORD: ClassVar[str] = "drawing"
    """For what an element of it is."""
    HAS_LENGTHS: ClassVar[bool] = False
    """Something of it does not grow with its size."""
    IS_LISTED: ClassVar[bool] = True
    """It is shown by itself among the elements of a design, not as a part of another one."""
    SETS_WORDS: ClassVar[bool] = False
    """It is lines of letters: these may close up, and their heights tell their size."""

    @property
    def files(self) -> tuple[str, ...]:
        """The keys of the files that it needs kept with the job."""
        return ()

    @property
    def lettering(self) -> Sequence[InOneFace]:
        """The words that it sets (see ``lettering.Words``), so that their outlines can be kept with the job."""
        return []

    @property
    def origin(self) -> Provenance | None:
        """Where it came from; None for what was made here."""
        return None

    @property
    def typeface(self) -> str:
        """The face that its letters are in; empty without letters."""
        return ""

    @property
    def aligned(self) -> Align:
        """What its lines are aligned by."""
        return "left"

    @property
    def has_baseline(self) -> bool:
        """Whether its first line stands on a straight level line."""
        return False

    @property
    def is_one_strip(self) -> bool:
        """Whether it is one line, and its waste one strip."""
        return False

    @property
    def follows(self) -> str:
        """The id of the element whose place and size it has; empty when it has its own."""
        return ""

    @property
    def elements(self) -> tuple[str, ...]:
        """The ids of the elements that it names."""
        return ()

    def in_face(self, face: str) -> Self:
        """The same in another face; what has no face stays."""
        return self

    def naming(self, ids: Mapping[str, str]) -> Self:
        """The same naming other elements, where there are others for those that it names."""
        return self

    def led_by(self, leader: SourceKind) -> SourceKind | None:
        """What is evaluated instead of a source that follows another; None when it shows nothing of that one."""
        return None

    def film_shown(self, film: int) -> SourceKind | None:
        """What one of its further films shows; None when it has one film only."""
        return None

    def bands_over(self, width: float, *, welded: bool) -> SourceKind | None:
        """Bands over what it hides (see AnswerBands); None when it hides nothing."""
        return None


class InOneFace(SourceKind):
    """A source with letters, whose face is its ``face``."""

    __slots__ = ()
    if TYPE_CHECKING:

        @property
        def face(self) -> str: ...

    @property
    def typeface(self) -> str:
        return self.face

    def in_face(self, face: str) -> Self:
        return replace(self, face=face)  # type: ignore[type-var]  # all sources are structs


class OfAnother(SourceKind):
    """A source that shows something of the element with the id ``of``, in its place and size."""

    __slots__ = ()
    if TYPE_CHECKING:

        @property
        def of(self) -> str: ...

    @property
    def follows(self) -> str:
        return self.of

    @property
    def elements(self) -> tuple[str, ...]:
        return (self.of,)

    def naming(self, ids: Mapping[str, str]) -> Self:
        return replace(self, of=ids.get(self.of, self.of))  # type: ignore[type-var]  # all sources are structs


class OneFile(SourceKind):
    """A source whose file is kept under its ``asset``."""

    __slots__ = ()
    if TYPE_CHECKING:

        @property
        def asset(self) -> str: ...

    @property
    def files(self) -> tuple[str, ...]:
        return (self.asset,)
