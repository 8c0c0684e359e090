"""Printing at true size: the item with its design on as many pages as it takes, each with a rule to check it by."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QMarginsF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPageLayout, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtPrintSupport import QPrinter

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.room.thing import thing_outline
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.table.region_path import painter_path

OVERLAP_MM = 10.0
"""Pages lie over each other so far, to be taped."""
RULE_MM, RULE_IN = 100.0, 4.0
FOOT_MM = 16.0
"""Room for the rule and the words under each page."""
LEAST_MARGIN_MM = 8.0


@dataclass(frozen=True)
class Page:
    """One sheet of paper: which part of the item it shows (mm), its row and column."""

    shows: Box
    row: int
    column: int


def pages_for(whole: Box, paper: tuple[float, float]) -> list[Page]:
    """The pages for a box, row by row, on paper whose printable size is given in mm."""
    wide, high = paper[0], paper[1] - FOOT_MM
    columns = _count(whole[2] - whole[0], wide)
    rows = _count(whole[3] - whole[1], high)
    found = []
    for row in range(rows):
        for column in range(columns):
            left = whole[0] + column * (wide - OVERLAP_MM)
            top = whole[1] + row * (high - OVERLAP_MM)
            found.append(Page((left, top, left + wide, top + high), row, column))
    return found


def _count(length: float, page: float) -> int:
    return max(math.ceil((length - OVERLAP_MM) / max(page - OVERLAP_MM, 1.0)), 1)


def prepared_printer() -> QPrinter:
    """At a resolution that shows 0.05 mm, with margins that most printers manage."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setResolution(600)
    printer.setPageMargins(QMarginsF(*[LEAST_MARGIN_MM] * 4), QPageLayout.Unit.Millimeter)
    return printer


def print_result(printer: QPrinter, result: ItemResult, unit: Unit) -> int:
    """Print an item at true size; returns how many pages it took."""
    outline = thing_outline(result.item)
    whole = box_round([outline.bounds, result.sheet_bounds])
    assert whole is not None
    films = [(QColor(la.layer.film.colour), painter_path(la.kept.polygons)) for la in reversed(result.layers)]
    drawn = QPolygonF([QPointF(x, y) for x, y in outline.exterior.coords]), films
    paper = printer.pageLayout().paintRect(QPageLayout.Unit.Millimeter)
    pages = pages_for(whole, (paper.width(), paper.height()))
    with QPainter(printer) as painter:
        for number, page in enumerate(pages):
            if number:
                printer.newPage()
            _draw_part(painter, printer.resolution() / 25.4, page, *drawn)
            _draw_foot(painter, result, page, (number + 1, len(pages)), unit)
    return len(pages)


def _draw_part(
    painter: QPainter, dots: float, page: Page, outline: QPolygonF, films: list[tuple[QColor, QPainterPath]]
) -> None:
    """What a page shows of the item's outline and its films, the lowest first; ``dots`` for each mm."""
    left, top, right, bottom = page.shows
    painter.resetTransform()
    painter.setClipping(False)
    painter.scale(dots, dots)
    painter.save()
    area = QRectF(0.0, 0.0, right - left, bottom - top)
    painter.setClipRect(area)
    painter.translate(-left, -top)
    painter.setPen(QPen(QColor("#888888"), 0.15, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(outline)
    for colour, path in films:
        painter.setPen(QPen(colour.darker(140), 0.1))
        thin = QColor(colour)
        thin.setAlpha(110)
        painter.setBrush(thin)
        painter.drawPath(path)
    painter.restore()
    painter.setPen(QPen(QColor("#bbbbbb"), 0.1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(area)


def _draw_foot(painter: QPainter, result: ItemResult, page: Page, number: tuple[int, int], unit: Unit) -> None:
    """A rule of known length, and which page it is."""
    top = page.shows[3] - page.shows[1]
    inches = unit.startswith("in")
    length = RULE_IN * 25.4 if inches else RULE_MM
    step, each = (25.4 / 8, 8) if inches else (5.0, 2)
    painter.setPen(QPen(QColor("#000000"), 0.15))
    base = top + 5.0
    painter.drawLine(QPointF(1.0, base), QPointF(1.0 + length, base))
    for k in range(round(length / step) + 1):
        high = 3.0 if k % each == 0 else 1.6
        painter.drawLine(QPointF(1.0 + k * step, base), QPointF(1.0 + k * step, base - high))
    font = QFont(painter.font())
    font.setPixelSize(3)
    painter.setFont(font)
    told = format_length(length, "in" if inches else "mm")
    words = f"This rule is {told} long when the scale is true: print at 100 %, not fitted to the page."
    painter.drawText(QPointF(1.0, base + 4.0), tr(words))
    name = result.item.name.splitlines()[0]
    overlap = format_length(OVERLAP_MM, unit)
    tape = f", row {page.row + 1}, column {page.column + 1}, overlapping by {overlap}" if number[1] > 1 else ""
    text = "{name}: page {page} of {pages}{tape}"
    pages = Message.of(text, name=Said(name), page=number[0], pages=number[1], tape=tape)
    painter.drawText(QPointF(1.0, base + 8.0), tr(pages))
