"""The further settings of the step in hand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QListWidgetItem, QWidget

from vivid_thimble.core.evaluate.results import DividedPiece
from vivid_thimble.core.job.values import elements_of
from vivid_thimble.core.lengths import fine_unit
from vivid_thimble.core.ranges import Gentle, range_of
from vivid_thimble.core.steps import Slice, Step
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.shape.step_controls import Choice, Control, Length, Switch, kind_of
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

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
        self._shows: list[Callable[[Any], None]] = []
        self._others: WrappingList | None = None
        self._pieces: WrappingList | None = None
        self._found: tuple[DividedPiece, ...] = ()

    def show_step(self, step: Step | None, owner: str, pieces: tuple[DividedPiece, ...] = ()) -> None:
        """``owner``: the element or film that has it."""
        key = None if step is None else (type(step), step.id)
        if key != self._shown:
            self._shown = key
            self._rebuild(step)
        self.setVisible(bool(self._shows))
        if step is None:
            return
        for show in self._shows:
            show(step)
        if isinstance(step, Slice):
            self._show_slice(step, owner, pieces)

    def _rebuild(self, step: Step | None) -> None:
        if self._inner is not None:
            self._inner.hide()
            self._inner.deleteLater()
        page = Panel(self.session)
        page.column.setContentsMargins(0, 0, 0, 0)
        self._inner, self._shows = page, []
        self._others = self._pieces = None
        self.column.addWidget(page)
        if step is None:
            return
        kind = kind_of(step)
        if not kind.controls:
            return
        page.section(step.TITLE)
        for control in kind.controls:
            self._shows.append(self._built(page, control, type(step)))
        if isinstance(step, Slice):
            self._build_slice(page)
        if kind.hint:
            page.hint(kind.hint)

    def _built(self, page: Panel, control: Control, kind: type[Step]) -> Callable[[Any], None]:
        """A control in its row; what shows a step's value in it."""
        if isinstance(control, Choice):
            box = page.choice(
                control.name, control.entries, lambda key: self._change(control, {control.attribute: key})
            )
            page.row(control.word, box)
            return lambda step: _show_choice(box, control, step)
        if isinstance(control, Switch):
            tick = QCheckBox(control.word)
            tick.setObjectName(control.name)
            tick.clicked.connect(lambda on: self._change(control, {control.attribute: on}))
            page.column.addWidget(tick)
            return lambda step: tick.setChecked(getattr(step, control.attribute))
        field = NumberField(
            control.title, control.name, Gentle if control.square else range_of(kind, control.attribute)
        )
        field.may_be_empty = control.attribute == "to"
        field.committed.connect(lambda mm: self._take_length(control, mm))
        field.emptied.connect(lambda: self._change(control, {control.attribute: None}))
        page.row(control.word, field)
        return lambda step: self._show_length(field, control, step)

    def _take_length(self, control: Length, mm: float) -> None:
        self._change(control, {control.attribute: mm * abs(mm) if control.square else mm})

    def _show_length(self, field: NumberField, control: Length, step: Any) -> None:
        value = getattr(step, control.attribute)
        field.set_unit(fine_unit(self.session.job.unit))
        field.set_value(abs(value) ** 0.5 if control.square and value is not None else value)

    def _change(self, control: Control, values: dict[str, Any]) -> None:
        self.changed.emit(control.word.replace("&", ""), values)

    # -- what a slice is cut by, and its pieces ----------------------------------------

    def _build_slice(self, page: Panel) -> None:
        page.hint("Cut by these, in this order; tick what cuts:")
        self._others = WrappingList()
        self._others.has_ticks = True
        self._others.setObjectName("sliceBy")
        self._others.setAccessibleName(tr("Elements that cut this one"))
        self._others.itemChanged.connect(self._take_others)
        page.column.addWidget(self._others)
        self._pieces_hint = page.hint("Pieces; untick those that are left out:")
        self._pieces = WrappingList()
        self._pieces.has_ticks = True
        self._pieces.setObjectName("slicePieces")
        self._pieces.setAccessibleName(tr("Pieces that the element is divided into"))
        self._pieces.setMaximumHeight(130)
        self._pieces.itemChanged.connect(self._take_pieces)
        self._pieces.currentRowChanged.connect(self._show_piece)
        page.column.addWidget(self._pieces)

    def _show_slice(self, step: Slice, owner: str, pieces: tuple[DividedPiece, ...]) -> None:
        assert self._others is not None and self._pieces is not None
        names = {e.id: e.name.replace("\n", " / ") for e in elements_of(self.session.job.item) if e.id != owner}
        order = [one for one in step.by if one in names] + [one for one in names if one not in step.by]
        _fill(self._others, [(one, names[one], one in step.by) for one in order])
        self._others.setFixedHeight(min(max(len(order), 1), 4) * ROW_PX + 14)
        self._found = pieces if step.keep == "divide" else ()
        for widget in (self._pieces, self._pieces_hint):
            widget.setVisible(step.keep == "divide")
        _fill(
            self._pieces,
            [(k, f"Piece {k + 1}: {one.area:.0f} mm²", not one.left_out) for k, one in enumerate(self._found)],
        )

    def _take_others(self, _: QListWidgetItem) -> None:
        assert self._others is not None
        ticked = [e.data(Qt.ItemDataRole.UserRole) for e in _entries(self._others) if _is_ticked(e)]
        self.changed.emit("Cut by", {"by": tuple(ticked)})

    def _take_pieces(self, _: QListWidgetItem) -> None:
        assert self._pieces is not None
        out = [self._found[k].place for k, e in enumerate(_entries(self._pieces)) if not _is_ticked(e)]
        self.changed.emit("Pieces that stay", {"left_out": tuple(out)})

    def _show_piece(self, row: int) -> None:
        if 0 <= row < len(self._found):
            self.spot_wanted.emit(self._found[row])


def _show_choice(box: QComboBox, control: Choice, step: Any) -> None:
    keys = [key for key, _ in control.entries]
    value = getattr(step, control.attribute)
    box.setCurrentIndex(keys.index(value) if value in keys else 0)


def _entries(entries: WrappingList) -> list[QListWidgetItem]:
    return [entries.item(row) for row in range(entries.count())]


def _is_ticked(entry: QListWidgetItem) -> bool:
    return entry.checkState() == Qt.CheckState.Checked


def _fill(entries: WrappingList, rows: list[tuple[Any, str, bool]]) -> None:
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
