"""Guides on the table: lines pulled out of the rulers that things snap to."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Guide
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.room.thing import thing_box
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.table.arranging import draw_plate
from vivid_thimble.desktop.table.rulers import THICKNESS

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

GRIP_PX = 7.0


class GuideHands:
    """A press in a ruler takes the guide whose grip is there, or pulls out a new one."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._held: Guide | None = None
        """The guide in hand as it is now, and as it was (None: it is new)."""
        self._before: Guide | None = None

    @property
    def guides(self) -> tuple[Guide, ...]:
        job = self._table.job
        return job.item.guides if job is not None else ()

    def boxes(self) -> list[Box]:
        """What a drag snaps to: a guide is a box without width, as long as the thing."""
        job = self._table.job
        if job is None:
            return []
        left, top, right, bottom = thing_box(job.item)
        return [(g.at, top, g.at, bottom) if g.axis == 0 else (left, g.at, right, g.at) for g in self.guides]

    def press(self, at: QPointF) -> bool:
        """Whether a guide is in hand now: the one whose grip is pressed, or a new one that runs along the ruler."""
        in_top, in_left = at.y() < THICKNESS <= at.x(), at.x() < THICKNESS <= at.y()
        if not (in_top or in_left) or self._table.job is None:
            return False
        across = 0 if in_top else 1
        grips = (g for g in self.guides if g.axis == across and abs(self._along(g) - _of(at, across)) < GRIP_PX)
        self._before = next(grips, None)
        self._held = self._before or Guide(axis=1 - across, at=self._rounded(at, 1 - across))
        return True

    def drag(self, at: QPointF) -> None:
        if self._held is not None:
            self._held = Guide(axis=self._held.axis, at=self._rounded(at, self._held.axis))
            self._table.pointed.emit(self.words())

    def release(self, at: QPointF) -> tuple[Guide | None, Guide | None] | None:
        """The guide as it was (None: it is new) and as it is to be (None: it is put back into the ruler)."""
        if self._held is None:
            return None
        guide, before = self._held, self._before
        self._held = self._before = None
        put_back = _of(at, guide.axis) < THICKNESS
        if before is None and put_back:
            return None
        return before, None if put_back else guide

    def words(self) -> str:
        job = self._table.job
        if self._held is None or job is None:
            return ""
        guide = self._held
        side = "left" if guide.axis == 0 else "top"
        away = guide.at - thing_box(job.item)[guide.axis]
        return f"Guide {format_length(away, job.unit)} from the {side}"

    def draw(self, painter: QPainter, palette: Palette) -> None:
        held = self._held
        for guide in self.guides:
            if guide != self._before:
                self._draw_one(painter, palette, guide)
        if held is not None:
            self._draw_one(painter, palette, held)
            at = self._along(held)
            place = QPointF(at, THICKNESS + 40.0) if held.axis == 0 else QPointF(THICKNESS + 90.0, at - 14.0)
            draw_plate(painter, palette, place, self.words())

    def _draw_one(self, painter: QPainter, palette: Palette, guide: Guide) -> None:
        at = self._along(guide)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(palette.fine), 1.2, Qt.PenStyle.DashDotLine))
        wide, high = self._table.width(), self._table.height()
        if guide.axis == 0:
            painter.drawLine(QPointF(at, THICKNESS), QPointF(at, high))
        else:
            painter.drawLine(QPointF(THICKNESS, at), QPointF(wide, at))

    def draw_grips(self, painter: QPainter, palette: Palette) -> None:
        """Small flags in the rulers, to take a guide by."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(palette.fine))
        for guide in self.guides:
            at, low = self._along(guide), THICKNESS - 8.0
            if guide.axis == 0:
                flag = [QPointF(at - 5, low), QPointF(at + 5, low), QPointF(at, THICKNESS)]
            else:
                flag = [QPointF(low, at - 5), QPointF(low, at + 5), QPointF(THICKNESS, at)]
            painter.drawPolygon(QPolygonF(flag))

    def _along(self, guide: Guide) -> float:
        """Where a guide lies in pixels of the widget."""
        return _of(self._table.to_widget(guide.at, guide.at), guide.axis)

    def _rounded(self, at: QPointF, axis: int) -> float:
        """The place under the pointer, in steps from the thing's edge that can be read at this scale."""
        job = self._table.job
        edge = thing_box(job.item)[axis] if job is not None else 0.0
        step = 1.0 if self._table.px_per_mm < 8.0 else 0.1
        return round(edge + round((self._table.to_item(at)[axis] - edge) / step) * step, 3)


def _of(point: QPointF, axis: int) -> float:
    return point.x() if axis == 0 else point.y()
