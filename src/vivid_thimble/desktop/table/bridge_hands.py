"""Bridges taken in hand on the table: dragged along their middle's edge, turned by the far end, added, taken out."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from vivid_thimble.core.bridging.by_hand import from_island
from vivid_thimble.core.bridging.plan import Bridge, strip_of, strips_of
from vivid_thimble.core.steps.bridges import FoundBridges
from vivid_thimble.desktop.look.theme import Palette

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

GRAB_PX = 9.0
KNOB_PX = 5.5
NUDGE_MM = 0.5
"""What an arrow key moves a bridge along its edge by."""


class BridgeHands:
    """``held``: the number of the bridge in hand, -1 for none. ``ghost``: where it would come to lie."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.owner = ""
        self.found: FoundBridges | None = None
        self.held = -1
        self.adding = False
        self.ghost: Bridge | None = None
        self._grip = ""

    @property
    def is_dragging(self) -> bool:
        return bool(self._grip)

    def show(self, owner: str, found: FoundBridges | None) -> None:
        self.owner, self.found = owner, found
        self.ghost = None
        if found is None or self.held >= len(found.found.plan.bridges):
            self.held = -1
        if found is None:
            self.adding = False

    # -- hands ----------------------------------------------------------------------

    def press(self, at: QPointF) -> bool:
        """Whether a bridge is taken in hand, or a new one begun."""
        if self.found is None:
            return False
        if self.adding:
            self._grip = "add"
            self.drag(at)
            return True
        held = self._bridge(self.held)
        if held is not None and not held.weak and _px(self._table.place(*self._ends(held)[1]), at) <= GRAB_PX:
            self._grip = "turn"
            return True
        number = self.number_at(at)
        if number < 0:
            return False
        self.held = number
        self._grip = "" if self.found.found.plan.bridges[number].weak else "slide"
        self._table.bridge_held.emit(number)
        return True

    def drag(self, at: QPointF) -> None:
        """Where the bridge would be if it were let go here."""
        if self.found is None:
            return
        x, y = self._table.level_at(at)
        dx, dy = self.found.away
        place = x - dx, y - dy
        bridge = self._bridge(self.held) if self._grip != "add" else None
        ghost = self._found_at(place, bridge)
        self.ghost = ghost.shifted(dx, dy) if ghost is not None else None
        self._table.pointed.emit("" if ghost is not None else "No bridge of this width fits here.")

    def release(self) -> tuple[Bridge, int] | None:
        """The bridge to place and the number of the one that it is instead of (-1: a new one); None for none."""
        ghost, grip = self.ghost, self._grip
        self.ghost, self._grip = None, ""
        if ghost is None:
            return None
        return (ghost, -1) if grip == "add" else (ghost, self.held)

    def slid(self, by: float) -> tuple[Bridge, int] | None:
        """The bridge in hand moved along its middle's edge by so many mm."""
        bridge = self._bridge(self.held)
        if self.found is None or bridge is None or bridge.weak:
            return None
        dx, dy = self.found.away
        ring = self._island(bridge)
        wall = shapely.LinearRing(self.found.walls.rings[ring])
        foot = shapely.Point(np.array(self._ends(bridge)[0]) - (dx, dy))
        place = wall.interpolate((wall.project(foot) + by) % wall.length)
        moved = from_island(self.found.walls, ring, (place.x, place.y), bridge.width)
        return (moved.shifted(dx, dy), self.held) if moved is not None else None

    def number_at(self, at: QPointF) -> int:
        """The bridge under a place of the widget; -1 for none."""
        if self.found is None:
            return -1
        x, y = self._table.level_at(at)
        strips = strips_of(self.found.found.plan.bridges)
        reach = GRAB_PX / self._table.px_per_mm
        away = shapely.distance(strips, shapely.Point(x, y)) if strips else np.zeros(0)
        return int(np.argmin(away)) if len(away) and away.min() <= reach else -1

    def _bridge(self, number: int) -> Bridge | None:
        bridges = self.found.found.plan.bridges if self.found is not None else ()
        return bridges[number] if 0 <= number < len(bridges) else None

    def _island(self, bridge: Bridge) -> int:
        """The ring that the bridge is dragged along: an island's, not the opening's outer wall."""
        assert self.found is not None
        first, last = bridge.rings
        return last if self.found.walls.is_outer[first] else first

    def _ends(self, bridge: Bridge) -> tuple[tuple[float, float], tuple[float, float]]:
        """The foot on the island, and the far one."""
        assert self.found is not None
        if not bridge.weak and self.found.walls.is_outer[bridge.rings[0]]:
            return bridge.end, bridge.start
        return bridge.start, bridge.end

    def _found_at(self, place: tuple[float, float], bridge: Bridge | None) -> Bridge | None:
        assert self.found is not None
        walls, width = self.found.walls, self.found.step.width
        if bridge is None:
            islands = np.flatnonzero(~walls.is_outer)
            if not len(islands):
                return None
            lines = [shapely.LinearRing(walls.rings[k]) for k in islands.tolist()]
            nearest = int(islands[int(np.argmin(shapely.distance(lines, shapely.Point(place))))])
            return from_island(walls, nearest, place, width)
        if self._grip == "turn":
            dx, dy = self.found.away
            foot = self._ends(bridge)[0]
            foot = foot[0] - dx, foot[1] - dy
            way = place[0] - foot[0], place[1] - foot[1]
            return from_island(walls, self._island(bridge), foot, width, way)
        return from_island(walls, self._island(bridge), place, width)

    # -- painting -------------------------------------------------------------------

    def draw(self, painter: QPainter, palette: Palette) -> None:
        """Outlines of all bridges, knobs on the one in hand, and where it would come to lie."""
        if self.found is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        by_hand = len(self.found.found.by_hand)
        for k, bridge in enumerate(self.found.found.plan.bridges):
            colour = QColor(palette.stop if bridge.weak else palette.thread)
            style = Qt.PenStyle.SolidLine if k < by_hand else Qt.PenStyle.DotLine
            painter.setPen(QPen(colour, 2.2 if k == self.held else 1.3, style))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(self._polygon(bridge))
            if k < by_hand:
                self._draw_pin(painter, bridge, palette)
        held = self._bridge(self.held)
        if held is not None and self.ghost is None and not held.weak:
            self._draw_knobs(painter, held, palette)
        if self.ghost is not None:
            fill = QColor(palette.thread)
            fill.setAlpha(130)
            painter.setPen(QPen(QColor(palette.thread), 1.5))
            painter.setBrush(fill)
            painter.drawPolygon(self._polygon(self.ghost))

    def _polygon(self, bridge: Bridge) -> QPolygonF:
        points = shapely.get_coordinates(strip_of(bridge)).tolist()
        return QPolygonF([self._table.place(x, y) for x, y in points])

    def _draw_pin(self, painter: QPainter, bridge: Bridge, palette: Palette) -> None:
        """A small square: this one was placed by hand and stays."""
        at = self._table.place(*bridge.middle)
        painter.setPen(QPen(QColor(palette.raised), 1.0))
        painter.setBrush(QColor(palette.thread))
        painter.drawRect(int(at.x()) - 3, int(at.y()) - 3, 6, 6)

    def _draw_knobs(self, painter: QPainter, bridge: Bridge, palette: Palette) -> None:
        foot, far = self._ends(bridge)
        painter.setPen(QPen(QColor(palette.thread), 1.6))
        painter.setBrush(QColor(palette.raised))
        painter.drawEllipse(self._table.place(*foot), KNOB_PX, KNOB_PX)
        at = self._table.place(*far)
        corners = ((0, -KNOB_PX - 2), (KNOB_PX + 2, 0), (0, KNOB_PX + 2), (-KNOB_PX - 2, 0))
        painter.drawPolygon(QPolygonF([at + QPointF(dx, dy) for dx, dy in corners]))


def _px(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))
