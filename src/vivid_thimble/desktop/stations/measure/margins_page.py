"""Where the design lies on its item: margins by typing any of them, and what size fits."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.ranges import Room, Shift
from vivid_thimble.core.room.fit import Fitting, what_fits
from vivid_thimble.core.room.margins import EXAMPLE, Margins, centred, parse_margins, with_margins
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel, push_button
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

SIDES = ("left", "right", "top", "bottom")


class MarginsPage(Panel):
    """``told``: a sentence for the notice bar."""

    told = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("Margins of the design")
        self.phrase = QLineEdit()
        self.phrase.setObjectName("marginPhrase")
        self.phrase.setPlaceholderText(EXAMPLE)
        self.phrase.setAccessibleName(tr("Margins in words"))
        self.phrase.setToolTip(tr("A length and a side, as you would say it: 3 cm left and right, 2in top"))
        self.phrase.returnPressed.connect(self._take_phrase)
        leave_undo_to_the_job(self.phrase)
        self.row("&Say it", self.phrase)
        self.phrase_line = self.hint(f'"{EXAMPLE}" moves it; "3 cm left and right" makes it that wide.')
        grid = QGridLayout()
        grid.setSpacing(6)
        self.fields: dict[str, NumberField] = {}
        for k, side in enumerate(SIDES):
            field = NumberField(f"Margin at the {side}", f"margin_{side}", Shift)
            field.committed.connect(lambda mm, s=side: self._bring(Margins(**{s: mm})))
            label = PlainLabel(tr(f"&{side.capitalize()}" if side != "bottom" else "&Below"))
            label.setBuddy(field)
            grid.addWidget(label, k // 2, 2 * (k % 2))
            grid.addWidget(field, k // 2, 2 * (k % 2) + 1)
            self.fields[side] = field
        self.column.addLayout(grid)
        self.centre_button = push_button("&Centre it both ways", "centreBoth", self._centre, self.column)
        self.section("What size fits")
        self.room_field = NumberField("Room to every edge", "fitRoom", Room)
        self.room_field.set_value(10.0)
        self.room_field.committed.connect(lambda _: self.show_result())
        self.row("&Room round", self.room_field)
        self.fit_line = self.hint()
        self.fit_line.setObjectName("fitLine")
        self.fit_button = push_button("&Make it that size, centred", "makeFit", self._make_fit, self.column)
        self.column.addStretch()

    def show_job(self) -> None:
        for field in (*self.fields.values(), self.room_field):
            field.set_unit(self.session.job.unit)

    def show_result(self) -> None:
        result = self.session.result
        margins = result.margins if result is not None else None
        for k, side in enumerate(SIDES):
            self.fields[side].set_value(margins[k] if margins is not None else None)
            self.fields[side].setEnabled(margins is not None)
        self.phrase.setEnabled(margins is not None)
        self.centre_button.setEnabled(margins is not None)
        fit, unit = self._fit(), self.session.job.unit
        self.fit_button.setEnabled(fit is not None)
        if fit is not None:
            wide, high = format_length(fit.width, unit, with_unit=False), format_length(fit.height, unit)
            self.fit_line.setText(tr(f"At most {wide} × {high}: {fit.reason}."))
        elif margins is None:
            self.fit_line.setText(tr("There is no design yet: open Gather and type words or add a drawing."))
        else:
            self.fit_line.setText(tr("With so much room round it nothing fits: type less."))

    def _fit(self) -> Fitting | None:
        result = self.session.result
        if result is None or result.size is None or result.item.id != self.session.job.item.id:
            return None
        return what_fits(self.session.job.item, result.size, self.room_field.value or 0.0)

    def _take_phrase(self) -> None:
        try:
            margins = parse_margins(self.phrase.text(), self.session.job.unit)
        except ThimbleError as error:
            self._say(str(error), wrong=True)
            return
        if self._bring(margins):
            self._say("Done.", wrong=False)
            self.phrase.clear()

    def _say(self, sentence: str, *, wrong: bool) -> None:
        self.phrase_line.setText(tr(sentence))
        self.phrase_line.setProperty("role", "wrong" if wrong else "hint")
        self.phrase_line.style().polish(self.phrase_line)

    def _bring(self, margins: Margins) -> bool:
        """Give the design these margins; whether that could be done."""
        result = self.session.result
        if result is None or result.bounds is None:
            return False
        try:
            job = with_margins(self.session.job, margins, result.bounds)
        except ThimbleError as error:
            self._say(str(error), wrong=True)
            return False
        self.session.change("Margin", job)
        return True

    def _centre(self) -> None:
        result = self.session.result
        if result is not None and result.bounds is not None:
            self.session.change("Centre", centred(self.session.job, result.bounds))

    def _make_fit(self) -> None:
        if self._fit() is not None:
            self.session.fill_room(self.room_field.value or 0.0)
