"""When something fails that nobody foresaw: a report is written here, the job is kept, and the window says so."""

from __future__ import annotations

import logging
import platform
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path as FilePath
from types import TracebackType

from PySide6.QtCore import qVersion

from vivid_thimble import __version__
from vivid_thimble.core.files import private_folder, write_atomically
from vivid_thimble.desktop.window.window import MainWindow

log = logging.getLogger(__name__)
MOST_EDITS = 12
"""So many names of the last edits go into a report."""
MOST_REPORTS = 20


class CrashReporter:
    """Catches what reaches the top of the window's thread; nothing leaves this machine."""

    def __init__(self, window: Callable[[], MainWindow], folder: FilePath) -> None:
        """``window``: tells which window is in use."""
        self._in_use, self._folder = window, folder

    @property
    def _window(self) -> MainWindow:
        return self._in_use()

    def install(self) -> None:
        sys.excepthook = self.report

    def report(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Keep the job, write the report, and say so in the window."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        try:
            log.error("unexpected failure", exc_info=(kind, error, trace))
            if self._window.recovery is not None:
                self._window.recovery.write()
            path = self._written(kind, error, trace)
            where = f" A report is in {path}." if path is not None else ""
            self._window.tell(
                f"Something went wrong inside ({kind.__name__}). Your job is kept: go on, or undo the last edit.{where}"
            )
        except Exception:  # nothing is left that could tell it better
            sys.__excepthook__(kind, error, trace)

    def _written(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> FilePath | None:
        """The report's file; None when it cannot be written."""
        path = self._folder / f"report-{time.strftime('%Y%m%d-%H%M%S')}.txt"
        try:
            lines = self._lines(kind, error, trace)
            private_folder(self._folder)
            write_atomically(path, "\n".join(lines).encode("utf-8", "backslashreplace"), private=True)
            for old in sorted(self._folder.glob("report-*.txt"))[:-MOST_REPORTS]:
                old.unlink()
        except Exception:  # whatever goes wrong here, the window must go on
            log.exception("the report could not be written")
            return None
        return path

    def _lines(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> list[str]:
        versions, now = self._window.session.history
        edits = [version.name for version in versions[max(now + 1 - MOST_EDITS, 0) : now + 1]]
        return [
            f"Vivid Thimble {__version__}, Python {platform.python_version()}, Qt {qVersion()}, {platform.platform()}",
            time.strftime("%Y-%m-%d %H:%M:%S"),
            f"Last edits: {', '.join(edits)}",
            "",
            *traceback.format_exception(kind, error, trace),
        ]
