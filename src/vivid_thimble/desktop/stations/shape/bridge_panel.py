"""The bridges of the step in hand, one by one: pick, add, take out, lock. On the table they are dragged and turned."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout

from vivid_thimble.core.edits.bridges import automatic, locked, without_bridge, without_unfit
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.steps.bridges import FoundBridges
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, push_button
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList


class BridgePanel(Panel):
    """``held``: a bridge was picked; ``adding``: the next press on the table places one."""

    held = Signal(int)
    adding = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self._owner = ""
        self._own: FoundBridges | None = None
        self._expected = -1
        self.title = self.section("One by one")
        self.list = WrappingList()
        self.list.setObjectName("bridgeList")
        self.list.setAccessibleName(tr("Bridges, one by one"))
        self.list.setMinimumHeight(96)
        self.list.setMaximumHeight(140)
        self.list.currentRowChanged.connect(self._pick)
        self.column.addWidget(self.list)
        grid = QGridLayout()
        grid.setSpacing(4)
        self.add_button = push_button("&Add one", "bridgeAdd", tip="Then press on the table, near a middle")
        self.add_button.setCheckable(True)
        self.add_button.toggled.connect(self.adding)
        self.out_button = push_button("Ta&ke it out", "bridgeOut", self.take_out, tip="No bridge is placed there again")
        self.lock_button = push_button(
            "&Lock all", "bridgeLock", self._lock, tip="All stay where they are, whatever changes later"
        )
        self.auto_button = push_button(
            "A&ll by itself", "bridgeAutomatic", self._forget, tip="Forget what was placed by hand"
        )
        for k, button in enumerate((self.add_button, self.out_button, self.lock_button, self.auto_button)):
            grid.addWidget(button, k // 2, k % 2)
        self.column.addLayout(grid)
        tip = "They fit again if the design is as it was"
        self.unfit_button = push_button(
            "Forget what does not fit", "bridgeUnfit", self._drop_unfit, self.column, tip=tip
        )
        self.hint("On the table: drag a bridge along its middle's edge, turn it by its far end; Delete takes it out.")

    def show_bridges(self, owner: str, own: FoundBridges | None) -> None:
        """Those of a step of an element or film; None for none."""
        self._owner, self._own = owner, own
        self.setVisible(own is not None)
        if own is None:
            self.add_button.setChecked(False)
            return
        unit = fine_unit(self.session.job.unit)
        held = self.list.currentRow() if self._expected < 0 else self._expected
        bridges = own.found.plan.bridges
        self.list.blockSignals(True)
        self.list.clear()
        for k in range(len(bridges)):
            self.list.addItem(tr(bridge_words(own, k, unit)))
        self.list.setCurrentRow(held if held < len(bridges) else -1)
        self.list.make_room()
        self.list.blockSignals(False)
        if self._expected >= 0:
            self._expected = -1
            self.held.emit(self.list.currentRow())
        by_hand, unfit = len(own.found.by_hand), len(own.found.unfit)
        count = f"{len(bridges)} {'bridge' if len(bridges) == 1 else 'bridges'}"
        self.title.setText(tr(f"{count}, {by_hand} by hand" if by_hand else f"{count}, one by one"))
        self.out_button.setEnabled(self.list.currentRow() >= 0)
        self.auto_button.setEnabled(bool(own.step.placed or own.step.avoided))
        self.lock_button.setEnabled(by_hand < len(bridges))
        self.unfit_button.setVisible(bool(unfit))
        self.unfit_button.setText(tr(f"Forget {unfit} that {'does' if unfit == 1 else 'do'} not fit any more"))

    def hold(self, number: int) -> None:
        """Pick a bridge from outside."""
        self.list.setCurrentRow(number)

    def expect(self, number: int) -> None:
        """A bridge was placed on the table: hold it once it is there, by its number."""
        self.add_button.setChecked(False)
        self._expected = number

    def take_out(self) -> None:
        number = self.list.currentRow()
        if self._own is not None and 0 <= number < len(self._own.found.plan.bridges):
            self._change("Take a bridge out", without_bridge(self.session.job, self._owner, self._own, number))
            self.list.setCurrentRow(-1)

    def _pick(self, number: int) -> None:
        self.out_button.setEnabled(number >= 0)
        self.held.emit(number)

    def _lock(self) -> None:
        if self._own is not None:
            numbers = range(len(self._own.found.plan.bridges))
            self._change("Lock all bridges", locked(self.session.job, self._owner, self._own, numbers))

    def _forget(self) -> None:
        if self._own is not None:
            self._change("Bridges by themselves", automatic(self.session.job, self._owner, self._own))

    def _drop_unfit(self) -> None:
        if self._own is not None:
            self._change("Forget bridges", without_unfit(self.session.job, self._owner, self._own))

    def _change(self, title: str, job: Job) -> None:
        self.session.change(title, job)


def bridge_words(own: FoundBridges, number: int, unit: Unit) -> str:
    """One line about a bridge."""
    bridge = own.found.plan.bridges[number]
    what = "a short tie, weak" if bridge.weak else f"{format_length(bridge.length, unit)} long"
    return f"{number + 1}:  {what}{', by hand' if number < len(own.found.by_hand) else ''}"
