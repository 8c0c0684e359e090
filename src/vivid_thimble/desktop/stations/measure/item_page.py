"""The item: what kind of thing it is, where the tape goes, how much room that leaves; things that are kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QHBoxLayout, QLineEdit

from vivid_thimble.core.blanks.kinds import BLANKS, ROUND, Ball, Blank, Measure, measured
from vivid_thimble.core.edits.sets import another_item, without_item
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.ranges import Room, Size, range_of
from vivid_thimble.core.room.blank import as_kind, with_blank
from vivid_thimble.core.storage.stock import Thing
from vivid_thimble.desktop.look.preferences import UNIT_WORDS
from vivid_thimble.desktop.look.theme import palette_in_use
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.stations.measure.tape_picture import LETTERS, TapePicture
from vivid_thimble.desktop.widgets.number_field import FigureField, NumberField
from vivid_thimble.desktop.widgets.panel import Panel, clear_layout, push_button, show_row
from vivid_thimble.desktop.widgets.swatch import swatch
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

KINDS: tuple[tuple[str, str], ...] = (
    ("rectangle", "Plain rectangle"),
    *((str(kind.__struct_config__.tag), kind.TITLE) for kind in BLANKS),
)
BY_TAG: dict[str, type[Blank]] = {str(kind.__struct_config__.tag): kind for kind in BLANKS}
SHOWN = (("third", "The seen part"), ("half", "Half of it"), ("all", "All round"))


class ItemPage(Panel):
    """``told``: a sentence for the notice bar; ``photo_wanted``: choose a picture of the thing."""

    told = Signal(str)
    photo_wanted = Signal()

    def __init__(self, session: Session, workshop: Workshop) -> None:
        super().__init__(session)
        self.workshop = workshop
        self.column.setContentsMargins(0, 0, 0, 0)
        self._shown: tuple[type[Blank] | None, Unit] | None = None
        self.fields: dict[str, NumberField] = {}
        self._build_thing()
        self._build_more()
        self.column.addStretch()
        workshop.changed.connect(self._fill_things)
        self._fill_things()

    def _build_thing(self) -> None:
        self.name_edit = QLineEdit()
        self.name_edit.setObjectName("itemName")
        self.name_edit.editingFinished.connect(self._rename)
        leave_undo_to_the_job(self.name_edit)
        self.row("&Name", self.name_edit)
        self.kind_box = self.choice("itemKind", KINDS, self._set_kind)
        self.row("&Kind", self.kind_box)
        self.picture = TapePicture(palette_in_use())
        self.column.addWidget(self.picture)
        self.measures = Panel(self.session)
        self.measures.column.setContentsMargins(0, 0, 0, 0)
        self.column.addWidget(self.measures)
        self.shown_box = self.choice("itemShown", SHOWN, lambda key: self._with_blank("Part of the girth", shown=key))
        self.shown_row = self.row("&Decorate", self.shown_box)
        self.width_field = NumberField("Usable width", "itemWidth")
        self.height_field = NumberField("Usable height", "itemHeight")
        self.width_field.committed.connect(lambda v: self._change("Item width", width=v))
        self.height_field.committed.connect(lambda v: self._change("Item height", height=v))
        self.width_row = self.row("Usable &width", self.width_field)
        self.height_row = self.row("Usable &height", self.height_field)
        self.room_line = self.hint("", "fine")
        self.room_line.setObjectName("roomLine")
        self.tell_line = self.hint()
        self.unit_box = self.choice("unit", UNIT_WORDS, self._set_unit)
        self.row("&Unit", self.unit_box)

    def _build_more(self) -> None:
        self.section("How it looks")
        row = QHBoxLayout()
        self.colour_button = push_button("&Colour…", "itemColour", self._ask_colour, row)
        self.photo_button = push_button("&Photo…", "itemPhoto", self.photo_wanted.emit, row)
        self.plain_button = push_button("Pla&in", "itemPlain", self._make_plain, row)
        self.column.addLayout(row)
        self.section("Items of this job")
        row = QHBoxLayout()
        push_button("&Another like it", "anotherItem", lambda: self._items("Another item", another_item), row)
        self.remove_button = push_button(
            "&Take it out", "removeItem", lambda: self._items("Take the item out", without_item), row
        )
        self.column.addLayout(row)
        self.section("Things you decorate again")
        self.things_box = self.choice("things", (), self._take_thing)
        self.row("Measu&red", self.things_box)
        row = QHBoxLayout()
        push_button("&Keep this one", "keepThing", self._keep_thing, row)
        self.forget_button = push_button("&Forget it", "forgetThing", self._forget_thing, row)
        self.column.addLayout(row)

    # -- showing --------------------------------------------------------------------

    def show_job(self) -> None:
        job = self.session.job
        item, blank = job.item, job.item.blank
        self.remove_button.setEnabled(len(job.items) > 1)
        if not self.name_edit.hasFocus():
            self.name_edit.setText(item.name)
            self.name_edit.setCursorPosition(0)
        self.kind_box.setCurrentIndex(self.kind_box.findData(_tag(blank)))
        self._show_measures(blank, job.unit)
        show_row(self.width_row, visible=blank is None)
        show_row(self.height_row, visible=blank is None)
        for field, value in ((self.width_field, item.width), (self.height_field, item.height)):
            field.set_unit(job.unit)
            field.set_value(value)
        show_row(self.shown_row, visible=isinstance(blank, ROUND))
        if isinstance(blank, ROUND):
            self.shown_box.setCurrentIndex(self.shown_box.findData(blank.shown))
        self.unit_box.setCurrentIndex(self.unit_box.findData(job.unit))
        wide, high = format_length(item.width, job.unit, with_unit=False), format_length(item.height, job.unit)
        self.room_line.setText(tr(f"Room for the design: {wide} × {high}."))
        self.room_line.setVisible(blank is not None)
        self.tell_line.setText("" if blank is None else tr(blank.tell(lambda mm: format_length(mm, job.unit))))
        self.tell_line.setVisible(blank is not None)
        self.colour_button.setIcon(swatch(item.colour or palette_in_use().blank))
        self.plain_button.setEnabled(bool(item.colour) or item.photo is not None)
        self._show_thing()

    def _show_measures(self, blank: Blank | None, unit: Unit) -> None:
        """A field for every length of the kind, made anew only when the kind changes."""
        kind = type(blank) if blank is not None else None
        if self._shown is None or self._shown[0] is not kind:
            self._make_fields(kind)
        self._shown = kind, unit
        for name, field in self.fields.items():
            field.set_unit(unit)
            field.set_value(getattr(blank, name))

    def _make_fields(self, kind: type[Blank] | None) -> None:
        self.picture.show_kind(kind)
        while self.measures.column.count():
            row = self.measures.column.takeAt(0)
            layout = row.layout() if row is not None else None
            if layout is not None:
                clear_layout(layout)
        self.fields = {}
        for letter, measure in zip(LETTERS, kind.MEASURES if kind is not None else (), strict=False):
            assert kind is not None
            name = f"blank_{measure.field}"
            if measure.title.endswith("%"):
                field: NumberField = FigureField(measure.title, name, " %", 0.1, 50.0)
            else:
                field = NumberField(measure.title, name, _range_of(kind, measure))
            tape = tr(measure.tape)
            field.edit.setToolTip(f"{tape[:1].upper()}{tape[1:]}")
            field.edit.setAccessibleDescription(tape)
            field.edit.installEventFilter(self)
            field.committed.connect(lambda mm, m=measure: self._measure(m.field, m.title, mm))
            self.measures.row(f"{letter}  {tr(measure.title)}", field)
            self.fields[measure.field] = field

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The tape of the length that is being typed stands out in the picture."""
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            held = next((k for k, one in self.fields.items() if one.edit is watched), "")
            self.picture.hold(held if event.type() == QEvent.Type.FocusIn else "")
        return super().eventFilter(watched, event)

    def _fill_things(self) -> None:
        self.things_box.clear()
        self.things_box.addItem(tr("None of them"), "")
        for thing in self.workshop.stock.things:
            self.things_box.addItem(thing.name, thing.name)
        self.things_box.setEnabled(self.things_box.count() > 1)
        self._show_thing()

    def _show_thing(self) -> None:
        """The thing that the item is, if it is one of those that are kept."""
        now = Thing.of(self.session.job.item)
        known = next((one.name for one in self.workshop.stock.things if one == now), "")
        self.things_box.setCurrentIndex(max(self.things_box.findData(known), 0))
        self.forget_button.setEnabled(bool(known))

    # -- intentions -----------------------------------------------------------------

    def _change(self, title: str, **values: object) -> None:
        self._with_item(title, lambda item: replace(item, **values))

    def _with_item(self, title: str, change: Callable[[Item], Item]) -> None:
        try:
            job = with_item(self.session.job, change)
        except ThimbleError as error:
            self.told.emit(str(error))
            self.show_job()
            return
        self.session.change(title, job)

    def _set_kind(self, tag: str) -> None:
        if tag != _tag(self.session.job.item.blank):
            self._with_item("Kind of item", lambda item: as_kind(item, BY_TAG.get(tag)))

    def _measure(self, field: str, title: str, mm: float) -> None:
        def again(item: Item) -> Item:
            assert item.blank is not None
            return with_blank(item, measured(item.blank, field, mm))

        self._with_item(title, again)
        if isinstance(self.session.job.item.blank, Ball):
            self.show_job()  # girth and front follow each other

    def _with_blank(self, title: str, **values: object) -> None:
        self._with_item(title, lambda item: with_blank(item, replace(item.blank, **values)))  # type: ignore[type-var]

    def _set_unit(self, unit: Any) -> None:
        self.session.change("Unit", replace(self.session.job, unit=unit))

    def _rename(self) -> None:
        name = self.name_edit.text().strip()
        if name:
            self._change("Item name", name=name)

    def _items(self, title: str, change: Callable[..., Any]) -> None:
        self.session.change(title, change(self.session.job))

    def _ask_colour(self) -> None:
        dialog = QColorDialog(QColor(self.session.job.item.colour or "#d8d2c4"), self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(tr("Colour of the item"))
        dialog.colorSelected.connect(lambda colour: self._change("Colour of the item", colour=colour.name()))
        dialog.open()

    def _make_plain(self) -> None:
        self._change("Plain item", colour="", photo=None)

    def _take_thing(self, name: str) -> None:
        thing = next((one for one in self.workshop.stock.things if one.name == name), None)
        if thing is not None:
            self._with_item(f"Measured: {name}", thing.laid_under)

    def _keep_thing(self) -> None:
        self._keep(lambda: self.workshop.own.with_entry("things", Thing.of(self.session.job.item)))

    def _forget_thing(self) -> None:
        self._keep(lambda: self.workshop.own.without("things", str(self.things_box.currentData())))

    def _keep(self, own: Callable[[], Any]) -> None:
        try:
            self.workshop.keep(own())
        except ThimbleError as error:
            self.told.emit(str(error))


def _tag(blank: Blank | None) -> str:
    return "rectangle" if blank is None else str(blank.__struct_config__.tag)


def _range_of(kind: type[Blank], measure: Measure) -> object:
    """Of a length that is kept, or of one from which kept ones are reckoned."""
    if measure.field in kind.__struct_fields__:
        return range_of(kind, measure.field)
    return Size if measure.at_least >= 0.0 else Room
