"""A dialog in which Enter does what the field in hand means, and presses no button that nobody pointed at."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QPushButton


class QuietDialog(QDialog):
    """``main_button``: what Enter presses when no other button has the focus; None: nothing.

    Left alone the toolkit takes the first button for that, which may be one that opens a file chooser.
    """

    main_button: QPushButton | None = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
            return
        held = self.focusWidget()
        button = held if isinstance(held, QPushButton) else self.main_button
        if button is not None and button.isEnabled() and button.isVisible():
            button.click()
        event.accept()
