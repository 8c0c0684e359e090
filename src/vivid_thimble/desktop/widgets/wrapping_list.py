"""A list whose entries wrap their text; Qt's own guess at their height forgets the icon beside it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem

MARGINS = 28
"""Pixels beside the icon and the text."""
TICK = 24
"""Pixels of a box to tick."""
LOWEST = 30


class WrappingList(QListWidget):
    """Give it entries, then call ``make_room``; it does so itself when its width changes."""

    def __init__(self) -> None:
        super().__init__()
        self.has_ticks = False
        self.setWordWrap(True)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self._row_changed = False
        self.currentRowChanged.connect(self._note_change)
        self.itemClicked.connect(self._tell_again)
        self.verticalScrollBar().rangeChanged.connect(self._show_handle)

    def _show_handle(self, low: int, high: int) -> None:
        """The bar's handle is gone when all is shown."""
        self.verticalScrollBar().setEnabled(high > low)

    def _note_change(self, row: int) -> None:
        self._row_changed = True

    def _tell_again(self, entry: QListWidgetItem) -> None:
        """A click on the row that is current already takes it in hand again."""
        changed, self._row_changed = self._row_changed, False
        if not changed:
            self.currentRowChanged.emit(self.row(entry))
            self._row_changed = False

    def make_room(self) -> None:
        """Entries as high as their wrapped text; another height is no change that anybody made."""
        silent = self.blockSignals(True)
        for row in range(self.count()):
            entry = self.item(row)
            beside = self.iconSize().width() if not entry.icon().isNull() else 0
            beside += TICK if entry.flags() & Qt.ItemFlag.ItemIsUserCheckable and self.has_ticks else 0
            width = max(self.viewport().width() - MARGINS - beside, 60)
            metrics = QFontMetrics(entry.font()) if entry.font().bold() else self.fontMetrics()
            box = metrics.boundingRect(0, 0, width, 2000, Qt.TextFlag.TextWordWrap, entry.text())
            entry.setSizeHint(QSize(width, max(box.height() + 12, LOWEST, 36 if not entry.icon().isNull() else 0)))
        self.blockSignals(silent)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.make_room()
