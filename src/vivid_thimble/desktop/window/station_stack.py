"""The trays of the stations beside the table, each built when it is first opened: a start waits for one alone."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from importlib import import_module
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtWidgets import QScrollArea, QStackedWidget

from vivid_thimble.desktop.look.theme import room_px
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.stations.station_list import STATIONS
from vivid_thimble.desktop.widgets.panel import scrolling

if TYPE_CHECKING:
    from vivid_thimble.desktop.stations.cut.station import CutStation
    from vivid_thimble.desktop.stations.gather.station import GatherStation
    from vivid_thimble.desktop.stations.inspect.station import InspectStation
    from vivid_thimble.desktop.stations.measure.station import MeasureStation
    from vivid_thimble.desktop.stations.shape.station import ShapeStation
    from vivid_thimble.desktop.stations.weed.station import WeedStation
    from vivid_thimble.desktop.window.window import MainWindow

S = TypeVar("S", bound=Station)
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
            self._connect(station)
            station.show_job()
            if session.result is not None:
                station.show_result()
            self._rooms[key].setWidget(station)
        return self._built[key]

    def _as(self, kind: type[S]) -> S:
        station = self[kind.KEY]
        assert isinstance(station, kind)
        return station

    @property
    def measure(self) -> MeasureStation:
        from vivid_thimble.desktop.stations.measure.station import MeasureStation

        return self._as(MeasureStation)

    @property
    def gather(self) -> GatherStation:
        from vivid_thimble.desktop.stations.gather.station import GatherStation

        return self._as(GatherStation)

    @property
    def shape(self) -> ShapeStation:
        from vivid_thimble.desktop.stations.shape.station import ShapeStation

        return self._as(ShapeStation)

    @property
    def inspect(self) -> InspectStation:
        from vivid_thimble.desktop.stations.inspect.station import InspectStation

        return self._as(InspectStation)

    @property
    def cut(self) -> CutStation:
        from vivid_thimble.desktop.stations.cut.station import CutStation

        return self._as(CutStation)

    def show_lie(self, *, as_cut: bool) -> None:
        for station in self._built.values():
            station.show_lie(as_cut=as_cut)

    @property
    def weed(self) -> WeedStation:
        from vivid_thimble.desktop.stations.weed.station import WeedStation

        return self._as(WeedStation)

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
        if "measure" in self._built:
            self.measure.begin()

    def show_stale(self) -> None:
        """The figures of the station in hand are those of an earlier state."""
        for key, room in self._rooms.items():
            if room is self.currentWidget() and key in self._built:
                self._built[key].show_stale()

    def _connect(self, station: Station) -> None:
        window = self._window
        station.told.connect(window.tell)
        station.finding_chosen.connect(window.show_finding)
        station.look_wanted.connect(window.set_look)
        station.lie_chosen.connect(window.show_as_cut)
        station.show_lie(as_cut=window.as_cut)
        own = {
            "measure": self._connect_measure,
            "gather": self._connect_gather,
            "shape": self._connect_shape,
            "inspect": self._connect_inspect,
            "cut": self._connect_cut,
            "weed": self._connect_weed,
        }.get(station.KEY)
        if own is not None:
            own()

    def _connect_measure(self) -> None:
        dialogs = self._window.dialogs
        self.measure.stock_wanted.connect(dialogs.open_stock)
        self.measure.photo_wanted.connect(dialogs.choose_photo)

    def _connect_gather(self) -> None:
        gather, dialogs, table = self.gather, self._window.dialogs, self._window.table
        gather.audition_wanted.connect(dialogs.open_audition)
        gather.set_wanted.connect(dialogs.open_set)
        gather.places_wanted.connect(table.show_places)
        gather.underlay_changed.connect(table.show_underlay)
        gather.sketch_wanted.connect(table.show_preview)

    def _connect_shape(self) -> None:
        shape, table = self.shape, self._window.table
        shape.place.proportions_kept.connect(table.keep_proportions)
        shape.pairs_shown.connect(table.show_pairs)
        shape.spot_wanted.connect(table.show_spot)
        shape.bridges_shown.connect(table.show_bridges)
        shape.sheet.edges_shown.connect(lambda shown: table.show_sheet_edges(shown=shown))
        table.margin_dragged.connect(shape.sheet.drag_margin)
        table.letter_nudged.connect(shape.steps.joins.nudge_letter)
        bridges = shape.steps.bridges
        bridges.held.connect(table.hold_bridge)
        bridges.adding.connect(table.add_bridge)
        table.bridge_held.connect(bridges.hold)
        table.bridge_out.connect(bridges.take_out)

    def _connect_weed(self) -> None:
        self.weed.film_chosen.connect(self._window.show_film)
        self.weed.pick_lit.connect(self._window.table.light_pick)

    def _connect_cut(self) -> None:
        self.cut.film_chosen.connect(self._window.show_film)

    def _connect_inspect(self) -> None:
        inspect, window = self.inspect, self._window
        inspect.remedy_wanted.connect(partial(window.apply_remedy, everywhere=False))
        inspect.all_wanted.connect(partial(window.apply_remedy, everywhere=True))
        inspect.preview_wanted.connect(window.preview_remedy)
        inspect.spot_wanted.connect(window.table.show_spot)
        inspect.true_size_wanted.connect(window.table.zoom_to_true_size)
        inspect.widths.side_chosen.connect(window.show_insights)


def _loaded(key: str) -> type[Station]:
    module = import_module(f"vivid_thimble.desktop.stations.{key}.station")
    found: type[Station] = getattr(module, f"{key.capitalize()}Station")
    return found
