"""Measure: the item and the room on it, where the design lies, how it is decorated."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget

from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.measure.film_page import FilmPage
from vivid_thimble.desktop.stations.measure.item_page import ItemPage
from vivid_thimble.desktop.stations.measure.margins_page import MarginsPage
from vivid_thimble.desktop.stations.station import Station

PAGES = (("item", "Item"), ("margins", "Margins"), ("film", "Method, film"))


class MeasureStation(Station):
    KEY = "measure"
    QUESTION = "How much room is there, and how will it be decorated?"
    photo_wanted = Signal()
    stock_wanted = Signal()

    def build(self) -> None:
        self._buttons = self.tabs(PAGES, self.turn_to, "measure")
        self.item = ItemPage(self.session, self.session.workshop)
        self.margins = MarginsPage(self.session)
        self.film = FilmPage(self.session, self.session.workshop)
        self.pages = QStackedWidget()
        for page in (self.item, self.margins, self.film):
            self.pages.addWidget(page)
            page.told.connect(self.told)
        self.column.addWidget(self.pages, 1)
        self.item.photo_wanted.connect(self.photo_wanted)
        self.film.stock_wanted.connect(self.stock_wanted)

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.stock_wanted.connect(bench.dialogs.open_stock)
        self.photo_wanted.connect(bench.dialogs.choose_photo)

    def begin(self) -> None:
        """Another job: the thing itself comes first."""
        self.turn_to("item")

    def turn_to(self, key: str) -> None:
        """Open one of the pages."""
        self._buttons[key].setChecked(True)
        self.pages.setCurrentIndex([k for k, _ in PAGES].index(key))

    def show_job(self) -> None:
        for page in (self.item, self.margins, self.film):
            page.show_job()
        self.show_result()

    def show_result(self) -> None:
        self.margins.show_result()
