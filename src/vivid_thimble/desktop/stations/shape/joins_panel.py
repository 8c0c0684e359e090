"""How the letters of words hold together: pairs, loose marks, crossings; nudges and ties by hand."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.edits import free_id, with_element
from vivid_thimble.core.job.values import Element, find_element, layer_of
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.messages import Message
from vivid_thimble.core.steps import Join, Tie, of_kind
from vivid_thimble.core.steps.holding import Holding
from vivid_thimble.core.steps.join import Nudge, Pair
from vivid_thimble.core.steps.tie import Crossing, Knot, LooseMark
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import JOINS
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

NUDGE_MM = 0.2
"""What one press on a nudge button or an arrow key moves a letter by."""
FAR_NUDGE_MM = 1.0
"""The same with Shift."""


class JoinsPanel(Panel):
    """Shown for words that are joined or tied."""

    pairs_shown = Signal(object)
    spot_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.joins_title = self.section("How the letters hold")
        self.joins = WrappingList()
        self.joins.setObjectName("joins")
        self.joins.setAccessibleName(tr("Pairs of letters and their necks"))
        self.joins.setMinimumHeight(110)
        self.joins.setMaximumHeight(150)
        self.joins.currentRowChanged.connect(self._show_pair)
        self.joins.installEventFilter(self)
        self.column.addWidget(self.joins)
        nudge = QHBoxLayout()
        self.nudge_buttons = []
        for word, name, by in (("‹ Closer", "nudgeCloser", -NUDGE_MM), ("Apart ›", "nudgeApart", NUDGE_MM)):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.setToolTip(tr(f"Move the second letter, and what follows, by {NUDGE_MM:g} mm"))
            button.clicked.connect(lambda _=False, b=by: self._nudge(b))
            nudge.addWidget(button)
            self.nudge_buttons.append(button)
        self.column.addLayout(nudge)
        tie = QHBoxLayout()
        self.tie_button = QPushButton(tr("&Tie this"))
        self.tie_button.setObjectName("tieThis")
        self.tie_button.setToolTip(tr("A small strip of film holds the two letters, or the loose piece, in hand"))
        self.tie_button.clicked.connect(lambda _=False: self._tie([self._held_knot()]))
        self.tie_all_button = QPushButton(tr("Tie all that is loose"))
        self.tie_all_button.setObjectName("tieAll")
        self.tie_all_button.clicked.connect(lambda _=False: self._tie(self._loose_knots()))
        tie.addWidget(self.tie_button)
        tie.addWidget(self.tie_all_button)
        self.column.addLayout(tie)
        self._rows: list[Pair | LooseMark | Crossing] = []
        self._held: tuple[str, int] = ("", -1)
        """Kind and letter of the row in hand, found again when the list is made anew."""
        self.session.insights.changed.connect(self._take_insight)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("shape", JOINS)
        super().showEvent(event)
        self.show_joins()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("shape")
        self.pairs_shown.emit([])

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """In the list of pairs the left and right arrow keys move the letter in hand; Shift moves it farther."""
        if watched is self.joins and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            way = {Qt.Key.Key_Left.value: -1.0, Qt.Key.Key_Right.value: 1.0}.get(event.key())
            if way is not None:
                far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self._nudge(way * (FAR_NUDGE_MM if far else NUDGE_MM))
                return True
        return super().eventFilter(watched, event)

    def _take_insight(self, insight: object) -> None:
        if insight is JOINS:
            self.show_joins()

    def show_joins(self) -> None:
        """How the letters of the element in hand hold: what does not hold first."""
        holding = (self.session.insights.of(JOINS) or {}).get(self.session.chosen)
        unit = fine_unit(self.session.job.unit)
        pairs = sorted(holding.pairs, key=lambda pair: pair.joined) if holding is not None else []
        apart = sum(not pair.joined for pair in pairs)
        self._rows = [*pairs[:apart]]
        if holding is not None:
            self._rows += [*holding.marks, *holding.crossings]
        self._rows += pairs[apart:]
        self.joins.blockSignals(True)
        self.joins.clear()
        for row in self._rows:
            self.joins.addItem(tr(row_words(row, unit)))
        self.joins.make_room()
        held = next((k for k, row in enumerate(self._rows) if _row_key(row) == self._held), -1)
        self.joins.setCurrentRow(held)
        self.joins.blockSignals(False)
        self.joins_title.setText(tr(_holding_words(holding, apart)))
        for widget in (self.joins_title, self.joins, *self.nudge_buttons, self.tie_button, self.tie_all_button):
            widget.setVisible(bool(self._rows))
        self.tie_all_button.setEnabled(bool(self._loose_knots()))
        self._enable_row_buttons()
        if self.isVisible():
            self.pairs_shown.emit(pairs)

    def _held_row(self) -> Pair | LooseMark | Crossing | None:
        return next((row for row in self._rows if _row_key(row) == self._held), None)

    def _enable_row_buttons(self) -> None:
        row = self._held_row()
        for button in self.nudge_buttons:
            button.setEnabled(isinstance(row, Pair))
        self.tie_button.setEnabled(self._held_knot() is not None)

    def _show_pair(self, number: int) -> None:
        if 0 <= number < len(self._rows):
            row = self._rows[number]
            self._held = _row_key(row)
            self._enable_row_buttons()
            words = row_words(row, fine_unit(self.session.job.unit))
            size = row.neck if isinstance(row, Pair) else row.size if isinstance(row, LooseMark) else 0.0
            wide = max(size, 1.0)
            self.spot_wanted.emit(Finding("shown-spot", "look", Message.of("{words}", words=words), row.at, width=wide))

    def _held_knot(self) -> Knot | None:
        """What the row in hand would be tied by; None when it holds or cannot be tied."""
        row = self._held_row()
        if isinstance(row, Pair) and not row.joined:
            return Knot(letter=row.letter, label=row.right)
        return Knot(letter=row.letter, label=row.label, hold="piece") if isinstance(row, LooseMark) else None

    def _loose_knots(self) -> list[Knot]:
        knots = [Knot(letter=r.letter, label=r.right) for r in self._rows if isinstance(r, Pair) and not r.joined]
        marks = {(r.letter, r.label) for r in self._rows if isinstance(r, LooseMark)}
        return knots + [Knot(letter=letter, label=label, hold="piece") for letter, label in sorted(marks)]

    def _tie(self, knots: Sequence[Knot | None]) -> None:
        """Tie on more; a first strip makes the step, behind the Join that it completes."""
        element = find_element(self.session.job, self.session.chosen)
        wanted = [knot for knot in knots if knot is not None]
        if not wanted:
            return
        step = next(iter(of_kind(element.steps, Tie)), None)
        if step is None:
            width = layer_of(self.session.job.item, self.session.chosen).film.join_neck
            step = Tie(id=free_id("tie", self.session.job), width=width)
            joins = of_kind(element.steps, Join)
            at = element.steps.index(joins[-1]) + 1 if joins else 0
            steps = (*element.steps[:at], step, *element.steps[at:])
        else:
            steps = element.steps
        more = replace(step, enabled=True, knots=tuple(dict.fromkeys((*step.knots, *wanted))))
        steps = tuple(more if s is step else s for s in steps)
        self._change_element("Tie on", lambda e: replace(e, steps=steps))

    def nudge_letter(self, letter: int, by: float) -> None:
        """The mark before a letter was dragged on the table."""
        self._held = ("pair", letter)
        self._nudge(by)

    def _nudge(self, by: float) -> None:
        """Move the second letter of the pair in hand; moving it back to where it was forgets the nudge."""
        element = find_element(self.session.job, self.session.chosen)
        pair = self._held_row()
        step = next((s for s in reversed(of_kind(element.steps, Join)) if s.enabled), None)
        if not isinstance(pair, Pair) or step is None:
            return
        total = round(pair.nudged + by, 3)
        rest = tuple(nudge for nudge in step.nudges if nudge.letter != pair.letter)
        own = (Nudge(letter=pair.letter, label=pair.right, by=total),) if total else ()
        nudged = replace(step, nudges=(*rest, *own))
        self._change_element(
            f"Nudge {pair.right}",
            lambda e: replace(e, steps=tuple(nudged if s.id == step.id else s for s in e.steps)),
            merge=f"nudge {pair.letter}",
        )

    def _change_element(self, title: str, change: Callable[[Element], Element], *, merge: str = "") -> None:
        if self.session.chosen:
            job = with_element(self.session.job, self.session.chosen, change)
            self.session.change(title, job, merge=f"{merge} {self.session.chosen}" if merge else "")


def _row_key(row: Pair | LooseMark | Crossing) -> tuple[str, int]:
    if isinstance(row, Crossing):
        return "crossing", row.first * 10_000 + row.second
    return ("pair" if isinstance(row, Pair) else "mark"), row.letter


def _holding_words(holding: Holding | None, apart: int) -> str:
    if holding is None:
        return ""
    parts = [f"{apart} of {len(holding.pairs)} pairs do not hold" if apart else "All pairs hold"]
    if holding.marks:
        parts.append(f"{len(holding.marks)} loose")
    if holding.crossings:
        parts.append(f"{len(holding.crossings)} crossing")
    return ", ".join(parts)


def row_words(row: Pair | LooseMark | Crossing, unit: Unit) -> str:
    """One line about a pair, a loose piece or a crossing."""
    if isinstance(row, LooseMark):
        return f"{row.label}:  its {row.what} is a piece of its own"
    if isinstance(row, Crossing):
        where = " of another word" if row.other_line else ""
        return f"{row.labels[0]} runs into {row.labels[1]}{where}"
    return pair_words(row, unit)


def pair_words(pair: Pair, unit: Unit) -> str:
    """One line about two neighbouring letters."""
    moved = f", moved {format_length(pair.moved, unit)}" if pair.moved > 0.0 else ""
    if pair.nudged:
        way = "apart" if pair.nudged > 0.0 else "closer"
        moved += f", {format_length(abs(pair.nudged), unit)} {way} by hand"
    why = ", no small shift joins them"
    if pair.joined:
        over = "over " if pair.is_wider else ""
        return f"{pair.left} {pair.right}:  neck {over}{format_length(pair.neck, unit)}{moved}"
    if pair.neck > 0.0:
        return f"{pair.left} {pair.right}:  only {format_length(pair.neck, unit)}{moved or why}"
    return f"{pair.left} {pair.right}:  apart{moved or why}"
