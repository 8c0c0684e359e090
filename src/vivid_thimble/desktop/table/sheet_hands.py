"""The edges of a stencil's sheet taken in hand on the table: a margin is dragged to where it should be."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.steps.frame import SIDES, Side
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.table.arranging import draw_plate

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

GRAB_PX = 9.0
STEP_MM, STEP_INCH_MM = 0.5, 25.4 / 16
"""Margins are dragged in steps of this."""


class SheetHands:
    """Shown while the sheet's page is open; only sheets round the design have margins to drag."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.shown = False
        self._side: Side | None = None
        self._margin = 0.0

    def _boxes(self) -> tuple[Box, Box] | None:
        """The sheet and the design in it."""
        result = self._table.result
        if not self.shown or result is None or result.item.frame.fit != "design":
            return None
        layer = self._table.films.sheet_in_hand() or result.layers[0]
        design = result.bounds if result.item.register is not None else layer.box
        return None if layer.sheet_box is None or design is None else (layer.sheet_box, design)

    def press(self, at: QPointF) -> bool:
        """Whether an edge's handle is taken in hand."""
        boxes = self._boxes()
        if boxes is None:
            return False
        for side in SIDES:
            handle = self._handle(boxes[0], side)
            if abs(handle.x() - at.x()) <= GRAB_PX and abs(handle.y() - at.y()) <= GRAB_PX:
                self._side = side
                self.drag(at)
                return True
        return False

    def drag(self, at: QPointF) -> None:
        boxes, job = self._boxes(), self._table.job
        if boxes is None or self._side is None or job is None:
            return
        x, y = self._table.level_at(at)
        left, top, right, bottom = boxes[1]
        margin = {"left": left - x, "right": x - right, "top": top - y, "bottom": y - bottom}[self._side]
        step = STEP_INCH_MM if job.unit.startswith("in") else STEP_MM
        self._margin = max(round(margin / step) * step, 0.0)

    def release(self) -> tuple[Side, float] | None:
        """The side and its new margin in mm."""
        side, self._side = self._side, None
        return None if side is None else (side, self._margin)

    def _handle(self, box: Box, side: Side) -> QPointF:
        left, top, right, bottom = box
        x, y = (left + right) / 2.0, (top + bottom) / 2.0
        # a third along, so that distances on the centre lines are not covered
        x, y = left + (right - left) / 3.0 if side in ("top", "bottom") else x, top + (bottom - top) / 3.0
        if side in ("left", "right"):
            return self._table.place(left if side == "left" else right, y)
        return self._table.place(x, top if side == "top" else bottom)

    def draw(self, painter: QPainter, palette: Palette) -> None:
        boxes, job = self._boxes(), self._table.job
        if boxes is None or job is None:
            return
        sheet, design = boxes
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._side is not None:
            moved = {
                "left": (design[0] - self._margin, *sheet[1:]),
                "top": (sheet[0], design[1] - self._margin, *sheet[2:]),
                "right": (*sheet[:2], design[2] + self._margin, sheet[3]),
                "bottom": (*sheet[:3], design[3] + self._margin),
            }[self._side]
            painter.setPen(QPen(QColor(palette.thread), 1.6, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(self._table.level_box(moved))
            handle = self._handle(moved, self._side)
            draw_plate(painter, palette, handle + QPointF(0, -18), format_length(self._margin, job.unit))
            return
        painter.setPen(QPen(QColor(palette.thread), 1.6))
        painter.setBrush(QColor(palette.raised))
        for side in SIDES:
            at = self._handle(sheet, side)
            wide, high = (5.0, 16.0) if side in ("left", "right") else (16.0, 5.0)
            painter.drawRoundedRect(QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high), 2.5, 2.5)
