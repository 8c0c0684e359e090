"""What the window knows of a station without loading it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session
    from vivid_thimble.desktop.table.table import Look


@dataclass(frozen=True)
class Standing:
    """How a station stands: a few words and a verdict."""

    words: str
    verdict: str
    was: bool = False
    """It belongs to an earlier state of the job."""


NOTHING = Standing("nothing yet", "none")


@dataclass(frozen=True)
class StationSpec:
    """A station by its key and title. ``standing`` tells how it stands, ``from_result``: as the last result says.

    ``look``: how the table is seen there; ``handles``: what is in hand shows its handles; ``of_film``: it is about one
    film (see ``Station.film_number``), which may be seen as it lies in the cutter. Its tray is the class
    ``KeyStation`` in the module ``station`` of its package, which is loaded when it is opened.
    """

    key: str
    title: str
    standing: Callable[[Session], Standing]
    from_result: bool = False
    look: Look = "finished"
    handles: bool = False
    of_film: bool = False

    def stands(self, session: Session, *, stale: bool) -> Standing:
        """``stale``: what comes from the result is told as what it was."""
        standing = self.standing(session)
        return replace(standing, was=stale and self.from_result and standing.verdict != "none")
