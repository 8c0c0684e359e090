"""Outlines as small pictures for lists and boxes."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPolygonF

from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.desktop.look.theme import PALETTES

ROOM = 4
FLATTEN_SHARE = 0.004
"""Pictures are flattened to this share of their height."""
PIXEL_RATIO = 2.0


def outline_picture(outline: Path, size: QSize) -> QImage | None:
    """A filled outline, as large as fits; None when it is empty."""
    box = outline.bounds
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return None
    image = QImage(size * PIXEL_RATIO, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor(0, 0, 0, 0))
    room = size * PIXEL_RATIO - QSize(2 * ROOM, 2 * ROOM)
    scale = min(room.width() / (box[2] - box[0]), room.height() / (box[3] - box[1]))
    flat = flatten(outline, FLATTEN_SHARE * (box[3] - box[1]))
    down = (room.height() - scale * (box[3] - box[1])) / 2.0
    points = (flat.points - np.array([box[0], box[1]])) * scale + np.array([0.0, down]) + ROOM
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for start, stop in zip(flat.starts[:-1], flat.starts[1:], strict=True):
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in points[start:stop].tolist()]))
        path.closeSubpath()
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(PALETTES["day"].ink))
        painter.drawPath(path)
    return image
