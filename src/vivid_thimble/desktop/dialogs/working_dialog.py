"""Dialogs that work something out on a thread of their own while the window goes on."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QWidget

from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog


class WorkingDialog(QuietDialog):
    """Ends its work however it is closed, then goes."""

    def __init__(self, session: Session, name: str, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self.setWindowTitle(tr(title))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.session = session
        self._element_id = session.chosen

    def stop(self) -> None:
        """End the thread; called at least once, perhaps twice."""
        raise NotImplementedError

    def closeEvent(self, event: QCloseEvent) -> None:
        self.stop()
        super().closeEvent(event)

    def done(self, result: int) -> None:
        """Escape comes here without a close event."""
        self.stop()
        super().done(result)
