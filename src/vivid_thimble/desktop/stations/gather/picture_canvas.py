"""A picture to work on with the mouse: places clicked, lines drawn, boxes dragged, its outlines over it.

The wheel zooms, the middle button moves the picture. Arrow keys move a cross where a click would go, Enter clicks
there.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.prepare import Share
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.underlay import image_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.cross import moved_cross

Tool = Literal["none", "click", "box", "line", "free"]
STEP = 0.01
"""How far an arrow key moves the cross, in shares of the picture."""
MOST_ZOOM = 16.0
UNDER_OUTLINES = 0.45
"""How strongly a picture shows under outlines."""
HANDLE_PX = 5.0


class PictureCanvas(QWidget):
    """``clicked`` carries a place in shares of the picture, ``drawn`` the places of a line or box, in order."""

    clicked = Signal(object)
    drawn = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("pictureCanvas")
        self.setAccessibleName(tr("The picture to work on"))
        self.setMinimumSize(360, 300)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self._image = QImage()
        self._tool: Tool = "none"
        self._width = 0.0
        self._way: list[Share] = []
        self._cross: Share | None = None
        self._pointer: QPointF | None = None
        self._zoom, self._move = 1.0, QPointF(0, 0)
        self._panned: QPointF | None = None
        self._rings: tuple[Share, ...] = ()
        self._boxes: tuple[tuple[float, float, float, float], ...] = ()
        self._marks: tuple[Share, ...] = ()
        self._lines: list[tuple[QPainterPath, QColor]] = []

    # -- what to show ---------------------------------------------------------------

    def show_picture(self, pixels: ColourImage) -> None:
        self._image = image_of(pixels)
        self.update()

    def show_marks(
        self,
        rings: Sequence[Share] = (),
        box: tuple[float, float, float, float] | None = None,
        marks: Sequence[Share] = (),
    ) -> None:
        """Places that are ringed, a frame outside of which the picture is dimmed, places that were clicked."""
        self._rings, self._marks = tuple(rings), tuple(marks)
        self._boxes = () if box is None else (box,)
        self.update()

    def show_outlines(self, lines: Sequence[tuple[QPainterPath, QColor]]) -> None:
        """Paths in shares of the picture."""
        self._lines = list(lines)
        self.update()

    def take(self, tool: Tool, width: float = 0.0) -> None:
        """What the mouse does now; ``width`` of a drawn line in shares of the picture's longer side."""
        self._tool, self._width, self._way, self._cross = tool, width, [], None
        self.setCursor(Qt.CursorShape.ArrowCursor if tool == "none" else Qt.CursorShape.CrossCursor)
        self.update()

    # -- geometry -------------------------------------------------------------------

    def frame(self) -> QRectF:
        """Where the picture lies in the widget."""
        if self._image.isNull():
            return QRectF(self.rect())
        room = QRectF(self.rect()).adjusted(8, 8, -8, -8)
        size = self._image.size().scaled(room.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio) * self._zoom
        middle = room.center() + self._move
        return QRectF(middle.x() - size.width() / 2, middle.y() - size.height() / 2, size.width(), size.height())

    def share_at(self, at: QPointF) -> Share:
        frame = self.frame()
        x, y = (at.x() - frame.left()) / frame.width(), (at.y() - frame.top()) / frame.height()
        return min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0)

    def place_of(self, share: Share) -> QPointF:
        frame = self.frame()
        return QPointF(frame.left() + share[0] * frame.width(), frame.top() + share[1] * frame.height())

    # -- mouse and keys -------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = event.position()
        elif event.button() == Qt.MouseButton.LeftButton and self._tool == "click":
            if self.frame().contains(event.position()):
                self.clicked.emit(self.share_at(event.position()))
        elif event.button() == Qt.MouseButton.LeftButton and self._tool != "none":
            self._way = [self.share_at(event.position())]
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointer = event.position()
        if self._panned is not None:
            self._move += event.position() - self._panned
            self._panned = event.position()
        elif self._way:
            here = self.share_at(event.position())
            if self._tool == "free":
                self._way.append(here)
            else:
                self._way = [self._way[0], here]
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = None
        elif self._way:
            way, self._way = tuple(self._way), []
            if self._tool == "free" or len(way) > 1:
                self.drawn.emit(way)
            self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        here, before = event.position(), self.share_at(event.position())
        self._zoom = min(max(self._zoom * 1.2 ** (event.angleDelta().y() / 120.0), 1.0), MOST_ZOOM)
        self._move = QPointF(0, 0) if self._zoom == 1.0 else self._move + here - self.place_of(before)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        moved = moved_cross(key, self._cross, STEP)
        if self._tool == "none":
            super().keyPressEvent(event)
        elif moved is not None:
            self._cross = moved
            if self._way:
                self._way = [*self._way, moved] if self._tool == "free" else [self._way[0], moved]
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._cross is not None:
            self._press_cross(self._cross)
        else:
            super().keyPressEvent(event)
        self.update()

    def _press_cross(self, cross: Share) -> None:
        """Enter clicks; for lines and boxes the first Enter begins and the second one ends."""
        if self._tool == "click":
            self.clicked.emit(cross)
        elif not self._way:
            self._way = [cross]
        else:
            way, self._way = tuple(self._way), []
            self.drawn.emit(way)

    # -- painting -------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        colours = PALETTES["day"]
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            frame = self.frame()
            if not self._image.isNull():
                painter.setOpacity(UNDER_OUTLINES if self._lines else 1.0)
                painter.drawImage(frame, self._image)
                painter.setOpacity(1.0)
            painter.save()
            painter.translate(frame.topLeft())
            painter.scale(frame.width(), frame.height())
            for path, colour in self._lines:
                pen = QPen(colour, 1.6)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.drawPath(path)
            painter.restore()
            thread = QColor(colours.thread)
            for box in self._boxes:
                self._paint_box(painter, box, thread)
            painter.setPen(QPen(thread, 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for ring in self._rings:
                painter.drawEllipse(self.place_of(ring), 9.0, 9.0)
            for mark in self._marks:
                painter.drawEllipse(self.place_of(mark), HANDLE_PX, HANDLE_PX)
            self._paint_way(painter, thread)
            if self._cross is not None:
                at = self.place_of(self._cross)
                painter.setPen(QPen(thread, 2.0))
                painter.drawLine(at - QPointF(9, 0), at + QPointF(9, 0))
                painter.drawLine(at - QPointF(0, 9), at + QPointF(0, 9))
            if self.hasFocus():
                painter.setPen(QPen(self.palette().highlight().color(), 2.0))
                painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_box(self, painter: QPainter, box: tuple[float, float, float, float], thread: QColor) -> None:
        inner = QRectF(self.place_of((box[0], box[1])), self.place_of((box[2], box[3]))).normalized()
        outside = QPainterPath()
        outside.addRect(self.frame())
        outside.addRect(inner)
        painter.fillPath(outside, QColor(255, 255, 255, 170))
        painter.setPen(QPen(thread, 1.5, Qt.PenStyle.DashLine))
        painter.drawRect(inner)

    def _paint_way(self, painter: QPainter, thread: QColor) -> None:
        """What is being drawn, and how wide the brush is."""
        wide = 2.0 * self._width * max(self.frame().width(), self.frame().height())
        if self._way and self._tool == "box":
            painter.setPen(QPen(thread, 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(self.place_of(self._way[0]), self.place_of(self._way[-1])).normalized())
        elif self._way:
            path = QPainterPath(self.place_of(self._way[0]))
            for share in self._way[1:]:
                path.lineTo(self.place_of(share))
            ink = QColor(thread)
            ink.setAlpha(150)
            pen = QPen(ink, max(wide, 2.0))
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPath(path)
        if wide > 0.0 and self._pointer is not None and self._tool == "free":
            painter.setPen(QPen(thread, 1.0))
            painter.drawEllipse(self._pointer, wide / 2.0, wide / 2.0)
