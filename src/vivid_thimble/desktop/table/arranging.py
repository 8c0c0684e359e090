"""Elements in hand on the table: their box with handles, what a drag snaps to, and the room to their neighbours."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from vivid_thimble.core.edits.arrange import Room, SnapLine, boxes_of, rooms, snapped
from vivid_thimble.core.edits.linked import leader_of
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.room.thing import thing_box
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import tr

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

HANDLE_PX = 8.0
KNOB_PX = 26.0
"""So far above the box lies the knob that turns it."""
SNAP_PX = 7.0
SMALLEST_MM = 1.0
"""A drag on a handle makes nothing smaller than this."""


class ArrangeHands:
    """``picked``: the elements in hand, by id."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.picked: tuple[str, ...] = ()
        self.show_handles = False
        self._boxes: dict[str, Box] = {}
        self._lines: list[SnapLine] = []
        self._corner = -1
        self._factors = (1.0, 1.0)
        self._turned: float | None = None
        self.proportional = True

    def take_result(self) -> None:
        """Boxes as they are now."""
        result, job = self._table.result, self._table.job
        self._boxes = boxes_of(result, job) if result is not None and job is not None else {}
        self._lines, self._corner, self._factors = [], -1, (1.0, 1.0)

    @property
    def is_sizing(self) -> bool:
        return self._corner >= 0

    def box(self) -> Box | None:
        """The box round all that is in hand."""
        job = self._table.job
        if job is None:
            return None
        ids = {leader_of(job, one) for one in self.picked}
        return box_round([box for one, box in self._boxes.items() if one in ids])

    def _others(self) -> list[Box]:
        job = self._table.job
        ids = {leader_of(job, one) for one in self.picked} if job is not None else set()
        return [box for one, box in self._boxes.items() if one not in ids]

    def inside(self, frame: QRectF) -> list[str]:
        """Elements that lie wholly inside a frame of the widget, by id."""
        return [one for one, box in self._boxes.items() if frame.contains(self._table.level_box(box).boundingRect())]

    # -- moving ---------------------------------------------------------------------

    def snapped(self, dx: float, dy: float, *, freely: bool) -> tuple[float, float]:
        """A drag by so many mm, brought to a line that is near; ``freely``: not."""
        box, job = self.box(), self._table.job
        self._lines = []
        if box is None or job is None or freely:
            return dx, dy
        moved = box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy
        item = job.item.width, job.item.height
        goals = [*self._others(), *self._table.guides.boxes(), thing_box(job.item)]
        x, y, self._lines = snapped(moved, goals, item, SNAP_PX / self._table.px_per_mm)
        return dx + x, dy + y

    def shift_words(self, dx: float, dy: float) -> str:
        job = self._table.job
        unit = job.unit if job is not None else "mm"
        return f"moved {format_length(dx, unit)} right, {format_length(dy, unit)} down; hold Alt to move freely"

    def let_go(self) -> None:
        self._lines = []

    # -- sizing ---------------------------------------------------------------------

    def press_handle(self, at: QPointF) -> bool:
        """Whether a corner handle is taken in hand."""
        self._corner, self._factors = self.over_handle(at), (1.0, 1.0)
        return self._corner >= 0

    def drag_handle(self, at: QPointF) -> None:
        """The factors that bring the corner to the pointer, or nearest to it."""
        box = self.box()
        if box is None:
            return
        fixed = np.array(self._fixed(box))
        diagonal = np.array([(box[0] + box[2]), (box[1] + box[3])]) - 2.0 * fixed
        pointer = np.array(self._table.level_at(at)) - fixed
        size = np.maximum(np.abs(diagonal), 1e-9)
        if self.proportional:
            along = float(pointer @ diagonal) / max(float(diagonal @ diagonal), 1e-12)
            factors = np.array([along, along])
        else:
            factors = pointer * np.sign(diagonal) / size
        least = np.minimum(SMALLEST_MM / size, 1.0)
        across, down = np.maximum(factors, least).tolist()
        self._factors = (across, across if self.proportional else down)
        job = self._table.job
        unit = job.unit if job is not None else "mm"
        wide, high = (box[2] - box[0]) * self._factors[0], (box[3] - box[1]) * self._factors[1]
        self._table.pointed.emit(f"{format_length(wide, unit)} wide, {format_length(high, unit)} high")

    def release_handle(self) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """The factors across and down and the corner that stays; None when nothing was dragged."""
        box, factors = self.box(), self._factors
        fixed = self._fixed(box) if box is not None else (0.0, 0.0)
        self._corner, self._factors = -1, (1.0, 1.0)
        return None if box is None or max(abs(one - 1.0) for one in factors) < 1e-3 else (factors, fixed)

    # -- turning --------------------------------------------------------------------

    def knob(self) -> QPointF | None:
        """The knob above the box that turns it."""
        box = self.box()
        if box is None or not self.show_handles:
            return None
        return self._table.place((box[0] + box[2]) / 2.0, box[1]) - QPointF(0.0, KNOB_PX)

    def press_knob(self, at: QPointF) -> bool:
        knob = self.knob()
        self._turned = 0.0 if knob is not None and (knob - at).manhattanLength() < 2 * HANDLE_PX else None
        return self._turned is not None

    def drag_knob(self, at: QPointF, *, in_steps: bool) -> None:
        """The angle from straight up; ``in_steps``: to whole fifteen degrees."""
        box = self.box()
        if box is None:
            return
        middle = self._table.place((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0)
        way = at - middle
        angle = math.degrees(math.atan2(-way.x(), -way.y()))
        step = 15.0 if in_steps else 0.5
        self._turned = round(angle / step) * step
        self._table.pointed.emit(f"turned by {self._turned:g}°; hold Shift for steps of 15°")

    def release_knob(self) -> float | None:
        """Degrees, counter-clockwise; None when nothing was turned."""
        turned, self._turned = self._turned, None
        return turned or None

    def over_handle(self, at: QPointF) -> int:
        """The handle under a place: 0 to 3, -1 for none."""
        near = [
            k
            for k, c in enumerate(self._corners())
            if abs(c.x() - at.x()) <= HANDLE_PX and abs(c.y() - at.y()) <= HANDLE_PX
        ]
        return near[0] if near else -1

    def _fixed(self, box: Box) -> tuple[float, float]:
        """The corner opposite to the one in hand."""
        left, top, right, bottom = box
        return ((right, bottom), (left, bottom), (left, top), (right, top))[self._corner]

    def _corners(self) -> list[QPointF]:
        box = self.box()
        if box is None or not self.show_handles:
            return []
        return [self._table.place(x, y) for x, y in _corners_of(box)]

    # -- painting -------------------------------------------------------------------

    def draw(self, painter: QPainter, palette: Palette, shift: QPointF, *, moving: bool) -> None:
        box, job = self.box(), self._table.job
        if box is None or job is None or not (self.show_handles or moving):
            return
        dx, dy = shift.x(), shift.y()
        now = box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy
        if self.is_sizing:
            x, y = self._fixed(box)
            xs = sorted((x, x + (box[0] + box[2] - 2.0 * x) * self._factors[0]))
            ys = sorted((y, y + (box[1] + box[3] - 2.0 * y) * self._factors[1]))
            now = xs[0], ys[0], xs[1], ys[1]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(palette.thread), 1.2, Qt.PenStyle.DashLine))
        if self._turned is not None:
            painter.save()
            middle = self._table.place((now[0] + now[2]) / 2.0, (now[1] + now[3]) / 2.0)
            painter.translate(middle)
            painter.rotate(-self._turned)
            painter.translate(-middle)
        painter.drawPolygon(self._table.level_box(now))
        if self._turned is not None:
            painter.restore()
        corners = [self._table.place(x, y) for x, y in _corners_of(now)]
        if self.show_handles and not moving and self._turned is None:
            self._draw_handles(painter, palette, corners)
            self._draw_knob(painter, palette)
        if moving:
            self._draw_lines(painter, palette)
            for room in rooms(now, self._others(), thing_box(job.item)):
                self._draw_room(painter, palette, room)
        elif self.is_sizing:
            wide = format_length(now[2] - now[0], job.unit, with_unit=False)
            high = format_length(now[3] - now[1], job.unit)
            below = self._table.place((now[0] + now[2]) / 2.0, now[3]) + QPointF(0.0, 16.0)
            draw_plate(painter, palette, below, f"{wide} × {high}")

    def _draw_handles(self, painter: QPainter, palette: Palette, corners: list[QPointF]) -> None:
        painter.setPen(QPen(QColor(palette.thread), 1.6))
        painter.setBrush(QColor(palette.raised))
        for at in corners:
            painter.drawEllipse(at, HANDLE_PX / 2.0 + 1.0, HANDLE_PX / 2.0 + 1.0)

    def _draw_knob(self, painter: QPainter, palette: Palette) -> None:
        knob = self.knob()
        if knob is not None and not self.is_sizing:
            painter.drawLine(knob, knob + QPointF(0.0, KNOB_PX))
            painter.drawEllipse(knob, HANDLE_PX / 2.0 + 1.0, HANDLE_PX / 2.0 + 1.0)
            painter.setBrush(QColor(palette.thread))
            painter.drawEllipse(knob, 2.0, 2.0)

    def _draw_lines(self, painter: QPainter, palette: Palette) -> None:
        painter.setPen(QPen(QColor(palette.stop), 1.2))
        for line in self._lines:
            low, high = line.over
            ends = ((line.at, low), (line.at, high)) if line.axis == 0 else ((low, line.at), (high, line.at))
            painter.drawLine(self._table.place(*ends[0]), self._table.place(*ends[1]))

    def _draw_room(self, painter: QPainter, palette: Palette, room: Room) -> None:
        job = self._table.job
        assert job is not None
        ends = self._table.place(*room.start), self._table.place(*room.end)
        draw_distance(painter, palette, ends, room.wide, job.unit, stands_out=room.to_neighbour)


def _corners_of(box: Box) -> tuple[tuple[float, float], ...]:
    """From the upper left one with the sun."""
    left, top, right, bottom = box
    return (left, top), (right, top), (right, bottom), (left, bottom)


def draw_plate(painter: QPainter, palette: Palette, centre: QPointF, text: str, colour: QColor | None = None) -> None:
    """Words on a small plate."""
    font = QFont(painter.font())
    font.setPixelSize(px(12))
    painter.setFont(font)
    text = tr(text)
    box = QRectF(painter.fontMetrics().boundingRect(text).adjusted(-4, -2, 4, 2))
    box.moveCenter(centre)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(palette.raised))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(colour or QColor(palette.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def draw_distance(
    painter: QPainter,
    palette: Palette,
    ends: tuple[QPointF, QPointF],
    mm: float,
    unit: Unit,
    *,
    stands_out: bool = False,
) -> None:
    """A line with its length on a plate, beside the line where that is too short; what is negative is a stop."""
    a, b = ends
    colour = QColor(palette.stop if mm < -1e-6 else palette.thread if stands_out else palette.soft_ink)
    painter.setPen(QPen(colour, 1.2))
    painter.drawLine(a, b)
    text, centre = format_length(mm, unit), (a + b) / 2.0
    box = painter.fontMetrics().boundingRect(text).adjusted(-4, -2, 4, 2)
    wide, high = abs(b.x() - a.x()), abs(b.y() - a.y())
    if wide + high < (box.width() if wide > high else box.height()) + 6:
        centre += QPointF(0, 14) if wide > high else QPointF(box.width() / 2 + 6, 0)
    draw_plate(painter, palette, centre, text, colour)
