"""What is drawn over the design: rings round places, pairs of letters, a spot in hand, picks and relief cuts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF

from vivid_thimble.core.finish.weeding import Pick, WeedingPlan
from vivid_thimble.core.inspect.findings import Finding, Point
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.steps.join import Pair
from vivid_thimble.desktop.look.marks import draw_verdict
from vivid_thimble.desktop.look.theme import px
from vivid_thimble.desktop.look.underlay import NamedPlace
from vivid_thimble.desktop.look.words import tr

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table


def draw_places(table: Table, painter: QPainter, places: Sequence[NamedPlace]) -> None:
    """A ring with a light rim round each place, so that it shows on film and on the blank."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for place in places:
        at = table.place(*place.at)
        for colour, width in ((table.colours.blank, 4.5), (table.colours.thread, 2.0)):
            painter.setPen(QPen(QColor(colour), width))
            painter.drawEllipse(at, 8.0, 8.0)
        if place.name:
            below = len(places) > 1 and places[-1].name == place.name  # neighbours do not cover each other
            draw_name(table, painter, at, place.name, below=below)


def draw_name(table: Table, painter: QPainter, at: QPointF, name: str, *, below: bool) -> None:
    """A word beside a ring, on a patch of its own."""
    wide = painter.fontMetrics().horizontalAdvance(name) + 12.0
    left = at.x() + 12.0 if at.x() + 12.0 + wide < table.width() else at.x() - 12.0 - wide
    high = painter.fontMetrics().height() + 4.0
    box = QRectF(left, at.y() + (4.0 if below else -high - 4.0), wide, high)
    painter.setPen(QPen(QColor(table.colours.seam), 1))
    painter.setBrush(QColor(table.colours.raised))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(table.colours.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_pairs(table: Table, painter: QPainter, pairs: Sequence[Pair]) -> None:
    """Where neighbouring letters meet, and whether they hold."""
    for pair in pairs:
        centre = table.place(*pair.at)
        box = QRectF(centre.x() - 8, centre.y() - 8, 16, 16)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(table.colours.raised))
        painter.drawEllipse(box)
        draw_verdict(painter, box.adjusted(1, 1, -1, -1), "fine" if pair.joined else "stop", table.colours)


def draw_spot(table: Table, painter: QPainter, spot: Finding) -> None:
    """A place that is no finding: its chord, a ring round it, and its words on a plate."""
    assert spot.at is not None
    centre, colour = table.to_widget(*spot.at), QColor(table.colours.thread)
    radius = max((spot.width or 0.0) / 2.0 * table.px_per_mm + 8.0, 12.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour, 2.0))
    painter.drawEllipse(centre, radius, radius)
    if spot.ends is not None:
        painter.drawLine(table.to_widget(*spot.ends[0]), table.to_widget(*spot.ends[1]))
    text = painter.fontMetrics().boundingRect(tr(spot.message))
    plate = QRectF(centre.x() + radius + 6, centre.y() - radius - 26, text.width() + 18, 24)
    painter.setPen(QPen(colour, 1.2))
    painter.setBrush(QColor(table.colours.raised))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(QColor(table.colours.ink))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, tr(spot.message))


def draw_snips(table: Table, painter: QPainter, snips: Sequence[tuple[Point, Point]]) -> None:
    """Where the film round a design on a ball is snipped: a dashed line from a notch at its edge."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colour = QColor(table.colours.look)
    for outer, inner in snips:
        a, b = table.to_widget(*outer), table.to_widget(*inner)
        painter.setPen(QPen(colour, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(a, b)
        way = b - a
        length = math.hypot(way.x(), way.y()) or 1.0
        along, across = way * (7.0 / length), QPointF(-way.y(), way.x()) * (4.0 / length)
        painter.setPen(QPen(colour, 1.6))
        painter.drawPolyline([a + across, a + along, a - across])


def draw_relief(table: Table, painter: QPainter, plan: WeedingPlan) -> None:
    """The weeding box and the relief cuts, as suggestions: dashed."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(table.colours.thread), 1.4, Qt.PenStyle.DashLine))
    if plan.box is not None:
        left, top, right, bottom = plan.box
        painter.drawRect(QRectF(table.to_widget(left, top), table.to_widget(right, bottom)))
    painter.setPen(QPen(QColor(table.colours.thread), 2.0, Qt.PenStyle.DotLine))
    for cut in plan.relief:
        (ax, ay), (bx, by) = cut.coords[0][:2], cut.coords[-1][:2]
        painter.drawLine(table.to_widget(ax, ay), table.to_widget(bx, by))


def _draw_lit(table: Table, painter: QPainter, pick: Pick) -> None:
    """The piece to pull, filled and with a firm edge."""
    shape = QPainterPath()
    for ring in (pick.piece.polygon.exterior, *pick.piece.polygon.interiors):
        shape.addPolygon(QPolygonF([table.to_widget(x, y) for x, y in ring.coords]))
    colour = QColor(table.colours.thread)
    painter.setPen(QPen(colour, 2.0))
    colour.setAlpha(90)
    painter.setBrush(colour)
    painter.drawPath(shape)


def draw_pick_numbers(table: Table, painter: QPainter, plan: WeedingPlan) -> None:
    """The numbers of the pieces to pull, in order."""
    font = QFont(painter.font())
    font.setPixelSize(px(12))
    font.setBold(True)
    painter.setFont(font)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for pick in plan.picks:
        if pick.number == table.lit_pick:
            _draw_lit(table, painter, pick)
    for pick in plan.picks:
        at = table.to_widget(*pick.at)
        if pick.piece.is_surround:
            at = table.to_widget(pick.piece.box[0] + SURROUND_MM / 2, pick.piece.box[1] + SURROUND_MM / 2)
        painter.setPen(QPen(QColor(table.colours.ink), 1.2))
        is_lit = pick.number == table.lit_pick
        painter.setBrush(QColor(table.colours.thread if is_lit else table.colours.raised))
        painter.drawEllipse(at, 10, 10)
        painter.setPen(QColor(table.colours.raised if is_lit else table.colours.ink))
        painter.drawText(QRectF(at.x() - 12, at.y() - 9, 24, 18), Qt.AlignmentFlag.AlignCenter, str(pick.number))
