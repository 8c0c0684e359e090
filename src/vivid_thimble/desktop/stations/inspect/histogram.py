"""How much of the film is how wide: bars to press."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import figures, tr
from vivid_thimble.desktop.table.bands import BAND_COLOURS, BAND_LIMITS

FOOT, HEAD = 22, 8
SHOWN_SHARE = 0.03
"""Even the smallest amount gets a bar of this share of the height: it may be the one that tears."""


class Histogram(QWidget):
    """``bar_pressed`` sends a bin's edges in mm; the arrow keys choose a bar, Enter presses it."""

    bar_pressed = Signal(float, float)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("histogram")
        self.setAccessibleName(tr("How much is how wide"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._palette = palette
        self._edges: FloatArray = np.zeros(0)
        self._lengths: FloatArray = np.zeros(0)
        self._limit = 1.0
        self._unit: Unit = "mm"
        self.chosen = -1

    def sizeHint(self) -> QSize:
        return QSize(260, 170)

    def clear(self) -> None:
        self.show_lengths(np.zeros(0), np.zeros(0), 1.0, self._unit)

    def show_lengths(self, edges: FloatArray, lengths: FloatArray, limit: float, unit: Unit) -> None:
        """Bins with ``edges`` in mm and the length in mm that lies in each."""
        self._edges, self._lengths, self._limit, self._unit = edges, lengths, limit, unit
        self.chosen = -1
        thin = float(lengths[edges[:-1] < limit - 1e-9].sum()) if len(lengths) else 0.0
        self.setAccessibleDescription(tr(f"{thin:.0f} mm are below the limit of {limit:g} mm"))
        self.update()

    def bar(self, k: int) -> QRectF:
        """Where a bar stands."""
        count = max(len(self._lengths), 1)
        step = (self.width() - 8) / count
        most = max(float(self._lengths.max()), 1e-9) if len(self._lengths) else 1.0
        share = np.sqrt(self._lengths[k] / most)  # the few thin millimetres must show beside the many sturdy ones
        share = max(float(share), SHOWN_SHARE) if self._lengths[k] > 0.0 else 0.0
        height = share * (self.height() - FOOT - HEAD)
        return QRectF(4 + k * step, self.height() - FOOT - height, step - 1.5, height)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(p.thread if self.hasFocus() else p.seam), 2 if self.hasFocus() else 1))
            painter.setBrush(QColor(p.raised))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
            if not len(self._lengths):
                return
            for k in range(len(self._lengths)):
                self._draw_bar(painter, k)
            self._draw_foot(painter)

    def _draw_bar(self, painter: QPainter, k: int) -> None:
        p, box = self._palette, self.bar(k)
        band = sum(1 for low in BAND_LIMITS[1:-1] if self._edges[k] >= low * self._limit - 1e-9)
        painter.setPen(QPen(QColor(p.ink), 2) if k == self.chosen else QPen(QColor(p.blank_edge), 0.6))
        painter.setBrush(QColor(BAND_COLOURS[band]))
        painter.drawRect(box)
        if band == 0:
            painter.setBrush(QBrush(QColor("#ffffff"), Qt.BrushStyle.Dense6Pattern))
            painter.drawRect(box)

    def _draw_foot(self, painter: QPainter) -> None:
        """The limit as a stitched line, and widths along the foot."""
        p = self._palette
        font = QFont(painter.font())
        font.setPixelSize(px(11))
        painter.setFont(font)
        scale = (self.width() - 8) / float(self._edges[-1])
        x = 4 + self._limit * scale
        painter.setPen(QPen(QColor(p.stop), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, HEAD), QPointF(x, self.height() - FOOT))
        painter.setPen(QColor(p.ink))
        for k in range(6):
            at = float(self._edges[-1]) * k / 5
            box = QRectF(4 + at * scale - 30, self.height() - FOOT + 2, 60, FOOT - 4)
            box.moveLeft(min(max(box.left(), 3.0 - 22), self.width() - 64.0))
            side = Qt.AlignmentFlag.AlignRight if k == 5 else Qt.AlignmentFlag.AlignHCenter
            painter.drawText(box, side, figures(format_length(at, self._unit, with_unit=k == 5)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if len(self._lengths):
            k = int((event.position().x() - 4) / ((self.width() - 8) / len(self._lengths)))
            self._press(min(max(k, 0), len(self._lengths) - 1))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() in steps and len(self._lengths):
            self.chosen = min(max(self.chosen + steps[Qt.Key(event.key())], 0), len(self._lengths) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.chosen >= 0:
            self._press(self.chosen)
        else:
            super().keyPressEvent(event)

    def _press(self, k: int) -> None:
        self.chosen = k
        self.update()
        self.bar_pressed.emit(float(self._edges[k]), float(self._edges[k + 1]))
