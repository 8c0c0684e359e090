"""Unsaved work survives a crash: a journal of the job, written shortly after each edit."""

from __future__ import annotations

import contextlib
import logging
import os
from collections.abc import Sequence
from pathlib import Path as FilePath

from PySide6.QtCore import QObject, QTimer, Signal

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.project import ENDING, project_bytes
from vivid_thimble.desktop.session import Session

log = logging.getLogger(__name__)
WRITE_AFTER_MS = 1500
THROWN = ".thrown-away"


class Recovery(QObject):
    """Keeps one journal file for this run; a left-over of a run that is gone can be offered."""

    trouble = Signal(str)
    """A sentence, once, when the job cannot be kept safe for a crash."""

    def __init__(self, folder: FilePath, parent: QObject | None = None, name: str = "") -> None:
        """``name``: of the journal, beginning with the number of the process; another window has another one."""
        super().__init__(parent)
        self._folder = folder
        self._path = folder / f"{name or os.getpid()}{ENDING}"
        self._told = False
        self._session: Session | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.write)

    def left_over(self) -> list[FilePath]:
        """The journals of runs that did not end well, the newest first."""
        if not self._folder.is_dir():
            return []
        orphans = [p for p in self._folder.glob(f"*{ENDING}") if p != self._path and not _is_running(p.stem)]
        return sorted(orphans, key=lambda p: p.stat().st_mtime, reverse=True)

    def take_over(self, path: FilePath) -> None:
        """The job of another run's journal is open now: it goes when ours is written."""
        self._timer.stop()
        if self.write():
            self.discard(path)

    def job_changed(self, session: Session) -> None:
        self._session = session
        if session.is_saved:
            self.saved()
        elif not self._timer.isActive():
            self._timer.start(WRITE_AFTER_MS)

    def write(self) -> bool:
        """Write the journal now; whether the job in hand stands in it."""
        if self._session is None or self._session.is_saved:
            return False
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomically(self._path, project_bytes(self._session.job, self._session.assets))
        except (OSError, ThimbleError) as error:
            log.info("the recovery journal could not be written: %s", error)
            if not self._told:
                self._told = True
                self.trouble.emit(f"This job cannot be kept safe for a crash just now: save it yourself. {error}")
            return False
        return True

    def saved(self) -> None:
        """The job is safe elsewhere: the journal goes."""
        self._timer.stop()
        self.discard(self._path)

    def discard(self, path: FilePath) -> None:
        with contextlib.suppress(OSError):
            path.unlink()

    def throw_away(self, paths: Sequence[FilePath]) -> list[FilePath]:
        """Journals that nobody wants are not offered any more. They can be brought back until the next ones go.

        Raises OSError when the folder cannot be written.
        """
        for old in self._folder.glob(f"*{THROWN}"):
            self.discard(old)
        return [path.replace(path.with_suffix(THROWN)) for path in paths]

    def bring_back(self, thrown: Sequence[FilePath]) -> list[FilePath]:
        return [path.replace(path.with_suffix(ENDING)) for path in thrown]


def _is_running(stem: str) -> bool:
    number = stem.partition("-")[0]
    if not number.isdigit():
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
