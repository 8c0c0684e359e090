"""How the bridges of an element run, how many there are, and which middles may drop out."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from vivid_thimble.core.job import Element, find_element, with_element
from vivid_thimble.core.lengths import fine_unit
from vivid_thimble.core.steps import Bridges
from vivid_thimble.desktop.number_field import NumberField
from vivid_thimble.desktop.panel import Panel
from vivid_thimble.desktop.session import Session

ANGLES = (
    (None, "As suits each"),
    (90.0, "All upright"),
    (0.0, "All level"),
    (45.0, "All rising"),
    (-45.0, "All falling"),
)
COUNTS = (
    (None, "By the middle's size"),
    (1, "One"),
    (2, "Two"),
    (3, "Three"),
    (4, "Four"),
)


class BridgePanel(Panel):
    """Shown for elements that have bridges."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("Bridges")
        self.angle = self.choice("bridgeAngle", ANGLES, lambda key: self._change("Angle of bridges", angle_deg=key))
        self.row("They &run", self.angle)
        self.count = self.choice("bridgeCount", COUNTS, lambda key: self._change("Number of bridges", count=key))
        self.row("Each &middle", self.count)
        self.dropped = NumberField("Middles up to this size across drop out", "bridgeDropped", positive=False)
        self.dropped.committed.connect(lambda mm: self._change("Middles that drop out", dropped_area=mm * mm))
        self.row("&Drop up to", self.dropped)
        self.hint("Strips of sheet that hold the middles. They keep their width at every size.")

    def show_element(self, element: Element) -> None:
        step = next((one for one in element.steps if isinstance(one, Bridges)), None)
        self.setVisible(step is not None)
        if step is None:
            return
        for box, entries, value in ((self.angle, ANGLES, step.angle_deg), (self.count, COUNTS, step.count)):
            keys = [key for key, _ in entries]
            box.setCurrentIndex(keys.index(value) if value in keys else 0)
        self.dropped.set_unit(fine_unit(self.session.job.unit))
        self.dropped.set_value(step.dropped_area**0.5)

    def _change(self, title: str, **values: Any) -> None:
        chosen = self.session.chosen
        if not any(isinstance(one, Bridges) for one in find_element(self.session.job, chosen).steps):
            return

        def changed(element: Element) -> Element:
            steps = (replace(one, **values) if isinstance(one, Bridges) else one for one in element.steps)
            return replace(element, steps=tuple(steps))

        self.session.change(title, with_element(self.session.job, chosen, changed))
