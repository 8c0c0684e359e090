"""Labels that show every text as it is written."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel


class PlainLabel(QLabel):
    """The toolkit's labels take "<b>" in a name for a command, and names come from files of strangers."""

    def __init__(self, *arguments: Any, **more: Any) -> None:
        super().__init__(*arguments, **more)
        self.setTextFormat(Qt.TextFormat.PlainText)
