"""A photo of the thing: where in it the room for the design lies."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from vivid_thimble.desktop.look.theme import palette_in_use
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog

Room = tuple[float, float, float, float]
GRAB_PX = 12.0
STEP = 0.005
LEAST = 0.02


class RoomFrame(QWidget):
    """A picture with a frame whose corners are dragged; arrow keys move it, with Shift its lower right corner."""

    def __init__(self, image: QImage, room: Room) -> None:
        super().__init__()
        self.setObjectName("roomFrame")
        self.setAccessibleName(tr("Photo with the room for the design; arrow keys move it, with Shift they size it"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(480, 320)
        self.room, self._image = room, image
        self._drag: tuple[int, QPointF] | None = None

    def _place(self) -> QRectF:
        """Where the picture lies."""
        scale = min(self.width() / max(self._image.width(), 1), self.height() / max(self._image.height(), 1))
        wide, high = self._image.width() * scale, self._image.height() * scale
        return QRectF((self.width() - wide) / 2, (self.height() - high) / 2, wide, high)

    def _corners(self) -> list[QPointF]:
        box, (left, top, right, bottom) = self._place(), self.room
        return [
            QPointF(box.left() + x * box.width(), box.top() + y * box.height())
            for x, y in ((left, top), (right, top), (right, bottom), (left, bottom))
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        palette = palette_in_use()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self._place(), self._image)
            corners = self._corners()
            painter.setPen(QPen(QColor("#ffffff"), 4))
            painter.drawRect(QRectF(corners[0], corners[2]))
            painter.setPen(QPen(QColor(palette.thread), 2, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(corners[0], corners[2]))
            painter.setBrush(QColor(palette.raised))
            painter.setPen(QPen(QColor(palette.thread), 2))
            for corner in corners:
                painter.drawEllipse(corner, 6, 6)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        near = [k for k, c in enumerate(self._corners()) if (c - at).manhattanLength() < 2 * GRAB_PX]
        inside = QRectF(self._corners()[0], self._corners()[2]).contains(at)
        self._drag = (near[0], at) if near else (4, at) if inside else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        corner, last = self._drag
        box, at = self._place(), event.position()
        self._shift(corner, (at.x() - last.x()) / box.width(), (at.y() - last.y()) / box.height())
        self._drag = corner, at

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() not in ways:
            super().keyPressEvent(event)
            return
        dx, dy = ways[Qt.Key(event.key())]
        sizes = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._shift(2 if sizes else 4, dx * STEP, dy * STEP)

    def _shift(self, corner: int, dx: float, dy: float) -> None:
        left, top, right, bottom = self.room
        if corner in (0, 3, 4):
            left += dx
        if corner in (1, 2, 4):
            right += dx
        if corner in (0, 1, 4):
            top += dy
        if corner in (2, 3, 4):
            bottom += dy
        if right - left >= LEAST and bottom - top >= LEAST and min(left, top) >= 0.0 and max(right, bottom) <= 1.0:
            self.room = left, top, right, bottom
            self.update()


class PhotoDialog(QuietDialog):
    """``taken``: the room that was marked."""

    taken = Signal(object)

    def __init__(self, image: QImage, room: Room, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Photo of the thing"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(720, 560)
        whole, row = QVBoxLayout(self), QHBoxLayout()
        line = PlainLabel(
            tr("Drag the frame over the room that you measured: the design lies there, at its true size.")
        )
        line.setWordWrap(True)
        whole.addWidget(line)
        self.frame = RoomFrame(image, room)
        whole.addWidget(self.frame, 1)
        row.addStretch()
        for word, name, then in (("Leave it", "photoLeave", self.close), ("Use this &photo", "photoUse", self._use)):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, t=then: t())
            row.addWidget(button)
        whole.addLayout(row)

    def _use(self) -> None:
        self.taken.emit(self.frame.room)
        self.close()
