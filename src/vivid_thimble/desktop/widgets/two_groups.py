"""Two groups of controls side by side, or one under the other where the window is too narrow for that."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QSizePolicy, QWidget

from vivid_thimble.desktop.widgets.plain_label import PlainLabel

LEAST_NAME_PX = 110


class TwoGroups(QWidget):
    """``apart``: stretch between them while they lie side by side; else they share the room."""

    def __init__(
        self, first: QWidget, second: QWidget, margins: tuple[int, int, int, int], *, spacing: int, apart: bool = False
    ) -> None:
        super().__init__()
        self._first, self._second = first, second
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._row.setSizeConstraint(QBoxLayout.SizeConstraint.SetNoConstraint)  # or it could never become narrow
        self._row.setContentsMargins(*margins)
        self._row.setSpacing(spacing)
        self._row.addWidget(first)
        if apart:
            self._row.addStretch()
        self._row.addWidget(second, 0 if apart else 1)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def needed(self) -> int:
        """So wide it must be to hold both side by side."""
        wide = self._first.minimumSizeHint().width() + self._second.minimumSizeHint().width()
        edges = self._row.contentsMargins()
        return wide + self._row.spacing() + edges.left() + edges.right()

    def sizeHint(self) -> QSize:
        return QSize(self.needed(), self._needed_height())

    def minimumSizeHint(self) -> QSize:
        edges = self._row.contentsMargins()
        wide = max(one.minimumSizeHint().width() for one in (self._first, self._second))
        return QSize(wide + edges.left() + edges.right(), self._needed_height())

    def _needed_height(self) -> int:
        highs = [one.minimumSizeHint().height() for one in (self._first, self._second)]
        edges = self._row.contentsMargins()
        inside = max(highs) if self._is_beside else sum(highs) + self._row.spacing()
        return inside + edges.top() + edges.bottom()

    @property
    def _is_beside(self) -> bool:
        return self._row.direction() == QBoxLayout.Direction.LeftToRight

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.arrange()
        super().resizeEvent(event)

    def arrange(self) -> None:
        """Side by side or not, by the room there is."""
        beside = self.width() >= self.needed()
        self._row.setDirection(QBoxLayout.Direction.LeftToRight if beside else QBoxLayout.Direction.TopToBottom)
        self.setFixedHeight(self._needed_height())


class NameLabel(PlainLabel):
    """One line that is shortened with dots where there is no room; the whole is told on pointing at it."""

    def setText(self, text: str) -> None:
        super().setText(text)
        self.setToolTip(text)

    def minimumSizeHint(self) -> QSize:
        hint = super().minimumSizeHint()
        return QSize(min(hint.width(), LEAST_NAME_PX), hint.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.contentsRect().width())
        with QPainter(self) as painter:
            painter.setPen(self.palette().color(self.foregroundRole()))
            painter.drawText(self.contentsRect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)
