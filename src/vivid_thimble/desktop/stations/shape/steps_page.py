"""The steps of an element, or of a whole film: in order, switched, moved up, with their settings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QHideEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QMenu, QPushButton, QWidget

from vivid_thimble.core.evaluate.results import ElementResult, LayerResult, shown_of
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.edits import free_id, with_element, with_steps_of
from vivid_thimble.core.job.values import Job, find_element, layer_of, steps_of
from vivid_thimble.core.messages import Message
from vivid_thimble.core.ranges import range_of
from vivid_thimble.core.steps import Step, Weld, of_kind
from vivid_thimble.core.steps.bridges import FoundBridges
from vivid_thimble.core.steps.slice import DividedPiece
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.shape.bridge_panel import BridgePanel
from vivid_thimble.desktop.stations.shape.joins_panel import JoinsPanel
from vivid_thimble.desktop.stations.shape.step_controls import KINDS, Kind, kind_of
from vivid_thimble.desktop.stations.shape.step_details import StepDetails
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel, clear_layout

SCOPES = (("element", "This element"), ("film", "Whole film"))


class StepsPage(Panel):
    """``bridges_shown``: owner and bridges that can be taken in hand on the table (None for none)."""

    spot_wanted = Signal(object)
    bridges_shown = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self._whole_film = False
        self._held = ""
        """The id of the step whose settings are shown."""
        self._scopes = self.tabs(SCOPES, self._set_scope, "scope")
        self.steps_panel = QWidget()
        self.steps_grid = QGridLayout(self.steps_panel)
        self.steps_grid.setContentsMargins(0, 0, 0, 0)
        self.steps_grid.setSpacing(4)
        self.steps_grid.setColumnStretch(0, 1)
        self.column.addWidget(self.steps_panel)
        self.empty = self.hint()
        self.add_button = QPushButton(tr("+ Add a &step"))
        self.add_button.setObjectName("addStep")
        self.add_menu = QMenu(self)
        self.add_button.setMenu(self.add_menu)
        self._actions = {kind.title: self._add_action(kind) for kind in KINDS if kind.make is not None}
        self.column.addWidget(self.add_button)
        self.details = StepDetails(session)
        self.details.changed.connect(lambda title, values: self._change(title, self._held, values))
        self.details.spot_wanted.connect(self._show_piece)
        self.column.addWidget(self.details)
        self.bridges = BridgePanel(session)
        self.column.addWidget(self.bridges)
        self.joins = JoinsPanel(session)
        self.column.addWidget(self.joins)
        self.helps_tick = QCheckBox(tr("Not cut itself: it only slices others"))
        self.helps_tick.setObjectName("helpsOnly")
        self.helps_tick.clicked.connect(self._set_helps)
        self.column.addWidget(self.helps_tick)
        self.weld_all = QCheckBox(tr("Weld all elements of this film together"))
        self.weld_all.setObjectName("weldAll")
        self.weld_all.clicked.connect(self._toggle_weld_all)
        self.column.addWidget(self.weld_all)
        self.weld_picked = QPushButton(tr("Weld those in hand together"))
        self.weld_picked.setObjectName("weldPicked")
        self.weld_picked.clicked.connect(lambda _=False: self._weld_picked())
        self.column.addWidget(self.weld_picked)
        self.trouble = self.hint("", "wrong")
        self.column.addStretch()

    def _add_action(self, kind: Kind) -> QAction:
        action = QAction(f"{tr(kind.title)}: {tr(kind.line)}", self)
        action.setObjectName(f"add{kind.title}")
        action.triggered.connect(lambda _=False: self._add_step(kind))
        self.add_menu.addAction(action)
        return action

    @property
    def owner(self) -> str:
        """The id of the element or film whose steps are shown."""
        job = self.session.job
        return layer_of(job.item, self.session.chosen).id if self._whole_film else self.session.chosen

    # -- showing --------------------------------------------------------------------

    def hideEvent(self, event: QHideEvent) -> None:
        self.bridges_shown.emit("", None)
        super().hideEvent(event)

    def show_job(self) -> None:
        job, chosen, owner = self.session.job, self.session.chosen, self.owner
        layer = layer_of(job.item, chosen)
        steps = steps_of(job, owner)
        for kind in KINDS:
            if kind.make is not None:
                fits = kind.for_film if self._whole_film else kind.for_element
                lower = kind.title != "Trim" or layer is not job.item.layers[0]
                self._actions[kind.title].setVisible(fits and lower)
        if self._held not in [step.id for step in steps]:
            told = [step.id for step in steps if kind_of(step).controls]
            self._held = told[-1] if told else ""
        self._show_steps(steps)
        self.empty.setVisible(not steps)
        what = "all of this film together" if self._whole_film else "this element"
        self.empty.setText(tr(f"Nothing is done to {what} yet."))
        self.weld_all.setChecked(any(s.enabled and not s.only for s in of_kind(layer.steps, Weld)))
        self.helps_tick.setChecked(bool(chosen) and find_element(job, chosen).helps_only)
        self.helps_tick.setVisible(not self._whole_film)
        self.joins.setVisible(not self._whole_film)
        self.weld_picked.setVisible(len(self.session.picked) > 1)
        self.show_result()

    def show_result(self) -> None:
        step = next((one for one in steps_of(self.session.job, self.owner) if one.id == self._held), None)
        result = self._owner_result()
        pieces: tuple[DividedPiece, ...] = ()
        found = None
        if result is not None and step is not None:
            pieces = tuple(one for one in shown_of(result, DividedPiece) if one.step_id == step.id)
            found = next((one for one in shown_of(result, FoundBridges) if one.step.id == step.id), None)
        self.details.show_step(step, self.owner, pieces)
        self.show_bridges(found)
        problems = result.problems if result is not None else ()
        trouble = " ".join(tr(p.message) for p in problems)
        self.trouble.setText(trouble)
        self.trouble.setVisible(bool(trouble))

    def show_bridges(self, found: FoundBridges | None) -> None:
        self.bridges.show_bridges(self.owner, found)
        self.bridges_shown.emit(self.owner, found if self.isVisible() else None)

    def _owner_result(self) -> ElementResult | LayerResult | None:
        result = self.session.result
        if result is None:
            return None
        own = next((layer for layer in result.layers if layer.layer.id == self.owner), None)
        return own or result.element(self.owner)

    def _show_steps(self, steps: tuple[Step, ...]) -> None:
        focused = self.focusWidget()
        name = focused.objectName() if focused is not None and self.steps_panel.isAncestorOf(focused) else ""
        clear_layout(self.steps_grid)
        for row, step in enumerate(steps):
            self._show_step(row, step, is_first=row == 0)
        again = self.steps_panel.findChildren(QWidget, name) if name else []
        if again:
            again[-1].setFocus()

    def _show_step(self, row: int, step: Step, *, is_first: bool) -> None:
        tick = QCheckBox(tr(step.TITLE))
        tick.setObjectName(f"step_{step.id}")
        tick.setChecked(step.enabled)
        tick.setToolTip(tr(step.describe()))
        tick.clicked.connect(lambda on: self._change(f"{step.TITLE} {'on' if on else 'off'}", step.id, {"enabled": on}))
        self.steps_grid.addWidget(tick, row, 0, Qt.AlignmentFlag.AlignTop)
        field = self._step_field(step)
        if field is not None:
            self.steps_grid.addWidget(field, row, 1)
        if kind_of(step).controls:
            more = self._small(f"settings_{step.id}", "…", f"Settings of {step.TITLE}", lambda: self._hold(step.id))
            more.setCheckable(True)
            more.setChecked(step.id == self._held)
            self.steps_grid.addWidget(more, row, 2, Qt.AlignmentFlag.AlignTop)
        up = self._small(f"earlier_{step.id}", "↑", f"{step.TITLE} one step earlier", lambda: self._earlier(step))
        up.setEnabled(not is_first)
        self.steps_grid.addWidget(up, row, 3, Qt.AlignmentFlag.AlignTop)
        away = self._small(f"remove_{step.id}", "×", f"Remove {step.TITLE}", lambda: self._remove_step(step))
        self.steps_grid.addWidget(away, row, 4, Qt.AlignmentFlag.AlignTop)

    def _small(self, name: str, sign: str, spoken: str, then: Callable[[], object]) -> QPushButton:
        button = QPushButton(sign)
        button.setObjectName(name)
        button.setAccessibleName(tr(spoken))
        button.setToolTip(tr(spoken))
        button.setFixedWidth(26)
        button.setStyleSheet("padding: 5px 0;")
        button.clicked.connect(lambda _=False: then())
        return button

    def _step_field(self, step: Step) -> NumberField | None:
        """The one length that a step takes, if it takes one."""
        length = kind_of(step).length
        if length is None:
            return None
        name, title = length
        field = NumberField(title, f"{name}_{step.id}", range_of(type(step), name))
        field.set_value(getattr(step, name))
        field.committed.connect(lambda v: self._change(title, step.id, {name: v}))
        field.set_unit(self.session.job.unit)
        field.setMaximumWidth(96)
        return field

    # -- changing --------------------------------------------------------------------

    def _set_scope(self, key: str) -> None:
        self._whole_film = key == "film"
        self._held = ""
        self.show_job()

    def _hold(self, step_id: str) -> None:
        self._held = step_id
        self.show_job()

    def _steps(self, title: str, change: Callable[[tuple[Step, ...]], tuple[Step, ...]]) -> None:
        if self.owner:
            self.session.change(title, with_steps_of(self.session.job, self.owner, change))

    def _add_step(self, kind: Kind) -> None:
        if kind.make is None:
            return
        step = kind.make(self.session.job, self.session.job.item)
        if kind.controls:
            self._held = step.id
        self._steps(step.TITLE, lambda steps: (*steps, step))

    def _change(self, title: str, step_id: str, values: dict[str, Any]) -> None:
        """Values of a step changed; the rest of it is as it is now."""
        self._steps(title, lambda steps: tuple(replace(s, **values) if s.id == step_id else s for s in steps))

    def _remove_step(self, gone: Step) -> None:
        self._steps(f"Remove {gone.TITLE}", lambda steps: tuple(s for s in steps if s.id != gone.id))

    def _earlier(self, step: Step) -> None:
        def swapped(steps: tuple[Step, ...]) -> tuple[Step, ...]:
            k = [s.id for s in steps].index(step.id)
            return (*steps[: k - 1], steps[k], steps[k - 1], *steps[k + 1 :]) if k > 0 else steps

        self._steps(f"{step.TITLE} earlier", swapped)

    def _set_helps(self, on: bool) -> None:
        if self.session.chosen:
            title = "Only slices others" if on else "Cut itself"
            job = with_element(self.session.job, self.session.chosen, lambda e: replace(e, helps_only=on))
            self.session.change(title, job)

    def _toggle_weld_all(self, on: bool) -> None:
        def changed(steps: tuple[Step, ...]) -> tuple[Step, ...]:
            own = [step for step in of_kind(steps, Weld) if not step.only]
            rest = tuple(step for step in steps if step not in own)
            return (*rest, Weld(id="weld-all")) if on else rest

        self.session.change("Weld all" if on else "Do not weld all", self._film_changed(changed))

    def _weld_picked(self) -> None:
        weld = Weld(id=free_id("weld", self.session.job), only=self.session.picked)
        self.session.change("Weld those in hand", self._film_changed(lambda steps: (*steps, weld)))

    def _film_changed(self, change: Callable[[tuple[Step, ...]], tuple[Step, ...]]) -> Job:
        job = self.session.job
        return with_steps_of(job, layer_of(job.item, self.session.chosen).id, change)

    def _show_piece(self, piece: DividedPiece) -> None:
        words = f"{piece.area:.0f} mm²{', left out' if piece.left_out else ''}"
        self.spot_wanted.emit(Finding("shown-spot", "look", Message.of("{words}", words=words), piece.at, width=2.0))
