"""Undo keys belong to the job, also while a text field has the focus.

A text field keeps Ctrl+Z for itself by accepting the key before any shortcut sees it.
Only a field with text that is not committed yet may do that.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractSpinBox, QLineEdit, QPlainTextEdit, QWidget


class UndoKeys(QObject):
    """Lets undo and redo through to the window's shortcuts."""

    def serve(self, parent: QWidget) -> None:
        """Watch all text fields below a widget."""
        for kind in (QLineEdit, QPlainTextEdit, QAbstractSpinBox):
            for field in parent.findChildren(kind):
                field.installEventFilter(self)
        for text in parent.findChildren(QPlainTextEdit):
            text.setUndoRedoEnabled(False)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        return is_undo_for_the_job(watched, event) and _ignored(event)


def is_undo_for_the_job(watched: QObject, event: QEvent) -> bool:
    """Whether an event is an undo or redo key that the watched field has no use for."""
    if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
        return False
    if not (event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)):
        return False
    return not (isinstance(watched, QLineEdit) and watched.isModified())


def _ignored(event: QEvent) -> bool:
    event.ignore()
    return True
