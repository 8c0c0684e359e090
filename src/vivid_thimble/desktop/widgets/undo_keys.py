"""Undo keys belong to the job, also while a text field has the focus.

A text field keeps Ctrl+Z for itself by accepting the key before any shortcut sees it.
Only a field with text that is not committed yet may do that.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit, QPlainTextEdit


def leave_undo_to_the_job(field: QLineEdit | QPlainTextEdit) -> None:
    """Let undo and redo keys pass a text field and reach the window's shortcuts."""
    field.installEventFilter(_PassUndo(field))
    if isinstance(field, QPlainTextEdit):
        field.setUndoRedoEnabled(False)


class _PassUndo(QObject):
    """Declines undo keys in the field's name, unless it has text of its own to take back."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
            return False
        keys = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)
        if not any(event.matches(key) for key in keys):
            return False
        if isinstance(watched, QLineEdit) and watched.isModified():
            return False
        event.ignore()
        return True
