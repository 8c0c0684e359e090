"""The further settings of the step in hand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QListWidgetItem, QWidget

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.core.lengths import fine_unit
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.ranges import Gentle, range_of
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.slice import DividedPiece
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.shape.step_controls import Choice, Control, Length, Others, Pieces, Switch, kind_of
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

Show = Callable[[Any], None]
ROW_PX = 32
"""About the height of a row in a list."""


class StepDetails(Panel):
    """Built anew for another step; changed values are only shown. ``changed`` carries a title and the new values."""

    changed = Signal(str, object)
    spot_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self._shown: tuple[type[Step], str] | None = None
        self._inner: QWidget | None = None
        self._shows: list[Show] = []
        self._owner = ""
        self._found: tuple[DividedPiece, ...] = ()

    def show_step(self, step: Step | None, owner: str, pieces: tuple[DividedPiece, ...] = ()) -> None:
        """``owner``: the element or film that has it; ``pieces`` into which it divides that one."""
        self._owner, self._found = owner, pieces
        key = None if step is None else (type(step), step.id)
        if key != self._shown:
            self._shown = key
            self._rebuild(step)
        self.setVisible(bool(self._shows))
        for show in self._shows:
            show(step)

    def _rebuild(self, step: Step | None) -> None:
        if self._inner is not None:
            self._inner.hide()
            self._inner.deleteLater()
        page = Panel(self.session)
        page.column.setContentsMargins(0, 0, 0, 0)
        self._inner, self._shows = page, []
        self.column.addWidget(page)
        if step is None:
            return
        kind = kind_of(step)
        if not kind.controls:
            return
        page.section(step.TITLE)
        build: dict[type[Control], Callable[[Panel, Any, type[Step]], Show]] = {
            Choice: self._choice,
            Switch: self._switch,
            Length: self._length,
            Others: self._others,
            Pieces: self._pieces,
        }
        self._shows = [build[type(control)](page, control, type(step)) for control in kind.controls]
        if kind.hint:
            page.hint(kind.hint)

    def _change(self, control: Control, value: object) -> None:
        self.changed.emit(control.word.replace("&", ""), {control.attribute: value})

    # -- each kind of control in its row; what shows a step's value in it --------------

    def _choice(self, page: Panel, control: Choice, kind: type[Step]) -> Show:
        box = page.choice(control.name, control.entries, lambda key: self._change(control, key))
        page.row(control.word, box)
        return lambda step: _show_choice(box, control, step)

    def _switch(self, page: Panel, control: Switch, kind: type[Step]) -> Show:
        tick = QCheckBox(control.word)
        tick.setObjectName(control.name)
        tick.clicked.connect(lambda on: self._change(control, on))
        page.column.addWidget(tick)
        return lambda step: tick.setChecked(getattr(step, control.attribute))

    def _length(self, page: Panel, control: Length, kind: type[Step]) -> Show:
        limits = Gentle if control.square else range_of(kind, control.attribute)
        field = NumberField(control.title, control.name, limits)
        field.may_be_empty = control.attribute == "to"
        field.committed.connect(lambda mm: self._change(control, mm * abs(mm) if control.square else mm))
        field.emptied.connect(lambda: self._change(control, None))
        page.row(control.word, field)
        return lambda step: self._show_length(field, control, step)

    def _show_length(self, field: NumberField, control: Length, step: Any) -> None:
        value = getattr(step, control.attribute)
        field.set_unit(fine_unit(self.session.job.unit))
        field.set_value(abs(value) ** 0.5 if control.square and value is not None else value)

    def _others(self, page: Panel, control: Others, kind: type[Step]) -> Show:
        page.hint(control.hint)
        entries = _ticked_list(page, control)

        def take(_: QListWidgetItem) -> None:
            ticked = [e.data(Qt.ItemDataRole.UserRole) for e in _entries(entries) if _is_ticked(e)]
            self._change(control, tuple(ticked))

        def show(step: Any) -> None:
            named = getattr(step, control.attribute)
            others = [e for e in elements_of(self.session.job.item) if e.id != self._owner]
            names = {e.id: e.name.replace("\n", " / ") for e in others}
            order = [one for one in named if one in names] + [one for one in names if one not in named]
            _fill(entries, [(one, Said(names[one]), one in named) for one in order])
            entries.setFixedHeight(min(max(len(order), 1), 4) * ROW_PX + 14)

        entries.itemChanged.connect(take)
        return show

    def _pieces(self, page: Panel, control: Pieces, kind: type[Step]) -> Show:
        hint, entries = page.hint(control.hint), _ticked_list(page, control)
        entries.setMaximumHeight(130)

        def take(_: QListWidgetItem) -> None:
            out = [self._found[k].place for k, e in enumerate(_entries(entries)) if not _is_ticked(e)]
            self._change(control, tuple(out))

        def show(step: Any) -> None:
            for widget in (entries, hint):
                widget.setVisible(bool(self._found))
            words = [
                Message.of("Piece {number}: {area} mm²", number=k + 1, area=f"{one.area:.0f}")
                for k, one in enumerate(self._found)
            ]
            _fill(entries, [(k, words[k], not one.left_out) for k, one in enumerate(self._found)])

        entries.itemChanged.connect(take)
        entries.currentRowChanged.connect(self._show_piece)
        return show

    def _show_piece(self, row: int) -> None:
        if 0 <= row < len(self._found):
            self.spot_wanted.emit(self._found[row])


def _ticked_list(page: Panel, control: Others | Pieces) -> WrappingList:
    entries = WrappingList()
    entries.has_ticks = True
    entries.setObjectName(control.name)
    entries.setAccessibleName(tr(control.title))
    page.column.addWidget(entries)
    return entries


def _show_choice(box: QComboBox, control: Choice, step: Any) -> None:
    keys = [key for key, _ in control.entries]
    value = getattr(step, control.attribute)
    box.setCurrentIndex(keys.index(value) if value in keys else 0)


def _entries(entries: WrappingList) -> list[QListWidgetItem]:
    return [entries.item(row) for row in range(entries.count())]


def _is_ticked(entry: QListWidgetItem) -> bool:
    return entry.checkState() == Qt.CheckState.Checked


def _fill(entries: WrappingList, rows: list[tuple[Any, Message | Said, bool]]) -> None:
    """Rows of key, words and tick; the row in hand stays."""
    held = entries.currentRow()
    entries.blockSignals(True)
    entries.clear()
    for key, words, ticked in rows:
        entry = QListWidgetItem(tr(words))
        entry.setData(Qt.ItemDataRole.UserRole, key)
        entry.setFlags(entry.flags() | Qt.ItemFlag.ItemIsUserCheckable)
        entry.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)
        entries.addItem(entry)
    entries.setCurrentRow(min(held, entries.count() - 1))
    entries.make_room()
    entries.blockSignals(False)
