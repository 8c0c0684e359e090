"""The stations in the order people work."""

from __future__ import annotations

from vivid_thimble.desktop.stations.cut.spec import SPEC as CUT
from vivid_thimble.desktop.stations.gather.spec import SPEC as GATHER
from vivid_thimble.desktop.stations.inspect.spec import SPEC as INSPECT
from vivid_thimble.desktop.stations.measure.spec import SPEC as MEASURE
from vivid_thimble.desktop.stations.shape.spec import SPEC as SHAPE
from vivid_thimble.desktop.stations.spec import StationSpec
from vivid_thimble.desktop.stations.weed.spec import SPEC as WEED

STATIONS: dict[str, StationSpec] = {spec.key: spec for spec in (MEASURE, GATHER, SHAPE, INSPECT, CUT, WEED)}
PACKAGE = __name__.rpartition(".")[0]
