"""Shapes that carry meaning beside colour: verdicts and kinds of findings.

Verdicts are closures of a garment: a buttoned button is fine, an open safety pin's
triangle asks to look, a cross-stitch says stop. Findings on the table are numbered
tags whose outline tells the kind.
"""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.desktop.look.theme import Palette

KIND_SHAPES: dict[str, str] = {
    "thin-line": "spindle",
    "thin-neck": "hourglass",
    "needle-tip": "drop",
    "thin-gap": "bobbin",
    "loose-piece": "ring",
    "cleft": "wedge",
    "small-piece": "dot",
    "pinhole": "eyelet",
    "overlapping-cuts": "cross",
    "open-path": "fork",
    "doubled-path": "twin",
    "step-failed": "cross",
}
"""The outline of a tag by the code of its finding; all others have a plain frame."""


def draw_verdict(painter: QPainter, box: QRectF, verdict: str, palette: Palette) -> None:
    """``fine``, ``look``, ``stop`` or ``none`` inside a square box."""
    colour = QColor({"fine": palette.fine, "look": palette.look, "stop": palette.stop}.get(verdict, palette.soft_ink))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    centre, r = box.center(), box.width() / 2.0
    painter.setPen(QPen(colour, max(1.6, r * 0.22), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if verdict == "fine":
        painter.drawEllipse(centre, r * 0.85, r * 0.85)
        painter.setBrush(colour)
        for dx, dy in ((-0.28, -0.28), (0.28, -0.28), (-0.28, 0.28), (0.28, 0.28)):
            painter.drawEllipse(QPointF(centre.x() + dx * r, centre.y() + dy * r), r * 0.04, r * 0.04)
    elif verdict == "look":
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(centre.x(), centre.y() - r * 0.8),
                    QPointF(centre.x() + r * 0.85, centre.y() + r * 0.7),
                    QPointF(centre.x() - r * 0.85, centre.y() + r * 0.7),
                ]
            )
        )
    elif verdict == "stop":
        for sign in (1, -1):
            painter.drawLine(
                QPointF(centre.x() - r * 0.7, centre.y() - sign * r * 0.7),
                QPointF(centre.x() + r * 0.7, centre.y() + sign * r * 0.7),
            )
        painter.drawLine(QPointF(centre.x() - r * 0.9, centre.y()), QPointF(centre.x() + r * 0.9, centre.y()))
    else:
        painter.drawLine(QPointF(centre.x() - r * 0.5, centre.y()), QPointF(centre.x() + r * 0.5, centre.y()))
    painter.restore()


def kind_path(kind: str, centre: QPointF, r: float) -> QPainterPath:
    """The outline of a finding's tag."""
    path, shape = QPainterPath(), KIND_SHAPES.get(kind, "frame")
    x, y = centre.x(), centre.y()
    if shape == "spindle":
        path.moveTo(x - 1.5 * r, y)
        path.quadTo(x, y - 1.7 * r, x + 1.5 * r, y)
        path.quadTo(x, y + 1.7 * r, x - 1.5 * r, y)
    elif shape == "hourglass":
        path.addPolygon(
            QPolygonF(
                [
                    QPointF(x + a * r, y + b * r)
                    for a, b in ((-1.2, -1.1), (1.2, -1.1), (0.65, 0), (1.2, 1.1), (-1.2, 1.1), (-0.65, 0))
                ]
            )
        )
        path.closeSubpath()
    elif shape == "drop":
        path.moveTo(x, y - 1.6 * r)
        path.quadTo(x + 1.3 * r, y, x + r, y + 0.6 * r)
        path.quadTo(x, y + 1.6 * r, x - r, y + 0.6 * r)
        path.quadTo(x - 1.3 * r, y, x, y - 1.6 * r)
    elif shape == "bobbin":
        path.addRoundedRect(QRectF(x - 1.3 * r, y - 0.95 * r, 2.6 * r, 1.9 * r), 3, 3)
    elif shape == "wedge":
        path.addPolygon(
            QPolygonF([QPointF(x - 1.2 * r, y - 1.1 * r), QPointF(x + 1.2 * r, y - 1.1 * r), QPointF(x, y + 1.5 * r)])
        )
        path.closeSubpath()
    elif shape == "eyelet":
        path.addEllipse(centre, r * 1.3, r * 0.95)
    elif shape in ("ring", "dot"):
        path.addEllipse(centre, r * 1.1, r * 1.1)
    elif shape == "cross":
        path.addPolygon(_star(centre, r * 1.35, r * 0.95, 4))
        path.closeSubpath()
    elif shape == "fork":
        path.addPolygon(_star(centre, r * 1.4, r * 0.9, 3))
        path.closeSubpath()
    elif shape == "twin":
        path.addEllipse(QPointF(x - 0.4 * r, y), r, r)
        path.addEllipse(QPointF(x + 0.4 * r, y), r, r)
        path.setFillRule(Qt.FillRule.WindingFill)
    else:
        path.addRect(QRectF(x - 1.1 * r, y - 1.1 * r, 2.2 * r, 2.2 * r))
    return path


def draw_tag(
    painter: QPainter, centre: QPointF, number: int, finding: Finding, palette: Palette, *, held: bool
) -> None:
    """A numbered tag; the one in hand is larger and filled."""
    colour = QColor(palette.stop if finding.severity == "stop" else palette.look)
    r = 12.0 if held else 9.5
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    path = kind_path(finding.kind, centre, r)
    painter.setPen(QPen(colour, 2.0))
    painter.setBrush(colour if held else QColor(palette.raised))
    painter.drawPath(path)
    painter.setPen(QColor(palette.raised) if held else colour)
    font = painter.font()
    font.setPixelSize(round(r * 1.15))
    font.setBold(True)
    painter.setFont(font)
    painter.drawText(QRectF(centre.x() - 20, centre.y() - 10, 40, 20), Qt.AlignmentFlag.AlignCenter, str(number))
    painter.restore()


def _star(centre: QPointF, outer: float, inner: float, points: int) -> QPolygonF:
    corners = []
    for k in range(2 * points):
        radius = outer if k % 2 == 0 else inner
        angle = math.pi * k / points - math.pi / 2
        corners.append(QPointF(centre.x() + radius * math.cos(angle), centre.y() + radius * math.sin(angle)))
    return QPolygonF(corners)
