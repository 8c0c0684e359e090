"""Inspect: what would go wrong if this were cut now, at this size."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.desktop.marks import KIND_WORDS, draw_tag
from vivid_thimble.desktop.remedies import REMEDY_WORDS, remedies_for
from vivid_thimble.desktop.stations.station import Station, clear_layout
from vivid_thimble.desktop.theme import PALETTES
from vivid_thimble.desktop.work_path import Standing

TAG_ROOM = 62
"""Pixels beside a finding's text: its tag and the margins."""


class InspectStation(Station):
    KEY, TITLE = "inspect", "Inspect"
    QUESTION = "What would go wrong if this were cut now, at this size?"
    remedy_wanted = Signal(str, object)

    def build(self) -> None:
        self.verdict = self.hint("", "fine")
        self.list = QListWidget()
        self.list.setObjectName("findings")
        self.list.setAccessibleName("Findings")
        self.list.setWordWrap(True)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.list.setIconSize(QSize(34, 28))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._chosen)
        self.column.addWidget(self.list, 1)
        walk = QHBoxLayout()
        for word, name, step, key in (
            ("‹ &Previous", "previousFinding", -1, "Shift+F8"),
            ("&Next ›", "nextFinding", 1, "F8"),
        ):
            button = QPushButton(word)
            button.setObjectName(name)
            button.setToolTip(key)
            button.clicked.connect(lambda _=False, s=step: self.step(s))
            walk.addWidget(button)
        self.column.addLayout(walk)
        self.why = self.hint()
        self.remedy_row = QHBoxLayout()
        self.column.addLayout(self.remedy_row)
        self._findings: tuple[Finding, ...] = ()

    def show_result(self) -> None:
        result = self.session.result
        self._findings = result.findings if result else ()
        row = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        number = 0
        for finding in self._findings:
            number += finding.at is not None
            where = f"  ({finding.belongs_to})" if finding.belongs_to else ""
            entry = QListWidgetItem(_tag_icon(finding, number if finding.at else 0), f"{finding.sentence}{where}")
            entry.setSizeHint(self._room_for(entry.text()))
            self.list.addItem(entry)
        self.list.setCurrentRow(min(row, len(self._findings) - 1))
        self.list.blockSignals(False)
        stops = sum(1 for f in self._findings if f.severity == "stop")
        looks = len(self._findings) - stops
        if result is None or result.bounds is None:
            self._say("Nothing to inspect yet.", "hint")
        elif stops:
            self._say(f"Do not cut yet: {stops} to mend" + (f", {looks} to look at." if looks else "."), "stop")
        elif looks:
            self._say(f"It can be cut; {looks} to look at first.", "fine")
        else:
            self._say("Clean: nothing tears, closes, falls out or runs over.", "fine")
        self._show_remedies()

    def _room_for(self, text: str) -> QSize:
        """Height for the wrapped text; the list's own guess forgets the tag beside it."""
        width = max(self.list.viewport().width() - TAG_ROOM, 120)
        box = self.list.fontMetrics().boundingRect(0, 0, width, 1000, Qt.TextFlag.TextWordWrap, text)
        return QSize(width, max(box.height() + 12, 36))

    def standing(self) -> Standing:
        result = self.session.result
        if result is None or result.bounds is None:
            return Standing("nothing yet", "none")
        stops = sum(1 for f in result.findings if f.severity == "stop")
        looks = len(result.findings) - stops
        if stops:
            return Standing(f"{stops} to mend", "stop")
        return Standing(f"{looks} to look at", "look") if looks else Standing("clean", "fine")

    def step(self, by: int) -> None:
        """To the next or previous finding, round and round."""
        if self._findings:
            self.list.setCurrentRow((self.list.currentRow() + by) % len(self._findings))

    def hold(self, index: int) -> None:
        """Select a finding from outside."""
        self.list.setCurrentRow(index)

    def _chosen(self, row: int) -> None:
        self._show_remedies()
        if row >= 0:
            self.finding_chosen.emit(row)

    def _say(self, text: str, role: str) -> None:
        self.verdict.setText(text)
        self.verdict.setProperty("role", role)
        self.verdict.style().polish(self.verdict)

    def _show_remedies(self) -> None:
        clear_layout(self.remedy_row)
        row = self.list.currentRow()
        self.why.setText("")
        if not 0 <= row < len(self._findings):
            return
        finding = self._findings[row]
        self.why.setText(
            KIND_WORDS[finding.kind]
            + (f", limit {finding.limit:g} mm" if finding.limit and finding.width is not None else "")
        )
        for remedy in remedies_for(self.session.job, self.session.result, finding):
            button = QPushButton(REMEDY_WORDS[remedy])
            button.setObjectName(f"remedy_{remedy}")
            button.setProperty("role", "main")
            button.clicked.connect(lambda _=False, r=remedy, f=finding: self.remedy_wanted.emit(r, f))
            self.remedy_row.addWidget(button)


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
