"""From which size on the design is clean, what the wanted size would take, and what the surface hides."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from vivid_thimble.core.edits.remedies import CLEAN_ROOM, leaves_room, thickened
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.inspect.inspection import Cause
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.inspect.thickening import Thickening
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.materials.surfaces import SURFACES
from vivid_thimble.core.messages import Message
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import LOST, THICKENING
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, clear_layout

if TYPE_CHECKING:
    from vivid_thimble.core.edits.clean_size import CleanSize

CAUSE_WORDS = {"line": "Lines", "gap": "Gaps", "piece": "Small pieces"}
WORKING = "Working it out…"


class SizePage(Panel):
    """``spot_wanted`` asks to show a place, ``look_wanted`` a look of the table."""

    spot_wanted = Signal(object)
    look_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("Clean from this width on")
        self.causes = QVBoxLayout()
        self.causes.setSpacing(5)
        self.column.addLayout(self.causes)
        self.answer = self.hint()
        self.answer.setObjectName("cleanAnswer")
        self.decides = self.hint()
        self.decides.setObjectName("decides")
        self.deciding = QPushButton(tr("Show the place that decides"))
        self.deciding.setObjectName("decidingPlace")
        self.deciding.clicked.connect(self._show_deciding)
        self.column.addWidget(self.deciding)
        self.stays = self.hint()
        self.enlarge = QPushButton()
        self.enlarge.setObjectName("enlargeToClean")
        self.enlarge.setAccessibleName(tr("Enlarge to the smallest clean size"))
        self.enlarge.setProperty("role", "main")
        self.enlarge.clicked.connect(self._enlarge)
        self.column.addWidget(self.enlarge)
        self.section("Or keep the size and thicken")
        self.advice = self.hint()
        self.thicken = QPushButton(tr("Thicken by that"))
        self.thicken.setObjectName("thickenByAdvice")
        self.thicken.clicked.connect(self._thicken)
        self.column.addWidget(self.thicken)
        self.section("On this surface")
        self.surface = self.hint()
        self.show_surface = QPushButton(tr("Show what is lost"))
        self.show_surface.setObjectName("showLost")
        self.show_surface.clicked.connect(lambda _=False: self.look_wanted.emit("surface"))
        self.column.addWidget(self.show_surface)
        self.column.addStretch()
        session.insights.changed.connect(self._take_insight)
        session.clean_sizes.changed.connect(self._show_answer)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("size page", THICKENING, LOST)
        self.session.clean_sizes.want_other("size page", wanted=True)
        self._show_insights()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("size page")
        self.session.clean_sizes.want_other("size page", wanted=False)

    def show_result(self) -> None:
        result = self.session.result
        clear_layout(self.causes)
        inspection = result.layers[0].inspection if result is not None and result.size is not None else None
        if result is None or result.size is None or inspection is None:
            self.stays.setText(tr("Nothing to measure yet."))
            for widget in (self.enlarge, self.answer, self.decides, self.deciding):
                widget.hide()
            self._show_insights()
            return
        unit, width = fine_unit(self.session.job.unit), result.size[0]
        searched = self.session.clean_sizes.is_needed
        for cause in () if searched else inspection.causes:
            button = QPushButton(cause_words(cause, width, unit))
            button.setObjectName(f"cause_{cause.kind}")
            button.setToolTip(tr("Show the place that decides"))
            button.clicked.connect(lambda _=False, c=cause: self.spot_wanted.emit(_spot(c)))
            self.causes.addWidget(button)
        stays = sum(1 for f in inspection.incurable if f.severity == "stop")
        self.stays.setText(
            tr(f"{stays} {'place' if stays == 1 else 'places'} no size cures: see the findings." if stays else "")
        )
        self.stays.setVisible(bool(stays))
        self._show_answer()
        self._show_insights()

    def _show_answer(self) -> None:
        """The smallest clean size as far as it is known, what decides, and the button that goes there."""
        result, sizes = self.session.result, self.session.clean_sizes
        if result is None or result.size is None:
            return
        unit, width = fine_unit(self.session.job.unit), result.size[0]
        found = sizes.found
        scale = found.scale if found is not None else None if sizes.is_needed else result.smallest_clean_scale
        self.answer.setText(tr(_answer_words(found, width, unit, searched=sizes.is_needed, there=sizes.is_there)))
        self.answer.setVisible(bool(self.answer.text()))
        deciding = found.deciding if found is not None else None
        self.decides.setText(tr(deciding.message).split(":")[0] if deciding is not None else "")
        for widget in (self.decides, self.deciding):
            widget.setVisible(deciding is not None)
        grows = scale is not None and scale > 1.0
        leaves = scale is not None and grows and leaves_room(result, scale * CLEAN_ROOM)
        self.enlarge.setVisible(grows and not leaves)
        if scale is not None and leaves:
            size = format_length(scale * CLEAN_ROOM * width, unit)
            self.stays.setText(tr(f"Enlarged to {size} it would leave its room."))
            self.stays.show()
        elif scale is not None:
            more = 1.0 if sizes.is_needed else CLEAN_ROOM
            self.enlarge.setText(tr(f"Enlarge to {format_length(scale * more * width, unit)}"))

    def _take_insight(self, insight: object) -> None:
        self._show_insights()

    def _show_deciding(self) -> None:
        found = self.session.clean_sizes.found
        if found is not None and found.deciding is not None:
            self.spot_wanted.emit(found.deciding)

    def _show_insights(self) -> None:
        result, insights = self.session.result, self.session.insights
        is_empty = result is None or result.bounds is None
        advice = insights.of(THICKENING)
        self.advice.setText("" if is_empty else tr(advice_words(advice) if insights.has(THICKENING) else WORKING))
        self.thicken.setVisible(advice is not None)
        surface = SURFACES[self.session.job.item.surface]
        if is_empty or not insights.has(LOST):
            self.surface.setText("" if is_empty else tr(WORKING))
        else:
            self.surface.setText(tr(surface_words(result, insights.of(LOST))))
        self.show_surface.setVisible(surface.detail > 0.0)

    def _enlarge(self) -> None:
        self.session.enlarge_until_clean()

    def _thicken(self) -> None:
        advice = self.session.insights.of(THICKENING)
        job = thickened(self.session.job, advice.by) if advice is not None else None
        if job is not None:
            self.session.change("Thicken all", job)


def _answer_words(found: CleanSize | None, width: float, unit: Unit, *, searched: bool, there: bool) -> str:
    """What was found by trying other sizes; nothing where one inspection tells it and no place stands out."""
    if not there:
        return "Bridges, joins and marks keep their lengths: other sizes are being tried…" if searched else ""
    if found is None:
        return ""
    if found.scale is None:
        return "No size that was tried is clean: mend what the findings tell first."
    words = f"Tried and clean from {format_length(found.scale * width, unit)} on."
    if found.without is not None:
        words += f" One place decides; without it {format_length(found.without * width, unit)}."
    return words


def cause_words(cause: Cause, width: float, unit: Unit) -> str:
    """What decides, in two short lines."""
    size = format_length(cause.scale * width, unit)
    if cause.kind == "piece":
        return f"{CAUSE_WORDS[cause.kind]}: {size}\nthe smallest has {cause.figure:.2f} mm² now"
    return f"{CAUSE_WORDS[cause.kind]}: {size}\n{format_length(cause.figure, unit)} is the thinnest now"


def advice_words(advice: Thickening | None) -> str:
    """What the smallest thickening costs."""
    if advice is None:
        return "Nothing has to be thickened at this size."
    closes = f"{advice.closed_counters} middles close" if advice.closed_counters != 1 else "1 middle closes"
    gaps = f"{advice.narrowed_gaps} gaps become too narrow" if advice.narrowed_gaps != 1 else "1 gap becomes too narrow"
    stays = f" {advice.stays} places stay too thin even so." if advice.stays else ""
    return (
        f"Every edge out by {advice.by:.2f} mm brings all lines to the limit. "
        f"{closes if advice.closed_counters else 'No middle closes'}, "
        f"{gaps if advice.narrowed_gaps else 'no gap becomes too narrow'}; "
        f"{(advice.area_share - 1.0) * 100:.0f} % more film.{stays}"
    )


def surface_words(result: ItemResult | None, lost: Lost | None) -> str:
    """What fades on the item's surface."""
    if result is None:
        return ""
    surface = SURFACES[result.item.surface]
    if surface.detail <= 0.0 or lost is None:
        return f"{surface.title}: everything shows."
    if lost.count == 0:
        return f"{surface.title}: nothing is lost under {surface.detail:g} mm."
    fades, fills = len(lost.faded.geoms), len(lost.filled.geoms)
    return (
        f"{surface.title} shows nothing under {surface.detail:g} mm: {fades} detail{'s' * (fades != 1)} "
        f"fade{'s' * (fades == 1)} out, {fills} gap{'s' * (fills != 1)} fill{'s' * (fills == 1)}."
    )


def _spot(cause: Cause) -> Finding:
    words = {"line": "thinnest line", "gap": "narrowest gap", "piece": "smallest piece"}[cause.kind]
    figure = f"{cause.figure:.2f} mm²" if cause.kind == "piece" else f"{cause.figure:.2f} mm"
    width = None if cause.kind == "piece" else cause.figure
    return Finding(
        "shown-spot", "look", Message.of("The {words}: {figure}", words=words, figure=figure), cause.at, width=width
    )
