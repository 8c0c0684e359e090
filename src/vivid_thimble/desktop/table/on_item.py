"""The table's view of the thing itself: its colour or photo, and the films on it as they are seen from the front."""

from __future__ import annotations

from typing import TYPE_CHECKING

import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QLinearGradient, QPainter, QPainterPath, QPen, QRadialGradient

from vivid_thimble.core.blanks.kinds import Ball, Cylinder, Tapered
from vivid_thimble.core.job.values import Photo
from vivid_thimble.core.room.front_view import OnItem
from vivid_thimble.desktop.table.outlines import Outlines
from vivid_thimble.desktop.table.region_path import painter_path

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

USUAL_COLOUR = "#d8d2c4"


class OnItemView:
    """Paints what ``take`` was given, about the middle of the item."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._silhouette = QPainterPath()
        self._films: list[tuple[QColor, Outlines]] = []
        self.photo: QImage | None = None
        self.shown: OnItem | None = None

    def take(self, seen: OnItem | None) -> None:
        if seen is self.shown:
            return
        self.shown = seen
        result = self._table.result
        if seen is None or result is None:
            self._silhouette, self._films = QPainterPath(), []
            return
        self._silhouette = painter_path(shapely.MultiPolygon([seen.silhouette]))
        colours = [QColor(layer.layer.film.colour) for layer in result.layers]
        self._films = [(colour, Outlines.of(film)) for colour, film in zip(colours, seen.films, strict=True)]

    def draw(self, painter: QPainter) -> None:
        table, result = self._table, self._table.result
        if table.job is None or result is None:
            return
        item = table.job.item
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.translate(table.to_widget(item.width / 2.0, item.height / 2.0))
        painter.scale(table.px_per_mm, table.px_per_mm)
        if self.photo is not None and item.photo is not None:
            self._draw_photo(painter, item.photo, (item.width, item.height))
        else:
            painter.setPen(QPen(QColor(table.colours.blank_edge), 0))
            painter.setBrush(self._ground(QColor(item.colour or USUAL_COLOUR)))
            painter.drawPath(self._silhouette)
        painter.setPen(Qt.PenStyle.NoPen)
        for colour, film in reversed(self._films):  # the first layer lies on top
            if item.is_stencil:
                colour = QColor(colour)
                colour.setAlpha(225)
            painter.setBrush(colour)
            painter.drawPath(self._seen(film))
        painter.restore()

    def _seen(self, film: Outlines) -> QPainterPath:
        table = self._table
        assert table.job is not None
        middle = table.job.item.width / 2.0, table.job.item.height / 2.0
        (left, top) = table.to_item(QPointF(0, 0))
        (right, bottom) = table.to_item(QPointF(table.width(), table.height()))
        view = left - middle[0], top - middle[1], right - middle[0], bottom - middle[1]
        return film.seen(table.px_per_mm, view)

    def _ground(self, colour: QColor) -> QColor | QLinearGradient | QRadialGradient:
        """Round things are shaded, so that they look it."""
        assert self._table.job is not None
        blank, box = self._table.job.item.blank, self._silhouette.boundingRect()
        if isinstance(blank, Ball):
            ball = QRadialGradient(box.center() - QPointF(box.width() * 0.2, box.height() * 0.25), box.width() * 0.75)
            ball.setColorAt(0.0, colour.lighter(115))
            ball.setColorAt(0.6, colour)
            ball.setColorAt(1.0, colour.darker(150))
            return ball
        if isinstance(blank, Cylinder | Tapered):
            side = QLinearGradient(box.left(), 0.0, box.right(), 0.0)
            for at, shade in ((0.0, 140), (0.25, 105), (0.5, 100), (0.75, 105), (1.0, 140)):
                side.setColorAt(at, colour.darker(shade))
            return side
        return colour

    def _draw_photo(self, painter: QPainter, photo: Photo, room: tuple[float, float]) -> None:
        """So large that the room for the design lies where it was marked."""
        assert self.photo is not None
        left, top, right, bottom = photo.room
        wide, high = room[0] / max(right - left, 1e-6), room[1] / max(bottom - top, 1e-6)
        x, y = -room[0] / 2.0 - left * wide, -room[1] / 2.0 - top * high
        painter.drawImage(QRectF(x, y, wide, high), self.photo)
