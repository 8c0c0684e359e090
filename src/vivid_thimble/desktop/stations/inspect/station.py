"""Inspect: what would go wrong if this were cut now, at this size."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget

from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.inspect.findings_page import FindingsPage
from vivid_thimble.desktop.stations.inspect.fit_page import FitPage
from vivid_thimble.desktop.stations.inspect.size_page import SizePage
from vivid_thimble.desktop.stations.inspect.widths_page import WidthsPage
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.widgets.panel import say_it_was

PAGES = (("findings", "Findings"), ("size", "Size"), ("widths", "Widths"), ("fit", "Fit"))


class InspectStation(Station):
    KEY = "inspect"
    QUESTION = "What would go wrong if this were cut now, at this size?"
    remedy_wanted = Signal(str, object)
    all_wanted = Signal(str, object)
    preview_wanted = Signal(str, object)
    spot_wanted = Signal(object)
    true_size_wanted = Signal()

    def build(self) -> None:
        self.findings = FindingsPage(self.session)
        self.size_page = SizePage(self.session)
        self.widths = WidthsPage(self.session)
        self.fit = FitPage(self.session)
        self.pages = QStackedWidget()
        self._buttons = self.tabs(PAGES, self.turn_to, "page")
        for page in (self.findings, self.size_page, self.widths, self.fit):
            self.pages.addWidget(page)
        self.column.addWidget(self.pages, 1)
        self.list = self.findings.list
        self.findings.chosen.connect(self.finding_chosen)
        self.findings.remedy_wanted.connect(self.remedy_wanted)
        self.findings.all_wanted.connect(self.all_wanted)
        self.findings.preview_wanted.connect(self.preview_wanted)
        self.size_page.spot_wanted.connect(self.spot_wanted)
        self.size_page.look_wanted.connect(self.look_wanted)
        self.widths.spot_wanted.connect(self.spot_wanted)
        self.fit.true_size_wanted.connect(self.true_size_wanted)
        self.show_result()

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.remedy_wanted.connect(partial(bench.apply_remedy, everywhere=False))
        self.all_wanted.connect(partial(bench.apply_remedy, everywhere=True))
        self.preview_wanted.connect(bench.preview_remedy)
        self.spot_wanted.connect(bench.table.show_spot)
        self.true_size_wanted.connect(bench.table.zoom_to_true_size)
        self.widths.side_chosen.connect(bench.show_insights)

    def turn_to(self, key: str) -> None:
        """Open one of the pages; the width page brings the width look along."""
        self._buttons[key].setChecked(True)
        page = [k for k, _ in PAGES].index(key)
        if page != self.pages.currentIndex():
            self.pages.setCurrentIndex(page)
            self.look_wanted.emit("widths" if key == "widths" else "finished")

    def show_result(self) -> None:
        result = self.session.result
        self.findings.show_findings(
            result.findings if result else (),
            result.accepted if result else (),
            is_empty=result is None or result.bounds is None,
        )
        for page in (self.size_page, self.widths, self.fit):
            page.show_result()

    def show_stale(self) -> None:
        say_it_was(self.findings.verdict)

    def step(self, by: int) -> None:
        """To the next or previous finding, round and round."""
        self.turn_to("findings")
        self.findings.step(by)

    def hold(self, index: int) -> None:
        """Select a finding from outside."""
        self.turn_to("findings")
        self.findings.hold(index)
