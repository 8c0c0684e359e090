"""The history of the job: every edit by its name with a small picture; a click goes there, and nothing is lost."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.table.many_points import painted_large
from vivid_thimble.desktop.table.outlines import Outlines
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

PICTURE = QSize(84, 52)
ROOM = 4.0


def small_picture(result: ItemResult, palette: Palette) -> QImage:
    """The item with its films, small."""
    item = result.item
    scale = min((PICTURE.width() - ROOM) / item.width, (PICTURE.height() - ROOM) / item.height)
    films = [(layer.layer.film.colour, Outlines.of(layer.kept.polygons)) for layer in reversed(result.layers)]

    def paint(painter: QPainter) -> None:
        painter.fillRect(QRect(QPoint(0, 0), PICTURE), QColor(palette.cloth))
        painter.translate((PICTURE.width() - item.width * scale) / 2, (PICTURE.height() - item.height * scale) / 2)
        painter.scale(scale, scale)
        painter.fillRect(QRectF(0, 0, item.width, item.height), QColor(palette.blank))
        for colour, outlines in films:
            painter.fillPath(outlines.thinned(0.4 / scale).path(), QColor(colour))

    return painted_large(PICTURE, 2.0, paint)


class HistoryDialog(QuietDialog):
    """Stays open beside the window while one works."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle(tr("History"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(340, 520)
        column = QVBoxLayout(self)
        hint = PlainLabel(
            tr("Every edit since the job was opened. Go back to any of them; later ones stay until you go on.")
        )
        hint.setProperty("role", "hint")
        hint.setWordWrap(True)
        column.addWidget(hint)
        self.list = WrappingList()
        self.list.setObjectName("history")
        self.list.setAccessibleName(tr("Edits, the oldest first"))
        self.list.setIconSize(PICTURE)
        self.list.itemClicked.connect(self._go)
        self.list.itemActivated.connect(self._go)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        for word, name, then in (("Undo", "historyUndo", session.undo), ("Redo", "historyRedo", session.redo)):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, t=then: t())
            row.addWidget(button)
        close = QPushButton(tr("Close"))
        close.setObjectName("historyClose")
        close.clicked.connect(self.close)
        row.addWidget(close)
        column.addLayout(row)
        session.job_changed.connect(self.show_history)
        session.result_changed.connect(self.show_history)
        self.show_history()

    def show_history(self) -> None:
        versions, now = self.session.history
        self.list.clear()
        for k, version in enumerate(versions):
            entry = QListWidgetItem(f"{k + 1}   {tr(version.name)}{tr('  (now)') if k == now else ''}")
            picture = QPixmap(PICTURE)
            picture.fill(Qt.GlobalColor.transparent)
            if version.picture:
                picture = QPixmap.fromImage(version.picture[0])
            icon = QIcon(picture)
            icon.addPixmap(picture, QIcon.Mode.Selected)  # else it is tinted
            entry.setIcon(icon)
            font = entry.font()
            font.setItalic(k > now)
            entry.setFont(font)
            self.list.addItem(entry)
        self.list.make_room()
        for k in range(self.list.count()):
            self.list.item(k).setSizeHint(QSize(60, PICTURE.height() + 10))
        self.list.setCurrentRow(now)
        self.list.scrollToItem(self.list.item(now))

    def _go(self, entry: QListWidgetItem) -> None:
        self.session.jump(self.list.row(entry))
