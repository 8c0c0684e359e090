"""Which colours are cut from which film: a grid of swatches, for drawings and pictures alike."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QComboBox, QGridLayout

from vivid_thimble.core.edits.colour_films import MOST_FILMS, with_colour_in_film, with_film_count
from vivid_thimble.core.sources.colours import LEFT_OUT, to_hex
from vivid_thimble.core.sources.drawing import Colour
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, clear_layout
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.swatch import swatch_picture

MOST_SWATCHES = 40


class ColourFilms(Panel):
    """Each colour with its share and the film it is cut from, and how many films are at hand."""

    def __init__(self, session: Session, name: str = "filmCount") -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        counts = tuple((n, "1 film" if n == 1 else f"{n} films") for n in range(1, MOST_FILMS + 1))
        self.count = self.choice(name, counts, self._set_count)
        self.row("At &hand", self.count)
        self.advice = self.hint("The colours that look most alike share a film. Change any of them below.")
        self.grid = QGridLayout()
        self.grid.setSpacing(5)
        self.grid.setColumnStretch(2, 1)
        self.column.addLayout(self.grid)
        self.more = self.hint()
        self.more.setVisible(False)
        self._areas: dict[Colour, float] = {}
        self._films: dict[Colour, int] = {}
        self._shown: object = None

    def show_films(self, count: int, areas: Mapping[Colour, float], films: Mapping[Colour, int]) -> None:
        """``areas``: the share of each colour; ``films``: the film of each. Nothing is listed without colours."""
        self.count.setCurrentIndex(self.count.findData(count))
        shown = (count, dict(areas), dict(films))
        if shown == self._shown:
            return
        self._shown = shown
        self._areas, self._films = dict(areas), dict(films)
        clear_layout(self.grid)
        by_area = sorted(areas, key=lambda c: -areas[c])
        for row, colour in enumerate(by_area[:MOST_SWATCHES]):
            self._add_colour(row, colour, count)
        over = len(by_area) - MOST_SWATCHES
        self.more.setText(tr(f"{over} colours of small areas go with the nearest one above."))
        self.more.setVisible(over > 0)

    def _add_colour(self, row: int, colour: Colour, count: int) -> None:
        share = self._areas[colour]
        swatch = PlainLabel()
        swatch.setPixmap(swatch_picture(colour, QSize(26, 20)))
        self.grid.addWidget(swatch, row, 0)
        figure = PlainLabel(tr(f"{share:.0%}" if share >= 0.01 else "under 1%"))
        figure.setMinimumWidth(58)
        self.grid.addWidget(figure, row, 1)
        box = QComboBox()
        box.setObjectName(f"film_{to_hex(colour)}")
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(6)
        box.setAccessibleName(tr(f"Film for the colour {to_hex(colour)}"))
        for number in range(count):
            box.addItem(tr("Cut" if count == 1 else f"Film {number + 1}"), number)
        box.addItem(tr("A film of its own"), count)
        box.addItem(tr("Left out"), LEFT_OUT)
        box.setCurrentIndex(box.findData(self._films[colour]))
        box.activated.connect(lambda _, b=box, c=colour: self._set_film(c, b.currentData()))
        self.grid.addWidget(box, row, 2)

    def _set_count(self, count: int) -> None:
        if self._areas:
            job = with_film_count(self.session.job, self.session.chosen, self._areas, count, self._films)
            self.session.change("Films", job)

    def _set_film(self, colour: Colour, film: int) -> None:
        job = with_colour_in_film(self.session.job, self.session.chosen, self._areas, colour, film, self._films)
        self.session.change("Colour left out" if film == LEFT_OUT else "Film of a colour", job)
