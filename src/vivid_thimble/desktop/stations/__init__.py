"""The stations of the work path, a module each, in the order people work.

A station is a tray: it shows the job and its result and sends intentions through
the session. Adding one means a module here and a line in ``STATIONS``.
"""

from __future__ import annotations

from vivid_thimble.desktop.stations.cut import CutStation
from vivid_thimble.desktop.stations.gather import GatherStation
from vivid_thimble.desktop.stations.inspect import InspectStation
from vivid_thimble.desktop.stations.measure import MeasureStation
from vivid_thimble.desktop.stations.shape import ShapeStation
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.stations.weed import WeedStation

STATIONS: tuple[type[Station], ...] = (
    MeasureStation,
    GatherStation,
    ShapeStation,
    InspectStation,
    CutStation,
    WeedStation,
)

__all__ = ["STATIONS", "Station"]
