"""The controls of a drawing: what it means in film, its colours, what is cleaned, where it is from."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QLineEdit,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
)

from vivid_thimble.core.edits.drawings import (
    DrawingLook,
    artwork_in,
)
from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.ranges import Fine, Gentle, Tolerance
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.cleaning import KINDS, Cleaned, in_words
from vivid_thimble.core.sources.colours import film_of
from vivid_thimble.core.sources.provenance import LICENCE_WORDS, Provenance, may_not_be_sold
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import DRAWING
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.colour_films import ColourFilms
from vivid_thimble.desktop.stations.gather.source_panel import SourcePanel
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel, show_row
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

PAGES = (("taken", "Cut as"), ("colours", "Colours"), ("cleaning", "Cleaned"), ("origin", "From"))
READINGS = (("picture", "The picture as it is seen"), ("parts", "Every part whole"))
LINES = (
    ("drawn", "Lines as thick as drawn"),
    ("widened", "Thin lines widened"),
    ("filled", "Outlines to be filled"),
)
LINE_HINTS = {
    "drawn": "Lines are cut with the width that the drawing gives them; lines without width are left out.",
    "widened": "A sketch: every line gets at least this width.",
    "filled": "Outlines made for cutting: what they enclose is kept, outlines inside them are holes.",
}
LIST_HEIGHT = 300
TITLES = {
    "background": "Background patch",
    "page": "Beyond the page",
    "hidden": "Hidden shapes",
    "doubled": "Drawn twice",
    "open": "Open outlines",
    "crossings": "Crossing themselves",
    "hairlines": "Hairlines and slivers",
    "specks": "Specks",
    "pinholes": "Pinholes",
    "stairs": "Tiny steps",
    "nodes": "Needless nodes",
}


class DrawingPanel(SourcePanel):
    """``places_wanted`` carries places on the item to be ringed, ``parts_wanted`` asks for the window of parts."""

    parts_wanted = Signal()
    pictures_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.section("Drawing")
        self.pages = QStackedWidget()
        self._page_buttons = self.tabs(PAGES, self.turn_to, "drawing")
        self.taken = TakenPage(session)
        self.colours = ColoursPage(session)
        self.cleaning = CleaningPage(session)
        self.origin = OriginPage(session)
        for page in (self.taken, self.colours, self.cleaning, self.origin):
            self.pages.addWidget(page)
        self.column.addWidget(self.pages)
        self.taken.parts_wanted.connect(self.parts_wanted)
        self.taken.pictures_wanted.connect(self.pictures_wanted)
        self.cleaning.places_wanted.connect(self.places_wanted)
        session.insights.changed.connect(self._show_look)

    def turn_to(self, key: str) -> None:
        """Open one of the pages."""
        self._page_buttons[key].setChecked(True)
        self.pages.setCurrentIndex([k for k, _ in PAGES].index(key))
        self.places_wanted.emit(())

    def show_source(self, artwork: Artwork) -> None:
        self.session.insights.want("drawing", DRAWING)
        result = self.session.result
        self.show_result(result.element(self.session.chosen) if result is not None else None)
        self.taken.show_artwork(artwork, self.session.insights.of(DRAWING))
        self.colours.show_artwork(artwork, self.session.insights.of(DRAWING))
        self.cleaning.show_artwork(artwork)
        self.origin.show_artwork(artwork)

    def show_nothing(self) -> None:
        """Another kind of element is in hand."""
        self.session.insights.want("drawing")

    def show_result(self, element: ElementResult | None) -> None:
        self.cleaning.show_report(None if element is None or self.session.is_stale else element.cleaned)

    def _show_look(self, insight: object) -> None:
        artwork = artwork_in(self.session.job, self.session.chosen)
        if insight is DRAWING and artwork is not None:
            self.taken.show_artwork(artwork, self.session.insights.of(DRAWING))
            self.colours.show_artwork(artwork, self.session.insights.of(DRAWING))


class _Page(Panel):
    """One page about the drawing in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 4, 0, 0)

    def change(self, title: str, *, merge: str = "", **values: object) -> None:
        self.change_source(Artwork, title, merge=merge, **values)


class TakenPage(_Page):
    """What the drawing means in film: whole picture or parts, what lines stand for, its size."""

    parts_wanted = Signal()
    pictures_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.reading = self.choice("drawingReading", READINGS, lambda key: self.change("What is cut", reading=key))
        self.row("C&ut", self.reading)
        self.lines = self.choice("drawingLines", LINES, lambda key: self.change("Lines", lines=key))
        self.lines_row = self.row("Its &lines", self.lines)
        self.line_width = NumberField("Width of thin lines", "drawingLineWidth", Fine)
        self.line_width.committed.connect(lambda mm: self.change("Width of lines", line_width=mm))
        self.width_row = self.row("At &least", self.line_width)
        self.lines_hint = self.hint()
        self.parts_button = QPushButton(tr("Choose &parts…"))
        self.parts_button.setObjectName("chooseParts")
        self.parts_button.clicked.connect(lambda _=False: self.parts_wanted.emit())
        self.column.addWidget(self.parts_button)
        self.pictures_button = QPushButton(tr("Trace its pic&tures"))
        self.pictures_button.setObjectName("tracePictures")
        self.pictures_button.clicked.connect(lambda _=False: self.pictures_wanted.emit())
        self.column.addWidget(self.pictures_button)
        self.size_button = QPushButton(tr("As in the file"))
        self.size_button.setObjectName("statedSize")
        self.size_button.clicked.connect(self._take_stated_size)
        self.column.addWidget(self.size_button)
        self.notes_title = self.section("Taken otherwise than drawn")
        self.notes = self.hint()
        self.column.addStretch()
        self._stated: tuple[float, float] | None = None

    def show_artwork(self, artwork: Artwork, look: DrawingLook | None) -> None:
        unit = self.session.job.unit
        self.reading.setCurrentIndex(self.reading.findData(artwork.reading))
        self.lines.setCurrentIndex(self.lines.findData(artwork.lines))
        self.line_width.set_unit(fine_unit(unit))
        self.line_width.set_value(artwork.line_width)
        asks = artwork.lines != "drawn" or (look is not None and look.has_thin_lines)
        show_row(self.lines_row, visible=asks)
        show_row(self.width_row, visible=artwork.lines == "widened")
        self.lines_hint.setText(tr(LINE_HINTS[artwork.lines]))
        self.lines_hint.setVisible(asks)
        out = len(artwork.left_out)
        self.parts_button.setText(tr(f"Choose &parts… ({out} left out)" if out else "Choose &parts…"))
        inside = len(look.drawing.pictures) if look is not None else 0
        self.pictures_button.setText(tr("Trace the pic&ture in it" if inside == 1 else f"Trace its {inside} pic&tures"))
        self.pictures_button.setVisible(inside > 0)
        self._stated = look.stated_size if look is not None else None
        if self._stated is not None:
            width, height = (format_length(mm, unit) for mm in self._stated)
            self.size_button.setText(tr(f"As in the file: {width} × {height}"))
        self.size_button.setVisible(self._stated is not None)
        told = dict(look.drawing.simplified) if look is not None else {}
        if look is not None:
            told |= {"shape that the file hides": look.drawing.hidden, "stray point": look.drawing.stray}
        words = ", ".join(f"{count} x {what}" for what, count in told.items() if count)
        self.notes.setText(tr(words))
        self.notes.setVisible(bool(words))
        self.notes_title.setVisible(bool(words))

    def _take_stated_size(self) -> None:
        if self._stated is not None:
            chosen, width = self.session.chosen, self._stated[0]
            job = with_element(self.session.job, chosen, lambda e: replace(e, placement=e.placement.sized(width=width)))
            self.session.change("Size from the file", job)


class ColoursPage(_Page):
    """Each colour with its share and the film it is cut from."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.films = ColourFilms(session)
        self.column.addWidget(self.films)
        self.column.addStretch()

    def show_artwork(self, artwork: Artwork, look: DrawingLook | None) -> None:
        as_seen = artwork.reading == "picture"
        self.films.count.setEnabled(as_seen)
        self.films.advice.setText(
            tr(
                "The colours that look most alike share a film. Change any of them below."
                if as_seen
                else "Every part is cut whole, so colours do not part them. Cut the picture as it is seen to use films."
            )
        )
        areas = look.colours if look is not None and as_seen else {}
        self.films.show_films(artwork.films, areas, {c: film_of(c, artwork) for c in areas})


class CleaningPage(_Page):
    """The report: what was found, each to be switched on or off, its places ringed on the table."""

    places_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.verdict = self.hint("", "fine")
        self.list = WrappingList()
        self.list.has_ticks = True
        self.list.setObjectName("cleaned")
        self.list.setMinimumHeight(LIST_HEIGHT)
        self.list.setAccessibleName(tr("What is cleaned"))
        self.list.itemChanged.connect(self._switched)
        self.list.currentItemChanged.connect(self._show_places)
        self.column.addWidget(self.list)
        self.speck = NumberField("Specks up to this size across", "speckSize", Gentle)
        self.speck.committed.connect(lambda mm: self._size("Size of specks", mm, "speck_area"))
        self.row("&Specks up to", self.speck)
        self.pinhole = NumberField("Pinholes up to this size across", "pinholeSize", Gentle)
        self.pinhole.committed.connect(lambda mm: self._size("Size of pinholes", mm, "pinhole_area"))
        self.row("Pin&holes up to", self.pinhole)
        self.tolerance = NumberField("Outlines move by at most", "nodeTolerance", Tolerance)
        self.tolerance.committed.connect(lambda mm: self._set("Tolerance", node_tolerance=mm))
        self.row("&Move outlines", self.tolerance)
        self.hint("Sizes are across, on the finished item. Click a line to see its places.")
        self.column.addStretch()
        self._report: tuple[Cleaned, ...] = ()

    def show_artwork(self, artwork: Artwork) -> None:
        unit = fine_unit(self.session.job.unit)
        cleaning = artwork.cleaning
        for field, mm in (
            (self.speck, cleaning.speck_area**0.5),
            (self.pinhole, cleaning.pinhole_area**0.5),
            (self.tolerance, cleaning.node_tolerance),
        ):
            field.set_unit(unit)
            field.set_value(mm)

    def show_report(self, report: tuple[Cleaned, ...] | None) -> None:
        """None: it is not known yet."""
        if report is None:
            self.verdict.setText(tr("The drawing is being read and cleaned…"))
            return
        self._report = tuple(sorted(report, key=lambda one: KINDS.index(one.kind)))
        held = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        for one in self._report:
            says = in_words(one) if one.on else f"{TITLES[one.kind]}: {one.count} found, left as drawn"
            entry = QListWidgetItem(tr(says))
            entry.setData(Qt.ItemDataRole.UserRole, one.kind)
            entry.setFlags(entry.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            entry.setCheckState(Qt.CheckState.Checked if one.on else Qt.CheckState.Unchecked)
            self.list.addItem(entry)
        self.list.setCurrentRow(min(held, self.list.count() - 1))
        self.list.blockSignals(False)
        self.list.setVisible(bool(self._report))
        self.list.make_room()
        done = sum(one.count for one in self._report if one.on and one.kind != "nodes")
        words = f"{done} thing{'s' * (done != 1)} cleaned. Nothing is lost: switch any of it off."
        self.verdict.setText(tr(words if self._report else "Nothing to clean was found."))

    def _switched(self, entry: QListWidgetItem) -> None:
        self._set("Cleaning", **{entry.data(Qt.ItemDataRole.UserRole): entry.checkState() == Qt.CheckState.Checked})

    def _show_places(self, entry: QListWidgetItem | None) -> None:
        kind = entry.data(Qt.ItemDataRole.UserRole) if entry is not None else None
        places = [place for one in self._report if one.kind == kind for place in one.at]
        self.places_wanted.emit(tuple(places))

    def _size(self, title: str, across: float, key: str) -> None:
        self._set(title, **{key: across * across})

    def _set(self, title: str, **values: object) -> None:
        artwork = artwork_in(self.session.job, self.session.chosen)
        if artwork is not None:
            self.change(title, cleaning=replace(artwork.cleaning, **values))


class OriginPage(_Page):
    """Where the drawing is from and what may be done with it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._edits: dict[str, QLineEdit] = {}
        for key, word, example in (
            ("maker", "&Drawn by", "name"),
            ("origin", "&From", "shop, page, friend"),
            ("credit", "C&redit line", "as its maker wants it"),
            ("note", "&Note", ""),
        ):
            edit = QLineEdit()
            edit.setObjectName(f"origin_{key}")
            edit.setPlaceholderText(example)
            edit.textEdited.connect(lambda text, k=key: self._set(k, text))
            leave_undo_to_the_job(edit)
            self._edits[key] = edit
            self.row(word, edit)
        self.licence = self.choice("licence", tuple(LICENCE_WORDS.items()), lambda key: self._set("licence", key))
        self.row("&Licence", self.licence)
        self.for_sale = QCheckBox(tr("What this job makes is sold"))
        self.for_sale.setObjectName("forSale")
        self.for_sale.clicked.connect(self._mark_for_sale)
        self.column.addWidget(self.for_sale)
        self.reminder = self.hint("", "wrong")
        self.column.addStretch()

    def show_artwork(self, artwork: Artwork) -> None:
        provenance = artwork.provenance
        for key, edit in self._edits.items():
            text = getattr(provenance, key)
            if edit.text() != text:
                edit.setText(tr(text))
                edit.setCursorPosition(0)
        self.licence.setCurrentIndex(self.licence.findData(provenance.licence))
        self.for_sale.setChecked(self.session.job.for_sale)
        text = (may_not_be_sold(provenance, artwork.name) if self.session.job.for_sale else None) or ""
        self.reminder.setText(tr(text))
        self.reminder.setVisible(bool(text))

    def _set(self, key: str, value: str) -> None:
        artwork = artwork_in(self.session.job, self.session.chosen)
        if artwork is not None:
            provenance: Provenance = replace(artwork.provenance, **{key: value})
            self.change("Origin", merge=f"origin {key}", provenance=provenance)

    def _mark_for_sale(self, on: bool) -> None:
        self.session.change("For sale" if on else "Not for sale", replace(self.session.job, for_sale=on))
