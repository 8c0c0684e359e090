"""The films on the table: what stays, what is cut, what is pulled off, thinned out for the current scale."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.linked import leader_of
from vivid_thimble.core.results import ItemResult, LayerResult
from vivid_thimble.core.widths.widthmap import Chords
from vivid_thimble.desktop.table.bands import Band, bands_of, draw_bands
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.table.rulers import THICKNESS

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table


@dataclass
class _Shape:
    """One layer ready for painting, thinned out for the current scale."""

    polygons: shapely.MultiPolygon
    path: QPainterPath
    scale: float


class Films:
    """What was computed, ready for painting in the table's look."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.kept: list[_Shape] = []
        self.cut: list[list[_Shape]] = []
        self.waste: list[_Shape] = []
        self.waste_cuts: list[Path] = []
        self.elements: dict[str, list[_Shape]] = {}
        self.bands: list[Band] = []
        self.faded, self.filled = QPainterPath(), QPainterPath()
        self.preview: list[_Shape] = []

    def forget(self) -> None:
        self.kept, self.cut = [], []

    def take_result(self, result: ItemResult) -> None:
        self.preview = []
        self.kept = [_shape(_with_beside(layer)) for layer in result.layers]
        self.cut = [[_shape(part.region.polygons) for part in layer.cut_parts] for layer in result.layers]
        waste = [[piece.polygon for piece in layer.inspection.waste] for layer in result.layers[:1]]
        self.waste = [_shape(shapely.MultiPolygon(one)) for one in waste if one]
        self.waste_cuts = [path for layer in result.layers for path in layer.waste_cuts]
        self.elements = {
            element.element.id: [_shape(part.region.polygons) for part in element.parts]
            for layer in result.layers
            for element in layer.elements
        }

    def take_preview(self, films: Sequence[shapely.MultiPolygon] | None) -> None:
        self.preview = [_shape(one) for one in films or ()]

    def take_widths(self, chords: Chords | None) -> None:
        self.bands = bands_of(chords) if chords is not None else []

    def take_lost(self, lost: Lost | None) -> None:
        self.faded = painter_path(lost.faded) if lost is not None else QPainterPath()
        self.filled = painter_path(lost.filled) if lost is not None else QPainterPath()

    def draw(self, painter: QPainter) -> None:
        if self._table.result is None:
            return
        painter.save()
        painter.setClipRect(QRectF(THICKNESS, THICKNESS, self._table.width(), self._table.height()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        view = QTransform(
            self._table.px_per_mm, 0, 0, self._table.px_per_mm, self._table.offset.x(), self._table.offset.y()
        )
        painter.setTransform(view, True)
        if self._table.is_moving():
            self._draw_moving(painter)
        elif (side := self._table.pairs.moving_side()) is not None:
            self._draw_parted(painter, side)
        else:
            self._draw_still(painter)
        painter.restore()

    def _draw_parted(self, painter: QPainter, side: QRectF) -> None:
        """While a letter is dragged: what lies right of its mark goes with it."""
        rest = QPainterPath()
        rest.addRect(QRectF(-1e5, -1e5, 2e5, 2e5))
        moving = QPainterPath()
        moving.addRect(side)
        for path, shift in ((rest - moving, 0.0), (moving, self._table.pairs.by)):
            painter.save()
            painter.translate(shift, 0.0)
            painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
            self._draw_still(painter)
            painter.restore()

    def _draw_still(self, painter: QPainter) -> None:
        assert self._table.result is not None
        if self._table.look == "waste":
            self._draw_waste(painter)
        if self._table.look == "widths":
            self._draw_widths(painter)
            return
        layers = list(zip(self._table.result.layers, self.kept, self.cut, strict=True))
        alone = self.sheet_in_hand()
        for layer, shape, lines in reversed(layers):  # the first layer lies on top
            if alone is not None and layer is not alone and self._table.look == "finished":
                continue
            film = QColor(layer.layer.film.colour)
            if self._table.look == "cut":
                painter.setPen(QPen(QColor(self._table.colours.thread), 0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                for line in lines:
                    painter.drawPath(self._thinned(line))
                continue
            painter.setPen(Qt.PenStyle.NoPen)
            if self._table.look == "waste":
                film.setAlpha(70)
            painter.setBrush(film)
            painter.drawPath(self._thinned(shape))
        if self._table.look == "surface":
            self._draw_lost(painter)
        if self._table.look == "cut":
            self._draw_waste_cuts(painter)
        self._draw_helpers(painter)
        self._draw_other_inks(painter)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self._table.colours.fine), 0))
        for shape in self.preview:
            painter.drawPath(self._thinned(shape))

    def sheet_in_hand(self) -> LayerResult | None:
        """Of several stencil sheets only that of the element in hand is shown; None: all films are."""
        result, picked = self._table.result, self._table.arranging.picked
        if result is None or not result.item.is_stencil or len(result.layers) < 2 or not picked:
            return None
        of_held = (la for la in result.layers if any(e.element.id == picked[0] for e in la.elements))
        return next(of_held, result.layers[0])

    def _draw_other_inks(self, painter: QPainter) -> None:
        """The outlines of what other sheets print, over the sheet in hand."""
        alone = self.sheet_in_hand()
        if alone is None or self._table.look != "finished" or self._table.result is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for layer in self._table.result.layers:
            painter.setPen(QPen(QColor(layer.layer.film.colour).lighter(160), 0, Qt.PenStyle.DashLine))
            for element in layer.elements if layer is not alone else ():
                for shape in self.elements.get(element.element.id, ()):
                    painter.drawPath(self._thinned(shape))

    def _draw_waste_cuts(self, painter: QPainter) -> None:
        """The weeding box and relief cuts that are cut as well."""
        painter.setPen(QPen(QColor(self._table.colours.look), 0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for path in self.waste_cuts:
            for contour in path.contours:
                points = contour.segments[:, 0].tolist()
                painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in points]))

    def _draw_helpers(self, painter: QPainter) -> None:
        """Elements that are not cut themselves: a dashed outline."""
        assert self._table.result is not None
        pen = QPen(QColor(self._table.colours.thread), 0, Qt.PenStyle.DashLine)
        for layer in self._table.result.layers:
            for element in layer.elements:
                if element.element.helps_only:
                    painter.setPen(pen)
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    for shape in self.elements.get(element.element.id, ()):
                        painter.drawPath(self._thinned(shape))

    def _draw_moving(self, painter: QPainter) -> None:
        """While something is dragged: each element on its own, what is in hand at its new place."""
        assert self._table.result is not None and self._table.job is not None
        moving = {leader_of(self._table.job, one) for one in self._table.arranging.picked}
        for layer, sheet in reversed(list(zip(self._table.result.layers, self.kept, strict=True))):
            film = QColor(layer.layer.film.colour)
            painter.setPen(Qt.PenStyle.NoPen)
            if layer.is_sheet:
                painter.setBrush(film)
                for outer in shapely.get_exterior_ring(shapely.get_parts(sheet.polygons)):
                    painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in shapely.get_coordinates(outer).tolist()]))
                film = QColor(self._table.colours.blank)
            if self._table.look == "cut":
                painter.setPen(QPen(QColor(self._table.colours.thread), 0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
            else:
                painter.setBrush(film)
            for element in layer.elements:
                own = leader_of(self._table.job, element.element.id) in moving
                painter.save()
                if own:
                    painter.translate(self._table.drag_mm)
                for shape in self.elements.get(element.element.id, ()):
                    painter.drawPath(self._thinned(shape))
                painter.restore()

    def _draw_widths(self, painter: QPainter) -> None:
        """All film pale and outlined, and over it the bands of width."""
        pale = QColor(self._table.colours.seam)
        for shape in self.kept:
            painter.setPen(QPen(QColor(self._table.colours.blank_edge), 0))
            painter.setBrush(pale)
            painter.drawPath(self._thinned(shape))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)
        draw_bands(painter, self.bands, self._table.px_per_mm)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for shape in self.kept:
            painter.setPen(QPen(QColor(self._table.colours.blank_edge), 0))
            painter.drawPath(self._thinned(shape))

    def _draw_lost(self, painter: QPainter) -> None:
        """What fades is hatched away, what fills is hatched in the stop colour; both are outlined."""
        for path, ground, line in (
            (self.faded, self._table.colours.blank, self._table.colours.stop),
            (self.filled, self._table.colours.blank_edge, self._table.colours.look),
        ):
            painter.setPen(QPen(QColor(line), 0))
            painter.setBrush(QColor(ground))
            painter.drawPath(path)
            hatch = QBrush(QColor(line), Qt.BrushStyle.FDiagPattern)
            hatch.setTransform(QTransform().scale(1 / self._table.px_per_mm, 1 / self._table.px_per_mm))
            painter.setBrush(hatch)
            painter.drawPath(path)

    def _draw_waste(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(self._table.colours.blank_edge), 0))
        for shape in self.waste:
            painter.setBrush(QColor(self._table.colours.waste))
            painter.drawPath(self._thinned(shape))
            hatch = QBrush(QColor(self._table.colours.blank_edge), Qt.BrushStyle.BDiagPattern)
            hatch.setTransform(QTransform().scale(1 / self._table.px_per_mm, 1 / self._table.px_per_mm))
            painter.setBrush(hatch)
            painter.drawPath(self._thinned(shape))

    def _thinned(self, shape: _Shape) -> QPainterPath:
        """The shape with points thinned out to a third of a pixel; kept until the scale leaves that range."""
        level = 2.0 ** math.floor(math.log2(self._table.px_per_mm))
        if shape.scale != level:
            shape.path, shape.scale = painter_path(shape.polygons, 0.35 / (2.0 * level)), level
        return shape.path


def _shape(polygons: shapely.MultiPolygon) -> _Shape:
    return _Shape(polygons, QPainterPath(), 0.0)


def _with_beside(layer: LayerResult) -> shapely.MultiPolygon:
    """The film that stays, and what is cut beside it."""
    if not layer.beside:
        return layer.kept.polygons
    beside = [piece for part in layer.beside for piece in part.region.polygons.geoms]
    return shapely.MultiPolygon([*layer.kept.polygons.geoms, *beside])
