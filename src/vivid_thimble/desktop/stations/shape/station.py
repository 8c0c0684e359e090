"""Shape: size and place, the steps that run live at the final size, and the sheet round it all."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QStackedWidget

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.shape.place_page import PlacePage
from vivid_thimble.desktop.stations.shape.sheet_page import SheetPage
from vivid_thimble.desktop.stations.shape.steps_page import StepsPage
from vivid_thimble.desktop.stations.station import Station

PAGES = (("place", "Place"), ("steps", "Steps"), ("sheet", "Sheet"))


class ShapeStation(Station):
    KEY = "shape"
    QUESTION = "How large, where, and what is done to it? Nothing here is final."
    pairs_shown = Signal(object)
    spot_wanted = Signal(object)
    bridges_shown = Signal(str, object)
    """Whose bridges can be taken in hand on the table, and which (None for none)."""

    def build(self) -> None:
        self.element_box = QComboBox()
        self.element_box.setObjectName("shapeElement")
        self.element_box.activated.connect(lambda _: self.session.choose(self.element_box.currentData()))
        self.row("&Element", self.element_box)
        self._buttons = self.tabs(PAGES, self.turn_to, "shape")
        self.pages = QStackedWidget()
        self.place, self.steps, self.sheet = PlacePage(self.session), StepsPage(self.session), SheetPage(self.session)
        for page in (self.place, self.steps, self.sheet):
            self.pages.addWidget(page)
        self.column.addWidget(self.pages, 1)
        self.steps.spot_wanted.connect(self.spot_wanted)
        self.steps.joins.spot_wanted.connect(self.spot_wanted)
        self.steps.joins.pairs_shown.connect(self.pairs_shown)
        self.steps.bridges_shown.connect(self.bridges_shown)

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        table, bridges = bench.table, self.steps.bridges
        self.place.proportions_kept.connect(table.keep_proportions)
        self.pairs_shown.connect(table.show_pairs)
        self.spot_wanted.connect(table.show_spot)
        self.bridges_shown.connect(table.show_bridges)
        self.sheet.edges_shown.connect(lambda shown: table.show_sheet_edges(shown=shown))
        table.margin_dragged.connect(self.sheet.drag_margin)
        table.letter_nudged.connect(self.steps.joins.nudge_letter)
        bridges.held.connect(table.hold_bridge)
        bridges.adding.connect(table.add_bridge)
        table.bridge_held.connect(bridges.hold)
        table.bridge_out.connect(bridges.take_out)

    def turn_to(self, key: str) -> None:
        """Open one of the pages."""
        self._buttons[key].setChecked(True)
        self.pages.setCurrentIndex([k for k, _ in PAGES].index(key))
        self.steps.show_result()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.steps.show_result()

    def show_job(self) -> None:
        job, chosen = self.session.job, self.session.chosen
        elements = elements_of(job.item)
        self.element_box.clear()
        for element in elements:
            self.element_box.addItem(element.name.replace("\n", " / "), element.id)
        self.element_box.setCurrentIndex(self.element_box.findData(chosen))
        self.setEnabled(bool(chosen))
        for page in (self.place, self.steps, self.sheet):
            page.show_job()
        self.show_result()

    def show_result(self) -> None:
        for page in (self.place, self.steps, self.sheet):
            page.show_result()
