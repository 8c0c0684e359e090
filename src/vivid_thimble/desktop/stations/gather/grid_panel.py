"""The controls of a letter grid and the bands over its answers."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QPlainTextEdit, QPushButton

from vivid_thimble.core.edits.drawings import without_element
from vivid_thimble.core.job.edits import free_id, with_element, with_item
from vivid_thimble.core.job.values import (
    Element,
    Job,
    Layer,
    Placement,
    elements_of,
    source_as,
    source_in,
)
from vivid_thimble.core.materials.films import BAND_COLOUR, BAND_FILM
from vivid_thimble.core.sources.letter_grid import AnswerBands, Direction, LetterGrid
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.source_panel import FRESH_SHARE, STURDY_FACE, SourcePanel
from vivid_thimble.desktop.widgets.number_field import FigureField
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job

DIRECTIONS: tuple[tuple[Direction, str], ...] = (("across", "Across"), ("down", "Down"), ("diagonal", "Diagonal"))


class GridPanel(SourcePanel):
    """Names, size and directions of the letter grid in hand."""

    ADD = ("Add a letter grid", "Add a &letter grid", "addGrid")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.section("Letter grid: names to hide, one a line")
        self.names = QPlainTextEdit()
        self.names.setObjectName("gridNames")
        self.names.setAccessibleName(tr("Names to hide, one a line"))
        self.names.setMaximumHeight(92)
        self.names.setTabChangesFocus(True)
        self.names.textChanged.connect(self._rename)
        leave_undo_to_the_job(self.names)
        self.column.addWidget(self.names)
        self.columns = self._count("Letters across", "gridColumns", "columns")
        self.rows = self._count("Letters down", "gridRows", "rows")
        self.row("Ac&ross", self.columns)
        self.row("&Down", self.rows)
        ways = QGridLayout()
        self.ways: dict[str, QCheckBox] = {}
        for k, (key, word) in enumerate(DIRECTIONS):
            self.ways[key] = self._tick(word, f"grid_{key}", partial(self._allow, key))
            ways.addWidget(self.ways[key], k // 2, k % 2)
        self.backwards = self._tick(
            "Backwards too", "gridBackwards", lambda on: self._change("Backwards", backwards=on)
        )
        ways.addWidget(self.backwards, 1, 1)
        self.column.addLayout(ways)
        self.letter = FigureField("Height of the letters", "gridLetter", " % of a cell", 20.0, 100.0)
        self.letter.committed.connect(lambda v: self._change("Height of the letters", letter=v / 100.0))
        self.row("&Letters", self.letter)
        self.unwanted = QLineEdit()
        self.unwanted.setObjectName("gridUnwanted")
        self.unwanted.setPlaceholderText(tr("beside the usual ones"))
        self.unwanted.editingFinished.connect(self._set_unwanted)
        leave_undo_to_the_job(self.unwanted)
        self.row("Never &spell", self.unwanted)
        again = QPushButton(tr("Lay them another way"))
        again.setObjectName("gridShuffle")
        again.clicked.connect(lambda _=False: self._shuffle())
        self.column.addWidget(again)
        self.bands = self._tick("Bands over the answers, in a second film", "gridBands", self._toggle_bands)
        self.column.addWidget(self.bands)
        self.band_width = FigureField("Width of the bands", "bandWidth", " % of a cell", 20.0, 130.0)
        self.band_width.committed.connect(lambda v: self._change_bands("Width of the bands", width=v / 100.0))
        self.row("Band &width", self.band_width)
        self.welded = self._tick(
            "Weld bands where they overlap", "bandsWelded", lambda on: self._change_bands("Weld the bands", welded=on)
        )
        self.column.addWidget(self.welded)

    def _count(self, title: str, name: str, field: str) -> FigureField:
        box = FigureField(title, name, "", 2.0, 40.0)
        box.committed.connect(lambda v: self._change(title, **{field: round(v)}))
        return box

    def _tick(self, word: str, name: str, then: Callable[[bool], object]) -> QCheckBox:
        box = QCheckBox(tr(word))
        box.setObjectName(name)
        box.clicked.connect(lambda on: then(bool(on)))
        return box

    @staticmethod
    def fresh(job: Job) -> Element:
        """A letter grid that hides two names, ready for others."""
        source = LetterGrid(names=("Lantern", "Regatta"), face=STURDY_FACE)
        cell = FRESH_SHARE * min(job.item.width / source.columns, job.item.height / source.rows)
        place = Placement(width=cell * source.columns)
        return Element(id=free_id("grid", job), name="Letter grid", source=source, placement=place)

    def begin(self) -> None:
        self.names.setFocus()
        self.names.selectAll()

    def show_source(self, grid: LetterGrid) -> None:
        if self._typed() != grid.names:
            self.names.blockSignals(True)
            self.names.setPlainText("\n".join(grid.names))
            self.names.blockSignals(False)
        self.columns.set_value(float(grid.columns))
        self.rows.set_value(float(grid.rows))
        self.letter.set_value(grid.letter * 100.0)
        for key, box in self.ways.items():
            box.setChecked(key in grid.directions)
        self.backwards.setChecked(grid.backwards)
        if not self.unwanted.isModified():
            self.unwanted.setText(", ".join(grid.unwanted))
        bands = self._bands()
        source = source_as(bands, AnswerBands)
        self.bands.setChecked(bands is not None)
        self.band_width.setEnabled(bands is not None)
        self.welded.setEnabled(bands is not None)
        if source is not None:
            self.band_width.set_value(source.width * 100.0)
            self.welded.setChecked(source.welded)

    def _typed(self) -> tuple[str, ...]:
        return tuple(line.strip() for line in self.names.toPlainText().splitlines() if line.strip())

    def _grid(self) -> LetterGrid | None:
        return source_in(self.session.job, self.session.chosen, LetterGrid)

    def _rename(self) -> None:
        self._change("Names to hide", merge="names", names=self._typed())

    def _allow(self, key: Direction, on: bool) -> None:
        grid = self._grid()
        if grid is not None:
            allowed = {*grid.directions, key} if on else {*grid.directions} - {key}
            self._change("Directions", directions=tuple(k for k, _ in DIRECTIONS if k in allowed))

    def _set_unwanted(self) -> None:
        self.unwanted.setModified(False)
        words = tuple(word for word in re.split(r"[,;\s]+", self.unwanted.text()) if word)
        self._change("Words never to spell", unwanted=words)

    def _shuffle(self) -> None:
        grid = self._grid()
        if grid is not None:
            self._change("Lay them another way", seed=grid.seed + 1)

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        chosen = self.session.chosen
        if self._grid() is None:
            return

        def changed(element: Element) -> Element:
            return replace(element, source=replace(element.source, **values))

        job = with_element(self.session.job, chosen, changed)
        self.session.change(title, job, merge=f"{merge} {chosen}" if merge else "")

    def _bands(self) -> Element | None:
        """The bands of the grid in hand."""
        for element in elements_of(self.session.job.item):
            bands = source_as(element, AnswerBands)
            if bands is not None and bands.of == self.session.chosen:
                return element
        return None

    def _toggle_bands(self, on: bool) -> None:
        if on:
            self.session.change("Bands over the answers", with_bands(self.session.job, self.session.chosen))
            return
        bands = self._bands()
        if bands is not None:
            self.session.change("No bands", without_element(self.session.job, bands.id))

    def _change_bands(self, title: str, **values: object) -> None:
        bands = self._bands()
        if bands is not None:

            def changed(element: Element) -> Element:
                return replace(element, source=replace(element.source, **values))

            self.session.change(title, with_element(self.session.job, bands.id, changed))


def with_bands(job: Job, grid_id: str) -> Job:
    """Bands for a grid, in a layer below of a film in another colour."""
    film = replace(job.item.layers[0].film, name=BAND_FILM, colour=BAND_COLOUR)
    bands = Element(
        id=free_id("bands", job), name="Answers", source=AnswerBands(of=grid_id), placement=Placement(width=1.0)
    )
    layer = Layer(id=free_id("layer", job), film=film, elements=(bands,))
    return with_item(job, lambda item: replace(item, layers=(*item.layers, layer)))
