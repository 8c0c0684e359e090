"""Weed & apply: the numbered picks, and where the film goes on the item."""

from __future__ import annotations

from pathlib import Path as FilePath

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QCheckBox, QFileDialog, QPushButton

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.files import file_stem, write_atomically
from vivid_thimble.core.finish.effort import Effort
from vivid_thimble.core.finish.weeding import WeedingPlan
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.lengths import Unit
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.reports.place_card import SHEET, is_worked_from_behind, placing_lines, placings
from vivid_thimble.core.room.thing import measured_from
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import WEEDING
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.widgets.panel import say_it_was, show_films
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

CARE = {
    "decal": "Count the picks: what is still on the film goes onto the item. Transfer tape next, then place by the "
    "distances above. Makers' labels and local rules come before anything said here.",
    "film-stencil": "Count the picks: an opening that is still closed takes no paint. Loose middles go across on "
    "transfer tape. Gloves, fresh air and what the label of paint or paste says come first.",
    "rigid-stencil": "Nothing is peeled: press the openings out from behind and keep the sheet flat. It is fixed with "
    "tape or a little spray for stencils; rinse it flat afterwards. Labels come first.",
    "screen-stencil": "Count the picks. The film goes onto the underside of the mesh; cover what is open round it up "
    "to the frame. Wash the mesh at once, as the ink's label says.",
    "heat-film": "Count the picks: what is still there gets pressed. Heat, time and pressure are those of the film's "
    "label, never guessed. Never heat vinyl film.",
}
"""By method, below the distances."""


class WeedStation(Station):
    KEY = "weed"
    QUESTION = "In which order does the waste come off, and where does the film go?"

    film_chosen = Signal(int)
    """The number of the film whose picks are shown, from 0."""

    pick_lit = Signal(int)
    """The number of the pick that is to stand out on the table; -1 for none."""

    def build(self) -> None:
        self.add_lie()
        self.film_box = self.choice("weedFilm", (), self._choose_film)
        self.film_row = self.row("&Film", self.film_box)
        self.effort = self.hint("", "section")
        self.effort_why = self.hint()
        self.reason = self.hint()
        self.flip = QPushButton(tr("Turn the order round"))
        self.flip.setObjectName("flipOrder")
        self.flip.clicked.connect(self._flip)
        self.column.addWidget(self.flip)
        self.list = WrappingList()
        self.list.setObjectName("picks")
        self.list.setAccessibleName(tr("Picks in order"))
        self.list.currentRowChanged.connect(self._light)
        self.column.addWidget(self.list, 1)
        self.relief = self.hint()
        self.relief_tick = QCheckBox(tr("&Cut what is dashed as well"))
        self.relief_tick.setObjectName("cutRelief")
        self.relief_tick.clicked.connect(self._cut_relief)
        self.column.addWidget(self.relief_tick)
        self.sheet_button = QPushButton(tr("Save the job &sheet…"))
        self.sheet_button.setObjectName("saveJobSheet")
        self.sheet_button.clicked.connect(lambda _=False: self._save_sheet())
        self.column.addWidget(self.sheet_button)
        self.section("Place it")
        self.place = self.hint()
        self.section("Take care")
        self.care = self.hint()

        self.session.insights.changed.connect(self._take_insight)

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.film_chosen.connect(bench.show_film)
        self.pick_lit.connect(bench.table.light_pick)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("weed", WEEDING)
        super().showEvent(event)
        self.show_result()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("weed")

    @property
    def film_number(self) -> int:
        """The number of the film that is shown, from 0."""
        return max(self.film_box.currentIndex(), 0)

    def _choose_film(self, film: int) -> None:
        self.show_result()
        self.film_chosen.emit(film)

    def show_job(self) -> None:
        show_films(self.film_box, self.film_row, self.session.job.item)

    def _take_insight(self, insight: object) -> None:
        if insight is WEEDING:
            self.show_result()

    def show_result(self) -> None:
        held = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        self.list.blockSignals(False)
        self.relief_tick.hide()
        self.care.setText(tr(CARE[self.session.job.item.method]))
        result, unit = self.session.result, self.session.job.unit
        if result is None or result.margins is None:
            self.reason.setText(tr("Nothing to weed yet."))
            for label in (self.effort, self.effort_why, self.place, self.relief):
                label.setText("")
            self.flip.hide()
            return
        self.place.setText("\n".join(place_lines(result, unit)))
        plans = self.session.insights.of(WEEDING)
        if plans is None:
            self.reason.setText(tr("Working out the order…"))
            return
        self._show_plan(plans[min(self.film_number, len(plans) - 1)], result, held)

    def show_stale(self) -> None:
        for label in (self.effort, self.reason, self.place):
            say_it_was(label)

    def _show_plan(self, plan: WeedingPlan, result: ItemResult, held: int) -> None:
        low, high = plan.effort.minutes
        self.effort.setText(tr(f"About {low} to {high} minutes"))
        self.effort_why.setText(tr(_shares(plan.effort)))
        self.reason.setText(tr(plan.reason))
        self.flip.setVisible(not result.item.is_stencil and len(plan.picks) > 1)
        for pick in plan.picks:
            watch = f"\n      Watch: {'; '.join(pick.watch)}" if pick.watch else ""
            self.list.addItem(tr(f"{pick.number}   {pick.what}  ·  {pick.area:.0f} mm²{watch}"))
        self.list.make_room()
        self.list.setCurrentRow(held if held < self.list.count() else -1)
        self._show_relief(plan, result)

    def _show_relief(self, plan: WeedingPlan, result: ItemResult) -> None:
        """What is dashed on the table, and whether it is cut."""
        item, cuts = result.item, len(plan.relief)
        are_cut = item.weeding_box is not None and item.relief
        lines = f" and {cuts} relief cut{'s' * (cuts != 1)}" if cuts else ""
        words = f"Dashed on the table, and cut with the film: the weeding box{lines}."
        if not are_cut:
            words = f"Dashed on the table, but not cut: the weeding box{lines}, as a suggestion."
        self.relief.setText(tr(words if plan.box is not None else ""))
        self.relief_tick.setVisible(plan.box is not None)
        self.relief_tick.setChecked(are_cut)

    def _cut_relief(self, on: bool) -> None:
        box = SURROUND_MM if on else None
        job = with_item(self.session.job, lambda item: replace(item, weeding_box=box, relief=on))
        self.session.change("Cut the weeding box" if on else "Leave the weeding box", job)

    def _light(self, row: int) -> None:
        """The pick in hand stands out on the table."""
        self.pick_lit.emit(row + 1 if row >= 0 else -1)

    def _save_sheet(self) -> None:
        """The job sheet as plain text, with the drawings' licences."""
        result, job = self.session.result, self.session.job
        if result is None or result.bounds is None:
            self.told.emit("There is nothing to put on a job sheet yet: gather words or a drawing first.")
            return
        stem = file_stem(job.item.name, "job sheet")
        name, _ = QFileDialog.getSaveFileName(self, tr("Save the job sheet"), f"{stem}.txt", tr("Text (*.txt)"))
        if name:
            path = FilePath(name if name.lower().endswith(".txt") else f"{name}.txt")
            try:
                write_atomically(path, job_sheet(job, result).encode())
            except ThimbleError as error:
                self.told.emit(str(error))
                return
            self.told.emit(f"The job sheet was saved as {path.name}.")

    def _flip(self) -> None:
        flipped = not self.session.job.item.weeding_flipped
        self.session.change(
            "Order of the picks", with_item(self.session.job, lambda item: replace(item, weeding_flipped=flipped))
        )


def place_lines(result: ItemResult, unit: Unit) -> list[str]:
    """Where it is measured from, then a line for every film and piece."""
    lines = [tr("As you stand before it, working from behind.")] if is_worked_from_behind(result.item) else []
    if told := measured_from(result.item):
        lines.append(tr(told))
    for one in placings(result):
        title = one.film if one.part is None else f"{one.film}, {tr(one.part) if one.part == SHEET else one.part}"
        lines += [*([""] if lines else []), title, *(f"   {tr(line)}" for line in placing_lines(one, unit))]
    return lines


def _shares(effort: Effort) -> str:
    """The largest parts of the estimate, so that it explains itself."""
    parts = [f"{share.what} {share.seconds / 60:.1f}" for share in effort.shares[:4]]
    return "Minutes for " + ", ".join(parts) + ". Starting figures: your own hands decide."
