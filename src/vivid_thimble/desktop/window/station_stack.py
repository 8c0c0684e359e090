"""The trays of the stations beside the table, each built when it is first opened: a start waits for one alone."""

from __future__ import annotations

from collections.abc import Iterator
from importlib import import_module
from typing import TYPE_CHECKING, cast

from PySide6.QtWidgets import QScrollArea, QStackedWidget

from vivid_thimble.desktop.look.theme import room_px
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.stations.station_list import PACKAGE, STATIONS
from vivid_thimble.desktop.widgets.panel import scrolling

if TYPE_CHECKING:
    from vivid_thimble.desktop.stations.cut.station import CutStation
    from vivid_thimble.desktop.stations.gather.station import GatherStation
    from vivid_thimble.desktop.stations.inspect.station import InspectStation
    from vivid_thimble.desktop.stations.measure.station import MeasureStation
    from vivid_thimble.desktop.stations.shape.station import ShapeStation
    from vivid_thimble.desktop.stations.weed.station import WeedStation
    from vivid_thimble.desktop.window.window import MainWindow

WIDTH = 316


class Trays(QStackedWidget):
    """The stations by their keys; what they send is connected to the window as each is built."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__()
        self._window = window
        self._built: dict[str, Station] = {}
        self.setObjectName("tray")
        self.setFixedWidth(room_px(WIDTH, 1.35))
        self._rooms: dict[str, QScrollArea] = {}
        for key in STATIONS:
            self._rooms[key] = scrolling()
            self.addWidget(self._rooms[key])

    def __iter__(self) -> Iterator[str]:
        return iter(self._rooms)

    def __getitem__(self, key: str) -> Station:
        if key not in self._built:
            session = self._window.session
            station = self._built[key] = _loaded(key)(session)
            station.connect_to(self._window)
            station.show_job()
            if session.result is not None:
                station.show_result()
            self._rooms[key].setWidget(station)
        return self._built[key]

    @property
    def measure(self) -> MeasureStation:
        return cast("MeasureStation", self["measure"])

    @property
    def gather(self) -> GatherStation:
        return cast("GatherStation", self["gather"])

    @property
    def shape(self) -> ShapeStation:
        return cast("ShapeStation", self["shape"])

    @property
    def weed(self) -> WeedStation:
        return cast("WeedStation", self["weed"])

    @property
    def cut(self) -> CutStation:
        return cast("CutStation", self["cut"])

    @property
    def inspect(self) -> InspectStation:
        return cast("InspectStation", self["inspect"])

    def show_lie(self, *, as_cut: bool) -> None:
        for station in self._built.values():
            station.show_lie(as_cut=as_cut)

    def open(self, key: str, *, take_keys: bool = False) -> None:
        """Show a station from its top; ``take_keys``: its first control gets the keyboard."""
        station, room = self[key], self._rooms[key]
        if self.currentWidget() is not room:
            room.verticalScrollBar().setValue(0)
        self.setCurrentWidget(room)
        if take_keys:
            station.take_keys()

    def begin(self) -> None:
        """Another job is begun."""
        for station in self._built.values():
            station.begin()

    def show_stale(self) -> None:
        """The figures of the station in hand are those of an earlier state."""
        for key, room in self._rooms.items():
            if room is self.currentWidget() and key in self._built:
                self._built[key].show_stale()


def _loaded(key: str) -> type[Station]:
    found: type[Station] = getattr(import_module(f"{PACKAGE}.{key}.station"), f"{key.capitalize()}Station")
    return found
