"""Whether the design fits: item, carrier, squeegee, side; and how long weeding will take."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QPushButton

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.finish.effort import Effort
from vivid_thimble.core.job.values import Job, mirror_reason
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.room.thing import measured_from, size_in_words
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import WEEDING
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, set_role

SQUEEGEE = ("squeegee-too-wide", "two-pulls")


class FitPage(Panel):
    """``true_size_wanted`` asks for the table at true size."""

    true_size_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.section("On the item")
        self.item_line, self.margin_line = self.hint(), self.hint()
        self.true_size = QPushButton(tr("True size, beside a rule and a coin"))
        self.true_size.setObjectName("seeTrueSize")
        self.true_size.clicked.connect(lambda _=False: self.true_size_wanted.emit())
        self.column.addWidget(self.true_size)
        self.section("In the cutter")
        self.carrier_line, self.mirror_line = self.hint(), self.hint()
        self.squeegee_line = self.hint()
        self.section("Weeding forecast")
        self.effort_line, self.order_line = self.hint(), self.hint()
        self.column.addStretch()
        session.insights.changed.connect(self._take_insight)

    def showEvent(self, event: QShowEvent) -> None:
        self.session.insights.want("fit page", WEEDING)
        self.show_result()

    def hideEvent(self, event: QHideEvent) -> None:
        self.session.insights.want("fit page")

    def _take_insight(self, insight: object) -> None:
        if insight is WEEDING:
            self.show_result()

    def show_result(self) -> None:
        job, result = self.session.job, self.session.result
        if result is None or result.margins is None or result.size is None:
            for line in (self.margin_line, self.carrier_line, self.mirror_line, self.effort_line, self.order_line):
                line.setText("")
            self.item_line.setText(tr("Nothing to place yet."))
            return
        self._show_fit(job, result)
        plans = self.session.insights.of(WEEDING)
        if plans is None:
            self.effort_line.setText(tr("Working it out…"))
            self.order_line.setText("")
            return
        effort = Effort.together(plan.effort for plan in plans)
        self.effort_line.setText(tr(effort.in_words()))
        self.effort_line.setToolTip(
            "\n".join(f"{s.what}: {s.count:.4g}, {s.seconds / 60:.1f} min" for s in effort.shares)
        )
        self.order_line.setText(tr(plans[0].reason))

    def _show_fit(self, job: Job, result: ItemResult) -> None:
        unit = job.unit
        assert result.size is not None and result.margins is not None
        item = job.item
        design = f"{format_length(result.size[0], unit, with_unit=False)} × {format_length(result.size[1], unit)}"
        self.item_line.setText(tr(f"{design} on {tr(size_in_words(item, unit))}, tails included"))
        left, right, top, bottom = (format_length(m, unit) for m in result.margins)
        from_edges = f"From its edges: left {left}, right {right}, above {top}, below {bottom}."
        self.margin_line.setText(" ".join(tr(one) for one in (from_edges, measured_from(item)) if one))
        set_role(self.margin_line, "wrong" if min(result.spare or (0.0,)) < -1e-6 else "hint")
        beyond = [f for f in result.findings if f.kind == "beyond-carrier"]
        self.carrier_line.setText(
            tr(beyond[0].message if beyond else Message.of("Fits {name}", name=Said(job.carrier.name)))
        )
        set_role(self.carrier_line, "wrong" if beyond else "hint")
        self.mirror_line.setText(tr(mirror_reason(item) or "Cut as it reads: not mirrored."))
        notes = [f.message for f in result.findings if f.kind in SQUEEGEE]
        self.squeegee_line.setText(" ".join(tr(note) for note in notes))
        self.squeegee_line.setVisible(bool(notes))
