"""Rulers along the table's edges in the user's unit."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from vivid_thimble.core.lengths import MM_PER, Unit
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import figures, tr

THICKNESS = 24
LEAST_LABEL_PX = 58.0
LARGEST_TEXT_PX = 13
"""The rulers are no wider with larger text: more of the table is worth more than their figures."""


def ruler_steps(px_per_mm: float, unit: Unit) -> tuple[float, int]:
    """Distance of labelled ticks in mm and how many parts lie between them."""
    base = MM_PER[unit]
    if unit in ("in", "in/16"):
        steps = [
            (1 / 16, 2),
            (1 / 8, 2),
            (1 / 4, 4),
            (1 / 2, 4),
            (1, 8),
            (2, 8),
            (4, 4),
            (12, 12),
            (24, 4),
            (60, 5),
            (240, 4),
        ]
    else:
        steps = [(m * 10**e, 5 if m != 2 else 4) for e in range(-2, 5) for m in (1, 2, 5)]
    for step, parts in steps:
        if step * base * px_per_mm >= LEAST_LABEL_PX:
            return step * base, parts
    return steps[-1][0] * base, steps[-1][1]


def draw_rulers(
    painter: QPainter,
    width: int,
    height: int,
    origin: tuple[float, float],
    px_per_mm: float,
    unit: Unit,
    palette: Palette,
) -> None:
    """Both rulers; ``origin`` is the item's top-left corner in widget pixels."""
    painter.save()
    painter.fillRect(QRectF(0, 0, width, THICKNESS), QColor(palette.panel))
    painter.fillRect(QRectF(0, 0, THICKNESS, height), QColor(palette.panel))
    font = QFont(painter.font())
    font.setPixelSize(min(px(11), LARGEST_TEXT_PX))
    font.setWeight(QFont.Weight.Normal)
    painter.setFont(font)
    painter.setPen(QPen(QColor(palette.soft_ink), 0))
    step, parts = ruler_steps(px_per_mm, unit)
    painter.save()
    painter.setClipRect(QRectF(THICKNESS, 0, width - THICKNESS, THICKNESS))
    _draw_ticks(painter, origin[0], width, px_per_mm, step, parts, unit, vertical=False)
    painter.restore()
    painter.setClipRect(QRectF(0, THICKNESS, THICKNESS, height - THICKNESS))
    _draw_ticks(painter, origin[1], height, px_per_mm, step, parts, unit, vertical=True)
    painter.setClipping(False)
    painter.fillRect(QRectF(0, 0, THICKNESS, THICKNESS), QColor(palette.panel))
    painter.drawText(QRectF(0, 0, THICKNESS, THICKNESS), Qt.AlignmentFlag.AlignCenter, unit[:2])
    painter.restore()


def _draw_ticks(
    painter: QPainter,
    zero: float,
    length: int,
    px_per_mm: float,
    step: float,
    parts: int,
    unit: Unit,
    *,
    vertical: bool,
) -> None:
    small = step * px_per_mm / parts
    first, last = math.floor((THICKNESS - zero) / small), math.ceil((length - zero) / small)
    for k in range(first, last + 1):
        at = zero + k * small
        long = k % parts == 0
        reach = 10 if long else 4
        if vertical:
            painter.drawLine(THICKNESS - reach, round(at), THICKNESS - 1, round(at))
        else:
            painter.drawLine(round(at), THICKNESS - reach, round(at), THICKNESS - 1)
        if long:
            text = _label(k // parts * step / MM_PER[unit])
            if vertical:
                painter.save()
                painter.translate(11, at + 3)
                painter.rotate(-90)
                painter.drawText(QRectF(4, -10, 60, 13), Qt.AlignmentFlag.AlignLeft, tr(text))
                painter.restore()
            else:
                painter.drawText(QRectF(at + 3, 1, 60, 13), Qt.AlignmentFlag.AlignLeft, tr(text))


def _label(value: float) -> str:
    return figures(f"{value:.4f}".rstrip("0").rstrip(".") or "0")
