"""Materials and machines: what the workshop has at hand, to look at, to change, to add, to exchange."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from pathlib import Path as FilePath
from typing import Any, Literal

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QColorDialog,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.errors import InputRefused, ThimbleError
from vivid_thimble.core.files import read_file, write_atomically
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.ranges import bounds, range_of
from vivid_thimble.core.storage.stock import (
    LARGEST_FILE_BYTES,
    SHIPPED,
    TYPES,
    Entry,
    Ink,
    Machine,
    Shelf,
    Stock,
    StockCarrier,
    StockFilm,
    Thing,
    check_entry,
    exported,
    free_name,
    read_stock,
    stock_bytes,
    taken_over,
)
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.widgets.number_field import FigureField, NumberField
from vivid_thimble.desktop.widgets.panel import push_button, set_role, tab_row
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog
from vivid_thimble.desktop.widgets.size_strip import METHOD_WORDS
from vivid_thimble.desktop.widgets.swatch import swatch
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

FieldKind = Literal["text", "lines", "length", "figure", "colour", "choice", "methods"]
SHELF_WORDS: tuple[tuple[Shelf, str], ...] = (
    ("films", "Films"),
    ("carriers", "Carriers"),
    ("machines", "Machines"),
    ("inks", "Inks, paints"),
    ("things", "Things"),
)
NEW_NAMES: dict[Shelf, str] = {
    "films": "My film",
    "carriers": "My mat",
    "machines": "My cutter",
    "inks": "My ink",
    "things": "My thing",
}
HEAT = (("ask", "Not written down: see the label"), ("never", "Never: harmful fumes"), ("allowed", "As the label says"))


@dataclass(frozen=True)
class Field:
    """One value of an entry: ``path`` leads to it, such as film.thickness."""

    path: str
    title: str
    kind: FieldKind
    may_be_empty: bool = False
    suffix: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    tip: str = ""


def _empty(path: str, title: str, kind: FieldKind = "length", suffix: str = "", tip: str = "") -> Field:
    return Field(path, title, kind, may_be_empty=True, suffix=suffix, tip=tip)


NAME = Field("name", "Name", "text")
FIELDS: dict[Shelf, tuple[Field, ...]] = {
    "films": (
        Field("film.name", "Name", "text"),
        Field("film.colour", "Colour", "colour"),
        Field("methods", "Used for", "methods"),
        _empty("film.material", "Made of", "text"),
        _empty("film.thickness", "Thickness"),
        Field("film.heat", "Heat", "choice", choices=HEAT),
        Field("film.thinnest_line", "Thinnest line", "length"),
        Field("film.thinnest_gap", "Narrowest gap", "length"),
        Field("film.join_neck", "Neck of a join", "length", tip="What holds two joined letters together, at least"),
        Field("film.bridge", "Bridge", "length", tip="Width of a bridge at the final size"),
        Field("film.smallest_area", "Smallest piece", "figure", suffix=" mm²"),
        Field("film.smallest_circle", "Or across", "length", tip="Pieces narrower than this lift with the waste"),
        _empty("film.price", "Price of it all", "figure", tip="Of a whole roll or sheet, in your own money"),
        _empty("film.stock_width", "Roll, sheet wide"),
        _empty("film.stock_length", "And long"),
        _empty("film.note", "Note", "lines"),
    ),
    "carriers": (
        NAME,
        Field("cuttable_width", "Cuts wide", "length", tip="What is really cut, less than the mat's own size"),
        _empty("cuttable_height", "And long", tip="Empty: as long as the roll lasts"),
    ),
    "machines": (
        NAME,
        Field("cuttable_width", "Cuts wide", "length"),
        _empty("thickest", "Thickest sheet"),
        _empty("least_force", "Least force", "figure", suffix=" g"),
        _empty("most_force", "Most force", "figure", suffix=" g"),
        Field("passes", "Passes at most", "figure"),
        _empty("note", "Note", "lines"),
    ),
    "inks": (
        NAME,
        Field("kind", "Kind", "choice", choices=tuple((kind, kind.capitalize()) for kind in Ink.KINDS)),
        Field("colour", "Colour", "colour"),
        _empty("touch_dry_min", "Touch-dry after", "figure", suffix=" min"),
        _empty("next_coat_min", "Next colour after", "figure", suffix=" min"),
        _empty("cured_h", "Hard after", "figure", suffix=" h"),
        _empty("heat_set", "Press or oven", "text", tip="Temperature and time as the label says"),
        _empty("cautions", "Cautions", "lines"),
    ),
    "things": (NAME,),
}
LABEL_NOTE = (
    "Shipped entries hold usual starting figures. Your maker's label and your own tries decide: change them here."
)


class StockDialog(QuietDialog):
    """``told``: a sentence about what was done is shown below the list."""

    def __init__(self, workshop: Workshop, unit: Unit, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Materials and machines"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(820, 620)
        self.workshop, self.unit = workshop, unit
        self.shelf: Shelf = "films"
        self._build()
        workshop.changed.connect(self._show_shelf)
        self._show_shelf()
        self.told.setText(tr(workshop.trouble or LABEL_NOTE))

    # -- parts ----------------------------------------------------------------------

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        tabs, self._tabs = tab_row(self, SHELF_WORDS, self.turn_to, "shelf")
        whole.addLayout(tabs)
        body = QHBoxLayout()
        left = QVBoxLayout()
        self.list = QListWidget()
        self.list.setObjectName("stockList")
        self.list.setAccessibleName(tr("Entries"))
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.currentRowChanged.connect(lambda _: self._show_entry())
        left.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.copy_button = push_button("&New from it", "stockCopy", self._copy, row)
        self.remove_button = push_button("&Remove", "stockRemove", self._remove, row)
        self.back_button = push_button("As s&hipped", "stockBack", self._as_shipped, row)
        left.addLayout(row)
        body.addLayout(left, 2)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        self.form_place = QWidget()
        scroll.setWidget(self.form_place)
        QVBoxLayout(self.form_place).setContentsMargins(8, 0, 8, 0)
        body.addWidget(scroll, 3)
        whole.addLayout(body, 1)
        self.told = PlainLabel()
        self.told.setObjectName("stockTold")
        self.told.setWordWrap(True)
        self.told.setProperty("role", "hint")
        whole.addWidget(self.told)
        row = QHBoxLayout()
        push_button("&Import…", "stockImport", self._import, row)
        push_button("&Export mine…", "stockExport", self._export, row)
        row.addStretch()
        push_button("Close", "stockClose", self.close, row)
        whole.addLayout(row)

    # -- showing --------------------------------------------------------------------

    def turn_to(self, shelf: Shelf) -> None:
        self.shelf = shelf
        self._tabs[shelf].setChecked(True)
        self.list.setCurrentRow(-1)
        self._show_shelf()

    @property
    def entry(self) -> Entry | None:
        """The one in hand."""
        item = self.list.currentItem()
        return self.workshop.stock.entry(self.shelf, item.data(Qt.ItemDataRole.UserRole)) if item is not None else None

    def _show_shelf(self) -> None:
        held = self.list.currentItem()
        name = held.data(Qt.ItemDataRole.UserRole) if held is not None else ""
        self.list.blockSignals(True)
        self.list.clear()
        for entry in self.workshop.stock.on(self.shelf):
            own = self.workshop.own.entry(self.shelf, entry.name) is not None
            item = QListWidgetItem(f"{entry.name}{tr('  · yours') if own else ''}")
            item.setData(Qt.ItemDataRole.UserRole, entry.name)
            colour = getattr(getattr(entry, "film", entry), "colour", "")
            if colour:
                item.setIcon(swatch(colour))
            self.list.addItem(item)
            if entry.name == name:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0 and self.list.count():
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        self._show_entry()

    def _show_entry(self) -> None:
        entry = self.entry
        place = self.form_place.layout()
        assert isinstance(place, QVBoxLayout)
        while place.count():
            old = place.takeAt(0)
            widget = old.widget() if old is not None else None
            if widget is not None:
                widget.hide()
                widget.setParent(None)
                widget.deleteLater()
        own = entry is not None and self.workshop.own.entry(self.shelf, entry.name) is not None
        shipped = entry is not None and SHIPPED.entry(self.shelf, entry.name) is not None
        self.copy_button.setEnabled(self.shelf != "things")
        self.remove_button.setEnabled(entry is not None)
        self.back_button.setEnabled(own and shipped)
        form = QWidget()
        rows = QFormLayout(form)
        rows.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
        if entry is None:
            text = (
                "Nothing yet. In Measure, keep a thing that you measured: it can be taken from there for every new job."
            )
            empty = PlainLabel(
                tr(text if self.shelf == "things" else "Nothing here: take New from it, or import a list.")
            )
            empty.setWordWrap(True)
            rows.addRow(empty)
        for one in FIELDS[self.shelf] if entry is not None else ():
            control = self._control(one, _value(entry, one.path))
            rows.addRow(tr(one.title), control)
        if isinstance(entry, Thing):
            wide, high = format_length(entry.width, self.unit, with_unit=False), format_length(entry.height, self.unit)
            kind = entry.blank.TITLE if entry.blank is not None else "Plain rectangle"
            line = PlainLabel(
                tr(f"{kind}, room for a design of {wide} × {high}. Take it in Measure to change its lengths.")
            )
            line.setWordWrap(True)
            rows.addRow(line)
        place.addWidget(form)
        place.addStretch()

    def _control(self, field: Field, value: Any) -> QWidget:
        name = f"stock_{field.path.replace('.', '_')}"
        control = self._made(field, value, name)
        control.setToolTip(tr(field.tip))
        return control

    def _made(self, field: Field, value: Any, name: str) -> QWidget:
        if field.kind in ("length", "figure"):
            return self._number(field, value, name)
        if field.kind == "colour":
            button = QPushButton(swatch(value), value)
            button.setObjectName(name)
            button.setAutoDefault(False)
            button.setAccessibleName(f"{field.title}: {value}")
            button.clicked.connect(lambda _=False: self._ask_colour(field, value))
            return button
        if field.kind == "choice":
            box = QComboBox()
            box.setObjectName(name)
            box.setAccessibleName(field.title)
            for key, word in field.choices:
                box.addItem(tr(word), key)
            box.setCurrentIndex(box.findData(value))
            box.activated.connect(lambda _: self._set(field, box.currentData()))
            return box
        if field.kind == "methods":
            return self._methods(field, value, name)
        if field.kind == "lines":
            lines = _Lines(value)
            lines.setObjectName(name)
            lines.setAccessibleName(field.title)
            lines.setMaximumHeight(90)
            leave_undo_to_the_job(lines)
            lines.left.connect(lambda text: self._set(field, text))
            return lines
        edit = QLineEdit(value)
        edit.setObjectName(name)
        edit.setAccessibleName(field.title)
        leave_undo_to_the_job(edit)
        edit.editingFinished.connect(lambda: self._set(field, edit.text().strip()))
        return edit

    def _range(self, field: Field) -> object:
        """What the value of an entry that is shown may be."""
        *holders, name = field.path.split(".")
        holder: Any = functools.reduce(getattr, holders, self.entry)
        return range_of(type(holder), name)

    def _number(self, field: Field, value: float | None, name: str) -> NumberField:
        range_ = self._range(field)
        if field.kind == "length":
            number = NumberField(field.title, name, range_)
        else:
            number = FigureField(field.title, name, field.suffix, *bounds(range_))
        number.set_unit("in" if self.unit.startswith("in") else self.unit)
        number.may_be_empty = field.may_be_empty
        number.set_value(value)
        number.committed.connect(lambda mm: self._set(field, mm))
        number.emptied.connect(lambda: self._set(field, None))
        return number

    def _methods(self, field: Field, value: tuple[str, ...], name: str) -> QListWidget:
        box = QListWidget()
        box.setObjectName(name)
        box.setAccessibleName(field.title)
        for key, word in METHOD_WORDS.items():
            item = QListWidgetItem(tr(word))
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setCheckState(Qt.CheckState.Checked if key in value else Qt.CheckState.Unchecked)
            box.addItem(item)
        box.setMaximumHeight(box.sizeHintForRow(0) * box.count() + 10)

        def ticked(_: QListWidgetItem) -> None:
            items = [box.item(k) for k in range(box.count())]
            keys = [one.data(Qt.ItemDataRole.UserRole) for one in items if one.checkState() == Qt.CheckState.Checked]
            self._set(field, tuple(keys))

        box.itemChanged.connect(ticked)
        return box

    # -- intentions -----------------------------------------------------------------

    def _set(self, field: Field, value: Any) -> None:
        entry = self.entry
        if entry is None or value == _value(entry, field.path):
            return
        if field.path == "passes":
            value = max(round(value or 1), 1)
        try:
            changed = _with_value(entry, field.path, value)
            check_entry(changed)
            if changed.name != entry.name and self.workshop.stock.entry(self.shelf, changed.name) is not None:
                raise InputRefused(f"There is already an entry called {changed.name}: choose another name.")
            own = self.workshop.own
            if changed.name != entry.name and SHIPPED.entry(self.shelf, entry.name) is not None:
                own = own.without(self.shelf, entry.name)
            own = own.with_entry(self.shelf, changed, instead_of=entry.name)
        except ThimbleError as error:
            self._tell(str(error), wrong=True)
            self._show_entry()
            return
        item = self.list.currentItem()
        item.setData(Qt.ItemDataRole.UserRole, changed.name)
        self._keep(own, f"{changed.name} is kept as yours.")

    def _keep(self, own: Stock, sentence: str) -> None:
        unread = bool(self.workshop.trouble)
        try:
            self.workshop.keep(own)
        except ThimbleError as error:
            self._tell(str(error), wrong=True)
            return
        self._tell(sentence, wrong=False)
        if unread and self.workshop.aside is not None:
            self._tell(f"The list that could not be read was set aside as {self.workshop.aside}.", wrong=True)

    def _copy(self) -> None:
        entry = self.entry or _blank_entry(self.shelf)
        name = free_name(self.workshop.stock, self.shelf, NEW_NAMES[self.shelf])
        own = self.workshop.own.with_entry(self.shelf, entry.renamed(name))
        self._keep(own, f"{name} is a copy of {entry.name}: change what differs.")
        for k in range(self.list.count()):
            if self.list.item(k).data(Qt.ItemDataRole.UserRole) == name:
                self.list.setCurrentRow(k)

    def _remove(self) -> None:
        entry = self.entry
        if entry is not None:
            self._keep(self.workshop.own.without(self.shelf, entry.name), f"{entry.name} is taken out.")

    def _as_shipped(self) -> None:
        entry = self.entry
        if entry is not None:
            own = self.workshop.own.as_shipped(self.shelf, entry.name)
            self._keep(own, f"{entry.name} is as it was shipped.")

    def _ask_colour(self, field: Field, value: str) -> None:
        dialog = QColorDialog(QColor(value), self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(field.title)
        dialog.colorSelected.connect(lambda colour: self._set(field, colour.name()))
        dialog.open()

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Import materials"), "", tr("Materials (*.json);;All files (*)"))
        if name:
            self.import_from(FilePath(name))

    def import_from(self, path: FilePath) -> None:
        try:
            data = read_file(path, LARGEST_FILE_BYTES)
            own, added, replaced = taken_over(self.workshop.own, read_stock(data, path.name))
        except OSError as error:
            reason = (error.strerror or "unknown").lower()
            self._tell(f"{path.name} cannot be read ({reason}): check that it is still there.", wrong=True)
            return
        except ThimbleError as error:
            self._tell(str(error), wrong=True)
            return
        self._keep(own, f"{path.name}: {added} added, {replaced} of yours replaced.")

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Export my materials"), "materials.json", tr("Materials (*.json)")
        )
        if name:
            self.export_to(FilePath(name))

    def export_to(self, path: FilePath) -> None:
        try:
            write_atomically(path, stock_bytes(exported(self.workshop.own)))
        except ThimbleError as error:
            self._tell(str(error), wrong=True)
            return
        self._tell(f"Your own entries are in {path.name}.", wrong=False)

    def _tell(self, sentence: str, *, wrong: bool) -> None:
        self.told.setText(tr(sentence))
        set_role(self.told, "wrong" if wrong else "hint")


class _Lines(QPlainTextEdit):
    """Several lines that are taken when the field is left."""

    left = Signal(str)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.left.emit(self.toPlainText().strip())


def _value(entry: Any, path: str) -> Any:
    for part in path.split("."):
        entry = getattr(entry, part)
    return entry


def _with_value(entry: Any, path: str, value: Any) -> Any:
    first, _, rest = path.partition(".")
    return replace(entry, **{first: _with_value(getattr(entry, first), rest, value) if rest else value})


def _blank_entry(shelf: Shelf) -> Entry:
    """What a new entry starts from on an empty shelf."""
    kind = TYPES[shelf]
    if kind is StockFilm:
        return StockFilm(film=Film(name=NEW_NAMES[shelf]))
    if kind is StockCarrier:
        return StockCarrier(name=NEW_NAMES[shelf])
    return Machine(name=NEW_NAMES[shelf]) if kind is Machine else Ink(name=NEW_NAMES[shelf])
