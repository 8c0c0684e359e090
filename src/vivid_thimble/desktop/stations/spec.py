"""What the window knows of a station without loading it, and what a station may ask of the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib import import_module
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from vivid_thimble.core.inspect.findings import Finding
    from vivid_thimble.desktop.session.session import Session
    from vivid_thimble.desktop.stations.station import Station
    from vivid_thimble.desktop.table.table import Look, Table


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

    def loaded(self, package: str) -> type[Station]:
        """The class of its tray; ``package`` holds the stations."""
        found: type[Station] = getattr(
            import_module(f"{package}.{self.key}.station"), f"{self.key.capitalize()}Station"
        )
        return found


class Dialogs(Protocol):
    """What stations open over the window."""

    def open_stock(self) -> None: ...
    def choose_photo(self) -> None: ...
    def open_audition(self) -> None: ...
    def open_set(self) -> None: ...


class Bench(Protocol):
    """The window as stations know it: they connect themselves to it when they are loaded."""

    session: Session
    table: Table
    as_cut: bool

    @property
    def dialogs(self) -> Dialogs: ...
    def tell(self, sentence: str) -> None: ...
    def set_look(self, key: Look) -> None: ...
    def show_finding(self, row: int) -> None: ...
    def show_as_cut(self, as_cut: bool) -> None: ...
    def show_film(self, _film: int = 0) -> None: ...
    def show_insights(self) -> None: ...
    def preview_remedy(self, remedy: str, finding: Finding | None) -> None: ...
    def apply_remedy(self, remedy: str, finding: Finding, *, everywhere: bool) -> None: ...
