"""The controls of a monogram."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QLineEdit

from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Element, find_element
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.sources.monogram import Monogram, strokes_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import FigureField
from vivid_thimble.desktop.widgets.panel import Panel
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

FRAMES = (("circle", "A circle"), ("shield", "A shield"), ("row", "A plain row"))
BORDERS = (("none", "No border"), ("ring", "A ring"), ("band", "A band of two rings"))


class MonogramPanel(Panel):
    """Initials, frame and border of the monogram in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("Monogram")
        self.initials = QLineEdit()
        self.initials.setObjectName("initials")
        self.initials.setMaxLength(8)
        self.initials.textEdited.connect(lambda text: self._change("Initials", merge="initials", initials=text))
        leave_undo_to_the_job(self.initials)
        self.row("&Initials", self.initials)
        self.frame = self.choice("monogramFrame", FRAMES, lambda key: self._change("Frame", frame=key))
        self.row("F&rame", self.frame)
        self.border = self.choice("monogramBorder", BORDERS, lambda key: self._change("Border", border=key))
        self.row("&Border", self.border)
        self.line = FigureField("Width of the border", "monogramLine", " % of the width", 1.0, 15.0)
        self.line.committed.connect(lambda v: self._change("Width of the border", line=v / 100.0))
        self.line_row = self.row("Border &width", self.line)
        self.gap = FigureField("Gap between letters", "monogramGap", " % of the width", 0.5, 10.0)
        self.gap.committed.connect(lambda v: self._change("Gap between letters", gap=v / 100.0))
        self.row("&Gap", self.gap)
        self.centre = FigureField("Width of the centre letter", "monogramCentre", " % of the others", 60.0, 250.0)
        self.centre.committed.connect(lambda v: self._change("Centre letter", centre=v / 100.0))
        self.row("&Centre letter", self.centre)
        self.welded = QCheckBox(tr("Everything in one piece"))
        self.welded.setObjectName("monogramWelded")
        self.welded.clicked.connect(lambda on: self._change("In one piece" if on else "Letters apart", welded=on))
        self.column.addWidget(self.welded)
        self.strokes = self.hint()

    def show_monogram(self, monogram: Monogram) -> None:
        if self.initials.text() != monogram.initials:
            self.initials.setText(monogram.initials)
        self.frame.setCurrentIndex(self.frame.findData(monogram.frame))
        self.border.setCurrentIndex(self.border.findData(monogram.border))
        self.line.set_value(monogram.line * 100.0)
        self.gap.set_value(monogram.gap * 100.0)
        self.centre.set_value(monogram.centre * 100.0)
        self.line.setEnabled(monogram.border != "none")
        self.gap.setEnabled(not monogram.welded)
        self.centre.setEnabled(len(monogram.initials.strip()) == 3)
        self.welded.setChecked(monogram.welded)

    def show_result(self) -> None:
        """The strokes as they are at the final size, so that nobody has to guess whether they match."""
        result, words = self.session.result, ""
        for layer in result.layers if result is not None else ():
            for element in layer.elements:
                source = element.element.source
                if element.element.id == self.session.chosen and isinstance(source, Monogram) and not source.welded:
                    letters = [part for part in element.letters if part.label != "border"]
                    widths = [strokes_of(part.region.polygons).upright for part in letters]
                    if widths:
                        unit = fine_unit(self.session.job.unit)
                        low, high = (format_length(w, unit) for w in (min(widths), max(widths)))
                        words = f"Upright strokes are {low} to {high} wide."
        self.strokes.setText(tr(words))
        self.strokes.setVisible(bool(words))

    def _change(self, title: str, *, merge: str = "", **values: Any) -> None:
        chosen = self.session.chosen

        def changed(element: Element) -> Element:
            if not isinstance(element.source, Monogram):
                return element
            source = replace(element.source, **values)
            return replace(element, name=source.initials.strip() or element.name, source=source)

        if isinstance(find_element(self.session.job, chosen).source, Monogram):
            self.session.change(
                title, with_element(self.session.job, chosen, changed), merge=f"{merge} {chosen}" if merge else ""
            )
