"""The measuring tape: distance and direction between two places; the width of the line or gap under the pointer."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import shapely
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.widths.under_pointer import Neighbourhood, Under
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.table.arranging import draw_plate

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

LEAST_PX = 3.0


class TapeHands:
    """``on``: whether the pointer measures instead of taking things in hand."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.on = False
        self._from: tuple[float, float] | None = None
        self._to: tuple[float, float] | None = None
        self.under: Under | None = None
        self._near: Neighbourhood | None = None
        self._of: object = None

    def switch(self, *, on: bool) -> None:
        self.on, self._from, self._to, self.under = on, None, None, None

    def forget(self) -> None:
        """Another result: what was measured of the film is not true any more; the tape stays."""
        self.under = None

    def press(self, at: QPointF) -> None:
        self._from = self._to = self._table.to_item(at)
        self.under = None

    def drag(self, at: QPointF, *, straight: bool) -> None:
        """``straight``: along one of the directions of 45 degrees."""
        x, y = self._table.to_item(at)
        if straight and self._from is not None:
            dx, dy = x - self._from[0], y - self._from[1]
            angle = round(math.atan2(dy, dx) / (math.pi / 4.0)) * math.pi / 4.0
            far = dx * math.cos(angle) + dy * math.sin(angle)
            x, y = self._from[0] + far * math.cos(angle), self._from[1] + far * math.sin(angle)
        self._to = x, y

    def hover(self, at: QPointF) -> None:
        """The line or gap under the pointer, while nothing is dragged."""
        near = self._ready()
        self.under = near.at(*self._table.to_item(at), reach=400.0) if near is not None else None

    def words(self) -> str:
        """What the tape says now."""
        job = self._table.job
        unit = job.unit if job is not None else "mm"
        length = self._length()
        if length is not None and self._from is not None and self._to is not None:
            dx, dy = self._to[0] - self._from[0], self._to[1] - self._from[1]
            angle = round(math.degrees(math.atan2(-dy, dx)), 1) + 0.0  # never minus nothing
            across, down = format_length(abs(dx), unit), format_length(abs(dy), unit)
            return f"{format_length(length, unit)} at {angle:.1f}°: {across} across, {down} down"
        if self.under is not None:
            return _under_words(self.under, fine_unit(unit))
        return "Drag to measure; rest on film or between it to see how wide it is there"

    def _length(self) -> float | None:
        if self._from is None or self._to is None:
            return None
        length = math.dist(self._from, self._to)
        return length if length * self._table.px_per_mm > LEAST_PX else None

    def _ready(self) -> Neighbourhood | None:
        """The films that are shown, got ready when they are first asked about."""
        result = self._table.result
        if result is None:
            return None
        if self._of is not result:
            pieces = [piece for layer in result.layers for piece in layer.kept.polygons.geoms]
            self._near, self._of = Neighbourhood(shapely.MultiPolygon(pieces)), result
        return self._near

    def draw(self, painter: QPainter, palette: Palette) -> None:
        if not self.on:
            return
        place = self._table.to_widget
        if self._length() is not None and self._from is not None and self._to is not None:
            ends = place(*self._from), place(*self._to)
            self._draw_chord(painter, ends, QColor(palette.thread))
            draw_plate(painter, palette, (ends[0] + ends[1]) / 2.0 + QPointF(0.0, -16.0), self.words())
        elif self.under is not None and self.under.width is not None:
            ends = place(*self.under.ends[0]), place(*self.under.ends[1])
            self._draw_chord(painter, ends, QColor(palette.stop if self.under.kind == "line" else palette.look))
            draw_plate(painter, palette, (ends[0] + ends[1]) / 2.0 + QPointF(0.0, -22.0), self.words())

    def _draw_chord(self, painter: QPainter, ends: tuple[QPointF, QPointF], colour: QColor) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour, 2.0))
        painter.drawLine(*ends)
        way = ends[1] - ends[0]
        length = math.hypot(way.x(), way.y()) or 1.0
        across = QPointF(-way.y(), way.x()) * (6.0 / length)
        for end in ends:
            painter.drawLine(end - across, end + across)


def _under_words(under: Under, unit: Unit) -> str:
    kind = "line" if under.kind == "line" else "gap"
    if under.width is None:
        return f"This {kind} is open: nothing faces it"
    return f"This {kind} is {format_length(under.width, unit)} wide here"
