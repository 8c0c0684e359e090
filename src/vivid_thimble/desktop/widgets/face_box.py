"""The box of faces: its last entries open other windows, so arrows, wheel and typed letters do not come upon them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox

OPENING = ("choose-file", "show-installed")
"""What the entries that open something hold."""
BY_HAND = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space, Qt.Key.Key_F4)


class FaceBox(QComboBox):
    """Entries that open something are taken from the open list only."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in BY_HAND or event.modifiers() & Qt.KeyboardModifier.AltModifier:
            super().keyPressEvent(event)
        else:
            self._pass_by(lambda: super(FaceBox, self).keyPressEvent(event))

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._pass_by(lambda: super(FaceBox, self).wheelEvent(event))

    def _pass_by(self, step: Callable[[], None]) -> None:
        before = self.currentIndex()
        silent = self.blockSignals(True)
        step()
        if self.currentData() in OPENING:
            self.setCurrentIndex(before)
        self.blockSignals(silent)
        if self.currentIndex() != before:
            self.activated.emit(self.currentIndex())
