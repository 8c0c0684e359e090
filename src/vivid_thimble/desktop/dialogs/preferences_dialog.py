"""Preferences: how it looks, units, folders, versions, the screen's true size, and all keys."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeySequence, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.desktop.look.preferences import (
    LANGUAGES,
    MOST_VERSIONS,
    PALETTE_WORDS,
    TEXT_SCALES,
    UNIT_WORDS,
    Preferences,
    keep_preferences,
    read_preferences,
)
from vivid_thimble.desktop.look.theme import palette_in_use, px
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.commands import Commands
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import set_role, tab_row
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog

PAGES = (("look", "Look"), ("work", "Work"), ("screen", "True size"), ("keys", "Keys"))
CHECK_PX = 400
"""So long is the line that is measured on the screen."""
FIXED_KEYS = (
    ("Nudge what is in hand on the table", "Arrow keys"),
    ("Ten times as far", "Shift + arrow keys"),
    ("Pan the table", "Space and drag, or middle button"),
    ("Zoom", "Wheel, + and −"),
    ("Take another element in hand as well", "Shift and click"),
    ("Drag without snapping", "Alt and drag"),
    ("What is in hand on the table: menu", "Menu key, or right button"),
)


class PreferencesDialog(QuietDialog):
    """``changed``: the preferences that were kept."""

    changed = Signal(object)

    def __init__(self, commands: Commands, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Preferences"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(px(620), px(520))
        self._commands = commands
        self._values: Preferences = read_preferences()
        whole = QVBoxLayout(self)
        self.pages = QStackedWidget()
        tabs, self._buttons = tab_row(self, PAGES, self.turn_to, "preferences")
        whole.addLayout(tabs)
        whole.addWidget(self.pages, 1)
        for page in (self._look(), self._work(), self._screen(), self._keys()):
            self.pages.addWidget(page)
        row = QHBoxLayout()
        row.addStretch()
        close = QPushButton(tr("Close"))
        close.setObjectName("closePreferences")
        close.clicked.connect(self.close)
        row.addWidget(close)
        whole.addLayout(row)
        self.turn_to("look")

    def turn_to(self, key: str) -> None:
        self._buttons[key].setChecked(True)
        self.pages.setCurrentIndex([k for k, _ in PAGES].index(key))

    @property
    def page(self) -> str:
        """The key of the page that is shown."""
        return PAGES[self.pages.currentIndex()][0]

    # -- pages ----------------------------------------------------------------------

    def _look(self) -> QWidget:
        page = QWidget()
        form = _form(page)
        form.addRow(tr("Colours"), self._box("prefPalette", "Colours", PALETTE_WORDS, self._values.palette, "palette"))
        sizes = [(scale, f"{scale * 100:.0f} %") for scale in TEXT_SCALES]
        form.addRow(
            tr("Text size"), self._box("prefTextScale", "Text size", sizes, self._values.text_scale, "text_scale")
        )
        form.addRow(tr("Language"), self._box("prefLanguage", "Language", LANGUAGES, self._values.language, "language"))
        start = QCheckBox(tr("Show three ways to begin when it starts"))
        start.setObjectName("prefStart")
        start.setChecked(self._values.start_page)
        start.toggled.connect(lambda on: self._keep(start_page=on))
        form.addRow(start)
        return page

    def _work(self) -> QWidget:
        page = QWidget()
        form = _form(page)
        form.addRow(
            tr("Unit of new jobs"), self._box("prefUnit", "Unit of new jobs", UNIT_WORDS, self._values.unit, "unit")
        )
        versions = [(most, "None" if not most else f"The last {most}") for most in MOST_VERSIONS]
        if self._values.versions not in MOST_VERSIONS:
            versions.append((self._values.versions, f"The last {self._values.versions}"))
        box = self._box("prefVersions", "Earlier versions", versions, self._values.versions, "versions")
        form.addRow(tr("Earlier versions"), box)
        form.addRow(tr("Jobs are in"), self._folder("prefFolder", "Folder of the jobs", "folder"))
        form.addRow(_hint("Limits of films, carriers and machines are in Job, Materials and machines."))
        return page

    def _screen(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.addWidget(
            _hint(
                "Hold a ruler to the screen and measure the line between both marks. With that, True size on the table "
                "is as large as the real thing on this screen."
            )
        )
        column.addWidget(_CheckLine())
        self.line_field = NumberField("Length of the line on the screen", "prefScreen")
        self.line_field.set_unit("in" if self._values.unit.startswith("in") else self._values.unit)
        density = self._values.screen_px_per_mm or self.screen().physicalDotsPerInch() / 25.4
        self.line_field.set_value(CHECK_PX / density)
        self.line_field.committed.connect(self._calibrate)
        row = QFormLayout()
        row.addRow(tr("It measures"), self.line_field)
        column.addLayout(row)
        self.screen_line = _hint("")
        column.addWidget(self.screen_line)
        again = QPushButton(tr("Use what the screen tells of itself"))
        again.setObjectName("prefScreenUsual")
        again.setAutoDefault(False)
        again.clicked.connect(lambda _=False: self._calibrate(None))
        column.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch()
        self._tell_screen()
        return page

    def _keys(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 8, 0, 0)
        self.find_edit = QLineEdit()
        self.find_edit.setObjectName("prefFindKeys")
        self.find_edit.setAccessibleName(tr("Find a command"))
        self.find_edit.setPlaceholderText(tr("Find a command"))
        self.find_edit.textChanged.connect(self._filter_keys)
        column.addWidget(self.find_edit)
        commands = list(self._commands.all.values())
        self.keys = QTableWidget(len(commands) + len(FIXED_KEYS), 2)
        self.keys.setObjectName("prefKeys")
        self.keys.setAccessibleName(tr("All shortcuts"))
        self.keys.setHorizontalHeaderLabels([tr("What it does"), tr("Keys")])
        self.keys.verticalHeader().hide()
        self.keys.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.keys.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.keys.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.keys.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.keys.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self._names = [command.name for command in commands]
        for row, command in enumerate(commands):
            self.keys.setItem(row, 0, QTableWidgetItem(command.title))
            self.keys.setItem(row, 1, QTableWidgetItem(_native(command.keys)))
        for row, (title, keys) in enumerate(FIXED_KEYS, start=len(commands)):
            for column_no, text in enumerate((title, keys)):
                item = QTableWidgetItem(tr(text))
                item.setForeground(QColor(palette_in_use().soft_ink))
                self.keys.setItem(row, column_no, item)
        self.keys.itemSelectionChanged.connect(self._take_row)
        column.addWidget(self.keys, 1)
        row_of = QHBoxLayout()
        self.key_edit = QKeySequenceEdit()
        self.key_edit.setObjectName("prefKeyEdit")
        self.key_edit.setMaximumSequenceLength(1)
        self.key_edit.setAccessibleName(tr("New keys of the command in hand"))
        row_of.addWidget(self.key_edit, 1)
        for word, name, then in (
            ("&Set", "prefKeySet", lambda: self._set_keys(_portable(self.key_edit.keySequence()))),
            ("&None", "prefKeyNone", lambda: self._set_keys("")),
            ("As s&hipped", "prefKeyUsual", self._usual_keys),
        ):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, t=then: t())
            row_of.addWidget(button)
        column.addLayout(row_of)
        self.keys_line = _hint("Pick a command, then press its new keys.")
        self.keys_line.setObjectName("prefKeysLine")
        column.addWidget(self.keys_line)
        return page

    # -- controls -------------------------------------------------------------------

    def _box(self, name: str, word: str, entries: Sequence[tuple[Any, str]], value: object, field: str) -> QComboBox:
        box = QComboBox()
        box.setObjectName(name)
        box.setAccessibleName(tr(word))
        for key, text in entries:
            box.addItem(tr(text), key)
        box.setCurrentIndex(max(box.findData(value), 0))
        box.activated.connect(lambda _: self._keep(**{field: box.currentData()}))
        return box

    def _folder(self, name: str, word: str, field: str) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        edit = QLineEdit(getattr(self._values, field))
        edit.setObjectName(name)
        edit.setAccessibleName(tr(word))
        edit.setPlaceholderText(tr("the usual one"))
        edit.editingFinished.connect(lambda: self._keep(**{field: edit.text().strip()}))
        choose = QPushButton("…")
        choose.setAccessibleName(tr(f"Choose the {word.lower()}"))
        choose.setAutoDefault(False)

        def chosen() -> None:
            folder = QFileDialog.getExistingDirectory(self, tr(word), edit.text())
            if folder:
                edit.setText(folder)
                self._keep(**{field: folder})

        choose.clicked.connect(lambda _=False: chosen())
        row.addWidget(edit, 1)
        row.addWidget(choose)
        return holder

    # -- intentions -----------------------------------------------------------------

    def _keep(self, **values: Any) -> None:
        changed = replace(self._values, **values)
        if changed != self._values:
            self._values = changed
            keep_preferences(changed)
            self.changed.emit(changed)

    def _calibrate(self, mm: float | None) -> None:
        self._keep(screen_px_per_mm=0.0 if mm is None else CHECK_PX / mm)
        if mm is None:
            self.line_field.set_value(CHECK_PX / (self.screen().physicalDotsPerInch() / 25.4))
        self._tell_screen()

    def _tell_screen(self) -> None:
        told = self._values.screen_px_per_mm
        self.screen_line.setText(
            tr(
                f"Measured: {told:.3f} pixels for a millimetre."
                if told
                else "Not measured yet: the screen's own word is used."
            )
        )

    def _filter_keys(self, text: str) -> None:
        for row in range(self.keys.rowCount()):
            item = self.keys.item(row, 0)
            self.keys.setRowHidden(row, item is not None and text.lower() not in item.text().lower())

    def _take_row(self) -> None:
        name = self._held()
        self.key_edit.setKeySequence(QKeySequence(self._commands.all[name].keys) if name else QKeySequence())

    def _held(self) -> str:
        row = self.keys.currentRow()
        return self._names[row] if 0 <= row < len(self._names) else ""

    def _set_keys(self, keys: str) -> None:
        name = self._held()
        if not name:
            self._tell_keys("Pick a command in the list first; the grey ones are fixed.", wrong=True)
            return
        taken_by = self._commands.set_keys(name, keys)
        if taken_by:
            self._tell_keys(
                f"{_native(keys)} belongs to {taken_by}: choose other keys, or take them away there.", wrong=True
            )
            return
        item = self.keys.item(self.keys.currentRow(), 1)
        if item is not None:
            item.setText(_native(keys))
        self._tell_keys(f"{self._commands.all[name].title}: {_native(keys) or 'no keys'}.", wrong=False)

    def _usual_keys(self) -> None:
        if self._held():
            self._set_keys(self._commands.all[self._held()].usual)
            self._take_row()

    def _tell_keys(self, sentence: str, *, wrong: bool) -> None:
        self.keys_line.setText(tr(sentence))
        set_role(self.keys_line, "wrong" if wrong else "hint")


class _CheckLine(QWidget):
    """A line of known length in pixels, to hold a ruler to."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(50)
        self.setMinimumWidth(CHECK_PX + 20)
        self.setAccessibleName(tr("The line to measure"))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(palette_in_use().raised))
            painter.setPen(QPen(QColor(palette_in_use().ink), 1))
            y = self.height() // 2
            painter.drawLine(10, y, 10 + CHECK_PX, y)
            for x in (10, 10 + CHECK_PX):
                painter.drawLine(x, y - 14, x, y + 14)
            painter.drawText(QRectF(10, y, CHECK_PX, 22), Qt.AlignmentFlag.AlignCenter, tr("from mark to mark"))


def _form(page: QWidget) -> QFormLayout:
    form = QFormLayout(page)
    form.setContentsMargins(4, 12, 4, 4)
    form.setVerticalSpacing(10)
    form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
    return form


def _hint(text: str) -> QLabel:
    label = PlainLabel(tr(text))
    label.setWordWrap(True)
    label.setProperty("role", "hint")
    return label


def _portable(keys: QKeySequence) -> str:
    return keys.toString(QKeySequence.SequenceFormat.PortableText)


def _native(keys: str) -> str:
    return QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText)
