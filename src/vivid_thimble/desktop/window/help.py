"""Help inside: the user guide, opened where one is; a short tour of the window."""

from __future__ import annotations

import re
from importlib import resources
from pathlib import Path as FilePath

from PySide6.QtCore import QPoint, QRect, Qt, QUrl, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.desktop.look.theme import palette_in_use, px
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.panel import push_button
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog

GUIDE = "user-guide.md"
"""Its sections about the stations have their titles."""


def guide_folder() -> FilePath:
    """Where the guide and its pictures are: with the package, or in the source tree."""
    shipped = FilePath(str(resources.files("vivid_thimble"))) / "data" / "help"
    return shipped if (shipped / GUIDE).exists() else FilePath(__file__).parents[4] / "docs"


def sections_of(text: str) -> list[tuple[int, str, str]]:
    """A Markdown text by its headings: level, title, and what stands below it up to the next heading."""
    found: list[tuple[int, str, str]] = []
    for block in re.split(r"(?m)^(?=#{1,3} )", text):
        match = re.match(r"(#{1,3}) (.*)\n?", block)
        if match:
            found.append((len(match[1]), match[2].strip(), block[match.end() :].strip()))
    return found


class HelpDialog(QuietDialog):
    """The guide: headings on the left, the chosen part on the right, a field to find words."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("User guide"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(px(900), px(620))
        folder = guide_folder()
        try:
            text = (folder / GUIDE).read_text(encoding="utf-8")
        except OSError:
            text = "# User guide\n\nThe guide is missing from this installation: install the program again."
        self._sections = sections_of(text)
        self.find_edit = QLineEdit()
        self.find_edit.setObjectName("helpFind")
        self.find_edit.setAccessibleName(tr("Find in the guide"))
        self.find_edit.setPlaceholderText(tr("Find in the guide"))
        self.find_edit.textChanged.connect(self._filter)
        self.list = QListWidget()
        self.list.setObjectName("helpList")
        self.list.setAccessibleName(tr("Parts of the guide"))
        for level, title, _ in self._sections:
            self.list.addItem(QListWidgetItem(f"{'   ' * (level - 1)}{title}"))
        self.page = QTextBrowser()
        self.page.setObjectName("helpPage")
        self.page.setAccessibleName(tr("The guide"))
        self.page.setSearchPaths([str(folder)])
        self.page.setOpenLinks(False)  # nothing goes to the network
        self.page.document().setBaseUrl(QUrl.fromLocalFile(f"{folder}/"))
        left = QVBoxLayout()
        left.addWidget(self.find_edit)
        left.addWidget(self.list, 1)
        whole = QHBoxLayout(self)
        whole.addLayout(left, 1)
        whole.addWidget(self.page, 3)
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)

    def open_at(self, title: str) -> None:
        """Show the part with this heading, if there is one."""
        rows = [k for k, (_, one, _) in enumerate(self._sections) if one == title]
        if rows:
            self.list.setCurrentRow(rows[0])

    def _show(self, row: int) -> None:
        if not 0 <= row < len(self._sections):
            return
        level, title, body = self._sections[row]
        below = [f"{'#' * lv} {name}\n\n{text}" for lv, name, text in self._below(row, level)]
        self.page.setMarkdown(
            "\n\n".join([f"# {title}", _without_wide_pictures(body), *map(_without_wide_pictures, below)])
        )

    def _below(self, row: int, level: int) -> list[tuple[int, str, str]]:
        """The parts inside a part; the first heading is only the title of all."""
        inside = []
        for one in self._sections[row + 1 :]:
            if one[0] <= level or level == 1:
                break
            inside.append(one)
        return inside

    def _filter(self, text: str) -> None:
        wanted = text.lower()
        for k, (_, title, body) in enumerate(self._sections):
            self.list.item(k).setHidden(wanted not in f"{title}\n{body}".lower())


def _without_wide_pictures(text: str) -> str:
    """Pictures of the whole window are too large for the page; they stay in the guide on disk."""
    return re.sub(r"!\[[^\]]*\]\([^)]*\)\n?", "", text)


TOUR: tuple[tuple[str, str, str], ...] = (
    ("", "workPath", "The work path: the stations in the order of work. Open any of them at any time."),
    ("measure", "tray", "Measure: what the thing is and where the tape goes. All sizes are judged against it."),
    ("gather", "tray", "Gather: words in a face, drawings, photos, whole sets of names."),
    ("shape", "tray", "Shape: join and weld, thicken, slice, bridge. Nothing is final; change the words afterwards."),
    ("inspect", "tray", "Inspect: what would go wrong at this size, where, why, and what helps. Try a remedy."),
    ("inspect", "sizeStrip", "The size strip: thinnest line and gap, loose pieces, and from which size all is clean."),
    ("cut", "tray", "Cut: does it fit the carrier, is it the right way round? Then save the file for the cutter."),
    ("weed", "tray", "Weed & apply: the pieces to pull off, numbered in a good order."),
)
"""Station to open, what to point at, and what to say."""


class Tour(QFrame):
    """A card over the window with a frame round what it speaks of. ``station_wanted``: the station to open."""

    station_wanted = Signal(str)

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("tourCard")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._window, self._at = window, 0
        self._frame = _Frame(window)
        self.line = PlainLabel()
        self.line.setWordWrap(True)
        self.line.setObjectName("tourLine")
        self.count = PlainLabel()
        self.count.setProperty("role", "hint")
        column, row = QVBoxLayout(self), QHBoxLayout()
        column.addWidget(self.line)
        row.addWidget(self.count)
        row.addStretch()
        self.back_button = push_button("&Back", "tourBack", lambda: self._turn(-1), row)
        self.next_button = push_button("&Next", "tourNext", lambda: self._turn(1), row)
        push_button("End the tour", "tourEnd", self.end, row)
        column.addLayout(row)
        self.setFixedWidth(px(420))
        self.setAccessibleName(tr("Tour of the window"))

    def begin(self) -> None:
        self._at = 0
        self._frame.show()
        self.show()
        self.raise_()
        self._show()
        self.next_button.setFocus()

    def end(self) -> None:
        self._frame.hide()
        self._frame.deleteLater()
        self.hide()
        self.deleteLater()

    def _turn(self, by: int) -> None:
        self._at += by
        if self._at >= len(TOUR):
            self.end()
        else:
            self._show()

    def _show(self) -> None:
        station, name, text = TOUR[self._at]
        if station:
            self.station_wanted.emit(station)
        self.line.setText(tr(text))
        self.count.setText(tr(f"{self._at + 1} of {len(TOUR)}"))
        self.back_button.setEnabled(self._at > 0)
        self.next_button.setText(tr("&Next" if self._at + 1 < len(TOUR) else "&Done"))
        self.adjustSize()
        about = self._window.findChild(QWidget, name)
        if about is not None:
            place = QRect(about.mapTo(self._window, about.rect().topLeft()), about.size())
            self._frame.surround(place)
            self.move(self._beside(place))
        self.raise_()

    def _beside(self, place: QRect) -> QPoint:
        """Next to what is spoken of, inside the window."""
        room, gap = self._window.rect(), px(14)
        if place.width() > room.width() // 2:
            at = QRect(place.left() + gap, place.bottom() + gap, self.width(), self.height())
        elif place.center().x() > room.center().x():
            at = QRect(place.left() - self.width() - gap, place.top() + px(90), self.width(), self.height())
        else:
            at = QRect(place.right() + gap, place.top() + px(90), self.width(), self.height())
        at.moveLeft(min(max(at.left(), gap), room.right() - at.width() - gap))
        at.moveTop(min(max(at.top(), gap), room.bottom() - at.height() - gap))
        return at.topLeft()


class _Frame(QWidget):
    """Dims the window except for one place."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._place = QRect()

    def surround(self, place: QRect) -> None:
        self._place = place
        self.setGeometry(self._window.rect())
        self.raise_()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            dark = QPainterPath()
            dark.addRect(self.rect())
            light = QPainterPath()
            light.addRoundedRect(self._place, 8, 8)
            painter.fillPath(dark - light, QColor(20, 16, 24, 90))
            painter.setPen(QPen(QColor(palette_in_use().thread), 3, Qt.PenStyle.DashLine))
            painter.drawPath(light)
