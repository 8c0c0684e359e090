"""The films as tiles at the exact scale: what was painted once is not painted again while the table is panned.

Tiles lie on a grid of the item's pixels. Those that are missing are painted a few in every frame, nearest to the
middle first; until they are there, the last whole picture stands in for them, moved and scaled. What many points need
(thinning out, cutting down to a part) is done on a thread; painting itself stays on the window's, in slices.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QObject, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QTransform

from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.table.many_points import MANY, painted_large
from vivid_thimble.desktop.table.outlines import Outlines, level_of, step_of

TILE_PX = 256
MOST_TILES = 160
"""About 40 MB of pictures."""
FRAME_S = 0.004
"""So long a frame may paint tiles; what is left follows in the next."""
AT_ONCE = 8_000
"""So few points are got ready on the window's thread."""
STILL_S = 0.09
"""So long after the last change of scale the zoom counts as going on."""
BEYOND_PX = 4.0
"""Tiles know so much beyond their edges, for the width of lines."""

Tile = tuple[int, int]


@dataclass(frozen=True)
class Ply:
    """One coat of paint: outlines that are filled, stroked with a hairline, or hatched."""

    outlines: Outlines
    fill: QColor | None = None
    line: QColor | None = None
    hatch: tuple[QColor, Qt.BrushStyle] | None = None


Thinned = list[Outlines]
"""The plies of one level, thinned out; cut down to tiles on demand."""


class Tiles(QObject):
    """Paints plies. ``wanted`` is called when another frame is needed."""

    def __init__(self, wanted: Callable[[], object], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wanted = wanted
        self._plies: tuple[Ply, ...] = ()
        self._ready: dict[float, Thinned] = {}
        self._parts: dict[Tile, list[QPainterPath]] = {}
        self._asked: object = None
        self._next: Callable[[], None] | None = None
        """What is asked for while the thread is still at something else: only the newest."""
        self._tiles: dict[Tile, QPixmap] = {}
        self._scale, self._ratio = 0.0, 1.0
        self._within = QPointF(0.0, 0.0)
        """Where in its pixel the item's corner lies; panning by whole pixels keeps it."""
        self._changed_s = 0.0
        self._last: tuple[QPixmap, QPointF, float] | None = None
        """The last whole picture, where its corner lies in mm, and its scale."""
        self._shown: tuple[QPointF, QRectF, list[Tile]] | None = None
        """Of the last complete frame: the corner, the view and its tiles."""
        self._background = Background(self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(lambda: self._wanted())
        self.is_complete = True
        """Whether the last frame showed everything at its exact scale."""

    def take(self, plies: Sequence[Ply]) -> None:
        """Paint these from now on; what was painted stands in until they are there."""
        self._keep_last()
        self._plies = tuple(plies)
        self._ready.clear()
        self._forget_tiles()
        self._asked, self._next = None, None
        self.is_complete = not plies

    def forget(self) -> None:
        """Nothing is shown any more."""
        self.take(())
        self._last = None

    def stop(self) -> None:
        self._background.stop()

    @property
    def is_busy(self) -> bool:
        return bool(self._plies) and not self.is_complete

    # -- a frame --------------------------------------------------------------------

    def draw(self, painter: QPainter, offset: QPointF, scale: float, view: QRectF, ratio: float) -> None:
        """Paint a view (in pixels of the widget) of the item, whose corner lies at ``offset``."""
        now = time.monotonic()
        corner = QPointF(math.floor(offset.x()), math.floor(offset.y()))
        within = offset - corner
        if scale != self._scale or ratio != self._ratio or within != self._within:
            self._keep_last()
            self._forget_tiles()
            if scale != self._scale:
                self._changed_s = now
            self._scale, self._ratio, self._within = scale, ratio, within
        wanted = self._in_view(corner, view)
        missing = [tile for tile in wanted if tile not in self._tiles]
        if missing and self._plies:
            self._paint_missing(missing, now)
            missing = [tile for tile in wanted if tile not in self._tiles]
        if missing and self._last is not None:
            self._draw_last(painter, corner, missing)
        for tile in wanted:
            picture = self._tiles.get(tile)
            if picture is not None:
                painter.drawPixmap(QPointF(corner.x() + tile[0] * TILE_PX, corner.y() + tile[1] * TILE_PX), picture)
        self.is_complete = not missing or not self._plies
        if self.is_complete:
            self._shown = (corner, view, wanted)
        elif self._asked is None and not self._soon.isActive():
            self._soon.start(0)
        self._drop_far(wanted)

    def _in_view(self, corner: QPointF, view: QRectF) -> list[Tile]:
        """The tiles of a view, nearest to its middle first."""
        left, top = (view.left() - corner.x()) / TILE_PX, (view.top() - corner.y()) / TILE_PX
        right, bottom = (view.right() - corner.x()) / TILE_PX, (view.bottom() - corner.y()) / TILE_PX
        middle = (left + right) / 2 - 0.5, (top + bottom) / 2 - 0.5
        found = [
            (i, j) for i in range(math.floor(left), math.ceil(right)) for j in range(math.floor(top), math.ceil(bottom))
        ]
        return sorted(found, key=lambda tile: (tile[0] - middle[0]) ** 2 + (tile[1] - middle[1]) ** 2)

    def _paint_missing(self, missing: list[Tile], now: float) -> None:
        """As many as fit into the frame; while the scale changes fast only when that is all of them."""
        zooming = now - self._changed_s < STILL_S and self._last is not None
        if zooming and sum(len(ply.outlines) for ply in self._plies) > AT_ONCE:
            self._soon.start(round(1000 * STILL_S))
            return
        parts = self._parts_of(missing)
        if parts is None:
            return
        for tile in missing:
            self._tiles[tile] = self._painted(tile, parts[tile])
            if time.monotonic() - now > FRAME_S:
                return

    def _painted(self, tile: Tile, paths: list[QPainterPath]) -> QPixmap:
        picture = QPixmap(QSize(TILE_PX, TILE_PX) * self._ratio)
        picture.setDevicePixelRatio(self._ratio)
        picture.fill(Qt.GlobalColor.transparent)
        with QPainter(picture) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            corner = QPointF(self._within.x() - tile[0] * TILE_PX, self._within.y() - tile[1] * TILE_PX)
            for ply, path in zip(self._plies, paths, strict=True):
                if not path.isEmpty():
                    self._paint_ply(painter, ply, path, corner)
        return picture

    def _paint_ply(self, painter: QPainter, ply: Ply, path: QPainterPath, corner: QPointF) -> None:
        to_tile = QTransform(self._scale, 0, 0, self._scale, corner.x(), corner.y())

        def fill(on: QPainter) -> None:
            on.setTransform(to_tile, combine=on is not painter)
            _fill(on, ply, path, to_tile)

        painter.resetTransform()
        if path.elementCount() > MANY:
            painter.drawImage(QPointF(0.0, 0.0), painted_large(QSize(TILE_PX, TILE_PX), self._ratio, fill))
        else:
            fill(painter)
        if ply.line is not None:
            painter.setTransform(to_tile)
            painter.setPen(QPen(ply.line, 0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)

    # -- what tiles need ----------------------------------------------------------------

    def _parts_of(self, missing: list[Tile]) -> dict[Tile, list[QPainterPath]] | None:
        """The outlines of each tile; None while they are got ready on the thread."""
        lacking = [tile for tile in missing if tile not in self._parts]
        if not lacking:
            return self._parts
        level = level_of(self._scale)
        ready = self._ready.get(level)
        few = sum(len(ply.outlines) for ply in self._plies) <= AT_ONCE
        if ready is None and few:
            ready = self._ready[level] = _thinned(level, self._plies)
        if ready is not None and sum(len(one) for one in ready) <= AT_ONCE:
            boxes = {tile: self._box_of(tile) for tile in lacking}
            self._take_parts(_cut_down(ready, boxes))
            return self._parts
        self._ask(level, ready, lacking)
        return None

    def _ask(self, level: float, ready: Thinned | None, lacking: list[Tile]) -> None:
        """Have it got ready on the thread; while that is busy only the newest wish waits."""
        key = (self._scale, frozenset(lacking))
        if key == self._asked:
            return
        scale, plies, boxes = self._scale, self._plies, {tile: self._box_of(tile) for tile in lacking}

        def worked_out() -> tuple[Thinned, dict[Tile, list[Outlines]]]:
            known = ready or _thinned(level, plies)
            return known, _cut_down(known, boxes)

        def answered(answer: tuple[Thinned, dict[Tile, list[Outlines]]] | Failed) -> None:
            waiting, self._next, self._asked = self._next, None, None
            if isinstance(answer, Failed):
                raise answer.error
            if plies is self._plies:
                self._ready[level] = answer[0]
                if scale == self._scale:
                    self._take_parts(answer[1])
            if waiting is not None:
                waiting()
            self._wanted()

        def send() -> None:
            if plies is self._plies and scale == self._scale:
                self._asked = key
                self._background.run(worked_out, answered)

        if self._background.is_busy:
            self._next = send
        else:
            send()

    def _take_parts(self, cut: dict[Tile, list[Outlines]]) -> None:
        self._parts.update({tile: [one.path() for one in outlines] for tile, outlines in cut.items()})

    def _box_of(self, tile: Tile) -> Box:
        left, top = tile[0] * TILE_PX - BEYOND_PX, tile[1] * TILE_PX - BEYOND_PX
        wide = TILE_PX + 2 * BEYOND_PX
        return left / self._scale, top / self._scale, (left + wide) / self._scale, (top + wide) / self._scale

    # -- what stands in -----------------------------------------------------------------

    def _keep_last(self) -> None:
        """Put the tiles together to one picture before they are dropped; an incomplete picture is not worth it."""
        if self._shown is None or not self._tiles:
            return
        corner, view, wanted = self._shown
        if any(tile not in self._tiles for tile in wanted):
            return
        whole = QPixmap(view.size().toSize() * self._ratio)
        whole.setDevicePixelRatio(self._ratio)
        whole.fill(Qt.GlobalColor.transparent)
        with QPainter(whole) as painter:
            for tile in wanted:
                at = QPointF(corner.x() + tile[0] * TILE_PX, corner.y() + tile[1] * TILE_PX) - view.topLeft()
                painter.drawPixmap(at, self._tiles[tile])
        self._last = whole, (view.topLeft() - corner) / self._scale, self._scale

    def _draw_last(self, painter: QPainter, corner: QPointF, missing: list[Tile]) -> None:
        assert self._last is not None
        picture, at, scale = self._last
        place = corner + at * self._scale
        size = picture.deviceIndependentSize() * (self._scale / scale)
        painter.save()
        clip = QPainterPath()
        for i, j in missing:
            clip.addRect(QRectF(corner.x() + i * TILE_PX, corner.y() + j * TILE_PX, TILE_PX, TILE_PX))
        painter.setClipPath(clip, Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, on=False)
        painter.drawPixmap(QRectF(place, size), picture, QRectF(picture.rect()))
        painter.restore()

    def _forget_tiles(self) -> None:
        self._tiles.clear()
        self._parts.clear()

    def _drop_far(self, wanted: list[Tile]) -> None:
        """The oldest ones that are not in view."""
        if len(self._tiles) <= MOST_TILES:
            return
        seen = set(wanted)
        for tile in [one for one in self._tiles if one not in seen][: len(self._tiles) - MOST_TILES]:
            del self._tiles[tile]
            self._parts.pop(tile, None)


def _thinned(level: float, plies: Sequence[Ply]) -> Thinned:
    """Plies that share outlines share the work."""
    done: dict[int, Outlines] = {}
    for ply in plies:
        if id(ply.outlines) not in done:
            done[id(ply.outlines)] = ply.outlines.thinned(step_of(level))
    return [done[id(ply.outlines)] for ply in plies]


def _cut_down(outlines: Sequence[Outlines], boxes: dict[Tile, Box]) -> dict[Tile, list[Outlines]]:
    """What each tile needs: first everything cut down to all of them together, then row by row, then each."""
    parts: dict[Tile, list[Outlines]] = {tile: [] for tile in boxes}
    known: dict[int, dict[Tile, Outlines]] = {}
    for one in outlines:
        if id(one) not in known:
            known[id(one)] = _cut_to_tiles(one, boxes)
        for tile in boxes:
            parts[tile].append(known[id(one)][tile])
    return parts


def _cut_to_tiles(outlines: Outlines, boxes: dict[Tile, Box]) -> dict[Tile, Outlines]:
    found: dict[Tile, Outlines] = {}
    whole = box_round(boxes.values())
    assert whole is not None
    together = outlines.within(whole)
    for row in {tile[1] for tile in boxes}:
        tiles = [tile for tile in boxes if tile[1] == row]
        strip = together.within((whole[0], boxes[tiles[0]][1], whole[2], boxes[tiles[0]][3]))
        found.update({tile: strip.within(boxes[tile]) for tile in tiles})
    return found


def _fill(painter: QPainter, ply: Ply, path: QPainterPath, to_tile: QTransform) -> None:
    """The hatch lies on the tile, whatever the scale of the item and of the picture."""
    painter.setPen(Qt.PenStyle.NoPen)
    if ply.fill is not None:
        painter.fillPath(path, ply.fill)
    if ply.hatch is not None:
        hatch = QBrush(*ply.hatch)
        hatch.setTransform(to_tile.inverted()[0])
        painter.setRenderHint(QPainter.RenderHint.NonCosmeticBrushPatterns)
        painter.fillPath(path, hatch)
