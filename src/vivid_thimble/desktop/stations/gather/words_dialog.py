"""The words of a picture set in a real face: typed, compared with the picture, laid over it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPainterPath, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)
from shapely import MultiPolygon

from vivid_thimble.core.edits.reset_words import WordsFit, likest_faces, outlines_of, with_words_for_picture
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.job.values import source_in
from vivid_thimble.core.messages import Message
from vivid_thimble.core.sources.fonts import BUNDLED, face_title, faces_at_hand
from vivid_thimble.core.sources.lettering import shape_words
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.desktop.dialogs.working_dialog import WorkingDialog
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.derived import PICTURE
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.picture_canvas import PictureCanvas
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.widgets.outline_picture import outline_picture
from vivid_thimble.desktop.widgets.plain_label import PlainLabel

ICON = QSize(150, 40)
GOOD = 0.85
"""Faces that cover the picture by more are most likely the one."""


@dataclass(frozen=True, eq=False)
class _Heard:
    """A face laid over the picture: its outlines there in mm, and the words in it as a small picture."""

    fit: WordsFit
    outlines: MultiPolygon
    picture: QImage | None


def _heard(fit: WordsFit) -> _Heard:
    image = outline_picture(Path.joined(one.path for one in shape_words(fit.words).letters), ICON)
    if image is None:
        return _Heard(fit, outlines_of(fit), None)
    patch = QImage(image.size(), QImage.Format.Format_RGB32)  # light, so that it shows on the row in hand as well
    patch.fill(QColor(PALETTES["day"].raised))
    with QPainter(patch) as painter:
        painter.drawImage(patch.rect(), image)
    return _Heard(fit, outlines_of(fit), patch)


ALIKE = "{share:.0%} alike"


class WordsDialog(WorkingDialog):
    """Beside the window; the picture is exchanged for the words only when they are laid over it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "wordsDialog", "Set its words in a face", parent)
        self.resize(960, 600)
        self._background = Background(self)
        row = QHBoxLayout(self)
        self.canvas = PictureCanvas()
        row.addWidget(self.canvas, 3)
        row.addLayout(self._side(), 2)
        session.job_changed.connect(self._close_when_gone)
        session.insights.changed.connect(self._told)
        self._show()

    def _side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        label = PlainLabel(tr("What does the picture &say?"))
        label.setProperty("role", "section")
        self.text = QPlainTextEdit()
        self.text.setObjectName("pictureWords")
        self.text.setAccessibleName(tr("The words in the picture, line by line"))
        self.text.setPlaceholderText(tr("Type its words, line by line"))
        self.text.setFixedHeight(72)
        self.text.setTabChangesFocus(True)
        label.setBuddy(self.text)
        self.installed = QCheckBox(tr("also the faces installed on this machine"))
        self.installed.setObjectName("wordsInstalled")
        self.compare = QPushButton(tr("&Compare faces"))
        self.compare.setObjectName("wordsCompare")
        self.compare.clicked.connect(lambda _=False: self._compare())
        self.list = QListWidget()
        self.list.setObjectName("wordsFaces")
        self.list.setAccessibleName(tr("Faces, the likest first"))
        self.list.setIconSize(ICON)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.says = PlainLabel(tr("Typeset outlines are cleaner than traced ones and can be changed later."))
        self.says.setProperty("role", "hint")
        self.says.setWordWrap(True)
        self.lay = QPushButton(tr("&Use these words instead"))
        self.lay.setObjectName("wordsLay")
        self.lay.setEnabled(False)
        self.lay.clicked.connect(lambda _=False: self._lay())
        close = QPushButton(tr("Close"))
        close.setObjectName("wordsClose")
        close.clicked.connect(lambda _=False: self.close())
        for widget in (label, self.text, self.installed, self.compare, self.list, self.says, self.lay, close):
            side.addWidget(widget, 1 if widget is self.list else 0)
        return side

    @property
    def chosen(self) -> _Heard | None:
        item = self.list.currentItem()
        found = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        return found if isinstance(found, _Heard) else None

    def _compare(self) -> None:
        look, text = self.session.insights.of(PICTURE), self.text.toPlainText().strip()
        if look is None or not text:
            self.says.setText(tr("Type the words first." if not text else "The picture is still being worked out."))
            return
        left, top, wide, high = look.lies
        size, corner = np.array([wide, high]), np.array([left, top])
        films = [part for film in look.outlines for part in film.geoms]
        kept = shapely.transform(MultiPolygon(films), lambda points: points * size + corner)
        faces = faces_at_hand() if self.installed.isChecked() else [f"bundled:{name}" for name in BUNDLED]

        def work() -> list[_Heard]:
            return [_heard(fit) for fit in likest_faces(text, faces, kept)]

        self.says.setText(tr(f"Comparing {len(faces)} faces…"))
        self.list.clear()
        self._background.run(work, self._take, newest_only=True)

    def _take(self, answer: list[_Heard] | Failed) -> None:
        if isinstance(answer, Failed):
            self.says.setText(tr(f"The faces could not be compared ({answer.error}): change the words and try again."))
            return
        for heard in answer:
            item = QListWidgetItem(
                f"{face_title(heard.fit.words.face)}\n{tr(Message.of(ALIKE, share=heard.fit.overlap))}"
            )
            item.setData(Qt.ItemDataRole.UserRole, heard)
            if heard.picture is not None:
                item.setIcon(QIcon(QPixmap.fromImage(heard.picture)))
            self.list.addItem(item)
        if not answer:
            self.says.setText(tr("No face has these letters: check the words."))
            return
        best = answer[0].fit.overlap
        sure = "The first one is most likely the face." if best > GOOD else "None is the very face: take what you like."
        self.says.setText(tr(f"{sure} Its words lie over the picture."))
        self.list.setCurrentRow(0)

    def _told(self, insight: object) -> None:
        if insight is PICTURE:
            self._show()

    def _show(self) -> None:
        look, heard = self.session.insights.of(PICTURE), self.chosen
        self.lay.setEnabled(heard is not None and look is not None)
        if look is None:
            return
        self.canvas.show_picture(look.plain)
        lines: list[tuple[QPainterPath, QColor]] = []
        if heard is not None:
            left, top, wide, high = look.lies
            corner, size = np.array([left, top]), np.array([wide, high])
            shown = shapely.transform(heard.outlines, lambda points: (points - corner) / size)
            lines = [(painter_path(shown), QColor(PALETTES["day"].thread))]
        self.canvas.show_outlines(lines)

    def _lay(self) -> None:
        heard = self.chosen
        if heard is not None:
            job = with_words_for_picture(self.session.job, self._element_id, heard.fit)
            self.session.change("Words instead of the picture", job)

    def _close_when_gone(self) -> None:
        if source_in(self.session.job, self._element_id, Picture) is None:
            self.close()

    def stop(self) -> None:
        self._background.stop()
