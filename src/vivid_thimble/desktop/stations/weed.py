"""Weed & apply: the numbered picks, and where the film goes on the item."""

from __future__ import annotations

from pathlib import Path as FilePath

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QFileDialog, QPushButton

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.finish.effort import Effort
from vivid_thimble.core.finish.weeding import WeedingPlan
from vivid_thimble.core.job import with_item
from vivid_thimble.core.job_sheet import job_sheet
from vivid_thimble.core.lengths import Unit
from vivid_thimble.core.place_card import SHEET, is_worked_from_behind, placing_lines, placings
from vivid_thimble.core.results import ItemResult
from vivid_thimble.core.room import measured_from
from vivid_thimble.desktop.panel import say_it_was, show_films
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.words import tr
from vivid_thimble.desktop.wrapping_list import WrappingList


class WeedStation(Station):
    KEY = "weed"
    QUESTION = "In which order does the waste come off, and where does the film go?"

    film_chosen = Signal(int)
    """The number of the film whose picks are shown, from 0."""

    def build(self) -> None:
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
        self.column.addWidget(self.list, 1)
        self.relief = self.hint()
        self.sheet_button = QPushButton(tr("Save the job &sheet…"))
        self.sheet_button.setObjectName("saveJobSheet")
        self.sheet_button.clicked.connect(lambda _=False: self._save_sheet())
        self.column.addWidget(self.sheet_button)
        self.section("Place it")
        self.place = self.hint()
        self.section("Take care")
        self.hint(
            "Count the picks: what is still on the film goes onto the item. Transfer tape next, then place by the "
            "distances above. Makers' labels and local rules come before anything said here."
        )

        self.session.insights.changed.connect(self._take_insight)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("weed", "weeding")
        super().showEvent(event)
        self.show_result()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("weed")

    @property
    def film(self) -> int:
        """The number of the film that is shown, from 0."""
        return max(self.film_box.currentIndex(), 0)

    def _choose_film(self, film: int) -> None:
        self.show_result()
        self.film_chosen.emit(film)

    def show_job(self) -> None:
        show_films(self.film_box, self.film_row, self.session.job.item)

    def _take_insight(self, name: str) -> None:
        if name == "weeding":
            self.show_result()

    def show_result(self) -> None:
        self.list.clear()
        result, unit = self.session.result, self.session.job.unit
        if result is None or result.margins is None:
            self.reason.setText(tr("Nothing to weed yet."))
            for label in (self.effort, self.effort_why, self.place, self.relief):
                label.setText("")
            self.flip.hide()
            return
        self.place.setText("\n".join(place_lines(result, unit)))
        plans = self.session.insights.weedings
        if plans is None:
            self.reason.setText(tr("Working out the order…"))
            return
        self._show_plan(plans[min(self.film, len(plans) - 1)], result)

    def show_stale(self) -> None:
        for label in (self.effort, self.reason, self.place):
            say_it_was(label)

    def _show_plan(self, plan: WeedingPlan, result: ItemResult) -> None:
        low, high = plan.effort.minutes
        self.effort.setText(tr(f"About {low} to {high} minutes"))
        self.effort_why.setText(tr(_shares(plan.effort)))
        self.reason.setText(tr(plan.reason))
        self.flip.setVisible(not result.item.is_stencil and len(plan.picks) > 1)
        for pick in plan.picks:
            watch = f"\n      Watch: {'; '.join(pick.watch)}" if pick.watch else ""
            self.list.addItem(tr(f"{pick.number}   {pick.what}  ·  {pick.area:.0f} mm²{watch}"))
        self.list.make_room()
        cuts = len(plan.relief)
        self.relief.setText(
            tr(
                f"Dashed on the table: the weeding box, and {cuts} relief cut{'s' * (cuts != 1)} through the surround."
                if plan.box is not None
                else ""
            )
        )

    def _save_sheet(self) -> None:
        """The job sheet as plain text, with the drawings' licences."""
        result, job = self.session.result, self.session.job
        if result is None or result.bounds is None:
            self.told.emit("There is nothing to put on a job sheet yet: gather words or a drawing first.")
            return
        stem = f"{job.name} - job sheet".replace("/", "-")
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
        lines += ["", title, *(f"   {tr(line)}" for line in placing_lines(one, unit))]
    return lines


def _shares(effort: Effort) -> str:
    """The largest parts of the estimate, so that it explains itself."""
    parts = [f"{share.what} {share.seconds / 60:.1f}" for share in effort.shares[:4]]
    return "Minutes for " + ", ".join(parts) + ". Starting figures: your own hands decide."
