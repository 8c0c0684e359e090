"""How the item is decorated: method, side, surface; the film and what it bears."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QPushButton

from vivid_thimble.core.job.edits import with_item, with_layer
from vivid_thimble.core.job.values import mirror_reason
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.surfaces import SURFACES
from vivid_thimble.core.ranges import Limit, Room
from vivid_thimble.core.room.blank import by_method
from vivid_thimble.core.storage.stock import films_for
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel, set_role, show_row
from vivid_thimble.desktop.widgets.size_strip import METHOD_WORDS
from vivid_thimble.desktop.widgets.swatch import swatch

METHOD_LINES = {
    "decal": "The film stays on the item in the shape of the design; everything round it is pulled away.",
    "film-stencil": "A mask for one use: the design is pulled out, paint or paste goes through.",
    "rigid-stencil": "A sheet to wash and use again: every middle must hang on the sheet.",
    "screen-stencil": "Film under a mesh; ink is pulled through the openings.",
    "heat-film": "Film pressed on cloth with heat. Check that your film may be heated: never heat vinyl.",
}
SIDES = (("front", "On the front"), ("behind", "Behind glass, read through it"), ("underside", "On the underside"))
HEAT_LINES = {
    "never": "Never heat this film: vinyl gives off harmful fumes.",
    "allowed": "Made for heat: temperature and time as its maker's label says.",
    "ask": "Whether it may be heated is not written down: see its maker's label.",
}


class FilmPage(Panel):
    """``told``: a sentence for the notice bar; ``stock_wanted``: open the materials."""

    told = Signal(str)
    stock_wanted = Signal()

    def __init__(self, session: Session, workshop: Workshop) -> None:
        super().__init__(session)
        self.workshop = workshop
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("How it is decorated")
        self.method_box = self.choice("method", list(METHOD_WORDS.items()), self._set_method)
        self.row("&Method", self.method_box)
        self.method_line = self.hint()
        self.side_box = self.choice("side", list(SIDES), lambda key: self._change("Side", side=key))
        self.row("&Side", self.side_box)
        self.mirror_line = self.hint()
        self.surround_field = NumberField("Surround of the stencil", "surround", Room)
        self.surround_field.committed.connect(self._set_surround)
        self.surround_row = self.row("Su&rround", self.surround_field)
        self.squeegee_field = NumberField("Width of the squeegee", "squeegee")
        self.squeegee_field.committed.connect(lambda v: self._change("Squeegee", squeegee=v))
        self.squeegee_row = self.row("S&queegee", self.squeegee_field)
        surfaces = [(key, surface.title) for key, surface in SURFACES.items()]
        self.surface_box = self.choice("surface", surfaces, lambda key: self._change("Surface", surface=key))
        self.row("Sur&face", self.surface_box)
        self._build_film()
        self.column.addStretch()
        workshop.changed.connect(self.show_job)

    def _build_film(self) -> None:
        self.section("The film, and what it bears")
        self.film_box = QComboBox()
        self.film_box.setObjectName("film")
        self.film_box.activated.connect(self._take_film)
        self.row("F&ilm", self.film_box)
        self.line_field = NumberField("Thinnest line", "limitLine", Limit)
        self.gap_field = NumberField("Narrowest gap", "limitGap", Limit)
        self.line_field.committed.connect(lambda v: self._change_film("Thinnest line", thinnest_line=v))
        self.gap_field.committed.connect(lambda v: self._change_film("Narrowest gap", thinnest_gap=v))
        self.row("Thinnest &line", self.line_field)
        self.row("Narrowest &gap", self.gap_field)
        self.heat_line = self.hint()
        self.hint("Starting figures: your film and its maker's label decide.")
        stock = QPushButton(tr("Mat&erials and machines…"))
        stock.setObjectName("openStock")
        stock.clicked.connect(lambda _=False: self.stock_wanted.emit())
        self.column.addWidget(stock)

    def show_job(self) -> None:
        job = self.session.job
        item, film = job.item, job.item.layers[0].film
        fields = (
            (self.surround_field, item.surround),
            (self.squeegee_field, item.squeegee),
            (self.line_field, film.thinnest_line),
            (self.gap_field, film.thinnest_gap),
        )
        for field, value in fields:
            field.set_unit(job.unit)
            field.set_value(value)
        for box, key in ((self.method_box, item.method), (self.side_box, item.side), (self.surface_box, item.surface)):
            box.setCurrentIndex(box.findData(key))
        self.method_line.setText(tr(METHOD_LINES[item.method]))
        self.mirror_line.setText(tr(mirror_reason(item) or "Cut as it reads: not mirrored."))
        show_row(self.surround_row, visible=item.is_stencil and item.frame.fit == "design")
        show_row(self.squeegee_row, visible=item.method == "screen-stencil")
        forbidden = item.method == "heat-film" and film.heat == "never"
        self.heat_line.setText(tr(HEAT_LINES[film.heat]))
        set_role(self.heat_line, "stop" if forbidden else "hint")
        self._show_films(film)

    def _films(self) -> tuple[Film, ...]:
        return films_for(self.workshop.stock, self.session.job.item.method)

    def _show_films(self, film: Film) -> None:
        """The films for the method, and the present one as it is when its figures were changed."""
        films = self._films()
        self.film_box.clear()
        for offered in films:
            self.film_box.addItem(swatch(offered.colour), offered.name, offered.name)
        if film not in films:
            own = film.name if film.name not in [f.name for f in films] else f"{film.name}, own figures"
            self.film_box.addItem(swatch(film.colour), own, None)
            self.film_box.setCurrentIndex(self.film_box.count() - 1)
        else:
            self.film_box.setCurrentIndex(films.index(film))

    def _take_film(self, _index: int) -> None:
        """All limits come with the film, so everything is judged anew."""
        name = self.film_box.currentData()
        film = next((f for f in self._films() if f.name == name), None)
        if film is not None:
            self._with_film("Film", lambda _: film)

    def _change(self, title: str, **values: object) -> None:
        self.session.change(title, with_item(self.session.job, lambda item: replace(item, **values)))

    def _set_method(self, method: Any) -> None:
        """Another method brings its usual film and surround."""
        usual = next(iter(films_for(self.workshop.stock, method)), None)
        job = with_item(self.session.job, lambda item: by_method(item, method, usual))
        self.session.change("Method", job)

    def _set_surround(self, value: float) -> None:
        if value < 0:
            self.told.emit("The surround cannot be negative: type how much sheet is wanted round the design.")
            self.show_job()
            return
        self._change("Surround", surround=value)

    def _change_film(self, title: str, **values: object) -> None:
        self._with_film(title, lambda film: replace(film, **values))

    def _with_film(self, title: str, changed: Callable[[Film], Film]) -> None:
        """The upper film; those below it are its own kind in other colours and stay."""
        job = with_layer(self.session.job, lambda layer: replace(layer, film=changed(layer.film)))
        self.session.change(title, job)
