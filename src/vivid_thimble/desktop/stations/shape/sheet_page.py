"""The sheet: a stencil's frame, register marks, and what is cut through the waste."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QCheckBox

from vivid_thimble.core.evaluate.results import LayerResult
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.materials.method import SURROUND_FOR
from vivid_thimble.core.ranges import Room, Shift
from vivid_thimble.core.steps.frame import SIDES, Frame
from vivid_thimble.core.steps.register import RegisterMarks
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel

FITS = (("design", "Round the design"), ("item", "As large as the item"), ("sheet", "Of this size"))
PAINTS = (("dabbed", "Dabbed on"), ("sprayed", "Sprayed"), ("stripped", "Paste or stripper"))
HOLES = ((0, "None"), (1, "One, above the middle"), (2, "Two, in the upper corners"), (4, "Four, in the corners"))
TABS = (
    (None, "None"),
    ("top", "At the top"),
    ("bottom", "At the bottom"),
    ("left", "On the left"),
    ("right", "On the right"),
)
MARKS = ((None, "None"), ("squares", "Squares"), ("rounds", "Rounds"), ("angles", "Angles"))


class SheetPage(Panel):
    """``edges_shown``: whether the margins can be dragged on the table."""

    edges_shown = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.frame_box = self._group()
        self._build_frame(self.frame_box)
        marks = self._group()
        self._build_marks(marks)
        self.waste_box = self._group()
        self._build_waste(self.waste_box)
        self.column.addStretch()

    def _group(self, box: Panel | None = None) -> Panel:
        """A group of rows in a box, or on the page, that come and go together."""
        group = Panel(self.session)
        group.column.setContentsMargins(0, 0, 0, 0)
        (box or self).column.addWidget(group)
        return group

    def _build_frame(self, box: Panel) -> None:
        box.section("Sheet of the stencil")
        self.fit = box.choice("frameFit", FITS, lambda key: self._frame("Size of the sheet", fit=key))
        box.row("The &sheet is", self.fit)
        self.paint = box.choice("paint", PAINTS, self._set_paint)
        box.row("Paint &is", self.paint)
        self.sides: dict[str, NumberField] = {}
        self.margins = self._group(box)
        for side in SIDES:
            field = NumberField(f"Margin of the sheet at the {side}", f"frame_{side}", Shift)
            field.committed.connect(lambda mm, s=side: self._frame("Margin of the sheet", **{s: mm}))
            self.margins.row(f"{side.capitalize()} margin", field)
            self.sides[side] = field
        self.sheet_size = self._group(box)
        self.width_field = NumberField("Width of the sheet", "frameWidth")
        self.width_field.committed.connect(lambda mm: self._frame("Width of the sheet", width=mm))
        self.sheet_size.row("Sheet &width", self.width_field)
        self.height_field = NumberField("Height of the sheet", "frameHeight")
        self.height_field.committed.connect(lambda mm: self._frame("Height of the sheet", height=mm))
        self.sheet_size.row("Sheet &height", self.height_field)
        self.radius = NumberField("Radius of the sheet's corners", "frameRadius", Room)
        self.radius.committed.connect(lambda mm: self._frame("Corners of the sheet", radius=max(mm, 0.0)))
        box.row("&Corners", self.radius)
        self.holes = box.choice("frameHoles", HOLES, lambda key: self._frame("Holes of the sheet", holes=key))
        box.row("Hang it &by", self.holes)
        self.hole = NumberField("Diameter of the holes", "frameHole")
        self.hole.committed.connect(lambda mm: self._frame("Diameter of the holes", hole=mm))
        self.hole_row = self._group(box)
        self.hole_row.row("Hole &across", self.hole)
        self.tab = box.choice("frameTab", TABS, lambda key: self._frame("Tab of the sheet", tab=key))
        box.row("Tab to &lift", self.tab)
        self.sheet_line = box.hint()

    def _build_marks(self, box: Panel) -> None:
        box.section("Register marks")
        self.marks = box.choice("registerMarks", MARKS, self._set_marks)
        box.row("&Marks", self.marks)
        self.marks_rows = self._group(box)
        self.mark_size = NumberField("Size of the marks", "markSize")
        self.mark_size.committed.connect(lambda mm: self._register("Size of the marks", size=mm))
        self.marks_rows.row("Mark ac&ross", self.mark_size)
        self.mark_away = NumberField("From the design to the marks", "markAway", Room)
        self.mark_away.committed.connect(lambda mm: self._register("Place of the marks", away=mm))
        self.marks_rows.row("&From design", self.mark_away)
        self.above = self._tick(self.marks_rows, "A round one above shows the centre", "markAbove", "above")
        self.sticker = self._tick(
            self.marks_rows, "A loose disc of its size beside the sheet", "markSticker", "sticker"
        )
        self.marks_line = self.marks_rows.hint()
        box.hint("The same marks are cut in every film, so that the colours lie where they belong.")

    def _tick(self, box: Panel, word: str, name: str, attribute: str) -> QCheckBox:
        tick = QCheckBox(tr(word))
        tick.setObjectName(name)
        tick.clicked.connect(lambda on: self._register(word, **{attribute: on}))
        box.column.addWidget(tick)
        return tick

    def _build_waste(self, box: Panel) -> None:
        box.section("Cuts through the waste")
        self.box_tick = QCheckBox(tr("A weeding &box round the design"))
        self.box_tick.setObjectName("weedingBox")
        self.box_tick.clicked.connect(lambda on: self._item("Weeding box", weeding_box=SURROUND_MM if on else None))
        box.column.addWidget(self.box_tick)
        self.box_field = NumberField("From the design to the weeding box", "weedingBoxMargin", Room)
        self.box_field.committed.connect(lambda mm: self._item("Weeding box", weeding_box=mm))
        self.box_row = self._group(box)
        self.box_row.row("&Away by", self.box_field)
        self.relief_tick = QCheckBox(tr("&Relief cuts, so that no strip is unwieldy"))
        self.relief_tick.setObjectName("reliefCuts")
        self.relief_tick.clicked.connect(lambda on: self._item("Relief cuts", relief=on))
        box.column.addWidget(self.relief_tick)
        box.hint("They are cut with the design and never touch film that stays; Cut lines shows them.")

    def showEvent(self, event: QShowEvent) -> None:
        self.edges_shown.emit(True)
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self.edges_shown.emit(False)
        super().hideEvent(event)

    def drag_margin(self, side: str, mm: float) -> None:
        """A margin was dragged on the table."""
        self._frame("Margin of the sheet", **{side: mm})

    # -- showing --------------------------------------------------------------------

    def show_job(self) -> None:
        item, unit = self.session.job.item, self.session.job.unit
        frame, register = item.frame, item.register
        self.frame_box.setVisible(item.is_stencil)
        self.waste_box.setVisible(not item.is_stencil)
        for box, key in (
            (self.fit, frame.fit),
            (self.paint, item.paint),
            (self.holes, frame.holes),
            (self.tab, frame.tab),
            (self.marks, register.shape if register is not None else None),
        ):
            box.setCurrentIndex(max(box.findData(key), 0))
        self.margins.setVisible(frame.fit == "design")
        self.sheet_size.setVisible(frame.fit == "sheet")
        self.hole_row.setVisible(bool(frame.holes))
        for side, value in zip(SIDES, frame.margins(item.surround), strict=True):
            self._show(self.sides[side], value)
        for field, figure in (
            (self.width_field, frame.width),
            (self.height_field, frame.height),
            (self.radius, frame.radius),
            (self.hole, frame.hole),
        ):
            self._show(field, figure)
        marks = register or RegisterMarks()
        self.marks_rows.setVisible(register is not None)
        self._show(self.mark_size, marks.size)
        self._show(self.mark_away, marks.away)
        self.above.setChecked(marks.above)
        self.sticker.setChecked(marks.sticker)
        self.sticker.setVisible(item.is_stencil)
        scrap = format_length(marks.scrap_size, unit)
        self.marks_line.setText(tr(f"Lay scraps of {scrap} square under the marks, so that they print on those."))
        self.box_tick.setChecked(item.weeding_box is not None)
        self.box_row.setVisible(item.weeding_box is not None)
        self._show(self.box_field, item.weeding_box)
        self.relief_tick.setChecked(item.relief)
        self.show_result()

    def _show(self, field: NumberField, value: float | None) -> None:
        field.set_unit(fine_unit(self.session.job.unit))
        field.set_value(value)

    def show_result(self) -> None:
        layer = self._layer()
        box = layer.sheet_box if layer is not None else None
        if box is None:
            self.sheet_line.setText("")
            return
        unit = self.session.job.unit
        wide, high = format_length(box[2] - box[0], unit, with_unit=False), format_length(box[3] - box[1], unit)
        usual = format_length(SURROUND_FOR[self.session.job.item.paint], unit)
        self.sheet_line.setText(tr(f"The sheet is {wide} × {high}; {usual} round the design is usual."))

    def _layer(self) -> LayerResult | None:
        result = self.session.result
        return result.layers[0] if result is not None else None

    # -- changing --------------------------------------------------------------------

    def _item(self, title: str, **values: object) -> None:
        self.session.change(title, with_item(self.session.job, lambda item: replace(item, **values)))

    def _frame(self, title: str, **values: object) -> None:
        self._item(title, frame=replace(self.session.job.item.frame, **values))

    def _set_paint(self, key: Any) -> None:
        """Another way to paint brings its usual margins."""

        def changed(item: Item) -> Item:
            frame: Frame = replace(item.frame, **dict.fromkeys(SIDES))
            return replace(item, paint=key, surround=SURROUND_FOR[key], frame=frame)

        self.session.change("How it is painted", with_item(self.session.job, changed))

    def _set_marks(self, shape: Any) -> None:
        own = self.session.job.item.register or RegisterMarks()
        self._item("Register marks", register=replace(own, shape=shape) if shape is not None else None)

    def _register(self, title: str, **values: object) -> None:
        own = self.session.job.item.register
        if own is not None:
            self._item(title, register=replace(own, **values))
