"""The width look: film or waste coloured by how wide it is, in bands that the legend tells in mm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPen

from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.widths.widthmap import REACH_LIMITS, Chords
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.table.outlines import Outlines

BAND_LIMITS = (0.0, 1.0, 1.5, 2.5, REACH_LIMITS)
"""The edges of the bands in limits of the film."""
BAND_COLOURS = ("#a52a22", "#d98a2b", "#e6cf7a", "#8fb3a4")
"""From too thin to sturdy; the lightness rises, and the first band is hatched as well."""
LAID_OVER_MM = 0.02
"""Neighbouring chords overlap a little, so that no seams show."""


@dataclass(frozen=True)
class Band:
    """One band of widths in mm, with everything of that width."""

    low: float
    high: float
    colour: str
    covered: Outlines


def bands_of(chords: Chords) -> list[Band]:
    """The bands of one side, thinnest first."""
    return [
        Band(low * chords.limit, high * chords.limit, colour, _covered(chords, low * chords.limit, high * chords.limit))
        for low, high, colour in zip(BAND_LIMITS[:-1], BAND_LIMITS[1:], BAND_COLOURS, strict=True)
    ]


def _covered(chords: Chords, low: float, high: float) -> Outlines:
    """What the chords of a band sweep: a strip from each stretch of wall to the wall it faces."""
    rows = np.flatnonzero(chords.within(low, high))
    if not len(rows):
        return Outlines.of(shapely.MultiPolygon())
    start, foot, along = chords.start[rows], chords.foot[rows], chords.along[rows]
    along = along * (1.0 + LAID_OVER_MM / np.maximum(np.hypot(*along.T), 1e-9))[:, None]
    middle = (start + foot) / 2.0  # each wall colours its own half
    corners = np.stack([start - along, start + along, middle + along, middle - along, start - along], axis=1)
    return Outlines.of(shapely.MultiPolygon(list(shapely.polygons(corners))), winding=True)


def draw_legend(
    painter: QPainter, bands: Sequence[Band], corner: QPointF, unit: Unit, palette: Palette, title: str
) -> None:
    """A card whose lower left corner is given: one line for each band."""
    font = QFont(painter.font())
    font.setPixelSize(px(12))
    painter.setFont(font)
    unit = fine_unit(unit)
    row, width = 20.0, 184.0
    rows = len(bands) + 2
    box = QRectF(corner.x(), corner.y() - row * rows - 14, width, row * rows + 14)
    painter.setPen(QPen(QColor(palette.seam), 1))
    painter.setBrush(QColor(palette.raised))
    painter.drawRoundedRect(box, 5, 5)
    painter.setPen(QColor(palette.ink))
    painter.drawText(QRectF(box.left() + 10, box.top() + 6, width, row), Qt.AlignmentFlag.AlignVCenter, tr(title))
    for k, band in enumerate(bands):
        top = box.top() + 8 + row * (k + 1)
        swatch = QRectF(box.left() + 10, top + 3, 26, 13)
        painter.setPen(QPen(QColor(palette.blank_edge), 1))
        painter.setBrush(QColor(band.colour))
        painter.drawRect(swatch)
        if k == 0:
            painter.setBrush(QBrush(QColor("#ffffff"), Qt.BrushStyle.Dense6Pattern))
            painter.drawRect(swatch)
        high = format_length(band.high, unit)
        words = f"under {high}: too thin" if k == 0 else f"{format_length(band.low, unit, with_unit=False)} – {high}"
        painter.setPen(QColor(palette.ink))
        painter.drawText(QRectF(swatch.right() + 8, top, width, row), Qt.AlignmentFlag.AlignVCenter, tr(words))
    top = box.top() + 8 + row * (len(bands) + 1)
    painter.setPen(QPen(QColor(palette.blank_edge), 1))
    painter.setBrush(QColor(palette.seam))
    painter.drawRect(QRectF(box.left() + 10, top + 3, 26, 13))
    painter.setPen(QColor(palette.ink))
    painter.drawText(
        QRectF(box.left() + 44, top, width, row), Qt.AlignmentFlag.AlignVCenter, tr("wider, or a mere point")
    )


def draw_card(painter: QPainter, words: str, corner: QPointF, palette: Palette) -> float:
    """A card with a few words, its lower left corner given; returns its width in pixels."""
    font = QFont(painter.font())
    font.setPixelSize(px(12))
    painter.setFont(font)
    words = tr(words)
    text = painter.fontMetrics().boundingRect(0, 0, 330, 400, Qt.TextFlag.TextWordWrap, words)
    box = QRectF(corner.x(), corner.y() - text.height() - 14, text.width() + 22, text.height() + 14)
    painter.setPen(QPen(QColor(palette.seam), 1))
    painter.setBrush(QColor(palette.raised))
    painter.drawRoundedRect(box, 5, 5)
    painter.setPen(QColor(palette.ink))
    painter.drawText(box.adjusted(11, 7, -8, -7), Qt.TextFlag.TextWordWrap, words)
    return box.width()
