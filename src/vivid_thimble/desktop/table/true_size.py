"""Things of known size beside the design, shown while the table is at true size."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from vivid_thimble.core.lengths import Unit
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import tr

DISC_MM = 24.0
"""About a large coin."""
RULE_MM, RULE_IN = 80.0, 3.0
HEIGHT_MM = 11.0


def draw_known_sizes(painter: QPainter, corner: QPointF, px_per_mm: float, unit: Unit, palette: Palette) -> None:
    """A short rule and a disc as large as a coin, standing on the given lower left corner."""
    inches = unit.startswith("in")
    length = RULE_IN * 25.4 if inches else RULE_MM
    rule = QRectF(corner.x(), corner.y() - HEIGHT_MM * px_per_mm, length * px_per_mm, HEIGHT_MM * px_per_mm)
    painter.setPen(QPen(QColor(palette.blank_edge), 1))
    painter.setBrush(QColor(palette.raised))
    painter.drawRoundedRect(rule, 2, 2)
    font = QFont(painter.font())
    font.setPixelSize(px(11))
    painter.setFont(font)
    painter.setPen(QPen(QColor(palette.ink), 1))
    step, per_number = (25.4 / 16, 16) if inches else (1.0, 10)
    for k in range(round(length / step) + 1):
        x = rule.left() + k * step * px_per_mm
        share = 0.5 if k % per_number == 0 else 0.36 if k % (per_number // 2) == 0 else 0.22
        painter.drawLine(QPointF(x, rule.top()), QPointF(x, rule.top() + share * rule.height()))
        if k % per_number == 0 and k > 0:
            words = QRectF(x - 24, rule.top() + 0.5 * rule.height(), 22, 0.5 * rule.height())
            number = str(k // per_number) if inches else str(k)
            painter.drawText(words, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, number)
    disc = QRectF(rule.right() + 12, corner.y() - DISC_MM * px_per_mm, DISC_MM * px_per_mm, DISC_MM * px_per_mm)
    painter.setPen(QPen(QColor(palette.blank_edge), 1.5))
    painter.setBrush(QColor(palette.waste))
    painter.drawEllipse(disc)
    painter.setPen(QPen(QColor(palette.blank_edge), 1, Qt.PenStyle.DotLine))
    painter.drawEllipse(disc.adjusted(4, 4, -4, -4))
    painter.setPen(QColor(palette.ink))
    painter.drawText(
        disc, Qt.AlignmentFlag.AlignCenter, tr(f"coin of\n{DISC_MM:g} mm" if not inches else 'coin of\n15/16"')
    )
