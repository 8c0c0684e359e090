"""All widths at a glance: the histogram beside the table's width look."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.messages import Message
from vivid_thimble.core.widths.widthmap import Chords, Spot
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import WIDTHS
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.inspect.histogram import Histogram
from vivid_thimble.desktop.widgets.panel import Panel

LONGEST_MM = 20.0
"""A place is framed to about this length at most."""
SIDES = (("lines", "Film that stays"), ("gaps", "Gaps between"))


class WidthsPage(Panel):
    """``spot_wanted`` asks to show a place; ``side_chosen`` tells that the other side is looked at."""

    spot_wanted = Signal(object)
    side_chosen = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.side = "lines"
        row, group = QHBoxLayout(), QButtonGroup(self)
        for key, word in SIDES:
            button = QPushButton(tr(word))
            button.setObjectName(f"widths_{key}")
            button.setCheckable(True)
            button.setChecked(key == self.side)
            button.clicked.connect(lambda _=False, k=key: self._choose(k))
            group.addButton(button)
            row.addWidget(button)
        self.column.addLayout(row)
        self.histogram = Histogram(PALETTES["day"])
        self.histogram.bar_pressed.connect(self._walk)
        self.column.addWidget(self.histogram)
        self.facts = self.hint()
        self.next = QPushButton(tr("Next place of this width"))
        self.next.setObjectName("nextSpot")
        self.next.setEnabled(False)
        self.next.clicked.connect(lambda _=False: self._step())
        self.column.addWidget(self.next)
        self.hint(
            "How many millimetres of the design are how wide, the film's limit being the stitched line. Press a bar to "
            "walk through its places; press again for the next one. Points and corners have no width of their own."
        )
        self.column.addStretch()
        self._spots: list[Spot] = []
        self._at = -1
        self._pressed = (0.0, 0.0)
        session.insights.changed.connect(self._take_insight)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("widths page", WIDTHS)
        self.show_result()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("widths page")

    @property
    def chords(self) -> Chords | None:
        """What is looked at; None while it is being worked out."""
        widths = self.session.insights.of(WIDTHS)
        return None if widths is None else widths.lines if self.side == "lines" else widths.gaps

    @property
    def title(self) -> str:
        return dict(SIDES)[self.side]

    def _take_insight(self, insight: object) -> None:
        if insight is WIDTHS:
            self.show_result()

    def show_result(self) -> None:
        chords, unit = self.chords, self.session.job.unit
        self._spots, self._at = [], -1
        self.next.setEnabled(False)
        if chords is None:
            self.histogram.clear()
            self.facts.setText(tr("Working it out…" if self.session.result else "Nothing to measure yet."))
            return
        self.histogram.show_lengths(chords.edges, chords.lengths, chords.limit, fine_unit(unit))
        thin = float(chords.lengths[chords.edges[:-1] < chords.limit - 1e-9].sum())
        word = "line" if self.side == "lines" else "gap"
        self.facts.setText(
            tr(
                f"{thin:.0f} mm of {word} are below the limit of {chords.limit:g} mm."
                if thin >= 0.5
                else f"No {word} is below the limit of {chords.limit:g} mm."
            )
        )

    def _choose(self, side: str) -> None:
        self.side = side
        self.show_result()
        self.side_chosen.emit()

    def _walk(self, low: float, high: float) -> None:
        chords = self.chords
        if chords is None:
            return
        if (low, high) != self._pressed or not self._spots:
            self._pressed, self._spots, self._at = (low, high), chords.spots(low, high), -1
        self.next.setEnabled(bool(self._spots))
        if not self._spots:
            self.facts.setText(tr("Nothing is that wide."))
            return
        self._step()

    def _step(self) -> None:
        """To the next place of the width in hand, round and round."""
        self._at = (self._at + 1) % len(self._spots)
        spot = self._spots[self._at]
        unit = fine_unit(self.session.job.unit)
        words = f"{format_length(spot.width, unit)} wide"
        self.facts.setText(tr(f"Place {self._at + 1} of {len(self._spots)}: {words}."))
        length = min(spot.length, LONGEST_MM)
        self.spot_wanted.emit(
            Finding(
                "shown-spot", "look", Message.of("{words}", words=words), spot.at, spot.width, length, ends=spot.ends
            )
        )
