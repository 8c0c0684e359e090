"""Find an element by its name, on any item of the job."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog


class FindDialog(QuietDialog):
    """Type a part of the name, Enter takes the first one. ``found``: it is in hand now."""

    found = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Find an element"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(380, 320)
        self._session = session
        column = QVBoxLayout(self)
        self.edit = QLineEdit()
        self.edit.setObjectName("findEdit")
        self.edit.setAccessibleName(tr("Part of its name"))
        self.edit.setPlaceholderText(tr("Part of its name"))
        self.list = QListWidget()
        self.list.setObjectName("findList")
        self.list.setAccessibleName(tr("Elements that have it in their name"))
        self.nothing = PlainLabel(tr("Nothing is called that."))
        self.nothing.setProperty("role", "hint")
        for widget in (self.edit, self.list, self.nothing):
            column.addWidget(widget)
        self.edit.textChanged.connect(lambda _: self._show())
        self.edit.returnPressed.connect(lambda: self._take(self.list.currentItem()))
        self.list.itemActivated.connect(self._take)
        self._show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The arrow keys walk through the list while the name is typed."""
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.list.count():
            by = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow((self.list.currentRow() + by) % self.list.count())
        else:
            super().keyPressEvent(event)

    def _show(self) -> None:
        wanted = self.edit.text().lower()
        job = self._session.job
        self.list.clear()
        for number, item in enumerate(job.items):
            for element in elements_of(item):
                if wanted in element.name.lower() or wanted in item.name.lower():
                    where = f"  · {item.name}" if len(job.items) > 1 else ""
                    row = QListWidgetItem(f"{' / '.join(element.name.splitlines())}{where}")
                    row.setData(Qt.ItemDataRole.UserRole, (number, element.id))
                    self.list.addItem(row)
        self.list.setCurrentRow(0)
        self.nothing.setVisible(not self.list.count())

    def _take(self, row: QListWidgetItem | None) -> None:
        if row is None:
            return
        number, element_id = row.data(Qt.ItemDataRole.UserRole)
        self._session.hold_item(number)
        self._session.choose(element_id)
        self.found.emit()
        self.close()
