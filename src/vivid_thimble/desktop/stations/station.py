"""What all stations share: title, the question they answer, and showing only when somebody looks."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QPushButton

from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.station_list import STATIONS
from vivid_thimble.desktop.widgets.panel import Panel
from vivid_thimble.desktop.widgets.plain_label import PlainLabel

LIES = (("cut", "As it is cut"), ("on", "As it goes on"))


class Station(Panel):
    """Base of the trays. ``told`` carries a sentence for the notice bar."""

    KEY: ClassVar[str]
    QUESTION: ClassVar[str]
    told = Signal(str)
    finding_chosen = Signal(int)
    look_wanted = Signal(str)
    lie_chosen = Signal(bool)
    """Whether the table shows the film as it is cut (else as it goes on), at the stations that have the choice."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(14, 12, 14, 12)
        title, question = PlainLabel(tr(STATIONS[self.KEY].title)), PlainLabel(tr(self.QUESTION))
        title.setObjectName("stationTitle")
        question.setObjectName("stationQuestion")
        question.setWordWrap(True)
        self.column.addWidget(title)
        self.column.addWidget(question)
        self._lies: dict[str, QPushButton] = {}
        self.build()
        self._stale: dict[str, Callable[[], None]] = {}
        """What has changed while another station was open, and how to show it."""
        # methods, since a connection to a lambda outlives the widget and runs into what is gone
        session.job_changed.connect(self._renew_job)
        session.element_chosen.connect(self._renew_job)
        session.result_changed.connect(self._renew_result)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        stale, self._stale = self._stale, {}
        for show in stale.values():
            show()

    def _renew_job(self) -> None:
        self._renew("job", self.show_job)

    def _renew_result(self) -> None:
        self._renew("result", self.show_result)

    def _renew(self, what: str, show: Callable[[], None]) -> None:
        """Show something now, or when the station is opened: an edit is not held up by hidden lists."""
        if self.isVisible() or not self.window().isVisible():
            show()
        else:
            self._stale[what] = show

    def take_keys(self) -> None:
        """Give the keyboard to the first control."""
        one = self.nextInFocusChain()
        while one is not None and one is not self and self.isAncestorOf(one):
            if one.isVisible() and one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus:
                one.setFocus(Qt.FocusReason.TabFocusReason)
                return
            one = one.nextInFocusChain()

    def add_lie(self) -> None:
        """A switch between the film as it is cut and as it goes on."""
        self._lies = self.tabs(LIES, lambda key: self.lie_chosen.emit(key == "cut"), f"{self.KEY}Lie")

    def show_lie(self, *, as_cut: bool) -> None:
        """The switch as it stands."""
        if self._lies:
            self._lies["cut" if as_cut else "on"].setChecked(True)

    def connect_to(self, bench: Bench) -> None:
        """Connect what the station sends to the window; stations that send more do that here as well."""
        self.told.connect(bench.tell)
        self.finding_chosen.connect(bench.show_finding)
        self.look_wanted.connect(bench.set_look)
        self.lie_chosen.connect(bench.show_as_cut)
        self.show_lie(as_cut=bench.as_cut)

    @property
    def film_number(self) -> int:
        """The number of the film that is shown, from 0."""
        return 0

    def begin(self) -> None:
        """Another job is begun."""

    def build(self) -> None:
        """Add the controls."""
        raise NotImplementedError

    def show_job(self) -> None:
        """Show the current recipe."""

    def show_result(self) -> None:
        """Show what was computed."""

    def show_stale(self) -> None:
        """The figures shown are those of an earlier state; what is worked out anew is shown by ``show_result``."""
