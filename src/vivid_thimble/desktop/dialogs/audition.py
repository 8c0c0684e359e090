"""Which faces cut: the user's own words in every face at hand, ranked as they come in."""

from __future__ import annotations

import bisect
from collections.abc import Mapping, Sequence

from msgspec.structs import replace
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.audition import Audition, audition_key, auditions, rank
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.job.edits import in_face, with_element
from vivid_thimble.core.job.values import Job, Placement, find_element, source_as
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.sources.fonts import faces_at_hand, licence_of, load_face
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.desktop.dialogs.working_dialog import WorkingDialog
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.background import Worker
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.face_book import favourite_faces, recent_faces, remember_face, toggle_favourite
from vivid_thimble.desktop.widgets.outline_picture import outline_picture
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

PREVIEW = QSize(260, 46)
KINDS = (
    ("", "Any kind of face"),
    ("favourites", "Favourites"),
    ("recent", "Recently used"),
    ("connected", "Connected scripts"),
    ("no islands", "Without islands"),
    ("heavy", "Heavy"),
    ("thin", "Thin"),
    ("rough", "Rough"),
)
FACE = Qt.ItemDataRole.UserRole

HEARD = "“{words}” in {count} faces, {size}; the words alone"


class _Listener(Worker):
    """Hears the faces one after the other; ``heard`` sends the figures and a picture of the words."""

    heard = Signal(object, object)

    def __init__(self, job: Job, element_id: str, faces: Sequence[str], assets: Mapping[str, bytes]) -> None:
        super().__init__()
        self._job, self._element_id, self._faces, self._assets = job, element_id, faces, assets

    def work(self) -> None:
        source = source_as(find_element(self._job, self._element_id), Words)
        assert source is not None
        for one in auditions(self._job, self._element_id, self._faces, self._assets, lambda: self.is_stopped):
            picture = None if one.refusal else preview(replace(source, face=one.face))
            self.heard.emit(one, picture)


class AuditionDialog(WorkingDialog):
    """Fills itself while the window goes on working; a chosen face is put into the job."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "audition", "Which faces cut?", parent)
        self.resize(760, 620)
        at_hand = faces_at_hand()
        extra = [face for face in (*favourite_faces(), *recent_faces()) if face not in at_hand]
        self._faces = [*at_hand, *dict.fromkeys(extra)]
        self._found: list[Audition] = []
        self._pictures = session.previews
        self._build()
        self._begin()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        self.words = PlainLabel()
        self.words.setProperty("role", "section")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        row = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setObjectName("faceSearch")
        self.search.setAccessibleName(tr("Find a face by its name"))
        self.search.setPlaceholderText(tr("Find a face by its name"))
        self.search.textChanged.connect(lambda _: self._fill())
        self.kind = QComboBox()
        self.kind.setObjectName("faceKind")
        for key, word in KINDS:
            self.kind.addItem(tr(word), key)
        self.kind.activated.connect(lambda _: self._fill())
        self.only_cutting = QCheckBox(tr("Only faces that cut at this size"))
        self.only_cutting.setObjectName("onlyCutting")
        self.only_cutting.clicked.connect(lambda _: self._fill())
        row.addWidget(self.search, 1)
        row.addWidget(self.kind)
        row.addWidget(self.only_cutting)
        column.addLayout(row)
        self.list = WrappingList()
        self.list.setObjectName("auditioned")
        self.list.setAccessibleName(tr("Faces, those that cut first"))
        self.list.setIconSize(PREVIEW)
        self.list.itemDoubleClicked.connect(lambda _: self._take())
        column.addWidget(self.list, 1)
        self.list.currentRowChanged.connect(lambda _: self._show_face())
        self.licence = QPlainTextEdit()
        self.licence.setObjectName("faceLicence")
        self.licence.setAccessibleName(tr("Licence of the face"))
        self.licence.setReadOnly(True)
        self.licence.setFixedHeight(84)
        self.licence.hide()
        column.addWidget(self.licence)
        foot = QHBoxLayout()
        self.favourite = QPushButton(tr("Favourite"))
        self.favourite.setObjectName("favouriteFace")
        self.favourite.setCheckable(True)
        self.favourite.setEnabled(False)
        self.favourite.setToolTip(tr("Keep the face in hand among the favourites"))
        self.favourite.clicked.connect(lambda _=False: self._mark())
        self.show_licence = QPushButton(tr("Licence"))
        self.show_licence.setObjectName("showLicence")
        self.show_licence.setCheckable(True)
        self.show_licence.setToolTip(tr("What the font file says of its makers and its licence"))
        self.show_licence.toggled.connect(self.licence.setVisible)
        foot.addWidget(self.favourite)
        foot.addWidget(self.show_licence)
        self.progress = PlainLabel()
        self.progress.setProperty("role", "hint")
        self.take = QPushButton(tr("Take this face"))
        self.take.setObjectName("takeFace")
        self.take.setProperty("role", "main")
        self.take.clicked.connect(lambda _=False: self._take())
        close = QPushButton(tr("Close"))
        close.setObjectName("closeAudition")
        close.clicked.connect(lambda _=False: self.close())
        foot.addWidget(self.progress, 1)
        foot.addWidget(self.take)
        foot.addWidget(close)
        column.addLayout(foot)

    def _begin(self) -> None:
        """Show what is known already, and hear the rest."""
        job, unit = self.session.job, self.session.job.unit
        source = source_as(find_element(job, self._element_id), Words)
        placement = find_element(job, self._element_id).placement
        assert source is not None
        words = " / ".join(source.text.splitlines())
        self.words.setText(
            tr(Message.of(HEARD, words=Said(words), count=len(self._faces), size=_size_words(placement, unit)))
        )
        unheard = []
        for face in self._faces:
            known = self.session.auditions.get(audition_key(job, self._element_id, face))
            if known is None:
                unheard.append(face)
                continue
            self._found.append(known)
        self._found.sort(key=rank)
        self._job = job
        self._listener = _Listener(job, self._element_id, unheard, dict(self.session.assets))
        self._fill()
        self._listener.heard.connect(self._hear)
        self._listener.finished.connect(self._tell_progress)
        self._listener.start()

    @property
    def is_listening(self) -> bool:
        return self._listener.isRunning()

    def _hear(self, one: Audition, picture: QImage | None) -> None:
        self.session.auditions[audition_key(self._job, self._element_id, one.face)] = one
        if picture is not None:
            self._pictures[self._picture_key(one.face)] = picture
        bisect.insort(self._found, one, key=rank)
        if self._is_wanted(one):
            shown = [found for found in self._found if self._is_wanted(found)]
            self.list.insertItem(shown.index(one), self._entry(one))
            self.list.make_room()
        self._tell_progress()

    def _picture_key(self, face: str) -> str:
        return audition_key(self._job, self._element_id, face)

    def _is_wanted(self, one: Audition) -> bool:
        kind = self.kind.currentData()
        if self.only_cutting.isChecked() and not one.cuts:
            return False
        if kind == "favourites" and one.face not in favourite_faces():
            return False
        if kind == "recent" and one.face not in recent_faces():
            return False
        if kind not in ("", "favourites", "recent") and kind not in one.kinds:
            return False
        return self.search.text().strip().casefold() in one.title.casefold()

    def _fill(self) -> None:
        held = self.list.currentItem().data(FACE) if self.list.currentItem() is not None else ""
        self.list.clear()
        for one in self._found:
            if self._is_wanted(one):
                entry = self._entry(one)
                self.list.addItem(entry)
                if one.face == held:
                    self.list.setCurrentItem(entry)
        self.list.make_room()
        self._tell_progress()

    def _entry(self, one: Audition) -> QListWidgetItem:
        picture = self._pictures.get(self._picture_key(one.face))
        icon = QIcon()
        if picture is not None:
            icon.addPixmap(QPixmap.fromImage(picture), QIcon.Mode.Normal)
            icon.addPixmap(_inverted(picture), QIcon.Mode.Selected)
        entry = QListWidgetItem(icon, face_words(one, self.session.job.unit))
        entry.setData(FACE, one.face)
        return entry

    def _tell_progress(self) -> None:
        cut = sum(one.cuts for one in self._found)
        heard = len(self._found)
        state = "" if heard >= len(self._faces) or not self.is_listening else f"{heard} of {len(self._faces)} heard, "
        self.progress.setText(tr(f"{state}{cut} cut at this size, {self.list.count()} shown"))

    def _held_face(self) -> str:
        entry = self.list.currentItem()
        return str(entry.data(FACE)) if entry is not None else ""

    def _show_face(self) -> None:
        """Mark and licence of the face in hand."""
        face = self._held_face()
        self.favourite.setEnabled(bool(face))
        self.favourite.setChecked(face in favourite_faces())
        try:
            words = str(licence_of(load_face(face))) if face else ""
        except ThimbleError as error:
            words = str(error)
        self.licence.setPlainText(words or "This font says nothing of its licence: ask where you got it.")

    def _mark(self) -> None:
        face = self._held_face()
        if face:
            self.favourite.setChecked(toggle_favourite(face))

    def _take(self) -> None:
        entry = self.list.currentItem()
        if entry is None:
            return
        face = entry.data(FACE)
        job = with_element(self.session.job, self._element_id, lambda e: in_face(e, face))
        remember_face(face)
        self.session.change("Change the face", job)

    def stop(self) -> None:
        """End the audition."""
        self._listener.stop()


def _inverted(picture: QImage) -> QPixmap:
    """The same picture in the ink for dark grounds."""
    light = QImage(picture)
    with QPainter(light) as painter:
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
        painter.fillRect(light.rect(), QColor(PALETTES["day"].thread_ink))
    return QPixmap.fromImage(light)


def _size_words(placement: Placement, unit: Unit) -> str:
    """What the words are sized by, which stays the same for every face."""
    if placement.shared is not None:
        return "in the size of their set"
    if placement.em is not None:
        return f"{format_length(placement.em, unit)} from line to line of the font"
    if placement.strip is not None:
        return f"in a strip {format_length(placement.strip, unit)} high"
    if placement.capital is not None:
        return f"capitals {format_length(placement.capital, unit)} high"
    if placement.width is not None:
        return f"{format_length(placement.width, unit)} wide"
    return f"{format_length(placement.height or 0.0, unit)} high"


def face_words(one: Audition, unit: Unit) -> str:
    """Name, verdict and figures on two lines."""
    unit = fine_unit(unit)
    if one.refusal:
        return f"{one.title}\n{one.refusal}"
    kinds = f"  ({', '.join(one.kinds)})" if one.kinds else ""
    verdict = "cuts" if one.cuts else f"{one.stops} to mend"
    line = "none" if one.thinnest_line is None else format_length(one.thinnest_line, unit)
    gap = "none" if one.thinnest_gap is None else format_length(one.thinnest_gap, unit)
    joins = f", {one.open_pairs} of {one.pairs} pairs apart" if "connected" in one.kinds and one.open_pairs else ""
    more = f", {one.islands} islands, {one.roughness:.1f} bends per cm, {one.nodes} nodes{joins}"
    return f"{one.title}{kinds}: {verdict}\nline {line}, gap {gap}{more}"


def preview(words: Words) -> QImage | None:
    """The words as a small picture; None when they cannot be set."""
    try:
        outline = Path.joined(letter.path for letter in shape_words(words).letters)
    except ThimbleError:
        return None
    return outline_picture(outline, PREVIEW)
