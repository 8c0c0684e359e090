"""Weed & apply: the numbered picks, and where the film goes on the item."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget

from vivid_thimble.core.lengths import format_length
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.work_path import Standing


class WeedStation(Station):
    KEY, TITLE = "weed", "Weed & apply"
    QUESTION = "In which order does the waste come off, and where does the film go?"

    def build(self) -> None:
        self.reason = self.hint("", "section")
        self.list = QListWidget()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Picks in order")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.column.addWidget(self.list, 1)
        self.section("Place it")
        self.place = self.hint()
        self.section("Take care")
        self.hint(
            "Count the picks: what is still on the film goes onto the item. Transfer tape next, then place by the "
            "distances above. Makers' labels and local rules come before anything said here."
        )

    def show_result(self) -> None:
        self.list.clear()
        result, unit = self.session.result, self.session.job.unit
        if result is None or result.margins is None:
            self.reason.setText("Nothing to weed yet.")
            self.place.setText("")
            return
        plan = result.weeding
        self.reason.setText(plan.reason)
        for pick in plan.picks:
            self.list.addItem(f"{pick.number}   {pick.what}  ·  {pick.area:.0f} mm²")
        left, right, top, bottom = (format_length(m, unit) for m in result.margins)
        self.place.setText(
            f"From the item's edges to the design: {left} left, {right} right, {top} top, {bottom} bottom."
        )

    def standing(self) -> Standing:
        result = self.session.result
        if result is None or result.bounds is None:
            return Standing("nothing yet", "none")
        count = len(result.weeding.picks)
        return Standing(f"{count} pick" + "s" * (count != 1), "fine")
