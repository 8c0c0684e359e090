"""A set: names on blanks alike, with one size for all, and how each of them comes out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path as FilePath

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.sets import make_set, members_of, names_in_file, names_in_text, shared_of
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.shared_sizes import Member, SetFigures, set_figures
from vivid_thimble.core.job.values import Job, SharedSize, find_element, source_as
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.ranges import Shift
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.desktop.dialogs.working_dialog import WorkingDialog
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.background import Worker
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

MATCHES = (("letters", "Letters of the same size"), ("width", "Words of the same width"))
USUAL_MARGIN_SHARE = 0.1
"""A new set keeps this share of the item's height to the edges."""


@dataclass(frozen=True)
class Verdict:
    """What inspecting one item of the set found."""

    stops: int
    looks: int


class _Reckoner(Worker):
    """Works out a set, then inspects its items one after the other."""

    reckoned = Signal(object)
    inspected = Signal(int, object)

    def __init__(self, job: Job, shared: SharedSize, assets: Mapping[str, bytes], cache: Cache) -> None:
        super().__init__()
        self._job, self._shared, self._assets, self._cache = job, shared, assets, cache

    def work(self) -> None:
        figures = set_figures(self._job, self._shared, self._assets, self._cache)
        self.reckoned.emit(figures)
        for row, member in enumerate(figures.members):
            if self.is_stopped:
                return
            found = evaluate(replace(self._job, at=member.item), self._assets, self._cache).findings
            stops = sum(f.severity == "stop" for f in found)
            self.inspected.emit(row, Verdict(stops, len(found) - stops))


class SetDialog(WorkingDialog):
    """Beside the window: names and rule on top, every item of the set below; a click takes it in hand."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "setDialog", "A set of names", parent)
        self.resize(620, 640)
        self._reckoner: _Reckoner | None = None
        self._waits = self._is_over = False
        self._figures: SetFigures | None = None
        self._verdicts: dict[int, Verdict] = {}
        self._build()
        self._show_rule()
        session.job_changed.connect(self._reckon)
        self._reckon()

    def _build(self) -> None:
        column = QVBoxLayout(self)
        title = PlainLabel(tr("One item for each name, blanks like the one in hand"))
        title.setProperty("role", "section")
        column.addWidget(title)
        top = QHBoxLayout()
        self.names = QPlainTextEdit()
        self.names.setObjectName("setNames")
        self.names.setAccessibleName(tr("Names, one a line"))
        self.names.setPlaceholderText(tr("One name a line: type or paste them"))
        self.names.setTabChangesFocus(True)
        leave_undo_to_the_job(self.names)
        top.addWidget(self.names, 3)
        rule = QGridLayout()
        rule.setVerticalSpacing(7)
        self.match = QComboBox()
        self.match.setObjectName("setMatch")
        for key, word in MATCHES:
            self.match.addItem(tr(word), key)
        self.margin = NumberField("Room to the edges", "setMargin", Shift)
        self.margin.set_unit(self.session.job.unit)
        for row, (word, widget) in enumerate((("All get", self.match), ("Room to the edges", self.margin))):
            label = PlainLabel(tr(word))
            label.setBuddy(widget)
            rule.addWidget(label, row, 0)
            rule.addWidget(widget, row, 1)
        from_file = QPushButton(tr("Names from a file…"))
        from_file.setObjectName("setNamesFile")
        from_file.clicked.connect(lambda _=False: self._choose_file())
        self.apply = QPushButton(tr("Make the set"))
        self.apply.setObjectName("makeSet")
        self.apply.setProperty("role", "main")
        self.apply.clicked.connect(lambda _=False: self._apply())
        rule.addWidget(from_file, 2, 0, 1, 2)
        rule.addWidget(self.apply, 3, 0, 1, 2)
        rule.setRowStretch(4, 1)
        top.addLayout(rule, 2)
        column.addLayout(top, 2)
        self.trouble = PlainLabel()
        self.trouble.setProperty("role", "wrong")
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        column.addWidget(self.trouble)
        self.summary = PlainLabel()
        self.summary.setObjectName("setSummary")
        self.summary.setProperty("role", "section")
        self.summary.setWordWrap(True)
        column.addWidget(self.summary)
        self.list = WrappingList()
        self.list.setObjectName("setMembers")
        self.list.setAccessibleName(tr("Items of the set"))
        self.list.currentRowChanged.connect(self._take_in_hand)
        column.addWidget(self.list, 3)
        foot = QHBoxLayout()
        foot.addStretch()
        close = QPushButton(tr("Close"))
        close.setObjectName("closeSet")
        close.clicked.connect(lambda _=False: self.close())
        foot.addWidget(close)
        column.addLayout(foot)

    def _shared(self) -> SharedSize | None:
        try:
            return shared_of(self.session.job, self._element_id)
        except KeyError:  # the words were taken out of the job
            return None

    def _show_rule(self) -> None:
        """The names and the rule as they stand."""
        job, shared = self.session.job, self._shared()
        if shared is not None:
            elements = [element for _, element in members_of(job, shared)]
            self.match.setCurrentIndex(self.match.findData(shared.match))
            self.margin.set_value(shared.margin)
        else:
            elements = [find_element(job, self._element_id)]
            self.margin.set_value(USUAL_MARGIN_SHARE * job.item.height)
        names = [words.text.replace("\n", " ") for e in elements if (words := source_as(e, Words)) is not None]
        self.names.setPlainText("\n".join(names))
        self.apply.setText(tr("Make the set" if shared is None else "Change the set"))

    def _choose_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("Names from a file"), "", tr("Lists of names (*.txt *.csv *.tsv);;All files (*)")
        )
        if name:
            self.add_names_file(FilePath(name))

    def add_names_file(self, path: FilePath) -> None:
        """Put the names of a file below those that are there."""
        try:
            names = names_in_file(path)
        except ThimbleError as error:
            self._tell(str(error))
            return
        self._tell("")
        present = [line for line in self.names.toPlainText().splitlines() if line.strip()]
        self.names.setPlainText("\n".join([*present, *names]))

    def _apply(self) -> None:
        job, margin = self.session.job, self.margin.value
        try:
            names = names_in_text(self.names.toPlainText())
            made = make_set(job, self._element_id, names, self.match.currentData(), margin or 0.0)
        except (ThimbleError, KeyError) as error:
            self._tell(str(error) if isinstance(error, ThimbleError) else "These words are no longer in the job.")
            return
        self._tell("")
        self.session.change("A set of names", made)
        self._show_rule()

    def _tell(self, sentence: str) -> None:
        self.trouble.setText(tr(sentence))
        self.trouble.setVisible(bool(sentence))

    @property
    def is_reckoning(self) -> bool:
        return self._waits or (self._reckoner is not None and self._reckoner.isRunning())

    def _reckon(self) -> None:
        """Work the set out anew; the newest state of the job wins."""
        shared = self._shared()
        if shared is None:
            self.summary.setText(tr("No set yet. The words in hand give face, steps and film to all."))
            self.list.clear()
            return
        if self._reckoner is not None and self._reckoner.isRunning():
            self._reckoner.is_stopped = True
            self._waits = True
            return
        self.summary.setText(tr(self.summary.text() or "Working it out…"))
        self._reckoner = _Reckoner(self.session.job, shared, dict(self.session.assets), self.session.cache)
        self._reckoner.reckoned.connect(self._take_figures)
        self._reckoner.inspected.connect(self._take_verdict)
        self._reckoner.finished.connect(self._reckoned)
        self._reckoner.start()

    def _reckoned(self) -> None:
        if self._waits and not self._is_over:
            self._waits = False
            self._reckon()

    def _take_figures(self, figures: SetFigures) -> None:
        self._figures, self._verdicts = figures, {}
        self.summary.setText(tr(set_words(figures, self.session.job.unit)))
        self._fill()

    def _take_verdict(self, row: int, verdict: Verdict) -> None:
        self._verdicts[row] = verdict
        entry = self.list.item(row)
        if entry is not None and self._figures is not None:
            entry.setText(self._line(row, self._figures.members[row]))

    def _fill(self) -> None:
        assert self._figures is not None
        self.list.blockSignals(True)
        self.list.clear()
        for row, member in enumerate(self._figures.members):
            self.list.addItem(self._line(row, member))
            if member.item == self.session.job.at:
                self.list.setCurrentRow(row)
        self.list.make_room()
        self.list.blockSignals(False)

    def _line(self, row: int, member: Member) -> str:
        assert self._figures is not None
        unit = fine_unit(self.session.job.unit)
        size = f"{format_length(member.width, unit, with_unit=False)} × {format_length(member.height, unit)}"
        capital = f", capitals {format_length(member.capital, unit)}" if member.capital else ""
        decides = self._figures.deciding is not None and self._figures.deciding.id == member.element.id
        verdict = self._verdicts.get(row)
        words = "…" if verdict is None else verdict_words(verdict)
        return f"{row + 1}   {member.element.name}:  {size}{capital}  ·  {words}{'   ◂ decides' if decides else ''}"

    def _take_in_hand(self, row: int) -> None:
        if self._figures is not None and 0 <= row < len(self._figures.members):
            member = self._figures.members[row]
            self.session.hold_item(member.item)
            self.session.choose(member.element.id)

    def stop(self) -> None:
        """End the reckoning."""
        if self._is_over:
            return
        self._is_over = True
        self.session.job_changed.disconnect(self._reckon)
        if self._reckoner is not None:
            self._waits = False
            self._reckoner.stop()


def verdict_words(verdict: Verdict) -> str:
    if verdict.stops:
        return f"{verdict.stops} to mend"
    return f"{verdict.looks} to look at" if verdict.looks else "clean"


def set_words(figures: SetFigures, unit: Unit) -> str:
    """One sentence: what is shared, and which word allows no more."""
    if figures.deciding is None or not figures.members:
        return "None of these words can be set: choose another face."
    unit = fine_unit(unit)
    first, count = figures.members[0], len(figures.members)
    if figures.shared.match == "width":
        least = min(member.width for member in figures.members)
        what = f"{count} words {format_length(least, unit)} wide"
    elif first.capital:
        what = f"{count} words with capitals {format_length(first.capital, unit)} high"
    else:
        what = f"{count} words in one size"
    side = "wide" if figures.limit == "width" else "high"
    share = "" if abs(figures.shared.share - 1.0) < 1e-6 else f", at {figures.shared.share:.0%} of what fits"
    return f"{what}{share}: “{figures.deciding.name}” decides, it is as {side} as its item allows."
