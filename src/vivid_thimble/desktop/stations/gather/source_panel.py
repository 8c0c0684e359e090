"""What every panel of a kind of source has."""

from __future__ import annotations

from typing import Any, ClassVar

from PySide6.QtCore import Signal

from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.job.values import Element, Job
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel

FRESH_SHARE = 0.8
"""A fresh element takes this share of the item's width or height, whichever is smaller."""
STURDY_FACE = "bundled:League Spartan"


class SourcePanel(Panel):
    """The controls of one kind of source, seen while an element of it is in hand."""

    places_wanted = Signal(object)
    """Places on the item (mm) to be ringed."""

    ADD: ClassVar[tuple[str, str, str] | None] = None
    """The button that adds a fresh one: what is done, the same with its letter, its name; None: there is none."""
    OVER: ClassVar[str] = ""
    """What is said when a fresh one lies over what is there."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.hide()

    @staticmethod
    def fresh(job: Job) -> Element:
        """A new element that a person then changes."""
        raise NotImplementedError

    def begin(self) -> None:
        """A fresh one is in hand: take the keyboard where it is changed first."""

    def show_source(self, source: Any) -> None:
        """Show a source of this panel's kind."""
        raise NotImplementedError

    def show_nothing(self) -> None:
        """Another kind of element is in hand from now on."""

    def show_result(self, element: ElementResult | None) -> None:
        """What became of the element in hand; None while nothing is known."""
