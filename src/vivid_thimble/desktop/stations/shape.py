"""Shape: size and place, and the steps that run live at the final size."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QPushButton, QWidget

from vivid_thimble.core.geometry.parts import bounds_of
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job import (
    Element,
    Job,
    Layer,
    Placement,
    find_element,
    free_id,
    moved_design,
    with_element,
    with_layer,
)
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.remedies import usual_bridge_width
from vivid_thimble.core.results import ElementResult
from vivid_thimble.core.sets import leave_set, shared_of
from vivid_thimble.core.sources.lettering import NO_HEIGHTS, LetterHeights, Words
from vivid_thimble.core.steps import Band, Bridges, Join, RoundCorners, Smooth, Step, Strengthen, Thicken, Tie, Weld
from vivid_thimble.core.steps.holding import Holding
from vivid_thimble.core.steps.join import Nudge, Pair
from vivid_thimble.core.steps.tie import Crossing, Knot, LooseMark
from vivid_thimble.desktop.bridge_panel import BridgePanel
from vivid_thimble.desktop.number_field import FigureField, NumberField
from vivid_thimble.desktop.panel import clear_layout, show_row
from vivid_thimble.desktop.stations.station import Station
from vivid_thimble.desktop.work_path import Standing
from vivid_thimble.desktop.wrapping_list import WrappingList

STEP_LINES = {
    "Join": "close up letters until they hold together",
    "Weld": "overlaps become one outline, nothing is cut through",
    "Thicken": "every edge moves out a little",
    "Strengthen": "only what is too thin gets wider",
    "Bridges": "strips of sheet hold the middles of a stencil",
    "Band": "only a band along every edge stays",
    "Round": "corners get a radius, so that thick sheet does not tear",
    "Smooth": "ripples of a rough face or trace go, corners stay",
}
NUDGE_MM = 0.2
"""What one press on a nudge button or an arrow key moves a letter by."""
FAR_NUDGE_MM = 1.0
"""The same with Shift."""
STEP_LENGTHS: tuple[tuple[type, str, str, bool], ...] = (
    (Join, "neck", "Neck", False),
    (Thicken, "by", "Thicken by", True),
    (Strengthen, "to", "Strengthen to", False),
    (Smooth, "by", "Smooth within", False),
    (Tie, "width", "Width of the strips", False),
    (Bridges, "width", "Width of the bridges", False),
    (Band, "width", "Width of the band", False),
    (RoundCorners, "by", "Radius of the corners", False),
)
"""Steps with a length: its field's name and title, and whether it may be negative."""


class ShapeStation(Station):
    KEY, TITLE = "shape", "Shape"
    QUESTION = "How large, where, and what is done to it? Nothing here is final."
    pairs_shown = Signal(object)
    spot_wanted = Signal(object)

    def build(self) -> None:
        self.section("On the item")
        self.left_field = NumberField("Left margin", "marginLeft", positive=False)
        self.top_field = NumberField("Top margin", "marginTop", positive=False)
        self.left_field.committed.connect(lambda v: self._margin(0, v))
        self.top_field.committed.connect(lambda v: self._margin(1, v))
        self.row("From the &left", self.left_field)
        self.row("From the to&p", self.top_field)
        centre = QHBoxLayout()
        for word, name, across, down in (
            ("Centre &across", "centreAcross", True, False),
            ("Centre &down", "centreDown", False, True),
        ):
            button = QPushButton(word)
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, a=across, d=down: self._centre(across=a, down=d))
            centre.addWidget(button)
        self.column.addLayout(centre)
        self.element_title = self.section("Element")
        self.element_box = QComboBox()
        self.element_box.setObjectName("shapeElement")
        self.element_box.activated.connect(lambda _: self.session.choose(self.element_box.currentData()))
        self.row("&Element", self.element_box)
        self.width_field = NumberField("Width of the element", "elementWidth")
        self.height_field = NumberField("Height of the element", "elementHeight")
        self.width_field.committed.connect(lambda v: self._resize(0, v))
        self.height_field.committed.connect(lambda v: self._resize(1, v))
        self.row("&Width", self.width_field)
        self.row("&Height", self.height_field)
        self.capital_field = NumberField("Height of the capitals", "capitalHeight")
        self.capital_field.committed.connect(lambda v: self._size_letters("capital", v))
        self.capital_row = self.row("&Capitals", self.capital_field)
        self.strip_field = NumberField("Height of the strip", "stripHeight")
        self.strip_field.setToolTip("Room from the tallest letter of the face to its deepest tail, whatever the words")
        self.strip_field.committed.connect(lambda v: self._size_letters("strip", v))
        self.strip_row = self.row("Into a s&trip", self.strip_field)
        self.heights_line = self.hint()
        self.turn_field = FigureField("Turn", "turn", "°", -360.0, 360.0)
        self.turn_field.committed.connect(self._turn)
        self.row("&Turn", self.turn_field)
        self.spacing_field = FigureField("Letter spacing", "spacing", " % of the size", -20.0, 60.0)
        self.spacing_field.committed.connect(self._space)
        self.spacing_row = self.row("&Spacing", self.spacing_field)
        self.section("Steps")
        self.steps_panel = QWidget()
        self.steps_grid = QGridLayout(self.steps_panel)
        self.steps_grid.setContentsMargins(0, 0, 0, 0)
        self.steps_grid.setSpacing(5)
        self.steps_grid.setColumnStretch(0, 1)
        self.column.addWidget(self.steps_panel)
        add = QGridLayout()
        add.setSpacing(6)
        makers: tuple[tuple[str, Callable[[], Step]], ...] = (
            ("+ &Join", self._new_join),
            ("+ W&eld", self._new_weld),
            ("+ Thi&cken", self._new_thicken),
            ("+ Smoot&h", self._new_smooth),
            ("+ Brid&ges", self._new_bridges),
            ("+ B&and", lambda: Band(id=free_id("band", self.session.job))),
            ("+ &Round", lambda: RoundCorners(id=free_id("round", self.session.job))),
        )
        for k, (word, make) in enumerate(makers):
            button = QPushButton(word)
            title = word.replace("+ ", "").replace("&", "")
            button.setObjectName(f"add{title}")
            button.setToolTip(f"{title}: {STEP_LINES[title]}")
            button.clicked.connect(lambda _=False, m=make: self._add_step(m))
            add.addWidget(button, k // 2, k % 2)
        self.column.addLayout(add)
        self.bridges = BridgePanel(self.session)
        self.column.addWidget(self.bridges)
        self.joins_title = self.section("How the letters hold")
        self.joins = WrappingList()
        self.joins.setObjectName("joins")
        self.joins.setAccessibleName("Pairs of letters and their necks")
        self.joins.setMinimumHeight(110)
        self.joins.setMaximumHeight(150)
        self.joins.currentRowChanged.connect(self._show_pair)
        self.joins.installEventFilter(self)
        self.column.addWidget(self.joins)
        nudge = QHBoxLayout()
        self.nudge_buttons = []
        for word, name, by in (("‹ Closer", "nudgeCloser", -NUDGE_MM), ("Apart ›", "nudgeApart", NUDGE_MM)):
            button = QPushButton(word)
            button.setObjectName(name)
            button.setToolTip(f"Move the second letter, and what follows, by {NUDGE_MM:g} mm")
            button.clicked.connect(lambda _=False, b=by: self._nudge(b))
            nudge.addWidget(button)
            self.nudge_buttons.append(button)
        self.column.addLayout(nudge)
        tie = QHBoxLayout()
        self.tie_button = QPushButton("&Tie this")
        self.tie_button.setObjectName("tieThis")
        self.tie_button.setToolTip("A small strip of film holds the two letters, or the loose piece, in hand")
        self.tie_button.clicked.connect(lambda _=False: self._tie([self._held_knot()]))
        self.tie_all_button = QPushButton("Tie all that is loose")
        self.tie_all_button.setObjectName("tieAll")
        self.tie_all_button.clicked.connect(lambda _=False: self._tie(self._loose_knots()))
        tie.addWidget(self.tie_button)
        tie.addWidget(self.tie_all_button)
        self.column.addLayout(tie)
        self.weld_all = QCheckBox("Weld all elements of this film together")
        self.weld_all.setObjectName("weldAll")
        self.weld_all.clicked.connect(self._toggle_weld_all)
        self.column.addWidget(self.weld_all)
        self.trouble = self.hint("", "wrong")
        self.column.addStretch()
        self._shown_steps: tuple[Step, ...] | None = None
        self._rows: list[Pair | LooseMark | Crossing] = []
        self._held: tuple[str, int] = ("", -1)
        """Kind and letter of the row in hand, found again when the list is made anew."""
        self.session.insights.changed.connect(lambda name: self._show_joins() if name == "joins" else None)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("shape", "joins")
        super().showEvent(event)
        self._show_joins()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """In the list of pairs the left and right arrow keys move the letter in hand; Shift moves it farther."""
        if watched is self.joins and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            way = {Qt.Key.Key_Left.value: -1.0, Qt.Key.Key_Right.value: 1.0}.get(event.key())
            if way is not None:
                far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self._nudge(way * (FAR_NUDGE_MM if far else NUDGE_MM))
                return True
        return super().eventFilter(watched, event)

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("shape")
        self.pairs_shown.emit([])

    def _show_joins(self) -> None:
        """How the letters of the element in hand hold: what does not hold first."""
        holding = self.session.insights.joins.get(self.session.chosen)
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
            self.joins.addItem(row_words(row, unit))
        self.joins.make_room()
        held = next((k for k, row in enumerate(self._rows) if _row_key(row) == self._held), -1)
        self.joins.setCurrentRow(held)
        self.joins.blockSignals(False)
        self.joins_title.setText(_holding_words(holding, apart))
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
            self.spot_wanted.emit(Finding("note", "look", words, row.at, width=wide))

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
        step = next((s for s in element.steps if isinstance(s, Tie)), None)
        if step is None:
            width = self.session.job.item.layers[0].film.join_neck
            step = Tie(id=free_id("tie", self.session.job), width=width)
            joins = [k for k, s in enumerate(element.steps) if isinstance(s, Join)]
            at = joins[-1] + 1 if joins else 0
            steps = (*element.steps[:at], step, *element.steps[at:])
        else:
            steps = element.steps
        more = replace(step, enabled=True, knots=tuple(dict.fromkeys((*step.knots, *wanted))))
        steps = tuple(more if s is step else s for s in steps)
        self._change_element("Tie on", lambda e: replace(e, steps=steps))

    def show_job(self) -> None:
        job, chosen = self.session.job, self.session.chosen
        elements = job.item.layers[0].elements
        self.element_box.clear()
        for element in elements:
            self.element_box.addItem(element.name.replace("\n", " / "), element.id)
        self.element_box.setCurrentIndex(self.element_box.findData(chosen))
        self.setEnabled(bool(chosen))
        for field in (
            self.left_field,
            self.top_field,
            self.width_field,
            self.height_field,
            self.capital_field,
            self.strip_field,
        ):
            field.set_unit(job.unit)
        self.weld_all.setChecked(any(isinstance(s, Weld) and s.enabled for s in job.item.layers[0].steps))
        if not chosen:
            return
        element = find_element(job, chosen)
        is_words = isinstance(element.source, Words)
        self.turn_field.set_value(element.placement.turn_deg)
        self.spacing_field.set_value(element.source.spacing * 100 if isinstance(element.source, Words) else 0.0)
        show_row(self.spacing_row, visible=is_words)
        show_row(self.capital_row, visible=is_words)
        show_row(self.strip_row, visible=is_words)
        self.heights_line.setVisible(is_words)
        self._show_steps(element)
        self.show_result()

    def show_result(self) -> None:
        result = self.session.result
        if result is None:
            return
        margins = result.margins
        self.left_field.set_value(margins[0] if margins else None)
        self.top_field.set_value(margins[2] if margins else None)
        element = self._element_result()
        box = bounds_of(element.parts) if element else None
        self.width_field.set_value(box[2] - box[0] if box else None)
        self.height_field.set_value(box[3] - box[1] if box else None)
        heights = element.heights if element else NO_HEIGHTS
        self.capital_field.set_value(heights.capital)
        self.strip_field.set_value(heights.strip)
        self.heights_line.setText(heights_words(heights, fine_unit(self.session.job.unit)))
        trouble = " ".join(p.sentence for p in element.problems) if element else ""
        self.trouble.setText(trouble)
        self.trouble.setVisible(bool(trouble))

    def standing(self) -> Standing:
        elements = self.session.job.item.layers[0].elements
        if not elements:
            return Standing("nothing yet", "none")
        steps = [s for e in elements for s in e.steps if s.enabled]
        steps += [s for s in self.session.job.item.layers[0].steps if s.enabled]
        result = self.session.result
        overlap = result is not None and any(f.kind == "overlapping-cuts" for f in result.findings)
        words = "as drawn" if not steps else f"{len(steps)} step" + "s" * (len(steps) > 1)
        return Standing("not welded" if overlap else words, "stop" if overlap else "fine")

    def _element_result(self) -> ElementResult | None:
        result = self.session.result
        if result is None:
            return None
        found = [e for layer in result.layers for e in layer.elements if e.element.id == self.session.chosen]
        return found[0] if found else None

    def _margin(self, axis: int, value: float) -> None:
        result = self.session.result
        if result is None or result.margins is None:
            return
        shift = value - result.margins[0 if axis == 0 else 2]
        job = moved_design(self.session.job, shift if axis == 0 else 0.0, shift if axis == 1 else 0.0)
        self.session.change("Margin", job)

    def _centre(self, *, across: bool, down: bool) -> None:
        result = self.session.result
        if result is None or result.margins is None:
            return
        left, right, top, bottom = result.margins
        dx, dy = ((right - left) / 2 if across else 0.0), ((bottom - top) / 2 if down else 0.0)
        self.session.change("Centre", moved_design(self.session.job, dx, dy))

    def _resize(self, axis: int, value: float) -> None:
        """Scale the chosen element so that its finished box gets the typed size."""
        element = self._element_result()
        box = bounds_of(element.parts) if element else None
        if box is None or element is None:
            return
        has = box[2] - box[0] if axis == 0 else box[3] - box[1]
        factor = value / has

        def resized(e: Element) -> Element:
            place: Placement = e.placement.scaled(factor)
            return replace(e, placement=replace(place, dx=e.placement.dx, dy=e.placement.dy))

        job = self._apart_from_set(element)
        self.session.change("Size of the element", with_element(job, self.session.chosen, resized))

    def _apart_from_set(self, element: ElementResult) -> Job:
        """Words that get a size of their own no longer share one."""
        em = element.element.placement.em
        if shared_of(self.session.job, self.session.chosen) is None or em is None:
            return self.session.job
        return leave_set(self.session.job, self.session.chosen, em)

    def _nudge(self, by: float) -> None:
        """Move the second letter of the pair in hand; moving it back to where it was forgets the nudge."""
        element = find_element(self.session.job, self.session.chosen)
        pair = self._held_row()
        step = next((s for s in reversed(element.steps) if isinstance(s, Join) and s.enabled), None)
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

    def _size_letters(self, which: str, value: float) -> None:
        """The words get capitals, or a strip, of the typed height; they keep it when the words change."""
        element = self._element_result()
        if element is None:
            return
        title = "Height of the capitals" if which == "capital" else "Height of the strip"
        job = self._apart_from_set(element)
        sized = with_element(
            job, self.session.chosen, lambda e: replace(e, placement=e.placement.sized(**{which: value}))
        )
        self.session.change(title, sized)

    def _turn(self, value: float) -> None:
        self._change_element("Turn", lambda e: replace(e, placement=replace(e.placement, turn_deg=value)))

    def _space(self, value: float) -> None:
        def spaced(e: Element) -> Element:
            return replace(e, source=replace(e.source, spacing=value / 100.0)) if isinstance(e.source, Words) else e

        self._change_element("Letter spacing", spaced)

    def _change_element(self, title: str, change: Callable[[Element], Element], *, merge: str = "") -> None:
        if self.session.chosen:
            job = with_element(self.session.job, self.session.chosen, change)
            self.session.change(title, job, merge=f"{merge} {self.session.chosen}" if merge else "")

    # -- steps ----------------------------------------------------------------------

    def _show_steps(self, element: Element) -> None:
        self.bridges.show_element(element)
        clear_layout(self.steps_grid)
        for row, step in enumerate(element.steps):
            tick = QCheckBox(step.TITLE)
            tick.setObjectName(f"step_{step.id}")
            tick.setChecked(step.enabled)
            tick.setToolTip(step.describe())
            tick.clicked.connect(
                lambda on, s=step: self._change_step(f"{s.TITLE} {'on' if on else 'off'}", s, replace(s, enabled=on))
            )
            self.steps_grid.addWidget(tick, row, 0, Qt.AlignmentFlag.AlignTop)
            field = self._step_field(step)
            if field is not None:
                self.steps_grid.addWidget(field, row, 1)
            away = QPushButton("×")
            away.setObjectName(f"remove_{step.id}")
            away.setAccessibleName(f"Remove {step.TITLE}")
            away.setFixedWidth(30)
            away.clicked.connect(lambda _=False, s=step: self._remove_step(s))
            self.steps_grid.addWidget(away, row, 2, Qt.AlignmentFlag.AlignTop)

    def _step_field(self, step: Step) -> NumberField | None:
        """The one length that a step takes, if it takes one."""
        for kind, name, title, may_be_negative in STEP_LENGTHS:
            if isinstance(step, kind):
                field = NumberField(title, f"{name}_{step.id}", positive=not may_be_negative)
                field.set_value(getattr(step, name))
                field.committed.connect(lambda v, n=name, t=title: self._change_step(t, step, replace(step, **{n: v})))
                field.set_unit(self.session.job.unit)
                field.setMaximumWidth(110)
                return field
        return None

    def _new_join(self) -> Step:
        film = self.session.job.item.layers[0].film
        return Join(id=free_id("join", self.session.job), neck=film.join_neck)

    def _new_weld(self) -> Step:
        return Weld(id=free_id("weld", self.session.job))

    def _new_thicken(self) -> Step:
        return Thicken(id=free_id("thicken", self.session.job), by=0.2)

    def _new_smooth(self) -> Step:
        return Smooth(id=free_id("smooth", self.session.job), by=0.15)

    def _new_bridges(self) -> Step:
        return Bridges(id=free_id("bridges", self.session.job), width=usual_bridge_width(self.session.job.item))

    def _add_step(self, make: Callable[[], Step]) -> None:
        step = make()
        self._change_element(step.TITLE, lambda e: replace(e, steps=(*e.steps, step)))

    def _change_step(self, title: str, old: Step, new: Step) -> None:
        self._change_element(title, lambda e: replace(e, steps=tuple(new if s.id == old.id else s for s in e.steps)))

    def _remove_step(self, gone: Step) -> None:
        self._change_element(
            f"Remove {gone.TITLE}", lambda e: replace(e, steps=tuple(s for s in e.steps if s.id != gone.id))
        )

    def _toggle_weld_all(self, on: bool) -> None:
        def changed(layer: Layer) -> Layer:
            rest = tuple(s for s in layer.steps if not isinstance(s, Weld))
            return replace(layer, steps=(*rest, Weld(id="weld-all")) if on else rest)

        self.session.change("Weld all" if on else "Do not weld all", with_layer(self.session.job, changed))


def heights_words(heights: LetterHeights, unit: Unit) -> str:
    """What is measured of the letters beside their capitals."""
    named = (("small letters", heights.small), ("tallest", heights.tallest), ("deepest tail", heights.tail))
    known = [f"{word} {format_length(value, unit)}" for word, value in named if value]
    text = ", ".join(known)
    return text[:1].upper() + text[1:]


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
