"""Guides by typing: where each lies, in the user's unit."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Guide
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.ranges import Shift
from vivid_thimble.core.room.thing import thing_box
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import push_button
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog

FROM = (("left", "from the left edge"), ("right", "from the right edge"), ("top", "from the upper edge"),
        ("bottom", "from the lower edge"))  # fmt: skip


class GuidesDialog(QuietDialog):
    """A list of the guides of the item in hand; one is added by a length and an edge."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Guides"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(420, 320)
        self._session = session
        whole, row, below = QVBoxLayout(self), QHBoxLayout(), QHBoxLayout()
        line = PlainLabel(
            tr("Things snap to guides. They can be pulled out of the rulers as well, and put back there.")
        )
        line.setWordWrap(True)
        self.length = NumberField("Where the guide lies", "guideLength", Shift)
        self.edge = QComboBox()
        self.edge.setObjectName("guideEdge")
        self.edge.setAccessibleName(tr("From which edge"))
        for key, word in FROM:
            self.edge.addItem(tr(word), key)
        add = push_button("&Add", "addGuide", self._add)
        row.addWidget(self.length, 1)
        row.addWidget(self.edge)
        row.addWidget(add)
        self.list = QListWidget()
        self.list.setObjectName("guideList")
        self.list.setAccessibleName(tr("Guides of the item"))
        self.remove_button = push_button("&Take it away", "removeGuide", self._remove)
        below.addWidget(self.remove_button)
        below.addStretch()
        below.addWidget(push_button("Close", "closeGuides", self.close))
        whole.addWidget(line)
        whole.addLayout(row)
        whole.addWidget(self.list, 1)
        whole.addLayout(below)
        session.job_changed.connect(self._show)
        self._show()

    def _show(self) -> None:
        job = self._session.job
        self.length.set_unit(job.unit)
        held = self.list.currentRow()
        self.list.clear()
        for guide in job.item.guides:
            side = "left" if guide.axis == 0 else "top"
            kind = "Upright" if guide.axis == 0 else "Level"
            away = guide.at - thing_box(job.item)[guide.axis]
            self.list.addItem(tr(f"{kind}, {format_length(away, job.unit)} from the {side}"))
        self.list.setCurrentRow(min(max(held, 0), self.list.count() - 1))
        self.remove_button.setEnabled(self.list.count() > 0)

    def _add(self) -> None:
        self.length.commit()
        value = self.length.value
        if value is None or self.length.is_wrong():
            return
        item = self._session.job.item
        edge = self.edge.currentData()
        axis = 0 if edge in ("left", "right") else 1
        near, far = thing_box(item)[axis::2]
        guide = Guide(axis=axis, at=far - value if edge in ("right", "bottom") else near + value)
        if guide not in item.guides:
            self._change((*item.guides, guide))

    def _remove(self) -> None:
        row = self.list.currentRow()
        guides = self._session.job.item.guides
        if 0 <= row < len(guides):
            self._change(guides[:row] + guides[row + 1 :])

    def _change(self, guides: tuple[Guide, ...]) -> None:
        job = with_item(self._session.job, lambda item: replace(item, guides=guides))
        self._session.change("Guides", job)
