"""What is inside a downloaded zip: its drawings to choose from, its fonts, its notes."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.formats.bundle import Bundle, Entry
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog

KIND_WORDS = {
    "drawing": "drawing",
    "picture": "picture of pixels",
    "font": "font",
    "project": "job",
    "notes": "notes",
    "other": "something else",
}


class BundleDialog(QuietDialog):
    """``drawings_chosen`` carries the entries to add, ``fonts_wanted`` asks to keep all fonts."""

    drawings_chosen = Signal(object)
    fonts_wanted = Signal()

    def __init__(self, bundle: Bundle, notes: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("bundleDialog")
        self.setWindowTitle(tr(Message.of("Inside {name}", name=Said(bundle.name))))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(520, 460)
        column = QVBoxLayout(self)
        title = PlainLabel(tr("Which of these shall be cut?"))
        title.setProperty("role", "section")
        column.addWidget(title)
        self.list = QListWidget()
        self.list.setObjectName("bundleEntries")
        self.list.setAccessibleName(tr("Files in the zip"))
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.list.itemDoubleClicked.connect(lambda _: self._take())
        self.list.itemSelectionChanged.connect(self._show_count)
        column.addWidget(self.list, 1)
        hint = PlainLabel(tr("The one that keeps areas and curves best is chosen already. Hold Ctrl to take several."))
        hint.setProperty("role", "hint")
        hint.setWordWrap(True)
        column.addWidget(hint)
        if notes:
            column.addWidget(PlainLabel(tr("Its notes say:")))
            text = QPlainTextEdit(notes)
            text.setObjectName("bundleNotes")
            text.setReadOnly(True)
            text.setMaximumHeight(96)
            column.addWidget(text)
        row = QHBoxLayout()
        if bundle.of_kind("font"):
            fonts = QPushButton(tr("Keep its &fonts"))
            fonts.setObjectName("bundleFonts")
            fonts.clicked.connect(lambda _=False: self.fonts_wanted.emit())
            row.addWidget(fonts)
        row.addStretch()
        close = QPushButton(tr("Cancel"))
        close.clicked.connect(self.reject)
        row.addWidget(close)
        self.take_button = QPushButton()
        self.take_button.setObjectName("bundleTake")
        self.take_button.setProperty("role", "main")
        self.main_button = self.take_button
        self.take_button.clicked.connect(lambda _=False: self._take())
        row.addWidget(self.take_button)
        column.addLayout(row)
        self._fill(bundle)

    def _fill(self, bundle: Bundle) -> None:
        best = bundle.best
        drawings = bundle.of_kind("drawing")
        for entry in (*drawings, *(one for one in bundle.entries if one.kind != "drawing")):
            size = f"{entry.size / 1024:.0f} kB" if entry.size >= 1024 else f"{entry.size} bytes"
            item = QListWidgetItem(f"{entry.name}    {tr(KIND_WORDS[entry.kind])}, {size}")
            item.setData(Qt.ItemDataRole.UserRole, entry)
            if entry.kind != "drawing":
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
            if entry == best:
                item.setSelected(True)
                self.list.setCurrentItem(item)
        self._show_count()

    def _chosen(self) -> list[Entry]:
        return [item.data(Qt.ItemDataRole.UserRole) for item in self.list.selectedItems()]

    def _show_count(self) -> None:
        count = len(self._chosen())
        self.take_button.setText(tr("Add this drawing" if count < 2 else f"Add these {count} drawings"))
        self.take_button.setEnabled(count > 0)

    def _take(self) -> None:
        chosen = self._chosen()
        if chosen:
            self.drawings_chosen.emit(chosen)
            self.accept()
