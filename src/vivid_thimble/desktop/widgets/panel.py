"""What stations and their pages share: sections, hints and labelled rows in a column."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.job.edits import with_source
from vivid_thimble.core.job.values import Item, source_in
from vivid_thimble.core.sources.source import SourceKind
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.plain_label import PlainLabel


class Panel(QWidget):
    """A column of sections, hints and labelled rows about the open job."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setSpacing(7)

    def change_source(self, kind: type[SourceKind], title: str, *, merge: str = "", **values: object) -> None:
        """Change the source in hand if it is of that kind; changes with the same ``merge`` are undone together."""
        chosen = self.session.chosen
        if source_in(self.session.job, chosen, kind) is not None:
            job = with_source(self.session.job, chosen, kind, **values)
            self.session.change(title, job, merge=f"{merge} {chosen}" if merge else "")

    def section(self, text: str) -> QLabel:
        label = PlainLabel(tr(text))
        label.setProperty("role", "section")
        label.setIndent(0)
        self.column.addWidget(label)
        return label

    def hint(self, text: str = "", role: str = "hint") -> QLabel:
        label = PlainLabel(tr(text))
        label.setProperty("role", role)
        label.setWordWrap(True)
        label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.column.addWidget(label)
        return label

    def choice(self, name: str, entries: Sequence[tuple[Any, str]], chosen: Callable[[Any], object]) -> QComboBox:
        """A box of entries (key, word); ``chosen`` gets the key of the one picked. Put it into a row."""
        box = QComboBox()
        box.setObjectName(name)
        for key, word in entries:
            box.addItem(tr(word), key)
        box.activated.connect(lambda _: chosen(box.currentData()))
        return box

    def tabs(
        self, entries: Sequence[tuple[str, str]], chosen: Callable[[str], object], prefix: str
    ) -> dict[str, QPushButton]:
        """A row of buttons (key, word) of which one is down, the first at the beginning; named by prefix and key."""
        row, buttons = tab_row(self, entries, chosen, prefix)
        self.column.addLayout(row)
        return buttons

    def row(self, word: str, *widgets: QWidget) -> QHBoxLayout:
        """A labelled row; the label is the buddy of the first control."""
        row = QHBoxLayout()
        row.setSpacing(6)
        label = PlainLabel(tr(word))
        label.setMinimumWidth(98)
        label.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        label.setContentsMargins(0, 6, 0, 0)
        row.addWidget(label)
        for widget in widgets:
            if isinstance(widget, QComboBox):
                # a long entry must not widen the tray
                widget.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
                widget.setMinimumContentsLength(8)
            row.addWidget(widget, 1)
        if widgets:
            label.setBuddy(widgets[0])
        self.column.addLayout(row)
        return row


def tab_row(
    parent: QWidget, entries: Sequence[tuple[str, str]], chosen: Callable[[Any], object], prefix: str
) -> tuple[QHBoxLayout, dict[str, QPushButton]]:
    """A row of buttons (key, word) of which one is down, the first at the beginning; named by prefix and key."""
    row, group = QHBoxLayout(), QButtonGroup(parent)
    row.setSpacing(4)
    buttons: dict[str, QPushButton] = {}
    for key, word in entries:
        button = QPushButton(tr(word))
        button.setObjectName(f"{prefix}_{key}")
        button.setCheckable(True)
        button.setAutoDefault(False)
        button.setChecked(not buttons)
        button.clicked.connect(lambda _=False, k=key: chosen(k))
        group.addButton(button)
        row.addWidget(button)
        buttons[key] = button
        _take_tab_when_down(button, down=button.isChecked())
    group.buttonToggled.connect(lambda button, down: _take_tab_when_down(button, down=down))
    return row, buttons


def _take_tab_when_down(button: QAbstractButton, *, down: bool) -> None:
    """Of buttons that exclude each other Tab goes to the one that is down, and the arrows to the others."""
    button.setFocusPolicy(Qt.FocusPolicy.StrongFocus if down else Qt.FocusPolicy.ClickFocus)


def push_button(
    word: str, name: str, then: Callable[[], object] | None = None, into: QLayout | None = None, *, tip: str = ""
) -> QPushButton:
    """A button that Enter in a field does not press; ``then``: what it does, ``into``: where it lies."""
    made = QPushButton(tr(word))
    made.setObjectName(name)
    made.setAutoDefault(False)
    if tip:
        made.setToolTip(tr(tip))
    if then is not None:
        made.clicked.connect(lambda _=False: then())
    if into is not None:
        into.addWidget(made)
    return made


def scrolling(content: QWidget | None = None) -> QScrollArea:
    """Room for what may be higher than the window; it is never wider."""
    room = QScrollArea()
    room.setWidgetResizable(True)
    room.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    room.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    if content is not None:
        room.setWidget(content)
    return room


def clear_layout(layout: QLayout) -> None:
    """Take all widgets out of a layout and let Qt delete them."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def show_row(row: QLayout, *, visible: bool) -> None:
    """Show or hide all widgets of a row."""
    for k in range(row.count()):
        item = row.itemAt(k)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.setVisible(visible)


def show_films(box: QComboBox, row: QLayout, item: Item) -> None:
    """The films of an item to choose from, the same one chosen; one alone needs no choice."""
    names = [f"{layer.film.name} ({number})" for number, layer in enumerate(item.layers, start=1)]
    if names != [box.itemText(k) for k in range(box.count())]:
        held = box.currentIndex()
        box.clear()
        for number, name in enumerate(names):
            box.addItem(name, number)
        box.setCurrentIndex(min(max(held, 0), len(names) - 1))
    show_row(row, visible=len(names) > 1)


def set_quietly(widget: QSlider | QSpinBox | QDoubleSpinBox, value: float) -> None:
    """Show a value without telling anybody."""
    widget.blockSignals(True)
    if isinstance(widget, QDoubleSpinBox):
        widget.setValue(value)
    else:
        widget.setValue(round(value))
    widget.blockSignals(False)


def say_it_was(label: QLabel) -> None:
    """Mark a sentence as one about an earlier state; showing anything else takes the mark away."""
    mark = tr("Was: ")
    if label.text() and not label.text().startswith(mark):
        label.setText(f"{mark}{label.text()}")
        set_role(label, "hint")


def set_role(label: QLabel, role: str) -> None:
    """Give a label another role of the style sheet."""
    label.setProperty("role", role)
    label.style().polish(label)
