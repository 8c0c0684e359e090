"""Tally: how many pieces there are, and how long their edges; one of them worked out only while somebody looks."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QHideEvent, QShowEvent

from vivid_thimble.desktop.session.derived import Insight
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.station import Station

if TYPE_CHECKING:
    from vivid_thimble.core.evaluate.results import ItemResult
    from vivid_thimble.desktop.session.session import Session


def _edges(_: Session, result: ItemResult) -> Callable[[], float]:
    return lambda: sum(layer.kept.polygons.length for layer in result.layers)


EDGES: Insight[float] = Insight("edges", lambda _, result: (result.layers[0].key,), _edges)


class TallyStation(Station):
    KEY = "tally"
    QUESTION = "How many pieces, and how much to cut?"

    def build(self) -> None:
        self.says = self.hint()
        self.says.setObjectName("tallySays")
        self.session.insights.changed.connect(lambda one: self.show_result() if one is EDGES else None)

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.says.linkActivated.connect(bench.tell)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("tally", EDGES)
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("tally")

    def show_result(self) -> None:
        edges = self.session.insights.of(EDGES)
        self.says.setText("" if edges is None else f"{edges:.1f} mm of edges")
