"""The numbered tags of the findings on the table, each beside its place, and the chords that they point at."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.desktop.marks import draw_tag

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

AWAY_PX, HELD_AWAY_PX = 15.0, 30.0
"""Tags lie beside their places, so that they do not cover what they point at."""
GRAB_PX = 13.0
TAG_PX = 44
MOST_PICTURES = 1500
MOST_FRESH = 24
"""So many new tags are painted in one frame."""


class FindingMarks:
    """Tags are painted once for a number and kind, and only those in view are shown: there may be hundreds."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._pictures: dict[tuple[object, ...], QPixmap] = {}
        self._fresh = 0
        self._soon = QTimer(table)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(table.update)

    def place(self, number: int) -> QPointF:
        """Where the tag of a finding lies, counted from 0."""
        finding = self._table.findings[number]
        assert finding.at is not None
        away = HELD_AWAY_PX if number == self._table.held_finding else AWAY_PX
        return self._table.to_widget(*finding.at) + QPointF(away, -away)

    def at(self, point: QPointF) -> int:
        """The tag under a place; -1 for none."""
        for number in range(len(self._table.findings)):
            place = self.place(number)
            if abs(place.x() - point.x()) < GRAB_PX and abs(place.y() - point.y()) < GRAB_PX:
                return number
        return -1

    def draw(self, painter: QPainter) -> None:
        """The one in hand last, on top; in the width look it alone."""
        table = self._table
        held = table.held_finding
        view = QRectF(table.rect()).adjusted(-60, -60, 60, 60)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._fresh = 0
        numbers = [] if table.look == "widths" else [k for k in reversed(range(len(table.findings))) if k != held]
        for number in [*numbers, *([held] if 0 <= held < len(table.findings) else [])]:
            place = self.place(number)
            if view.contains(place):
                self._draw_one(painter, number, place)
        if self._fresh > MOST_FRESH:
            self._soon.start(0)  # the others follow in the next frame

    def _draw_one(self, painter: QPainter, number: int, place: QPointF) -> None:
        table = self._table
        finding = table.findings[number]
        picture = self._picture(number, finding)
        if picture is None:
            return
        if finding.ends is not None:
            self._draw_chord(painter, finding, place)
        painter.drawPixmap(place - QPointF(TAG_PX / 2, TAG_PX / 2), picture)

    def _draw_chord(self, painter: QPainter, finding: Finding, tag: QPointF) -> None:
        table = self._table
        assert finding.ends is not None and finding.at is not None
        colour = QColor(table.colours.stop if finding.severity == "stop" else table.colours.look)
        painter.setPen(QPen(colour, 1.2))
        painter.drawLine(table.to_widget(*finding.at), tag)
        painter.setPen(QPen(colour, 2.4))
        painter.drawLine(table.to_widget(*finding.ends[0]), table.to_widget(*finding.ends[1]))

    def _picture(self, number: int, finding: Finding) -> QPixmap | None:
        """None when this frame has painted enough new ones."""
        table = self._table
        held, ratio = number == table.held_finding, table.devicePixelRatioF()
        key = number, finding.kind, finding.severity, held, table.colours.name, ratio
        known = self._pictures.get(key)
        if known is not None:
            return known
        self._fresh += 1
        if self._fresh > MOST_FRESH and not held:
            return None
        if len(self._pictures) > MOST_PICTURES:
            self._pictures.clear()
        picture = QPixmap(QSize(TAG_PX, TAG_PX) * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        with QPainter(picture) as painter:
            painter.setFont(table.font())
            draw_tag(painter, QPointF(TAG_PX / 2, TAG_PX / 2), number + 1, finding, table.colours, held=held)
        self._pictures[key] = picture
        return picture
