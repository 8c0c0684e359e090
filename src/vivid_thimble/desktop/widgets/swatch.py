"""A patch of cloth in a colour, with a seam round it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap

from vivid_thimble.core.sources.drawing import Colour


def swatch_picture(colour: Colour, size: QSize) -> QPixmap:
    """A patch of cloth in a colour, with a seam round it."""
    picture = QPixmap(size * 2)
    picture.setDevicePixelRatio(2.0)
    picture.fill(QColor(0, 0, 0, 0))
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(QColor(*colour))
        painter.setPen(QPen(QColor(120, 110, 100), 1))
        painter.drawRoundedRect(1, 1, size.width() - 2, size.height() - 2, 4, 4)
        painter.setPen(QPen(QColor(255, 255, 255, 150), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(3, 3, size.width() - 6, size.height() - 6, 3, 3)
    return picture


def swatch_icon(colour: Colour) -> QIcon:
    return QIcon(swatch_picture(colour, QSize(20, 16)))


def swatch(colour: str) -> QIcon:
    """For a colour as #rrggbb."""
    plain = QColor(colour)
    return swatch_icon((plain.red(), plain.green(), plain.blue()))
