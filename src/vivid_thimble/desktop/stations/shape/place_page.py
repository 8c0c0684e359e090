"""Where elements lie and how large they are: margins, sizes, turn; alignment, even gaps, rows; linked copies."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLayout, QPushButton, QSpinBox

from vivid_thimble.core.edits.arrange import Axis, Line, aligned, boxes_of, in_rows, same_size, spread_evenly, stretched
from vivid_thimble.core.edits.linked import leader_of, unlinked, with_copies
from vivid_thimble.core.edits.sets import leave_set, shared_of
from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Element, Job, Placement, find_element, source_as
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.ranges import Room, Shift
from vivid_thimble.core.room.margins import Margins, centred, with_margins
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.lettering import NO_HEIGHTS, LetterHeights, Words
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import FigureField, NumberField
from vivid_thimble.desktop.widgets.panel import Panel, push_button, set_quietly, show_row

ALIGN_BUTTONS: tuple[tuple[Line, str, str], ...] = (
    ("left", "Left", "Left edges on one line"),
    ("middle", "Middle", "Middles on one upright line"),
    ("right", "Right", "Right edges on one line"),
    ("top", "Top", "Top edges on one line"),
    ("centre", "Centre", "Middles on one level line"),
    ("bottom", "Bottom", "Bottom edges on one line"),
)


class PlacePage(Panel):
    """``proportions_kept``: whether sizes change in both directions."""

    proportions_kept = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self._build_margins()
        self._build_sizes()
        self._build_arranging()
        self._build_copies()
        self.column.addStretch()

    def _build_margins(self) -> None:
        self.section("All on the item")
        self.left_field = NumberField("Left margin", "marginLeft", Shift)
        self.top_field = NumberField("Top margin", "marginTop", Shift)
        self.left_field.committed.connect(lambda v: self._margin(0, v))
        self.top_field.committed.connect(lambda v: self._margin(1, v))
        self.row("From the &left", self.left_field)
        self.row("From the to&p", self.top_field)
        row = QHBoxLayout()
        self._button(row, "Centre &across", "centreAcross", lambda: self._centre(across=True, down=False))
        self._button(row, "Centre &down", "centreDown", lambda: self._centre(across=False, down=True))
        self.column.addLayout(row)

    def _build_sizes(self) -> None:
        self.element_title = self.section("Size")
        self.width_field = NumberField("Width of the element", "elementWidth")
        self.height_field = NumberField("Height of the element", "elementHeight")
        self.width_field.committed.connect(lambda v: self._resize(0, v))
        self.height_field.committed.connect(lambda v: self._resize(1, v))
        self.row("&Width", self.width_field)
        self.row("&Height", self.height_field)
        self.keep_tick = QCheckBox(tr("Keep the proportions"))
        self.keep_tick.setObjectName("keepProportions")
        self.keep_tick.setChecked(True)
        self.keep_tick.toggled.connect(self.proportions_kept)
        self.column.addWidget(self.keep_tick)
        self.capital_field = NumberField("Height of the capitals", "capitalHeight")
        self.capital_field.committed.connect(lambda v: self._size_letters("capital", v))
        self.capital_row = self.row("&Capitals", self.capital_field)
        self.strip_field = NumberField("Height of the strip", "stripHeight")
        self.strip_field.setToolTip(
            tr("Room from the tallest letter of the face to its deepest tail, whatever the words")
        )
        self.strip_field.committed.connect(lambda v: self._size_letters("strip", v))
        self.strip_row = self.row("Into a s&trip", self.strip_field)
        self.heights_line = self.hint()
        self.turn_field = FigureField("Turn", "turn", "°", -360.0, 360.0)
        self.turn_field.committed.connect(self._turn)
        self.row("&Turn", self.turn_field)
        self.spacing_field = FigureField("Letter spacing", "spacing", " % of the size", -20.0, 60.0)
        self.spacing_field.committed.connect(self._space)
        self.spacing_row = self.row("&Spacing", self.spacing_field)

    def _build_arranging(self) -> None:
        self.arrange_title = self.section("Line up")
        self.arrange_hint = self.hint()
        grid = QGridLayout()
        grid.setSpacing(4)
        for k, (line, word, tip) in enumerate(ALIGN_BUTTONS):
            button = self._button(None, word, f"align_{line}", partial(self._align, line))
            button.setToolTip(tr(tip))
            grid.addWidget(button, k // 3, k % 3)
        self.column.addLayout(grid)
        several = QGridLayout()
        several.setSpacing(4)
        self.several: list[QPushButton] = []
        for k, (word, name, tip, change) in enumerate(self._several()):
            button = self._button(None, word, name, change)
            button.setToolTip(tr(tip))
            several.addWidget(button, k // 2, k % 2)
            self.several.append(button)
        self.column.addLayout(several)
        self.columns = QSpinBox()
        self.columns.setObjectName("rowsOf")
        self.columns.setRange(1, 40)
        self.columns.setValue(2)
        self.gap_field = NumberField("Gap between rows and columns", "rowsGap", Room)
        self.gap_field.set_value(10.0)
        self.rows_of = self.row("In ro&ws of", self.columns)
        self.rows_gap = self.row("With &gaps of", self.gap_field)
        self.rows_button = self._button(None, "Lay out in rows", "layRows", self._lay_rows)
        self.column.addWidget(self.rows_button)

    def _several(self) -> tuple[tuple[str, str, str, Callable[[], object]], ...]:
        return (
            (
                "Even gaps across",
                "gapsAcross",
                "The outer two stay; the gaps between all become equal",
                lambda: self._spread(0),
            ),
            (
                "Even gaps down",
                "gapsDown",
                "The outer two stay; the gaps between all become equal",
                lambda: self._spread(1),
            ),
            (
                "Over the width",
                "overWidth",
                "Equal gaps between all, and to the item's edges",
                lambda: self._spread(0, over_item=True),
            ),
            (
                "Over the height",
                "overHeight",
                "Equal gaps between all, and to the item's edges",
                lambda: self._spread(1, over_item=True),
            ),
            ("Same width", "sameWidth", "All become as wide as the first one picked", lambda: self._same(0)),
            ("Same height", "sameHeight", "All become as high as the first one picked", lambda: self._same(1)),
        )

    def _build_copies(self) -> None:
        self.section("Copies")
        row = QHBoxLayout()
        self._button(row, "Linked cop&y", "linkedCopy", lambda: self._copy(mirrored=False)).setToolTip(
            tr("Whatever is done to the one in hand is done to the copy as well")
        )
        self._button(row, "&Mirrored", "mirroredCopy", lambda: self._copy(mirrored=True)).setToolTip(
            tr("A linked copy that is turned over, left for right")
        )
        self.column.addLayout(row)
        self.unlink_button = self._button(None, "Let this copy stand on its own", "unlink", self._unlink)
        self.column.addWidget(self.unlink_button)

    def _button(self, row: QLayout | None, word: str, name: str, then: Callable[[], object]) -> QPushButton:
        """A narrow one: two and three stand side by side."""
        made = push_button(word, name, then, row)
        made.setStyleSheet("padding-left: 6px; padding-right: 6px;")
        return made

    # -- showing --------------------------------------------------------------------

    def show_job(self) -> None:
        job, chosen = self.session.job, self.session.chosen
        for field in (
            self.left_field,
            self.top_field,
            self.width_field,
            self.height_field,
            self.capital_field,
            self.strip_field,
            self.gap_field,
        ):
            field.set_unit(job.unit)
        if not chosen:
            return
        element = find_element(job, chosen)
        words = source_as(element, Words)
        is_words = words is not None
        self.turn_field.set_value(element.placement.turn_deg)
        self.spacing_field.set_value(0.0 if words is None else words.spacing * 100)
        for row in (self.spacing_row, self.capital_row, self.strip_row):
            show_row(row, visible=is_words)
        self.heights_line.setVisible(is_words)
        picked = self.session.picked
        self.element_title.setText(tr("Size" if len(picked) < 2 else f"Size of {element.name.splitlines()[0]}"))
        self.arrange_title.setText(tr("Line up" if len(picked) < 2 else f"Line up {len(picked)} elements"))
        self.arrange_hint.setText(
            tr(
                "On the item. Shift and click takes more elements in hand, to line them up with each other."
                if len(picked) < 2
                else "With the first one picked."
            )
        )
        for button in self.several:
            button.setVisible(len(picked) > 1)
        for rows in (self.rows_of, self.rows_gap):
            show_row(rows, visible=len(picked) > 1)
        self.rows_button.setVisible(len(picked) > 1)
        set_quietly(self.columns, min(self.columns.value(), max(len(picked), 2)))
        self.unlink_button.setVisible(source_as(element, Copied) is not None)

    def show_result(self) -> None:
        result = self.session.result
        if result is None:
            return
        margins = result.margins
        self.left_field.set_value(margins[0] if margins else None)
        self.top_field.set_value(margins[2] if margins else None)
        element = self.element_result()
        box = element.box if element else None
        self.width_field.set_value(box[2] - box[0] if box else None)
        self.height_field.set_value(box[3] - box[1] if box else None)
        heights = element.heights if element else NO_HEIGHTS
        self.capital_field.set_value(heights.capital)
        self.strip_field.set_value(heights.strip)
        self.heights_line.setText(heights_words(heights, fine_unit(self.session.job.unit)))

    def element_result(self) -> ElementResult | None:
        result = self.session.result
        return result.element(self.session.chosen) if result is not None else None

    # -- margins and sizes ------------------------------------------------------------

    def _margin(self, axis: int, value: float) -> None:
        result = self.session.result
        if result is None or result.bounds is None:
            return
        margins = Margins(left=value) if axis == 0 else Margins(top=value)
        self.session.change("Margin", with_margins(self.session.job, margins, result.bounds))

    def _centre(self, *, across: bool, down: bool) -> None:
        result = self.session.result
        if result is None or result.bounds is None:
            return
        job = centred(self.session.job, result.bounds, across=across, down=down)
        self.session.change("Centre", job)

    def _resize(self, axis: int, value: float) -> None:
        """Scale the chosen element so that its finished box gets the typed size; a copy takes along what it copies."""
        element = self.element_result()
        box = element.box if element else None
        if box is None or element is None:
            return
        has = box[2] - box[0] if axis == 0 else box[3] - box[1]
        factor = value / has
        if not self.keep_tick.isChecked():
            about = (box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0
            across, down = (factor, 1.0) if axis == 0 else (1.0, factor)
            job = stretched(self._apart_from_set(element), [self.session.chosen], across, down, about)
            self.session.change("Stretch", job)
            return

        def resized(e: Element) -> Element:
            place: Placement = e.placement.scaled(factor)
            return replace(e, placement=replace(place, dx=e.placement.dx, dy=e.placement.dy))

        copied = source_as(element.element, Copied)
        sized = copied.of if copied is not None else leader_of(self.session.job, self.session.chosen)
        self.session.change("Size of the element", with_element(self._apart_from_set(element), sized, resized))

    def _apart_from_set(self, element: ElementResult) -> Job:
        """Words that get a size of their own no longer share one."""
        em = element.element.placement.em
        if shared_of(self.session.job, self.session.chosen) is None or em is None:
            return self.session.job
        return leave_set(self.session.job, self.session.chosen, em)

    def _size_letters(self, which: str, value: float) -> None:
        """The words get capitals, or a strip, of the typed height; they keep it when the words change."""
        element = self.element_result()
        if element is None:
            return
        title = "Height of the capitals" if which == "capital" else "Height of the strip"
        job = self._apart_from_set(element)
        sized = with_element(
            job, self.session.chosen, lambda e: replace(e, placement=e.placement.sized(**{which: value}))
        )
        self.session.change(title, sized)

    def _turn(self, value: float) -> None:
        self._change_element("Turn", lambda e: replace(e, placement=replace(e.placement, turn_deg=value)))

    def _space(self, value: float) -> None:
        def spaced(e: Element) -> Element:
            words = source_as(e, Words)
            return e if words is None else replace(e, source=replace(words, spacing=value / 100.0))

        self._change_element("Letter spacing", spaced)

    def _change_element(self, title: str, change: Callable[[Element], Element]) -> None:
        if self.session.chosen:
            self.session.change(title, with_element(self.session.job, self.session.chosen, change))

    # -- arranging -----------------------------------------------------------------------

    def _boxes(self) -> dict[str, Box]:
        return boxes_of(self.session.result, self.session.job) if self.session.result is not None else {}

    def _align(self, line: Line) -> None:
        self.session.change("Line up", aligned(self.session.job, self._boxes(), self.session.picked, line))

    def _spread(self, axis: Axis, *, over_item: bool = False) -> None:
        job = spread_evenly(self.session.job, self._boxes(), self.session.picked, axis, over_item=over_item)
        self.session.change("Even gaps", job)

    def _same(self, axis: Axis) -> None:
        title = "Same width" if axis == 0 else "Same height"
        self.session.change(title, same_size(self.session.job, self._boxes(), self.session.picked, axis))

    def _lay_rows(self) -> None:
        gap = self.gap_field.value or 0.0
        picked = self.session.picked
        self.session.change("Rows", in_rows(self.session.job, self._boxes(), picked, self.columns.value(), gap))

    def _copy(self, *, mirrored: bool) -> None:
        if not self.session.chosen:
            return
        job, made = with_copies(self.session.job, self._boxes(), self.session.picked, mirrored=mirrored)
        self.session.change("Mirrored copy" if mirrored else "Linked copy", job)
        self.session.pick(made)

    def _unlink(self) -> None:
        self.session.change("On its own", unlinked(self.session.job, self.session.chosen))


def heights_words(heights: LetterHeights, unit: Unit) -> str:
    """What is measured of the letters beside their capitals."""
    known = []
    if heights.small:
        known.append(tr(f"small letters {format_length(heights.small, unit)}"))
    if heights.tallest:
        known.append(tr(f"tallest {format_length(heights.tallest, unit)}"))
    if heights.tail:
        known.append(tr(f"deepest tail {format_length(heights.tail, unit)}"))
    text = ", ".join(known)
    return text[:1].upper() + text[1:]
