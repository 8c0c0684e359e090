"""The controls of a monogram."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QLineEdit

from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.job.edits import free_id, with_element
from vivid_thimble.core.job.values import Element, Job, Placement, source_as, source_in
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.sources.monogram import Monogram, strokes_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.source_panel import FRESH_SHARE, STURDY_FACE, SourcePanel
from vivid_thimble.desktop.widgets.number_field import FigureField
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

FRAMES = (("circle", "A circle"), ("shield", "A shield"), ("row", "A plain row"))
BORDERS = (("none", "No border"), ("ring", "A ring"), ("band", "A band of two rings"))


class MonogramPanel(SourcePanel):
    """Initials, frame and border of the monogram in hand."""

    ADD = ("Add a monogram", "Add a &monogram", "addMonogram")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
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

    @staticmethod
    def fresh(job: Job) -> Element:
        """A monogram in the sturdiest bundled face, ready for other initials."""
        return Element(
            id=free_id("monogram", job),
            name="QLR",
            source=Monogram(initials="QLR", face=STURDY_FACE),
            placement=Placement(height=min(job.item.width, job.item.height) * FRESH_SHARE),
        )

    def begin(self) -> None:
        self.initials.setFocus()
        self.initials.selectAll()

    def show_source(self, monogram: Monogram) -> None:
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

    def show_result(self, element: ElementResult | None) -> None:
        """The strokes as they are at the final size, so that nobody has to guess whether they match."""
        words = ""
        monogram = source_as(element.element, Monogram) if element is not None else None
        if element is not None and monogram is not None and not monogram.welded and self.isVisible():
            letters = [part for part in element.letters if part.label != "border"]
            widths = [strokes_of(part.region.polygons).upright for part in letters]
            if widths:
                unit = fine_unit(self.session.job.unit)
                low, high = (format_length(w, unit) for w in (min(widths), max(widths)))
                words = f"Upright strokes are {low} to {high} wide."
        self.strokes.setText(tr(words))
        self.strokes.setVisible(bool(words))

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        chosen = self.session.chosen

        def changed(element: Element) -> Element:
            monogram = source_as(element, Monogram)
            if monogram is None:
                return element
            source = replace(monogram, **values)
            return replace(element, name=source.initials.strip() or element.name, source=source)

        if source_in(self.session.job, chosen, Monogram) is not None:
            self.session.change(
                title, with_element(self.session.job, chosen, changed), merge=f"{merge} {chosen}" if merge else ""
            )
