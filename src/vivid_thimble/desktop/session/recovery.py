"""Unsaved work survives a crash: a journal of the job, written shortly after each edit, beside the window's work."""

from __future__ import annotations

import contextlib
import fcntl
import logging
import os
import stat
import threading
from collections.abc import Sequence
from functools import partial
from pathlib import Path as FilePath

from PySide6.QtCore import QObject, QTimer, Signal

from vivid_thimble.core.files import private_folder, write_atomically
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.storage.project import ENDING, project_bytes
from vivid_thimble.desktop.session.background import Background
from vivid_thimble.desktop.session.session import Session

log = logging.getLogger(__name__)
WRITE_AFTER_MS = 1500
WAITS_S = 0.2
"""So long a window that closes waits for a journal that is just being written, lest it stay behind."""
THROWN, LOCK = ".thrown-away", ".lock"


class Recovery(QObject):
    """Keeps one journal file for this run; a left-over of a run that is gone can be offered."""

    trouble = Signal(str)
    """A sentence, once, when the job cannot be kept safe for a crash."""

    def __init__(self, folder: FilePath, parent: QObject | None = None, name: str = "") -> None:
        """``name``: of the journal; another window has another one."""
        super().__init__(parent)
        self._folder = folder
        self._path = _free(folder, name or str(os.getpid()))
        self._lock: int | None = None
        self._told = False
        self._session: Session | None = None
        self._background = Background(self)
        self._writing = threading.Lock()
        self._wanted = 0
        """The number of the journal that is wanted; what has another one when it is written goes again."""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._write_beside)

    def left_over(self) -> list[FilePath]:
        """The journals of runs that did not end well, the newest first."""
        written = []
        try:
            for path in self._folder.glob(f"*{ENDING}"):
                with contextlib.suppress(OSError):  # a dangling link, or another run was faster
                    facts = path.lstat()
                    if stat.S_ISREG(facts.st_mode) and path != self._path and not _is_in_use(path):
                        written.append((facts.st_mtime, path))
        except OSError as error:
            log.info("the recovery journals could not be listed: %s", error)
        return [path for _, path in sorted(written, reverse=True)]

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
        """Write the journal now, on this thread; whether the job in hand stands in it."""
        if self._session is None or self._session.is_saved:
            return False
        trouble = self._written(self._session.job, dict(self._session.assets), self._wanted)
        self._tell(trouble)
        return trouble is None

    def _write_beside(self) -> None:
        if self._session is None or self._session.is_saved:
            return
        work = partial(self._written, self._session.job, dict(self._session.assets), self._wanted)
        self._background.run(work, lambda trouble: self._tell(trouble if isinstance(trouble, Exception) else None))

    def _written(self, job: Job, assets: dict[str, bytes], number: int) -> Exception | None:
        """Write a journal, from any thread; why it could not be."""
        try:
            data = project_bytes(job, assets)
            with self._writing:
                if number == self._wanted:
                    private_folder(self._folder)
                    self._lock = self._lock or _locked(self._path)
                    write_atomically(self._path, data, private=True)
                if number != self._wanted:  # it was saved meanwhile
                    self._forget()
        except Exception as error:  # whatever goes wrong here, work goes on
            log.info("the recovery journal could not be written: %s", error)
            return error
        return None

    def _tell(self, trouble: Exception | None) -> None:
        if trouble is not None and not self._told:
            self._told = True
            self.trouble.emit(f"This job cannot be kept safe for a crash just now: save it yourself. {trouble}")

    def stop(self) -> None:
        """The window goes: its journal, if one is still being written, does not stay behind."""
        self._background.stop()
        if self._writing.acquire(timeout=WAITS_S):
            self._writing.release()

    def saved(self) -> None:
        """The job is safe elsewhere: the journal goes."""
        self._timer.stop()
        self._wanted += 1
        self._forget()

    def _forget(self) -> None:
        """The journal goes with its lock: one that is held beside no file would protect no later journal."""
        self.discard(self._path)
        held, self._lock = self._lock, None
        if held is not None:
            os.close(held)

    def discard(self, path: FilePath) -> None:
        for one in (path, path.with_suffix(LOCK)):
            with contextlib.suppress(OSError):
                one.unlink()

    def throw_away(self, paths: Sequence[FilePath]) -> list[FilePath]:
        """Journals that nobody wants are not offered any more. They can be brought back until the next ones go.

        Raises OSError when the folder cannot be written.
        """
        for old in self._folder.glob(f"*{THROWN}"):
            self.discard(old)
        return [path.replace(path.with_suffix(THROWN)) for path in paths]

    def bring_back(self, thrown: Sequence[FilePath]) -> list[FilePath]:
        return [path.replace(path.with_suffix(ENDING)) for path in thrown]


def _free(folder: FilePath, stem: str) -> FilePath:
    """A journal's path that no run has used and left: numbers of processes come again."""
    path, k = folder / f"{stem}{ENDING}", 1
    while os.path.lexists(path):
        k += 1
        path = folder / f"{stem}-again-{k}{ENDING}"
    return path


def _locked(journal: FilePath) -> int | None:
    """A lock beside a journal that lasts as long as this run, whatever becomes of it; None where there are no locks."""
    handle = os.open(journal.with_suffix(LOCK), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle


def _is_in_use(journal: FilePath) -> bool:
    """Whether the run that writes a journal still runs."""
    try:
        handle = os.open(journal.with_suffix(LOCK), os.O_RDWR | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False
