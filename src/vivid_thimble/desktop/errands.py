"""Work away from the window's thread, one piece after the other; answers come back on the window's thread."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from PySide6.QtCore import QObject, QThread, Signal

log = logging.getLogger(__name__)
T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Failed:
    """What an errand answers when its work raised."""

    error: Exception


@dataclass(frozen=True, eq=False)
class _Errand:
    work: Callable[[], Any]
    then: Callable[[Any], None]


class _Runner(QObject):
    """Lives in the thread."""

    done = Signal(object, object)

    def run(self, errand: _Errand) -> None:
        try:
            answer = errand.work()
        except Exception as error:  # the window must survive whatever a computation does
            answer = Failed(error)
        self.done.emit(errand, answer)


class Errands(QObject):
    """A thread of its own. ``busy_changed`` tells when it has something to do, and when nothing any more."""

    busy_changed = Signal()
    _send = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._out: list[_Errand] = []
        self._thread = QThread(self)
        self._runner = _Runner()
        self._runner.moveToThread(self._thread)
        self._send.connect(self._runner.run)
        self._runner.done.connect(self._take)
        self._thread.start()

    @property
    def is_busy(self) -> bool:
        return bool(self._out)

    def run(self, work: Callable[[], T], then: Callable[[T | Failed], None]) -> None:
        """Do ``work`` in its turn, and hand what it returns to ``then``."""
        errand = _Errand(work, then)
        self._out.append(errand)
        self._send.emit(errand)
        if len(self._out) == 1:
            self.busy_changed.emit()

    def forget(self) -> None:
        """Answers to what has been asked so far are not wanted any more."""
        if self._out:
            self._out.clear()
            self.busy_changed.emit()

    def stop(self) -> None:
        """End the thread; running work is waited for."""
        self._out.clear()
        self._thread.quit()
        self._thread.wait(10_000)

    def _take(self, errand: _Errand, answer: object) -> None:
        if errand not in self._out:
            return
        self._out.remove(errand)
        errand.then(answer)
        if not self._out:
            self.busy_changed.emit()
