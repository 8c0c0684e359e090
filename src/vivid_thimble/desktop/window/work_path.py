"""The work path: stations along a thread, each with how it stands."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from vivid_thimble.desktop.look.marks import draw_verdict
from vivid_thimble.desktop.look.theme import Palette, px, room_px
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.stations.spec import Standing


class StationButton(QAbstractButton):
    """A knot on the thread with the station's name and standing."""

    def __init__(self, title: str, name: str, shortcut: str, palette: Palette) -> None:
        super().__init__()
        self._title, self._palette = title, palette
        self.standing = Standing("", "none")
        self.setObjectName(name)
        self.setCheckable(True)
        self.setShortcut(shortcut)
        self.setToolTip(f"{tr(title)} ({shortcut})")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_standing(self.standing)

    def sizeHint(self) -> QSize:
        return QSize(room_px(150, 1.3), px(58))

    def show_standing(self, standing: Standing) -> None:
        self.standing = standing
        self.setAccessibleName(f"{tr(self._title)}: {self._words}")
        self.update()

    @property
    def _words(self) -> str:
        words = tr(self.standing.words)
        return f"{tr('was')}: {words}" if self.standing.was else words

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.isChecked():
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(p.raised))
                painter.drawRoundedRect(QRectF(4, 3, self.width() - 8, self.height() - 6), 7, 7)
            stitch = QPen(QColor(p.thread), 1.6, Qt.PenStyle.CustomDashLine)
            stitch.setDashPattern([3.0, 2.4])
            painter.setPen(stitch)
            painter.drawLine(QPointF(21, 0), QPointF(21, self.height()))
            painter.setPen(QPen(QColor(p.thread), 2.4 if self.isChecked() or self.hasFocus() else 1.4))
            painter.setBrush(QColor(p.raised))
            painter.drawEllipse(QPointF(21, self.height() / 2), 10.5, 10.5)
            draw_verdict(
                painter,
                QRectF(15, self.height() / 2 - 6, 12, 12),
                "none" if self.standing.was else self.standing.verdict,
                p,
            )
            self._texts(painter, p)

    def _texts(self, painter: QPainter, p: Palette) -> None:
        font = QFont(painter.font())
        font.setPixelSize(px(15))
        font.setWeight(QFont.Weight.DemiBold if self.isChecked() else QFont.Weight.Medium)
        font.setUnderline(self.hasFocus())
        painter.setFont(font)
        painter.setPen(QColor(p.thread if self.isChecked() else p.ink))
        title = painter.fontMetrics().elidedText(tr(self._title), Qt.TextElideMode.ElideRight, self.width() - 44)
        painter.drawText(QRectF(40, px(10), self.width() - 44, px(20)), Qt.AlignmentFlag.AlignVCenter, title)
        font.setPixelSize(px(12))
        font.setUnderline(False)
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(p.soft_ink))
        text = painter.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, self.width() - 46)
        painter.drawText(QRectF(40, px(29), self.width() - 44, px(18)), Qt.AlignmentFlag.AlignVCenter, text)


class WorkPath(QWidget):
    """Sends ``station_chosen`` with a station's key."""

    station_chosen = Signal(str)

    def __init__(self, stations: list[tuple[str, str]], palette: Palette) -> None:
        """``stations``: (key, title) in the order of work."""
        super().__init__()
        self.setObjectName("workPath")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(room_px(158, 1.3))
        self.buttons: dict[str, StationButton] = {}
        group = QButtonGroup(self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(4, 8, 4, 8)
        layout.setSpacing(0)
        for number, (key, title) in enumerate(stations, start=1):
            button = StationButton(title, f"station_{key}", f"Alt+{number}", palette)
            button.clicked.connect(lambda _=False, k=key: self.station_chosen.emit(k))
            group.addButton(button)
            layout.addWidget(button)
            self.buttons[key] = button
        layout.addStretch()

    def show_station(self, key: str) -> None:
        self.buttons[key].setChecked(True)

    def show_standings(self, standings: dict[str, Standing]) -> None:
        for key, standing in standings.items():
            self.buttons[key].show_standing(standing)
