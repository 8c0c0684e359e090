"""The findings as a list to sort and walk through, and the remedies of the one in hand."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from vivid_thimble.core.edits.remedies import REMEDY_LINES, judged_again, let_be, remedies_for, remedy_words, serves_all
from vivid_thimble.core.inspect.findings import Accepted, Finding
from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.desktop.look.marks import draw_tag
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, clear_layout, set_role
from vivid_thimble.desktop.widgets.undo_keys import leave_undo_to_the_job
from vivid_thimble.desktop.widgets.wrapping_list import WrappingList

ORDERS = (
    ("worst", "What stops first"),
    ("kind", "Grouped by kind"),
    ("letter", "Grouped by letter"),
    ("across", "Left to right"),
)
INDEX = Qt.ItemDataRole.UserRole
ACCEPTED = Qt.ItemDataRole.UserRole + 1


class FindingsPage(Panel):
    """``chosen`` tells which finding is in hand, ``remedy_wanted`` a remedy for it, ``all_wanted`` one for all of its
    kind, ``preview_wanted`` one to be shown before it is applied (empty: none)."""

    chosen = Signal(int)
    remedy_wanted = Signal(str, object)
    all_wanted = Signal(str, object)
    preview_wanted = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.verdict = self.hint("", "fine")
        self.order = self.choice("findingOrder", ORDERS, lambda _: self._fill(self.current))
        self.row("&Order", self.order)
        self.list = WrappingList()
        self.list.setObjectName("findings")
        self.list.setAccessibleName(tr("Findings"))
        self.list.setIconSize(QSize(34, 28))
        self.list.setMinimumHeight(150)
        self.list.currentRowChanged.connect(self._row_chosen)
        self.column.addWidget(self.list, 1)
        walk = QHBoxLayout()
        for word, name, step, key in (
            ("‹ &Previous", "previousFinding", -1, "Shift+F8"),
            ("&Next ›", "nextFinding", 1, "F8"),
        ):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.setToolTip(key)
            button.clicked.connect(lambda _=False, s=step: self.step(s))
            walk.addWidget(button)
        self.column.addLayout(walk)
        self.why = self.hint()
        self.remedy_column = QVBoxLayout()
        self.remedy_column.setSpacing(5)
        self.column.addLayout(self.remedy_column)
        self._build_letting_be()
        self._findings: tuple[Finding, ...] = ()
        self._accepted: tuple[tuple[Finding, Accepted], ...] = ()

    def _build_letting_be(self) -> None:
        """A reason to type, for findings that are fine as they are."""
        self.be_row = QWidget()
        row = QHBoxLayout(self.be_row)
        row.setContentsMargins(0, 0, 0, 0)
        self.reason = QLineEdit()
        self.reason.setObjectName("letBeReason")
        self.reason.setAccessibleName(tr("Why it may stay as it is"))
        self.reason.setPlaceholderText(tr("Fine as it is, because…"))
        self.reason.returnPressed.connect(self._let_be)
        leave_undo_to_the_job(self.reason)
        self.be_button = QPushButton(tr("&Let it be"))
        self.be_button.setObjectName("letBe")
        self.be_button.setToolTip(tr("It is not told any more unless it gets worse; the reason stays in the job"))
        self.be_button.clicked.connect(lambda _=False: self._let_be())
        row.addWidget(self.reason, 1)
        row.addWidget(self.be_button)
        self.column.addWidget(self.be_row)
        self.be_all = QCheckBox()
        self.be_all.setObjectName("letBeAll")
        self.column.addWidget(self.be_all)
        self.again_button = QPushButton(tr("&Judge it again"))
        self.again_button.setObjectName("judgeAgain")
        self.again_button.clicked.connect(lambda _=False: self._judge_again())
        self.column.addWidget(self.again_button)

    def _let_be(self) -> None:
        result = self.session.result
        if result is None or not 0 <= self.current < len(self._findings):
            return
        finding = self._findings[self.current]
        alike = [one for one in self._findings if one.kind == finding.kind]
        chosen = alike if self.be_all.isChecked() else [finding]
        reason = self.reason.text().strip() or "looked at, and fine"
        self.reason.clear()
        self.session.change("Let it be", let_be(self.session.job, result, chosen, reason))

    def _judge_again(self) -> None:
        number = self._held_accepted()
        if number >= 0:
            self.session.change("Judge it again", judged_again(self.session.job, self._accepted[number][1]))

    def _held_accepted(self) -> int:
        entry = self.list.currentItem()
        number = entry.data(ACCEPTED) if entry is not None else None
        return -1 if number is None or number >= len(self._accepted) else int(number)

    @property
    def current(self) -> int:
        """Which finding is in hand, -1 for none."""
        entry = self.list.currentItem()
        index = entry.data(INDEX) if entry is not None else None
        return -1 if index is None else int(index)

    def show_findings(
        self, findings: tuple[Finding, ...], accepted: tuple[tuple[Finding, Accepted], ...] = (), *, is_empty: bool
    ) -> None:
        held = self.current
        self._findings, self._accepted = findings, accepted
        self._fill(min(held, len(findings) - 1))
        self._say_verdict(is_empty=is_empty)

    def step(self, by: int) -> None:
        """To the next or previous finding of the list, round and round."""
        rows = [row for row in range(self.list.count()) if self.list.item(row).data(INDEX) is not None]
        if rows:
            now = self.list.currentRow()
            later = [row for row in rows if row > now] if by > 0 else [row for row in reversed(rows) if row < now]
            self.list.setCurrentRow(later[0] if later else rows[0] if by > 0 else rows[-1])

    def hold(self, index: int) -> None:
        """Take a finding in hand."""
        for row in range(self.list.count()):
            if self.list.item(row).data(INDEX) == index:
                self.list.setCurrentRow(row)
                return
        self.list.setCurrentRow(-1)

    def _fill(self, held: int) -> None:
        placed = [k for k, finding in enumerate(self._findings) if finding.at is not None]
        numbers = {k: n + 1 for n, k in enumerate(placed)}
        self.list.blockSignals(True)
        self.list.clear()
        for head, members in _groups(self._findings, self.order.currentData()):
            if head:
                self._add_head(f"{head} ({len(members)})")
            for k in members:
                finding = self._findings[k]
                where = f"  ({finding.belongs_to})" if finding.belongs_to else ""
                entry = QListWidgetItem(_tag_icon(finding, numbers.get(k, 0)), f"{tr(finding.message)}{where}")
                entry.setData(INDEX, k)
                self.list.addItem(entry)
        if self._accepted:
            self._add_head(tr(f"Let be ({len(self._accepted)})"))
        for k, (finding, one) in enumerate(self._accepted):
            told = Message.of("{told}  Let be: {reason}", told=finding.message, reason=Said(one.reason))
            entry = QListWidgetItem(tr(told))
            entry.setData(ACCEPTED, k)
            self.list.addItem(entry)
        self.list.make_room()
        self.hold(held)
        self.list.blockSignals(False)
        self._show_remedies()

    def _add_head(self, text: str) -> None:
        entry = QListWidgetItem(text)
        entry.setFlags(Qt.ItemFlag.NoItemFlags)
        font = entry.font()
        font.setBold(True)
        entry.setFont(font)
        self.list.addItem(entry)

    def _row_chosen(self, row: int) -> None:
        self._show_remedies()
        if self.current >= 0:
            self.chosen.emit(self.current)

    def _say_verdict(self, *, is_empty: bool) -> None:
        stops = sum(1 for f in self._findings if f.severity == "stop")
        looks = len(self._findings) - stops
        text, role = "Clean: nothing tears, closes, falls out or runs over.", "fine"
        if is_empty:
            text, role = "Nothing to inspect yet.", "hint"
        elif stops:
            text, role = f"Do not cut yet: {stops} to mend" + (f", {looks} to look at." if looks else "."), "stop"
        elif looks:
            text = f"It can be cut; {looks} to look at first."
        self.verdict.setText(tr(text))
        set_role(self.verdict, role)

    def _show_remedies(self) -> None:
        clear_layout(self.remedy_column)
        self.preview_wanted.emit("", None)
        self.why.setText("")
        is_held = 0 <= self.current < len(self._findings)
        self.again_button.setVisible(self._held_accepted() >= 0)
        may_be = is_held and self._findings[self.current].matter.may_be_accepted
        self.be_row.setVisible(may_be)
        alike = sum(1 for one in self._findings if is_held and one.kind == self._findings[self.current].kind)
        self.be_all.setVisible(may_be and alike > 1)
        self.be_all.setText(tr(f"And all {alike} like it, for the same reason"))
        if not is_held:
            return
        finding = self._findings[self.current]
        self.why.setText(tr(_facts(finding, self.session)))
        job, result = self.session.job, self.session.result
        films = self.session.films_at_hand
        for k, remedy in enumerate(remedies_for(job, result, finding, films)):
            button = QPushButton(remedy_words(job, finding, remedy, films))
            button.setObjectName(f"remedy_{remedy}")
            button.setToolTip(tr(REMEDY_LINES[remedy]))
            if k == 0:
                button.setProperty("role", "main")
            button.clicked.connect(lambda _=False, r=remedy, f=finding: self.remedy_wanted.emit(r, f))
            button.installEventFilter(self)
            button.setProperty("remedy", remedy)
            self.remedy_column.addWidget(self._with_all(button, finding, remedy, alike))

    def _with_all(self, button: QPushButton, finding: Finding, remedy: str, alike: int) -> QWidget:
        """The button alone, or with one beside it that does the same for all findings of this kind."""
        if alike < 2 or not serves_all(self.session.job, remedy):
            return button
        both = QWidget()
        row = QHBoxLayout(both)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        row.addWidget(button, 1)
        every = QPushButton(tr(f"All {alike}"))
        every.setObjectName(f"remedyAll_{remedy}")
        every.setToolTip(tr(f"The same for all {alike} like it"))
        every.setAccessibleName(tr(f"{button.text()}, for all {alike} like it"))
        every.clicked.connect(lambda _=False: self.all_wanted.emit(remedy, finding))
        row.addWidget(every)
        return both

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A remedy is shown on the table while its button has the pointer or the keyboard."""
        remedy = watched.property("remedy")
        if remedy and 0 <= self.current < len(self._findings):
            if event.type() in (QEvent.Type.Enter, QEvent.Type.FocusIn):
                self.preview_wanted.emit(remedy, self._findings[self.current])
            elif event.type() in (QEvent.Type.Leave, QEvent.Type.FocusOut, QEvent.Type.Hide):
                self.preview_wanted.emit("", None)
        return super().eventFilter(watched, event)


def _facts(finding: Finding, session: Session) -> str:
    """Kind, figure and limit in the user's unit."""
    unit = fine_unit(session.job.unit)
    facts = [finding.matter.word]
    if finding.width is not None and finding.limit is not None and finding.area is None:
        facts.append(f"{format_length(finding.width, unit)}, the film bears {format_length(finding.limit, unit)}")
    if not finding.cured_by_size:
        facts.append("no size cures it")
    return " · ".join(facts)


def _groups(findings: Sequence[Finding], order: str) -> list[tuple[str, list[int]]]:
    """Headings (empty: none) with the findings under each, as indices."""
    indices = list(range(len(findings)))
    if order == "across":
        indices.sort(key=lambda k: findings[k].at or (-1.0, 0.0))
    if order not in ("kind", "letter"):
        return [("", indices)]
    groups: dict[str, list[int]] = {}
    for k in indices:
        finding = findings[k]
        name = tr(finding.matter.word) if order == "kind" else finding.belongs_to or tr("The whole design")
        groups.setdefault(name, []).append(k)
    if order == "letter":
        return sorted(groups.items())
    return list(groups.items())


def _tag_icon(finding: Finding, number: int) -> QIcon:
    palette = PALETTES["day"]
    pixmap = QPixmap(34, 28)
    pixmap.fill(QColor(0, 0, 0, 0))
    with QPainter(pixmap) as painter:
        painter.translate(17, 14)
        if number:
            draw_tag(painter, QPointF(0, 0), number, finding, palette, held=False)
        else:
            painter.setPen(QColor(palette.look))
            painter.drawText(pixmap.rect().translated(-17, -14), Qt.AlignmentFlag.AlignCenter, "…")
    return QIcon(pixmap)
