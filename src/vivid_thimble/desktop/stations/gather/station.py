"""Gather: words and drawings that make up the design."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path as FilePath
from typing import TypeVar

import numpy as np
import shapely
from msgspec.structs import replace
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.edits.drawings import artwork_in, without_element
from vivid_thimble.core.edits.sets import members_of, shared_of
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.folders import own_fonts_folder
from vivid_thimble.core.formats.bundle import Entry
from vivid_thimble.core.job.edits import free_id, in_face, with_element, with_layer
from vivid_thimble.core.job.values import (
    Element,
    Layer,
    Placement,
    elements_of,
    find_element,
    source_as,
    source_in,
)
from vivid_thimble.core.sources.font_bundle import unpack_fonts
from vivid_thimble.core.sources.fonts import (
    BUNDLED,
    BUNDLED_KINDS,
    Axis,
    axes_of,
    face_title,
    installed_titles,
    load_face,
)
from vivid_thimble.core.sources.lettering import Alternate, Words, feature_value, forms_of
from vivid_thimble.core.sources.lines import Arc
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.storage.incoming import (
    OpenedBundle,
    OpenedDrawing,
    OpenedPicture,
    PictureInside,
    open_drawing,
    open_entry,
    open_file,
    open_picture,
    pictures_inside,
)
from vivid_thimble.desktop.dialogs.bundle_dialog import BundleDialog
from vivid_thimble.desktop.dialogs.parts_dialog import PartsDialog
from vivid_thimble.desktop.look.underlay import Underlay
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import DRAWING
from vivid_thimble.desktop.session.evaluator import Arriving
from vivid_thimble.desktop.session.file_kinds import DRAWINGS
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.gather.drawing_panel import DrawingPanel
from vivid_thimble.desktop.stations.gather.panels import PANELS
from vivid_thimble.desktop.stations.gather.picture_desk import PictureDesk
from vivid_thimble.desktop.stations.gather.picture_panel import PicturePanel
from vivid_thimble.desktop.stations.gather.source_panel import FRESH_SHARE, SourcePanel
from vivid_thimble.desktop.stations.gather.words_dialog import WordsDialog
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.widgets.face_book import favourite_faces, recent_faces, remember_face
from vivid_thimble.desktop.widgets.face_box import FaceBox
from vivid_thimble.desktop.widgets.number_field import FigureField
from vivid_thimble.desktop.widgets.outline_picture import outline_picture
from vivid_thimble.desktop.widgets.panel import clear_layout, show_row
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

ALIGNS = (
    ("left", "Even on the left"),
    ("centre", "Centred"),
    ("right", "Even on the right"),
    ("justified", "Even on both sides"),
)
BENDS = (("straight", "Straight"), ("hill", "Over a hill"), ("valley", "Through a valley"))
FORM_SIZE = QSize(30, 26)
FRESH_EDITS = ("Add words", "Change the words")


P = TypeVar("P", bound=SourcePanel)


class GatherStation(Station):
    KEY = "gather"
    QUESTION = "What goes on it? Words, drawings, or both."
    audition_wanted = Signal()
    sketch_wanted = Signal(object)
    """Outlines to be seen on the table until the result is there; None for none any more."""
    set_wanted = Signal()
    places_wanted = Signal(object)
    underlay_changed = Signal(object)
    """Places on the item (mm) to be ringed."""

    def build(self) -> None:
        self._sketched = False
        self.session.job_changed.connect(self._let_settle)
        self._fresh = ""
        """The element that came in last."""
        buttons = QGridLayout()
        buttons.setSpacing(6)
        self.words_button = QPushButton(tr("Add &words"))
        self.words_button.setObjectName("addWords")
        self.words_button.setProperty("role", "main")
        self.words_button.clicked.connect(lambda _=False: self.add_words())
        self.drawing_button = QPushButton(tr("Add a &drawing…"))
        self.drawing_button.setObjectName("addDrawing")
        self.drawing_button.setToolTip(tr("A drawing (SVG, DXF, PDF, zip), a photo or a screenshot"))
        self.drawing_button.clicked.connect(self._choose_drawing)
        buttons.addWidget(self.words_button, 0, 0)
        buttons.addWidget(self.drawing_button, 0, 1)
        self.panels = {kind: make(self.session) for kind, make in PANELS.items()}
        self.in_hand: SourcePanel | None = None
        offered = [(panel, panel.ADD) for panel in self.panels.values() if panel.ADD is not None]
        for k, (panel, (title, word, name)) in enumerate(offered):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, one=panel, does=title: self._add_fresh(one, does))
            buttons.addWidget(button, 1 + k // 2, k % 2)
        self.column.addLayout(buttons)
        self.section("In the design")
        self.list = QListWidget()
        self.list.setObjectName("elements")
        self.list.setAccessibleName(tr("Elements of the design"))
        self.list.currentItemChanged.connect(self._choose)
        self.column.addWidget(self.list)
        self.remove_button = QPushButton(tr("&Remove from the design"))
        self.remove_button.setObjectName("removeElement")
        self.remove_button.clicked.connect(self._remove)
        self.column.addWidget(self.remove_button)
        self.words_title = self.section("Words")
        self.text_edit = QPlainTextEdit()
        self.text_edit.setObjectName("wordsText")
        self.text_edit.setAccessibleName(tr("Words"))
        self.text_edit.setPlaceholderText(tr("Type the words here"))
        self.text_edit.setMaximumHeight(76)
        self.text_edit.setTabChangesFocus(True)
        self.text_edit.textChanged.connect(self._retype)
        leave_undo_to_the_job(self.text_edit)
        self.column.addWidget(self.text_edit)
        self.face_box = FaceBox()
        self.face_box.setObjectName("face")
        self.face_box.setMaxVisibleItems(16)
        self.face_box.activated.connect(self._change_face)
        self.face_row = self.row("&Face", self.face_box)
        self.audition_button = QPushButton(tr("Which faces cut these words?"))
        self.audition_button.setObjectName("openAudition")
        self.audition_button.clicked.connect(lambda _=False: self.audition_wanted.emit())
        self.column.addWidget(self.audition_button)
        self.set_button = QPushButton(tr("A set of names…"))
        self.set_button.setObjectName("openSet")
        self.set_button.clicked.connect(lambda _=False: self.set_wanted.emit())
        self.column.addWidget(self.set_button)
        self._build_setting()
        for panel in self.panels.values():
            panel.places_wanted.connect(self.places_wanted)
            self.column.addWidget(panel)
        self.drawing, self.picture = self._of_kind(DrawingPanel), self._of_kind(PicturePanel)
        self.drawing.parts_wanted.connect(self._choose_parts)
        self.drawing.pictures_wanted.connect(self._trace_pictures)
        self.picture.desk_wanted.connect(self._open_desk)
        self.picture.underlay_changed.connect(self._lay_under)
        self.picture.words_wanted.connect(self._open_words)
        self.trouble = self.hint("", "wrong")
        self.notes_title = self.section("Not understood, left out")
        self.notes = self.hint()
        self.column.addStretch()
        self._shows_installed = False
        self._fill_faces()

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.audition_wanted.connect(bench.dialogs.open_audition)
        self.set_wanted.connect(bench.dialogs.open_set)
        self.places_wanted.connect(bench.table.show_places)
        self.underlay_changed.connect(bench.table.show_underlay)
        self.sketch_wanted.connect(bench.table.show_preview)

    def _of_kind(self, kind: type[P]) -> P:
        return next(panel for panel in self.panels.values() if isinstance(panel, kind))

    def _build_setting(self) -> None:
        """How the words are set: lines, spacing, arc, features."""
        self.align_box = self.choice("align", ALIGNS, lambda key: self._set_words("Alignment", align=key))
        self.line_field = FigureField("Distance of the lines", "lineSpacing", " % of the size", 50.0, 400.0)
        self.line_field.committed.connect(lambda v: self._set_words("Line spacing", line_spacing=v / 100.0))
        self.word_field = FigureField("Word spacing", "wordSpacing", " % of the size", -20.0, 300.0)
        self.word_field.committed.connect(lambda v: self._set_words("Word spacing", word_spacing=v / 100.0))
        self.bend_box = self.choice("bend", BENDS, self._bend)
        self.angle_field = FigureField("Angle of the arc", "arcAngle", "°", 1.0, 359.0)
        self.angle_field.committed.connect(self._set_angle)
        self.features_edit = QLineEdit()
        self.features_edit.setObjectName("features")
        self.features_edit.setPlaceholderText(tr("none"))
        self.features_edit.setToolTip(tr("Features of the font, such as ss01, -liga or salt=2, with commas between"))
        self.features_edit.editingFinished.connect(self._set_features)
        leave_undo_to_the_job(self.features_edit)
        self.letter_box = self.choice("letter", (), lambda _: self._fill_forms())
        self.form_box = self.choice("letterForm", (), self._pick_form)
        self.form_box.setIconSize(FORM_SIZE)
        self.setting_rows = [
            self.row("&Lines", self.align_box),
            self.row("Lines a&part", self.line_field),
            self.row("Words apar&t", self.word_field),
            self.row("&Bend", self.bend_box),
            self.row("An&gle", self.angle_field),
            self.row("Feat&ures", self.features_edit),
            self.row("One l&etter", self.letter_box),
            self.row("Its f&orm", self.form_box),
        ]
        self.axes_column = QVBoxLayout()
        self.axes_column.setSpacing(7)
        self.column.addLayout(self.axes_column)
        self._shown_axes: tuple[Axis, ...] = ()
        self._shown_forms: tuple[Words | None, int | None] = (None, None)

    def show_job(self) -> None:
        job, chosen = self.session.job, self.session.chosen
        self.list.blockSignals(True)
        self.list.clear()
        for one in elements_of(job.item):
            if not one.source.IS_LISTED:
                continue
            entry = QListWidgetItem(f"{one.name.splitlines()[0] if one.name else '…'}   ({tr(one.source.WORD)})")
            entry.setData(Qt.ItemDataRole.UserRole, one.id)
            self.list.addItem(entry)
            if one.id == chosen:
                self.list.setCurrentItem(entry)
        self.list.blockSignals(False)
        rows = min(max(self.list.count(), 1), 4)
        self.list.setFixedHeight(rows * max(self.list.sizeHintForRow(0), 26) + 12)
        self.remove_button.setEnabled(bool(chosen))
        element = find_element(job, chosen) if chosen else None
        words = source_as(element, Words)
        is_words = words is not None
        self.words_title.setVisible(is_words)
        self.text_edit.setVisible(is_words)
        face = element.source.typeface if element is not None else ""
        show_row(self.face_row, visible=bool(face))
        if face and not is_words:
            self._show_face(face)
        self._show_panel(element)
        self.audition_button.setVisible(is_words)
        self.set_button.setVisible(is_words)
        sharing = shared_of(job, chosen)
        self.set_button.setText(
            tr("A set of names…" if sharing is None else f"The set of {len(members_of(job, sharing))} names…")
        )
        for row in self.setting_rows:
            show_row(row, visible=is_words)
        if not is_words:
            self._shown_axes = ()
            clear_layout(self.axes_column)
        if words is not None:
            self._show_words(words)

    def _show_panel(self, element: Element | None) -> None:
        """The panel of what is in hand, in the place of the one before."""
        panel = self.panels.get(type(element.source)) if element is not None else None
        if self.in_hand is not None and self.in_hand is not panel:
            self.in_hand.hide()
            self.in_hand.show_nothing()
        self.in_hand = panel
        if panel is not None and element is not None:
            panel.show()
            panel.show_source(element.source)

    def show_result(self) -> None:
        result, chosen = self.session.result, self.session.chosen
        if self._sketched and not self.session.is_stale:
            self._sketched = False
            self.sketch_wanted.emit(None)
        trouble, notes = "", ""
        element = result.element(chosen) if result is not None else None
        if element is not None:
            trouble = " ".join(tr(problem.message) for problem in element.problems)
            trouble = trouble or " ".join(tr(note.message) for note in element.notes)
            notes = ", ".join(tr(f"{count} x {what}") for what, count in element.not_understood)
        if self.in_hand is not None:
            self.in_hand.show_result(element)
        self.trouble.setText(trouble)
        self.trouble.setVisible(bool(trouble))
        self.notes.setText(notes)
        self.notes.setVisible(bool(notes))
        self.notes_title.setVisible(bool(notes))

    def add_words(self, text: str = "Your words") -> None:
        """New words in the first bundled face, ready to be typed over."""
        job = self.session.job
        face = f"bundled:{next(iter(BUNDLED))}"
        element = Element(
            id=free_id("words", job),
            name=text,
            source=Words(text=text, face=face),
            placement=Placement(width=job.item.width * FRESH_SHARE),
        )
        self._add("Add words", element)
        self.text_edit.setFocus()
        self.text_edit.selectAll()

    def _add_fresh(self, panel: SourcePanel, title: str) -> None:
        """A new one of a panel's kind, ready to be changed."""
        job = self.session.job
        self._add(title, panel.fresh(job), panel.OVER if elements_of(job.item) else "")
        panel.begin()

    def add_drawing_file(self, path: FilePath) -> None:
        """Add a drawing of any format, or what is in a zip; what is wrong with it is told in one sentence."""
        cache = self.session.cache
        self.session.read(path.name, lambda: open_file(path, cache), self._take, self.told.emit)

    def add_drawing(self, data: bytes, name: str) -> None:
        """Add a drawing from the bytes of its file."""
        cache = self.session.cache
        self.session.read(name, lambda: open_drawing(data, name, cache), self._take, self.told.emit)

    def add_picture(self, file: Callable[[], bytes], name: str) -> None:
        """Add a picture of pixels; ``file`` yields the bytes of its file, on another thread."""
        cache = self.session.cache
        self.session.read(name, lambda: open_picture(file(), name, cache), self._take, self.told.emit)

    def _take(self, opened: OpenedDrawing | OpenedPicture | OpenedBundle) -> None:
        """A drawing or picture joins the design; of a zip with several, or with fonts as well, a person chooses."""
        if isinstance(opened, OpenedDrawing):
            self._add_drawing(opened)
        elif isinstance(opened, OpenedPicture):
            self._add_picture(opened)
        elif opened.bundle.of_kind("drawing"):
            dialog = BundleDialog(opened.bundle, opened.notes, self.window())
            dialog.drawings_chosen.connect(lambda chosen: self._add_from_bundle(opened, chosen))
            dialog.fonts_wanted.connect(lambda: self.use_font_bundle(opened.path))
            dialog.open()
        else:
            if not elements_of(self.session.job.item):
                self.add_words()
            self.use_font_bundle(opened.path)

    def _add_from_bundle(self, opened: OpenedBundle, entries: list[Entry]) -> None:
        cache = self.session.cache
        for entry in entries:
            self.session.read(entry.name, partial(open_entry, opened, entry, cache), self._take, self.told.emit)

    def _add_drawing(self, opened: OpenedDrawing) -> None:
        job, name = self.session.job, opened.artwork.name
        self.session.assets[opened.artwork.asset] = opened.data
        element = Element(
            id=free_id("drawing", job),
            name=name,
            source=opened.artwork,
            placement=Placement(height=job.item.height * FRESH_SHARE),
        )
        self._add("Add a drawing", element, " ".join(one for one in (opened.says, opened.colours_said) if one))
        self._show_sketch(opened, element.placement.height or 0.0)
        self.drawing.turn_to("cleaning")

    def _show_sketch(self, opened: OpenedDrawing, height: float) -> None:
        """The outlines as they came, about where the drawing will lie, until it is worked out."""
        if opened.sketch is None or opened.sketch.is_empty:
            return
        item = self.session.job.item
        left, top, right, bottom = opened.sketch.bounds
        scale = min(height / max(bottom - top, 1e-9), FRESH_SHARE * item.width / max(right - left, 1e-9))
        away = np.array([(left + right) / 2.0, (top + bottom) / 2.0])
        middle = np.array([item.width / 2.0, item.height / 2.0])
        lies = shapely.transform(opened.sketch, lambda points: (points - away) * scale + middle)
        self._sketched = True
        self.sketch_wanted.emit([lies])

    def _add_picture(self, opened: OpenedPicture) -> None:
        job = self.session.job
        self.session.assets[opened.picture.asset] = opened.data
        element = Element(
            id=free_id("picture", job),
            name=opened.picture.name,
            source=opened.picture,
            placement=Placement(width=job.item.width * FRESH_SHARE),
        )
        self._add("Add a picture", element, opened.says)

    def _is_fresh(self) -> bool:
        """Whether the words in hand came in just now and nothing but their text was changed: they still fit themselves
        into the room."""
        return self._fresh == self.session.chosen

    def _let_settle(self) -> None:
        """Any other edit ends that."""
        if self.session.undo_name() not in FRESH_EDITS:
            self._fresh = ""

    def _add(self, title: str, element: Element, says: str = "") -> None:
        def added(layer: Layer) -> Layer:
            return replace(layer, elements=(*layer.elements, element))

        self.session.choose(element.id)
        self.session.change(title, with_layer(self.session.job, added), aim=Arriving(element.id, says))
        self._fresh = element.id
        self.session.choose(element.id)

    def _choose_drawing(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self, tr("Add a drawing or picture"), "", tr(f"Drawings and pictures ({DRAWINGS});;All files (*)")
        )
        for name in names:
            self.add_drawing_file(FilePath(name))

    def _choose(self, entry: QListWidgetItem | None) -> None:
        if entry is not None:
            self.session.choose(entry.data(Qt.ItemDataRole.UserRole))
            self.show_result()

    def _choose_parts(self) -> None:
        look = self.session.insights.of(DRAWING)
        if look is not None:
            self._parts = PartsDialog(self.session, look.drawing, self.window())
            self._parts.show()

    def _open_desk(self) -> None:
        if source_in(self.session.job, self.session.chosen, Picture) is not None:
            self._desk = PictureDesk(self.session, self.window())
            self._desk.show()

    def _open_words(self) -> None:
        if source_in(self.session.job, self.session.chosen, Picture) is not None:
            self._words_dialog = WordsDialog(self.session, self.window())
            self._words_dialog.show()

    def _lay_under(self, underlay: Underlay | None) -> None:
        self.underlay_changed.emit(underlay)
        if underlay is not None:
            self.look_wanted.emit("cut")

    def _trace_pictures(self) -> None:
        """The pictures inside the drawing in hand join the design, as large as they are there."""
        look, artwork = self.session.insights.of(DRAWING), artwork_in(self.session.job, self.session.chosen)
        result = self._result_in_hand()
        if look is None or artwork is None or result is None:
            return
        scale, cache = result.drawing_scale or look.drawing.mm_per_unit or 1.0, self.session.cache
        work = partial(pictures_inside, look.drawing, scale, artwork.name, cache)
        self.session.read(artwork.name, work, self._add_pictures, self.told.emit)

    def _add_pictures(self, inside: tuple[PictureInside, ...]) -> None:
        job, made = self.session.job, []
        for one in inside:
            picture = one.opened.picture
            self.session.assets[picture.asset] = one.opened.data
            element = Element(
                id=free_id("picture", job), name=picture.name, source=picture, placement=Placement(width=one.width)
            )
            made.append(element.id)
            job = with_layer(job, lambda la, e=element: replace(la, elements=(*la.elements, e)))  # type: ignore[misc]
        self.session.change("Trace the pictures of a drawing", job)
        self.session.choose(made[0])

    def _result_in_hand(self) -> ElementResult | None:
        result = self.session.result
        layers = result.layers if result is not None else ()
        return next((e for la in layers for e in la.elements if e.element.id == self.session.chosen), None)

    def _remove(self) -> None:
        self.session.change("Remove", without_element(self.session.job, self.session.chosen))

    def _show_words(self, words: Words) -> None:
        if self.text_edit.toPlainText() != words.text:
            self.text_edit.blockSignals(True)
            self.text_edit.setPlainText(words.text)
            self.text_edit.blockSignals(False)
        self._show_face(words.face)
        self.align_box.setCurrentIndex(self.align_box.findData(words.align))
        self.line_field.set_value(words.line_spacing * 100.0)
        self.word_field.set_value(words.word_spacing * 100.0)
        bend = "straight" if words.arc is None else "valley" if words.arc.through_valley else "hill"
        self.bend_box.setCurrentIndex(self.bend_box.findData(bend))
        self.angle_field.set_value(words.arc.angle_deg if words.arc is not None else None)
        if not self.features_edit.isModified():
            self.features_edit.setText(", ".join(words.features))
        self._show_axes(words)
        self._fill_letters(words)
        has_lines = len(words.text.splitlines()) > 1
        show_row(self.setting_rows[0], visible=has_lines)
        show_row(self.setting_rows[1], visible=has_lines)
        show_row(self.setting_rows[4], visible=words.arc is not None)

    def _show_face(self, face: str) -> None:
        index = self.face_box.findData(face)
        if index < 0:
            self.face_box.insertItem(0, face_title(face), face)
            index = 0
        self.face_box.setCurrentIndex(index)

    def _show_axes(self, words: Words) -> None:
        """One field for each axis of a variable face."""
        try:
            axes = axes_of(load_face(words.face))
        except ThimbleError:
            axes = ()
        if axes != self._shown_axes:
            self._shown_axes = axes
            clear_layout(self.axes_column)
            for axis in axes:
                self.axes_column.addWidget(self._axis_field(axis))
        settings = dict(words.axes)
        for axis in axes:
            field = self.findChild(FigureField, f"axis_{axis.tag.strip()}")
            if field is not None:
                field.set_value(settings.get(axis.tag, axis.usual))

    def _axis_field(self, axis: Axis) -> QWidget:
        field = FigureField(axis.title, f"axis_{axis.tag.strip()}", "", axis.low, axis.high)
        field.setToolTip(tr(f"{axis.title}: {axis.low:g} to {axis.high:g}, usually {axis.usual:g}"))
        field.committed.connect(lambda value: self._set_axis(axis, value))
        row, box = QWidget(), QHBoxLayout()
        box.setContentsMargins(0, 0, 0, 0)
        label = PlainLabel(axis.title)
        label.setMinimumWidth(98)
        label.setBuddy(field)
        box.addWidget(label)
        box.addWidget(field, 1)
        row.setLayout(box)
        return row

    def _fill_letters(self, words: Words) -> None:
        """The letters of the words, the one in hand kept."""
        held = self.letter_box.currentData()
        letters = [(k, c) for k, c in enumerate(words.text) if not c.isspace()]
        if [c for _, c in letters] != [self.letter_box.itemText(k)[:1] for k in range(self.letter_box.count())]:
            self.letter_box.clear()
            for number, (k, c) in enumerate(letters, start=1):
                self.letter_box.addItem(f"{c}  ({number})", k)
            self.letter_box.setCurrentIndex(max(self.letter_box.findData(held), 0) if letters else -1)
        self._fill_forms()

    def _fill_forms(self) -> None:
        """The forms that the face has for the letter in hand, as pictures."""
        words, at = self._words(), self.letter_box.currentData()
        if (words, at) == self._shown_forms:
            return
        self._shown_forms = (words, at)
        self.form_box.clear()
        if words is None or at is None:
            return
        try:
            forms = forms_of(words, at)
        except ThimbleError:
            forms = ()
        for form in forms:
            picture = outline_picture(form.outline, FORM_SIZE)
            icon = QIcon(QPixmap.fromImage(picture)) if picture is not None else QIcon()
            self.form_box.addItem(icon, form.feature or ("as usual" if len(forms) > 1 else "only one"), form.feature)
        picked = next((one.feature for one in words.alternates if one.at == at), "")
        self.form_box.setCurrentIndex(max(self.form_box.findData(picked), 0))
        self.form_box.setEnabled(len(forms) > 1)

    def _pick_form(self, feature: str) -> None:
        words, at = self._words(), self.letter_box.currentData()
        if words is None or at is None:
            return
        others = tuple(one for one in words.alternates if one.at != at)
        own = (Alternate(at=at, letter=words.text[at], feature=feature),) if feature else ()
        self._set_words(f"Form of {words.text[at]}", alternates=(*others, *own))

    def _set_axis(self, axis: Axis, value: float) -> None:
        words = self._words()
        if words is not None:
            settings = {**dict(words.axes), axis.tag: value}
            self._set_words(axis.title, axes=tuple(sorted(settings.items())))

    def _set_words(self, title: str, **values: object) -> None:
        """Change the words' setting."""

        def changed(element: Element) -> Element:
            words = source_as(element, Words)
            return element if words is None else replace(element, source=replace(words, **values))

        self.session.change(title, with_element(self.session.job, self.session.chosen, changed))

    def _words(self) -> Words | None:
        return source_in(self.session.job, self.session.chosen, Words)

    def _bend(self, key: str) -> None:
        words = self._words()
        if words is None:
            return
        arc = words.arc or Arc()
        self._set_words("Bend", arc=None if key == "straight" else replace(arc, through_valley=key == "valley"))

    def _set_angle(self, value: float) -> None:
        words = self._words()
        if words is not None and words.arc is not None:
            self._set_words("Angle of the arc", arc=replace(words.arc, angle_deg=value))

    def _set_features(self) -> None:
        """Features as typed; what is none is told and stays in the field."""
        features = tuple(f for f in re.split(r"[,\s]+", self.features_edit.text()) if f)
        try:
            for feature in features:
                feature_value(feature)
        except ThimbleError as error:
            self.told.emit(str(error))
            return
        self.features_edit.setModified(False)
        self._set_words("Font features", features=features)

    def _retype(self) -> None:
        text = self.text_edit.toPlainText()
        if not self.session.chosen:
            return

        def retyped(element: Element) -> Element:
            words = source_as(element, Words)
            if words is None:
                return element
            return replace(element, name=text.strip() or element.name, source=replace(words, text=text))

        job = with_element(self.session.job, self.session.chosen, retyped)
        aim = Arriving(self.session.chosen) if self._is_fresh() else None
        self.session.change("Change the words", job, merge=f"text {self.session.chosen}", aim=aim)

    def _fill_faces(self) -> None:
        """Bundled faces, then favourites and those used last, then the ways to others."""
        held = self.face_box.currentData()
        self.face_box.clear()
        for name in BUNDLED:
            self.face_box.addItem(f"{name} — {BUNDLED_KINDS[name]}", f"bundled:{name}")
        for face in dict.fromkeys((*favourite_faces(), *recent_faces())):
            if self.face_box.findData(face) < 0:
                self.face_box.addItem(face_title(face), face)
        if self._shows_installed:
            for title in installed_titles():
                if self.face_box.findData(f"family:{title}") < 0:
                    self.face_box.addItem(tr(title), f"family:{title}")
        self.face_box.addItem(tr("A font file…"), "choose-file")
        if not self._shows_installed:
            self.face_box.addItem(tr("Installed fonts…"), "show-installed")
        self.face_box.setCurrentIndex(self.face_box.findData(held))

    def _change_face(self) -> None:
        wanted = self.face_box.currentData()
        if wanted == "choose-file":
            self._choose_font_file()
        elif wanted == "show-installed":
            self._show_installed()
        else:
            self.set_face(wanted)

    def _choose_font_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("Choose a font"), "", tr("Fonts (*.ttf *.otf *.ttc *.woff2 *.zip);;All files (*)")
        )
        if name.lower().endswith(".zip"):
            self.use_font_bundle(FilePath(name))
        elif name:
            self.use_font_file(FilePath(name))
        else:
            self.show_job()

    def use_font_file(self, path: FilePath) -> None:
        """Take a loose font; a file that is no font is refused in one sentence."""
        try:
            load_face(f"file:{path}")
        except ThimbleError as error:
            self.told.emit(str(error))
            self.show_job()
            return
        self.set_face(f"file:{path}")

    def use_font_bundle(self, path: FilePath) -> None:
        """Keep the fonts of a zip and take the first one; what cannot be used is told."""
        try:
            kept, refused = unpack_fonts(path, own_fonts_folder())
        except ThimbleError as error:
            self.told.emit(str(error))
            self.show_job()
            return
        titles = ", ".join(face_title(face) for face in kept[:6]) + (" …" if len(kept) > 6 else "")
        self.told.emit(" ".join([f"Kept from {path.name}: {titles}.", *refused]))
        self.set_face(kept[0])

    def _show_installed(self) -> None:
        """Add the installed families to the list and open it again."""
        self._shows_installed = True
        self._fill_faces()
        self.show_job()
        self.face_box.showPopup()

    def set_face(self, face: str) -> None:
        remember_face(face)
        job = with_element(self.session.job, self.session.chosen, lambda e: in_face(e, face))
        self.session.change("Change the face", job)
        self._fill_faces()
