"""Cut: the film on its carrier, and the file for the cutter."""

from __future__ import annotations

from pathlib import Path as FilePath

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QPushButton

from vivid_thimble.core.cut.cutting import Cut
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.files import file_stem, write_atomically
from vivid_thimble.core.formats.cut_file import WRITERS
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import CUT, cut_or_refusal
from vivid_thimble.desktop.stations.bench import Bench
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.widgets.panel import say_it_was, set_role, show_films


class CutStation(Station):
    KEY = "cut"
    QUESTION = "Does it fit the carrier, and is it the right way round?"

    film_chosen = Signal(int)
    """The number of the film that is shown, from 0."""

    def build(self) -> None:
        self.add_lie()
        self.section("Carrier")
        self.carrier_box = QComboBox()
        self.carrier_box.setObjectName("carrier")
        self.carrier_box.activated.connect(lambda _: self._set_carrier(self.carrier_box.currentText()))
        self.session.workshop.changed.connect(self.show_job)
        self.session.insights.changed.connect(self._take_insight)
        self.row("&Carrier", self.carrier_box)
        self.area_line = self.hint()
        self.film_box = self.choice("cutFilm", (), self._choose_film)
        self.film_row = self.row("&Film", self.film_box)
        self.section("Sheet")
        self.sheet_line = self.hint("", "fine")
        self.sheet_line.setObjectName("sheetLine")
        self.turn_line = self.hint()
        self.mirror_line = self.hint()
        self.mirror_line.setObjectName("mirrorLine")
        self.cost_line = self.hint()
        self.cost_line.setObjectName("costLine")
        self.stops_line = self.hint("", "stop")
        self.save_button = QPushButton(tr("&Save the cut file…"))
        self.save_button.setObjectName("saveCut")
        self.save_button.setProperty("role", "main")
        self.save_button.clicked.connect(self._save)
        self.column.addWidget(self.save_button)
        self.saved_line = self.hint()
        self.section("Before you cut")
        self.hint(
            "Cut a small test shape first and lift a corner before you unload the carrier: if it did not go "
            "through, run another pass. Cap blades and hooks, and cut away from your hand."
        )
        self.column.addStretch()
        self._plan: tuple[ItemResult, Carrier, int, Cut | None, str] | None = None

    def connect_to(self, bench: Bench) -> None:
        super().connect_to(bench)
        self.film_chosen.connect(bench.show_film)

    def _choose_film(self, film: int) -> None:
        self.show_result()
        self.film_chosen.emit(film)

    def show_job(self) -> None:
        carrier = self.session.job.carrier
        names = [one.name for one in self.session.workshop.stock.carriers]
        self.carrier_box.clear()
        self.carrier_box.addItems(names if carrier.name in names else [*names, carrier.name])
        self.carrier_box.setCurrentText(carrier.name)
        show_films(self.film_box, self.film_row, self.session.job.item)
        tall = carrier.cuttable_height
        unit = self.session.job.unit
        area = format_length(carrier.cuttable_width, unit)
        self.area_line.setText(
            tr(
                f"Cuts {area} wide, as long as the roll lasts."
                if tall is None
                else f"Cuts {area} × {format_length(tall, unit)}: less than its nominal size."
            )
        )

    def show_result(self) -> None:
        unit = self.session.job.unit
        cut, refusal = self._planned()
        self.save_button.setEnabled(cut is not None)
        self.sheet_line.setText(
            tr(
                refusal
                if cut is None
                else f"Fits: the film is {format_length(cut.plan.width, unit)} wide and "
                f"{format_length(cut.plan.height, unit)} long."
            )
        )
        set_role(self.sheet_line, "stop" if cut is None else "fine")
        self.turn_line.setText(tr("Turned by a quarter to fit." if cut is not None and cut.plan.turned else ""))
        self.turn_line.setVisible(bool(self.turn_line.text()))
        self.mirror_line.setText(
            tr("" if cut is None else cut.mirror_reason or "Not mirrored: it is read from the front.")
        )
        self._show_cost(cut)
        stops = sum(1 for f in self.session.result.findings if f.severity == "stop") if self.session.result else 0
        self.stops_line.setText(tr(f"Inspect still has {stops} to mend." if stops else ""))
        self.stops_line.setVisible(bool(stops))
        self.saved_line.setText("")

    def show_stale(self) -> None:
        for label in (self.sheet_line, self.mirror_line, self.cost_line):
            say_it_was(label)
        self.save_button.setEnabled(False)

    def _show_cost(self, cut: Cut | None) -> None:
        """How much film the sheet takes, and its share of the price when that is written down."""
        self.cost_line.setVisible(cut is not None and self.session.result is not None)
        if cut is None or self.session.result is None:
            return
        film = self.session.result.layers[min(self.film_number, len(self.session.result.layers) - 1)]
        area = cut.plan.width * cut.plan.height
        cost = film.layer.film.cost_of(area)
        unit, price = self.session.job.unit, "" if cost is None else f", costing {cost:.2f}"
        takes = f"Film of this sheet: about {area / 100.0:.0f} cm²{price}."
        if self.session.job.carrier.cuttable_height is None:
            takes = f"It takes {format_length(cut.plan.height, unit)} of the roll{price}."
        self.cost_line.setText(tr(takes))

    def save_to(self, path: FilePath) -> None:
        """Write the cut file; what stands in the way is told in one sentence."""
        cut, refusal = self._planned()
        if cut is None:
            self.told.emit(refusal)
            return
        try:
            write_atomically(path, cut.file(path.name))
        except ThimbleError as error:
            self.told.emit(str(error))
            return
        text = "Saved as {name}: one layer, true size, closed outlines only."
        self.saved_line.setText(tr(Message.of(text, name=Said(path.name))))

    def _take_insight(self, insight: object) -> None:
        if insight is CUT:
            self._renew("result", self.show_result)

    @property
    def film_number(self) -> int:
        """The number of the film that is shown, from 0."""
        return max(self.film_box.currentIndex(), 0)

    def _planned(self) -> tuple[Cut | None, str]:
        """The cut of the current result on the current carrier, or why there is none; the first film's is worked out on
        a thread, since the work path tells of it at every result."""
        result, carrier = self.session.result, self.session.job.carrier
        if result is None or result.bounds is None:
            return None, "Nothing to cut yet."
        if self.session.is_stale:
            return None, "The last edit is still being worked out: wait a moment."
        film = min(self.film_number, len(result.layers) - 1)
        if film == 0:
            return self.session.insights.of(CUT) or (None, "Working it out…")
        if self._plan is None or self._plan[0] is not result or self._plan[1:3] != (carrier, film):
            self._plan = (result, carrier, film, *cut_or_refusal(result, film, carrier))
        return self._plan[3:]

    def _save(self) -> None:
        item = self.session.job.item
        stem = file_stem(
            item.name, item.layers[self.film_number].film.name if self.film_number < len(item.layers) else ""
        )
        name, _ = QFileDialog.getSaveFileName(
            self,
            tr("Save the cut file"),
            f"{stem}.svg",
            ";;".join(f"{writer.title} (*{ending})" for ending, writer in WRITERS.items()),
        )
        if name:
            self.save_to(FilePath(name if name.lower().endswith(tuple(WRITERS)) else f"{name}.svg"))

    def _set_carrier(self, name: str) -> None:
        kept = next((one for one in self.session.workshop.stock.carriers if one.name == name), None)
        if kept is not None:
            self.session.change("Carrier", replace(self.session.job, carrier=kept.carrier))
