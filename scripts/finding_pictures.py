"""Draws one picture with a small example of every kind of finding that has a place, with its tag.

Each example is a neutral shape that is really inspected: the tag stands where the inspection puts it.
"""

from __future__ import annotations

import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPen
from shapely import MultiPolygon, Point, Polygon, box

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.inspect.contours import doubled_outlines, open_outlines
from vivid_thimble.core.inspect.findings import Finding, Kind
from vivid_thimble.core.inspect.inspection import Limits, inspect_shape
from vivid_thimble.desktop.look.marks import KIND_WORDS, draw_tag
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.table.region_path import painter_path

LIMITS = Limits(0.8, 0.5, 2.0, 1.2)
SHEET = box(-9, -6, 9, 6)
EXAMPLES: dict[Kind, shapely.Geometry] = {
    "thin-line": shapely.union_all([box(-9, -3, -4, 3), box(4, -3, 9, 3), box(-4, -0.3, 4, 0.3)]),
    "thin-neck": shapely.union_all([Point(-4, 0).buffer(3.8), Point(4, 0).buffer(3.8), box(-2, -0.3, 2, 0.3)]),
    "needle-tip": Polygon([(-9, 0), (6, 1.6), (8, 0), (6, -1.6)]),
    "thin-gap": shapely.union_all([box(-8, -3, -0.2, 4), box(0.2, -3, 8, 4)]),
    "cleft": box(-8, -4, 8, 4).difference(Polygon([(-1, -4), (1, -4), (0, 3)])),
    "small-piece": shapely.union_all([box(-8, -4, 1, 4), Point(5, -1).buffer(0.6)]),
    "pinhole": box(-8, -4, 8, 4).difference(Point(2, 0).buffer(0.35)),
    "loose-piece": SHEET.difference(Point(0, 0).buffer(4.4)).union(Point(0, 0).buffer(2.4)),
}
COLUMNS, TILE, HEAD = 5, QRectF(0, 0, 236, 176), 30
PX_PER_MM = 11.0


def draw_findings(palette: Palette) -> QImage:
    """All tiles on one card."""
    tiles = [*EXAMPLES, "open-path", "doubled-path"]
    rows = -(-len(tiles) // COLUMNS)
    image = QImage(int(COLUMNS * TILE.width()), int(rows * TILE.height()), QImage.Format.Format_RGB32)
    image.fill(QColor(palette.cloth))
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, kind in enumerate(tiles):
            painter.save()
            painter.translate((k % COLUMNS) * TILE.width(), (k // COLUMNS) * TILE.height())
            _draw_tile(painter, kind, k + 1, palette)
            painter.restore()
    return image


def _draw_tile(painter: QPainter, kind: Kind, number: int, palette: Palette) -> None:
    painter.setPen(QPen(QColor(palette.seam), 1))
    painter.setBrush(QColor(palette.blank))
    painter.drawRoundedRect(TILE.adjusted(4, 4, -4, -4), 6, 6)
    font = QFont(painter.font())
    font.setPixelSize(14)
    painter.setFont(font)
    painter.setPen(QColor(palette.ink))
    painter.drawText(QRectF(14, 8, TILE.width() - 20, 22), Qt.AlignmentFlag.AlignVCenter, KIND_WORDS[kind])
    middle = QPointF(TILE.width() / 2, (TILE.height() + HEAD) / 2 + 2)
    painter.save()
    painter.setClipRect(TILE.adjusted(5, HEAD, -5, -6))
    painter.translate(middle)
    painter.scale(PX_PER_MM, PX_PER_MM)
    if kind in EXAMPLES:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#2f6f8f"))
        painter.drawPath(painter_path(_polygons(kind)))
        finding = _found(kind)
    else:
        finding = _drawn_outline(painter, kind, palette)
    painter.restore()
    assert finding.at is not None
    colour = QColor(palette.stop if finding.severity == "stop" else palette.look)
    at = middle + QPointF(*finding.at) * PX_PER_MM
    tag = at + QPointF(24, -24)
    painter.setPen(QPen(colour, 1.2))
    painter.drawLine(at, tag)
    if finding.ends is not None:
        painter.setPen(QPen(colour, 2.4))
        painter.drawLine(*(middle + QPointF(*end) * PX_PER_MM for end in finding.ends))
    draw_tag(painter, tag, number, finding, palette, held=False)


def _polygons(kind: Kind) -> MultiPolygon:
    return MultiPolygon([p for p in shapely.get_parts(EXAMPLES[kind]) if p.geom_type == "Polygon"])


def _found(kind: Kind) -> Finding:
    shape = _polygons(kind)
    found = inspect_shape(shape, LIMITS, is_sheet=kind == "loose-piece", weeding_box=(-12.0, -9.0, 12.0, 9.0))
    return next(finding for finding in found.findings if finding.kind == kind)


def _drawn_outline(painter: QPainter, kind: Kind, palette: Palette) -> Finding:
    """Faults of a drawing's outlines, drawn as lines."""
    square = Contour.from_points(shapely.get_coordinates(box(-6, -3, 6, 4))[:-1])
    open_one = Contour.from_points(shapely.get_coordinates(box(-6, -3, 6, 4))[:-1] * 1.0, closed=False)
    painter.setPen(QPen(QColor(palette.ink), 0.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for segment in open_one.segments if kind == "open-path" else square.segments:
        painter.drawLine(QPointF(*segment[0]), QPointF(*segment[3]))
    if kind == "open-path":
        fault = open_outlines(Path((open_one,)))[0]
        return Finding("open-path", "look", "", fault.at)
    again = square.transformed(Affine.translation(0.0, 0.0))
    twice = doubled_outlines(Path((square, again)))[0]
    return Finding("doubled-path", "look", "", twice.at)
