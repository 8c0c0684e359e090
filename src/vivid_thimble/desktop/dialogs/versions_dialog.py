"""What changed since the job was saved, and its earlier versions."""

from __future__ import annotations

import time
from pathlib import Path as FilePath

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.folders import versions_folder
from vivid_thimble.core.job.changes import what_changed
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.storage.project import open_project
from vivid_thimble.core.storage.versions import KeptVersion, versions_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog


class VersionsDialog(QuietDialog):
    """A list of states with what differs from the job as it is now. ``open_wanted``: the file to open as a new job."""

    open_wanted = Signal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Changes and earlier versions"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(660, 440)
        self._session = session
        self._states: list[tuple[str, FilePath | None]] = []
        whole, lists = QVBoxLayout(self), QHBoxLayout()
        self.states = QListWidget()
        self.states.setObjectName("versionStates")
        self.states.setAccessibleName(tr("As saved, and earlier versions"))
        self.changes = QListWidget()
        self.changes.setObjectName("versionChanges")
        self.changes.setAccessibleName(tr("What differs from the job as it is now"))
        self.changes.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        lists.addWidget(self.states, 2)
        lists.addWidget(self.changes, 3)
        self.line = PlainLabel()
        self.line.setObjectName("versionLine")
        self.line.setWordWrap(True)
        whole.addWidget(self.line)
        whole.addLayout(lists, 1)
        row = QHBoxLayout()
        self.open_button = QPushButton(tr("&Open this one as a new job"))
        self.open_button.setObjectName("openVersion")
        self.open_button.clicked.connect(lambda _=False: self._open())
        close = QPushButton(tr("Close"))
        close.clicked.connect(self.close)
        row.addWidget(self.open_button)
        row.addStretch()
        row.addWidget(close)
        whole.addLayout(row)
        self._fill()
        self.states.currentRowChanged.connect(lambda _: self._show())
        self.states.setCurrentRow(0)
        self._show()

    def _fill(self) -> None:
        path = self._session.path
        if self._session.saved_job is not None and path is not None:
            self._states.append(("As it was saved last", None))
        kept = versions_of(path, versions_folder()) if path is not None else []
        self._states += [(_when(one), one.path) for one in kept]
        for words, _ in self._states:
            self.states.addItem(QListWidgetItem(tr(words)))

    def _show(self) -> None:
        self.changes.clear()
        row = self.states.currentRow()
        self.open_button.setEnabled(row >= 0 and self._states[row][1] is not None)
        if row < 0:
            self.line.setText(
                tr("This job was never saved: save it, and every later save keeps what was there before.")
            )
            return
        try:
            before = self._job_of(row)
        except ThimbleError as error:
            self.line.setText(str(error))
            return
        told = what_changed(before, self._session.job)
        self.changes.addItems(told)
        self.line.setText(tr(f"{len(told)} differences to the job as it is now." if told else "It is the same as now."))

    def _job_of(self, row: int) -> Job:
        path = self._states[row][1]
        if path is not None:
            return open_project(path)[0]
        assert self._session.saved_job is not None
        return self._session.saved_job

    def _open(self) -> None:
        path = self._states[self.states.currentRow()][1]
        if path is not None:
            self.close()
            self.open_wanted.emit(path)


def _when(kept: KeptVersion) -> str:
    return time.strftime("%d %B %Y, %H:%M:%S", time.localtime(kept.saved_s))
