"""From which size on the design is clean, what the wanted size would take, and what the surface hides."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.inspect.inspection import Cause
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.inspect.thickening import Thickening
from vivid_thimble.core.job import scaled_design
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.remedies import CLEAN_ROOM, thickened
from vivid_thimble.core.results import ItemResult
from vivid_thimble.core.surfaces import SURFACES
from vivid_thimble.desktop.panel import Panel, clear_layout
from vivid_thimble.desktop.session import Session
from vivid_thimble.desktop.words import tr

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
        session.insights.changed.connect(lambda _: self._show_insights())

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("size page", "thickening", "lost")
        self._show_insights()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("size page")

    def show_result(self) -> None:
        result = self.session.result
        clear_layout(self.causes)
        inspection = result.layers[0].inspection if result is not None and result.size is not None else None
        if result is None or result.size is None or inspection is None:
            self.stays.setText(tr("Nothing to measure yet."))
            self.enlarge.hide()
            self._show_insights()
            return
        unit, width = fine_unit(self.session.job.unit), result.size[0]
        for cause in inspection.causes:
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
        scale = inspection.smallest_clean_scale
        self.enlarge.setVisible(scale is not None and scale > 1.0)
        if scale is not None:
            self.enlarge.setText(tr(f"Enlarge to {format_length(scale * CLEAN_ROOM * width, unit)}"))
        self._show_insights()

    def _show_insights(self) -> None:
        result, insights = self.session.result, self.session.insights
        is_empty = result is None or result.bounds is None
        advice = insights.thickening
        self.advice.setText("" if is_empty else tr(advice_words(advice) if insights.has("thickening") else WORKING))
        self.thicken.setVisible(advice is not None)
        surface = SURFACES[self.session.job.item.surface]
        if is_empty or not insights.has("lost"):
            self.surface.setText("" if is_empty else tr(WORKING))
        else:
            self.surface.setText(tr(surface_words(result, insights.lost)))
        self.show_surface.setVisible(surface.detail > 0.0)

    def _enlarge(self) -> None:
        result = self.session.result
        scale = result.layers[0].inspection.smallest_clean_scale if result is not None else None
        if scale is not None:
            self.session.change("Enlarge until clean", scaled_design(self.session.job, scale * CLEAN_ROOM))

    def _thicken(self) -> None:
        advice = self.session.insights.thickening
        job = thickened(self.session.job, advice.by) if advice is not None else None
        if job is not None:
            self.session.change("Thicken all", job)


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
    return Finding("note", "look", f"The {words}: {figure}", cause.at, width=width)
