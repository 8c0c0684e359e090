"""What all stations share: title, the question they answer, rows of controls."""

from __future__ import annotations

from typing import ClassVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLayout, QSizePolicy, QVBoxLayout, QWidget

from vivid_thimble.desktop.session import Session
from vivid_thimble.desktop.work_path import Standing


class Station(QWidget):
    """Base of the trays. ``told`` carries a sentence for the notice bar."""

    KEY: ClassVar[str]
    TITLE: ClassVar[str]
    QUESTION: ClassVar[str]
    told = Signal(str)
    finding_chosen = Signal(int)
    look_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(7)
        title, question = QLabel(self.TITLE), QLabel(self.QUESTION)
        title.setObjectName("stationTitle")
        question.setObjectName("stationQuestion")
        question.setWordWrap(True)
        self.column.addWidget(title)
        self.column.addWidget(question)
        self.build()
        session.job_changed.connect(self.show_job)
        session.element_chosen.connect(self.show_job)
        session.result_changed.connect(self.show_result)

    def build(self) -> None:
        """Add the controls."""
        raise NotImplementedError

    def show_job(self) -> None:
        """Show the current recipe."""

    def show_result(self) -> None:
        """Show what was computed."""

    def standing(self) -> Standing:
        """How the station stands, for the work path."""
        raise NotImplementedError

    def section(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setProperty("role", "section")
        label.setIndent(0)
        self.column.addWidget(label)
        return label

    def hint(self, text: str = "", role: str = "hint") -> QLabel:
        label = QLabel(text)
        label.setProperty("role", role)
        label.setWordWrap(True)
        label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.column.addWidget(label)
        return label

    def row(self, word: str, *widgets: QWidget) -> QHBoxLayout:
        """A labelled row; the label is the buddy of the first control."""
        row = QHBoxLayout()
        row.setSpacing(6)
        label = QLabel(word)
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


def set_role(label: QLabel, role: str) -> None:
    """Give a label another role of the style sheet."""
    label.setProperty("role", role)
    label.style().polish(label)
