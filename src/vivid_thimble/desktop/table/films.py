"""The films on the table: what stays, what is cut, what is pulled off, thinned out for the current scale."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from vivid_thimble.core.edits.linked import leader_of
from vivid_thimble.core.evaluate.results import ItemResult, LayerResult
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.widths.widthmap import Chords
from vivid_thimble.desktop.table.bands import Band, bands_of
from vivid_thimble.desktop.table.outlines import Outlines
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.table.rulers import THICKNESS
from vivid_thimble.desktop.table.tiles import Ply, Tiles

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table


class Films:
    """What was computed, ready for painting in the table's look."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self.tiles = Tiles(table.update, table)
        self._painted: tuple[object, ...] = ()
        self.kept: list[Outlines] = []
        self.cut: list[Outlines] | None = None
        self.waste: list[Outlines] | None = None
        self.waste_cuts: list[Path] = []
        self._elements: dict[str, list[Outlines]] | None = None
        self.bands: list[Band] = []
        self.faded, self.filled = QPainterPath(), QPainterPath()
        self.preview: list[Outlines] = []

    def forget(self) -> None:
        self.kept, self.cut, self.waste, self._elements = [], None, None, None
        self._painted = ()
        self.tiles.forget()

    def take_result(self, result: ItemResult) -> None:
        self.preview = []
        self.kept = [Outlines.of(_with_beside(layer)) for layer in result.layers]
        self.cut, self.waste, self._elements = None, None, None
        self.waste_cuts = [path for layer in result.layers for path in layer.waste_cuts]
        self._painted = ()

    def _cut_lines(self) -> list[Outlines]:
        """What the knife follows, of each film; made when it is looked at."""
        if self.cut is None:
            assert self._table.result is not None
            layers = self._table.result.layers
            shapes = [[p for part in layer.cut_parts for p in part.region.polygons.geoms] for layer in layers]
            self.cut = [Outlines.of(shapely.MultiPolygon(one)) for one in shapes]
        return self.cut

    def _waste_pieces(self) -> list[Outlines]:
        """What is pulled off of each film; made when it is looked at."""
        if self.waste is None:
            assert self._table.result is not None
            wastes = [[p.polygon for p in layer.inspection.waste] for layer in self._table.result.layers]
            self.waste = [Outlines.of(shapely.MultiPolygon(one)) for one in wastes]
        return self.waste

    def element(self, element_id: str) -> Sequence[Outlines]:
        """The parts of an element; those of all are made when the first is wanted."""
        if self._elements is None:
            assert self._table.result is not None
            elements = [(e, layer) for layer in self._table.result.layers for e in layer.elements]
            shapes = [_on_film(part.region.polygons, layer) for e, layer in elements for part in e.parts]
            outlines = iter(Outlines.of_each(shapes))
            self._elements = {e.element.id: [next(outlines) for _ in e.parts] for e, _ in elements}
        return self._elements.get(element_id, ())

    def take_preview(self, films: Sequence[shapely.MultiPolygon] | None) -> None:
        self.preview = [Outlines.of(one) for one in films or ()]

    def take_widths(self, chords: Chords | None) -> None:
        self.bands = bands_of(chords) if chords is not None else []
        self._painted = ()

    def take_lost(self, lost: Lost | None) -> None:
        self.faded = painter_path(lost.faded) if lost is not None else QPainterPath()
        self.filled = painter_path(lost.filled) if lost is not None else QPainterPath()

    def draw(self, painter: QPainter) -> None:
        if self._table.result is None:
            return
        painter.save()
        painter.setClipRect(QRectF(THICKNESS, THICKNESS, self._table.width(), self._table.height()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        moving, side = self._table.hands.is_moving, self._table.pairs.moving_side()
        if not moving and side is None:
            self._draw_tiles(painter)
        self._to_item(painter)
        if moving:
            self._draw_moving(painter)
        elif side is not None:
            self._draw_parted(painter, side)
        else:
            self._draw_over(painter)
        painter.restore()

    def _to_item(self, painter: QPainter) -> None:
        scale, offset = self._table.px_per_mm, self._table.offset
        painter.setTransform(QTransform(scale, 0, 0, scale, offset.x(), offset.y()), True)

    def _draw_tiles(self, painter: QPainter) -> None:
        table = self._table
        alone = self.sheet_in_hand()
        seen = alone.layer.id if alone is not None else ""
        state = (id(table.result), table.look, seen, table.weeded_film, table.colours.name)
        if state != self._painted:
            self._painted = state
            self.tiles.take(self._plies(alone))
        view = QRectF(THICKNESS, THICKNESS, table.width() - THICKNESS, table.height() - THICKNESS)
        self.tiles.draw(painter, table.offset, table.px_per_mm, view, table.devicePixelRatioF())

    def _plies(self, alone: LayerResult | None) -> list[Ply]:
        """What the look shows of the films, from below upwards."""
        table, palette = self._table, self._table.colours
        assert table.result is not None
        if table.look == "widths":
            return self._width_plies()
        plies = []
        if table.look == "waste":
            edge = QColor(palette.blank_edge)
            hatch = edge, Qt.BrushStyle.BDiagPattern
            film = min(table.weeded_film, len(table.result.layers) - 1)
            plies = [Ply(self._waste_pieces()[film], QColor(palette.waste), edge, hatch)]
            alone = table.result.layers[film]
        if table.look == "cut":
            return [Ply(lines, line=QColor(palette.thread)) for lines in self._cut_lines()]
        for layer, kept in reversed(list(zip(table.result.layers, self.kept, strict=True))):  # the first lies on top
            if alone is not None and layer is not alone and table.look in ("finished", "waste"):
                continue
            colour = QColor(layer.layer.film.colour)
            if table.look == "waste":
                colour.setAlpha(70)
            plies.append(Ply(kept, colour))
        return plies

    def _width_plies(self) -> list[Ply]:
        """All film pale and outlined, and over it the bands of width; what is below the limit is hatched."""
        palette = self._table.colours
        edge = QColor(palette.blank_edge)
        bands = [
            Ply(
                band.covered,
                QColor(band.colour),
                hatch=(QColor("#ffffff"), Qt.BrushStyle.Dense6Pattern) if k == 0 else None,
            )
            for k, band in reversed(list(enumerate(self.bands)))
        ]
        return [*(Ply(one, QColor(palette.seam)) for one in self.kept), *bands, *(Ply(o, line=edge) for o in self.kept)]

    def _seen(self, outlines: Outlines) -> QPainterPath:
        """What of an outline is needed for the present view."""
        table = self._table
        scale, x, y = table.px_per_mm, table.offset.x(), table.offset.y()
        view = -x / scale, -y / scale, (table.width() - x) / scale, (table.height() - y) / scale
        return outlines.seen(scale, view)

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
        """All plies without tiles, for what is drawn in two parts."""
        for ply in self._plies(self.sheet_in_hand()):
            painter.setPen(Qt.PenStyle.NoPen if ply.line is None else QPen(ply.line, 0))
            painter.setBrush(Qt.BrushStyle.NoBrush if ply.fill is None else ply.fill)
            painter.drawPath(self._seen(ply.outlines))

    def _draw_over(self, painter: QPainter) -> None:
        """What lies over the films and is little."""
        if self._table.look == "widths":
            return
        if self._table.look == "surface":
            self._draw_lost(painter)
        if self._table.look == "cut":
            self._draw_waste_cuts(painter)
        self._draw_helpers(painter)
        self._draw_other_inks(painter)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self._table.colours.fine), 0))
        for shape in self.preview:
            painter.drawPath(self._seen(shape))

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
                for shape in self.element(element.element.id):
                    painter.drawPath(self._seen(shape))

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
                    for shape in self.element(element.element.id):
                        painter.drawPath(self._seen(shape))

    def _draw_moving(self, painter: QPainter) -> None:
        """While something is dragged: each element on its own, what is in hand at its new place."""
        assert self._table.result is not None and self._table.job is not None
        moving = {leader_of(self._table.job, one) for one in self._table.arranging.picked}
        for layer in reversed(self._table.result.layers):
            film = QColor(layer.layer.film.colour)
            painter.setPen(Qt.PenStyle.NoPen)
            if layer.is_sheet:
                painter.setBrush(film)
                for outer in shapely.get_exterior_ring(shapely.get_parts(layer.kept.polygons)):
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
                    painter.translate(self._table.hands.moved)
                for shape in self.element(element.element.id):
                    painter.drawPath(self._seen(shape))
                painter.restore()

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


def _on_film(polygons: shapely.MultiPolygon, layer: LayerResult) -> shapely.MultiPolygon:
    """A shape of the level design as it lies on the flat film of a tapered side."""
    return polygons if layer.bend is None else shapely.transform(polygons, layer.bend.apply)


def _with_beside(layer: LayerResult) -> shapely.MultiPolygon:
    """The film that stays, and what is cut beside it."""
    if not layer.beside:
        return layer.kept.polygons
    beside = [piece for part in layer.beside for piece in part.region.polygons.geoms]
    return shapely.MultiPolygon([*layer.kept.polygons.geoms, *beside])
