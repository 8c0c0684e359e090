"""The first page: three ways to begin, the jobs of late, the things that are kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path as FilePath

from PySide6.QtCore import QDateTime, QLocale, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from vivid_thimble.core.storage.stock import Thing
from vivid_thimble.desktop.look.theme import palette_in_use, px, text_scale
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.widgets.panel import clear_layout
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.window.job_files import recent_paths

MOST_SHOWN = 5


class StartPage(QWidget):
    """Sends what was chosen; ``recent_wanted`` carries a path, ``thing_wanted`` a thing."""

    item_wanted = Signal()
    art_wanted = Signal()
    demo_wanted = Signal()
    tour_wanted = Signal()
    open_wanted = Signal()
    recent_wanted = Signal(object)
    thing_wanted = Signal(object)

    def __init__(self, workshop: Workshop) -> None:
        super().__init__()
        self.setObjectName("startPage")
        self.workshop = workshop
        whole = QVBoxLayout(self)
        whole.setContentsMargins(px(48), px(28), px(48), px(24))
        title = PlainLabel(tr("What will you cut?"))
        title.setObjectName("startTitle")
        title.setStyleSheet(f"font-size: {22 * text_scale():.0f}pt; font-weight: 600;")
        whole.addWidget(title)
        hint = PlainLabel(tr("Everything is checked at its final size on the real thing, before any film is cut."))
        hint.setProperty("role", "hint")
        hint.setWordWrap(True)
        whole.addWidget(hint)
        whole.addSpacing(px(14))
        ways = QHBoxLayout()
        ways.setSpacing(px(16))
        for name, word, why, then in (
            (
                "startItem",
                "Measure something",
                "Begin with the thing: a board, a mug, a ball.",
                self.item_wanted,
            ),
            ("startArt", "Bring something in", "Begin with words, a drawing, a photo or a download.", self.art_wanted),
            ("startDemo", "Look at an example", "A boat of the lantern regatta, ready to be cut.", self.demo_wanted),
        ):
            ways.addWidget(_Way(name, word, why, then.emit))
        whole.addLayout(ways)
        whole.addSpacing(px(18))
        self.lists = QHBoxLayout()
        self.lists.setSpacing(px(16))
        whole.addLayout(self.lists)
        whole.addStretch()
        foot = QHBoxLayout()
        for name, word, signal in (
            ("startOpen", "&Open a file…", self.open_wanted),
            ("startTour", "&Show me around", self.tour_wanted),
        ):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            foot.addWidget(button)
        foot.addStretch()
        whole.addLayout(foot)

    def renew(self) -> None:
        """Show the jobs and things of now."""
        clear_layout(self.lists)
        recent = [
            _Entry(path.stem, _where_and_when(path), str(path), partial(self.recent_wanted.emit, path))
            for path in recent_paths()[:MOST_SHOWN]
        ]
        things = [
            _Entry(one.name, tr(_room(one)), "", partial(self.thing_wanted.emit, one))
            for one in self.workshop.stock.things[:MOST_SHOWN]
        ]
        nothing = "Jobs that you save are listed here."
        none_kept = "Keep one in Measure to find it here."
        self.lists.addWidget(_column("Lately", "recent", recent, nothing), 1)
        self.lists.addWidget(_column("Things you decorate again", "thing", things, none_kept), 1)


class _Way(QPushButton):
    """A large button: a word and a line, with a stitched seam."""

    def __init__(self, name: str, word: str, why: str, then: Callable[[], object]) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName(f"{word}. {why}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.clicked.connect(lambda _=False: then())
        column = QVBoxLayout(self)
        column.setContentsMargins(px(18), px(18), px(18), px(18))
        title, line = PlainLabel(tr(word)), PlainLabel(tr(why))
        title.setStyleSheet(f"font-size: {13.5 * text_scale():.1f}pt; font-weight: 600; background: transparent;")
        line.setWordWrap(True)
        line.setStyleSheet("background: transparent;")
        for label in (title, line):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            column.addWidget(label)
        column.addStretch()
        self._line = line

    def sizeHint(self) -> QSize:
        return QSize(px(220), px(132))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(160), px(132))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with QPainter(self) as painter:
            pen = QPen(QColor(palette_in_use().thread), 1.4, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawRoundedRect(self.rect().adjusted(6, 6, -7, -7), 5, 5)
            motif = QRect(self.width() - px(66), self.height() - px(62), px(50), px(46))
            if motif.intersects(self._text_rect()):
                return  # long words have the room
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(motif.topLeft())
            painter.scale(text_scale(), text_scale())
            self._draw_motif(painter)

    def _text_rect(self) -> QRect:
        """Where the line is written."""
        line = self._line
        return line.fontMetrics().boundingRect(line.geometry(), Qt.TextFlag.TextWordWrap.value, line.text())

    def _draw_motif(self, painter: QPainter) -> None:
        """A tape, a needle with thread, or a boat, on 48 x 44."""
        palette = palette_in_use()
        painter.setPen(QPen(QColor(palette.thread), 1.8))
        painter.setBrush(QColor(palette.waste))
        if self.objectName() == "startItem":
            painter.drawRoundedRect(QRectF(0, 14, 48, 18), 3, 3)
            for k in range(1, 8):
                painter.drawLine(QPointF(6 * k, 14), QPointF(6 * k, 24 if k % 2 == 0 else 20))
        elif self.objectName() == "startArt":
            thread = QPainterPath(QPointF(2, 36))
            thread.cubicTo(10, 4, 22, 54, 34, 22)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(thread)
            painter.drawLine(QPointF(30, 32), QPointF(48, 4))
            painter.drawEllipse(QPointF(45.5, 8), 1.6, 3.4)
        else:
            hull = QPainterPath(QPointF(2, 26))
            for x, y in ((46, 26), (38, 38), (10, 38)):
                hull.lineTo(x, y)
            hull.closeSubpath()
            painter.drawPath(hull)
            painter.drawLine(QPointF(24, 26), QPointF(24, 4))
            painter.setBrush(QColor(palette.look))
            painter.drawEllipse(QPointF(32, 12), 5.5, 6.5)


class _Entry(QPushButton):
    """A job or thing by its name, and beside it what tells it from others of that name, as far as there is room."""

    def __init__(self, word: str, detail: str, tip: str, then: Callable[[], object]) -> None:
        super().__init__()
        self._word, self._detail = word, detail
        self.setAccessibleName(f"{word}, {detail}")
        self.setToolTip(tip)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.clicked.connect(lambda _=False: then())

    def sizeHint(self) -> QSize:
        return QSize(px(160), px(30))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        palette, room = palette_in_use(), self.rect().adjusted(px(12), 0, -px(12), 0)
        metrics, middle = self.fontMetrics(), Qt.AlignmentFlag.AlignVCenter
        word = metrics.elidedText(self._word, Qt.TextElideMode.ElideRight, room.width())
        left = room.width() - metrics.horizontalAdvance(word) - px(16)
        with QPainter(self) as painter:
            painter.setPen(QColor(palette.ink))
            painter.drawText(room, middle | Qt.AlignmentFlag.AlignLeft, word)
            painter.setPen(QColor(palette.soft_ink))
            detail = metrics.elidedText(self._detail, Qt.TextElideMode.ElideLeft, max(left, 0))
            painter.drawText(room, middle | Qt.AlignmentFlag.AlignRight, detail)


def _where_and_when(path: FilePath) -> str:
    """The folder of a file and when it was saved last."""
    saved = QLocale().toString(QDateTime.fromSecsSinceEpoch(int(path.stat().st_mtime)), QLocale.FormatType.ShortFormat)
    return f"{path.parent.name} · {saved}"


def _column(title: str, name: str, entries: Sequence[_Entry], nothing: str) -> QWidget:
    holder = QWidget()
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    head = PlainLabel(tr(title))
    head.setProperty("role", "section")
    head.setIndent(0)
    column.addWidget(head)
    for k, entry in enumerate(entries):
        entry.setObjectName(f"{name}_{k}")
        column.addWidget(entry)
    if not entries:
        line = PlainLabel(tr(nothing))
        line.setWordWrap(True)
        line.setProperty("role", "hint")
        column.addWidget(line)
    column.addStretch()
    return holder


def _room(thing: Thing) -> str:
    return f"{thing.width:g} × {thing.height:g} mm of room"
