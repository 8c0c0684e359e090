"""A field for lengths: units, fractions and arithmetic, and what it understood.

Wrong input stays in the field, marked and explained; the last good value holds until
the text is right. Enter or leaving the field commits.
"""

from __future__ import annotations

import math

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from vivid_thimble.core.errors import LengthNotUnderstood
from vivid_thimble.core.lengths import Unit, format_length, parse_length_within
from vivid_thimble.core.ranges import Size
from vivid_thimble.desktop.look.words import figures, tr
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

FLOATING_PX = 220


class NumberField(QWidget):
    """Emits ``committed`` (mm) when a new, understood length in its range (see ``core.ranges``) is entered."""

    committed = Signal(float)
    emptied = Signal()
    """An empty field was entered where that means something."""

    def __init__(self, what: str, name: str, range_: object = Size, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._what, self._range = what, range_
        self._unit: Unit = "mm"
        self._value: float | None = None
        self.may_be_empty = False
        self._floats = False
        self.edit = QLineEdit(self)
        self.edit.setObjectName(name)
        self.edit.setAccessibleName(tr(what))
        self.edit.setMinimumWidth(76)
        self.hint = PlainLabel(self)
        self.hint.setObjectName(f"{name}Hint")
        self.hint.setProperty("role", "hint")
        self.hint.setWordWrap(True)
        self.hint.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        layout.addWidget(self.edit)
        layout.addWidget(self.hint)
        self.setFocusProxy(self.edit)
        self.edit.textEdited.connect(self._explain)
        self.edit.returnPressed.connect(self.commit)
        self.edit.editingFinished.connect(self.commit)
        self.edit.installEventFilter(self)
        leave_undo_to_the_job(self.edit)

    def float_hint(self) -> None:
        """What is said of the text lies over the window below the field, and pushes nothing down."""
        layout = self.layout()
        assert layout is not None
        layout.removeWidget(self.hint)
        self._floats = True
        self.hint.setProperty("floats", True)

    def _show_hint(self, *, shown: bool) -> None:
        if self._floats and shown:
            self.hint.setParent(self.window())
            self.hint.setFixedWidth(max(self.width(), FLOATING_PX))
            self.hint.adjustSize()
            self.hint.move(self.mapTo(self.window(), QPoint(0, self.height() + 2)))
            self.hint.raise_()
        self.hint.setVisible(shown)

    def set_unit(self, unit: Unit) -> None:
        if unit != self._unit:
            self._unit = unit
            self._show_value()

    @property
    def value(self) -> float | None:
        """The last length that was understood, in mm."""
        return self._value

    def set_value(self, value: float | None) -> None:
        """Show a length from outside; text that is being edited or is wrong stays."""
        self._value = value
        if not self.is_wrong() and not self.edit.isModified():
            self._show_value()

    def is_wrong(self) -> bool:
        return bool(self.edit.property("wrong"))

    def commit(self) -> None:
        """Take the text as the new value if it is understood."""
        if not self.edit.isModified():
            return
        if self.may_be_empty and not self.edit.text().strip():
            self._mark("")
            self.edit.setModified(False)
            if self._value is not None:
                self._value = None
                self.emptied.emit()
            return
        try:
            value = self._parsed()
        except LengthNotUnderstood as error:
            self._mark(str(error))
            return
        self._mark("")
        self.edit.setModified(False)
        if self._value is None or abs(value - self._value) > 1e-9:
            self._value = value
            self.committed.emit(value)
        self._show_value()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Escape gives the field back its last good value."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QKeyEvent.Type.KeyPress
            and event.key() == Qt.Key.Key_Escape
        ):
            self._mark("")
            self._show_value()
            return True
        if isinstance(event, QFocusEvent) and event.type() == QFocusEvent.Type.FocusIn:
            self.edit.selectAll()
        return False

    def _parsed(self) -> float:
        return parse_length_within(self.edit.text(), self._range, self._what, self._unit)

    def _shown(self, value: float) -> str:
        return format_length(value, self._unit)

    def _explain(self) -> None:
        """Say what the text means while it is typed."""
        try:
            value = self._parsed()
        except LengthNotUnderstood:
            self.hint.hide()
            return
        self._mark("")
        shown = f"= {self._shown(value)}"
        self.hint.setText(figures(shown))
        plain = shown[2:].removesuffix(f" {self._unit}")
        self._show_hint(shown=self.edit.text().strip().replace(",", ".") != plain)

    def _mark(self, sentence: str) -> None:
        self.edit.setProperty("wrong", bool(sentence))
        self.edit.setToolTip(tr(sentence))
        self.edit.style().polish(self.edit)
        self.hint.setProperty("role", "wrong" if sentence else "hint")
        self.hint.style().polish(self.hint)
        self.hint.setText(tr(sentence))
        self._show_hint(shown=bool(sentence))

    def _show_value(self) -> None:
        self.edit.setText("" if self._value is None else figures(self._shown(self._value)))
        self.edit.setCursorPosition(0)
        self.edit.setModified(False)
        self.hint.hide()


class FigureField(NumberField):
    """The same field for plain figures with a word behind them, such as degrees."""

    def __init__(self, what: str, name: str, suffix: str, low: float, high: float) -> None:
        super().__init__(what, name)
        self._suffix, self._low, self._high = suffix, low, high

    def _parsed(self) -> float:
        text = self.edit.text().replace(",", ".").replace("−", "-").strip()
        try:
            value = float(text.removesuffix(self._suffix.strip()).strip())
        except ValueError:
            value = math.nan
        if not self._low <= value <= self._high:
            raise LengthNotUnderstood(
                f'{self._what} must be a number from {self._low:g} to {self._high:g}, not "{self.edit.text().strip()}".'
            )
        return value

    def _shown(self, value: float) -> str:
        return f"{value:.2f}".rstrip("0").rstrip(".") + self._suffix
