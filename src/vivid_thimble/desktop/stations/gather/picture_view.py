"""The picture beside its controls, on which places are clicked."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.prepare import Share
from vivid_thimble.desktop.look.underlay import image_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.cross import moved_cross

HIGHEST_PX = 230
RING_PX = 7.0
RING = QColor(196, 60, 30)
STEP = 0.02
"""How far an arrow key moves the pointer, in shares of the picture."""


class PictureView(QWidget):
    """``clicked`` carries a place in shares of the picture. Arrow keys move a cross, Enter clicks there."""

    clicked = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("pictureView")
        self.setAccessibleName(tr("The picture; what is kept is in full colour"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._image = QImage()
        self._rings: tuple[Share, ...] = ()
        self._cross: Share | None = None
        self._clickable = False
        self._crop: tuple[Share, float] | None = None
        self.setFixedHeight(120)

    def set_clickable(self, *, clickable: bool) -> None:
        """Whether a click means anything at present."""
        self._clickable = clickable
        self.setCursor(Qt.CursorShape.CrossCursor if clickable else Qt.CursorShape.ArrowCursor)
        self._cross = None
        self.update()

    def show_picture(self, pixels: ColourImage | None, rings: Sequence[Share] = ()) -> None:
        """Another picture, and the places in it that are ringed."""
        self._rings = tuple(rings)
        if pixels is None:
            self._image = QImage()
        else:
            rows, columns = pixels.shape[:2]
            self._image = image_of(pixels)
            self.setFixedHeight(min(max(round(self.width() * rows / columns), 60), HIGHEST_PX))
        self.update()

    def show_crop(self, centre: Share | None, radius: float = 1.0) -> None:
        """A round crop: its middle, and its radius in shares of half the shorter side; None: no crop."""
        self._crop = None if centre is None else (centre, radius)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def frame(self) -> QRectF:
        """Where the picture lies in the widget."""
        if self._image.isNull():
            return QRectF(self.rect())
        size = self._image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2, (self.height() - size.height()) / 2, size.width(), size.height()
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        frame = self.frame()
        if self._clickable and event.button() == Qt.MouseButton.LeftButton and frame.contains(event.position()):
            at = event.position()
            self.clicked.emit(((at.x() - frame.left()) / frame.width(), (at.y() - frame.top()) / frame.height()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        moved = moved_cross(key, self._cross, STEP)
        if self._clickable and moved is not None:
            self._cross = moved
            self.update()
        elif self._clickable and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._cross is not None:
            self.clicked.emit(self._cross)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        with QPainter(self) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            frame = self.frame()
            if not self._image.isNull():
                painter.drawImage(frame, self._image)
            painter.setPen(QPen(RING, 2.0))
            for ring in self._rings:
                painter.drawEllipse(self._place(ring, frame), RING_PX, RING_PX)
            if self._crop is not None:
                reach = self._crop[1] * min(frame.width(), frame.height()) / 2.0
                painter.drawEllipse(self._place(self._crop[0], frame), reach, reach)
            if self._cross is not None:
                at = self._place(self._cross, frame)
                painter.drawLine(at - QPointF(9, 0), at + QPointF(9, 0))
                painter.drawLine(at - QPointF(0, 9), at + QPointF(0, 9))
            if self.hasFocus():
                painter.setPen(QPen(self.palette().highlight().color(), 2.0))
                painter.drawRect(frame.adjusted(1, 1, -1, -1))

    def _place(self, share: Share, frame: QRectF) -> QPointF:
        return QPointF(frame.left() + share[0] * frame.width(), frame.top() + share[1] * frame.height())
