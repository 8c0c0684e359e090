"""Work away from the window's thread, one piece after the other; answers come back on the window's thread."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Callable
from dataclasses import dataclass
from queue import SimpleQueue
from threading import Thread
from typing import Any, ClassVar, TypeVar

from PySide6.QtCore import QObject, Signal

from vivid_thimble.core.pauses import Stopped, watched

log = logging.getLogger(__name__)
T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Failed:
    """What an errand answers when its work raised."""

    error: Exception


@dataclass(eq=False)
class _Errand:
    work: Callable[[], Any]
    then: Callable[[Any], None]
    is_wanted: bool = True


class Worker(QObject):
    """Work in a thread of its own, which nobody has to wait for.

    The window's thread never stands still for it: what is stopped leaves at its next pause, quietly, after the window
    is gone if need be. The end of the program does not wait either: such threads end with it.
    """

    finished = Signal()
    _at_work: ClassVar[set[Worker]] = set()
    """Those whose thread has not ended: the toolkit must not take away what a thread still tells by."""

    def __init__(self) -> None:
        super().__init__()
        self.is_stopped = self._is_over = False
        self._thread = Thread(target=self._work, daemon=True)
        self.finished.connect(self._leave)

    def start(self) -> None:
        self._at_work.add(self)
        self._thread.start()

    def isRunning(self) -> bool:
        return self._thread.ident is not None and not self._is_over

    def work(self) -> None:
        """What is done in the thread."""
        raise NotImplementedError

    def stop(self) -> None:
        """Leave at the next pause."""
        self.is_stopped = True

    def _watch(self, _: str) -> None:
        if self.is_stopped:
            raise Stopped

    def _work(self) -> None:
        try:
            with watched(self._watch):
                self.work()
        except Stopped:
            pass
        except BaseException:  # what was worked out so far stays; no window may fall, nor the program end
            log.exception("work beside the window failed")
        self._is_over = True
        with contextlib.suppress(RuntimeError):  # the program ends, and the toolkit is gone
            self.finished.emit()

    def _leave(self) -> None:
        self._at_work.discard(self)


class _Runner(Worker):
    """Does errands one after the other until it is stopped."""

    done = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.orders: SimpleQueue[_Errand | None] = SimpleQueue()
        self._now: _Errand | None = None

    def stop(self) -> None:
        super().stop()
        self.orders.put(None)

    def work(self) -> None:
        while (errand := self.orders.get()) is not None and not self.is_stopped:
            if errand.is_wanted:
                self._now = errand
                answer = self._answer(errand)
                self._now = None
                if not self.is_stopped:
                    self.done.emit(errand, answer)
                del answer  # waiting for the next errand keeps nothing alive
            del errand

    def _watch(self, _: str) -> None:
        if self.is_stopped or (self._now is not None and not self._now.is_wanted):
            raise Stopped

    def _answer(self, errand: _Errand) -> object:
        try:
            return errand.work()
        except Exception as error:  # the window must survive whatever a computation does
            return Failed(error)
        except BaseException as error:  # one that would end the program
            return Failed(RuntimeError(f"{type(error).__name__}: {error}"))


class Errands(QObject):
    """A thread of its own. ``busy_changed`` tells when it has something to do, and when nothing any more."""

    busy_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._out: list[_Errand] = []
        self._runner = _Runner()
        self._runner.done.connect(self._take)
        self._runner.start()

    @property
    def is_busy(self) -> bool:
        return bool(self._out)

    def run(self, work: Callable[[], T], then: Callable[[T | Failed], None]) -> None:
        """Do ``work`` in its turn, and hand what it returns to ``then``."""
        errand = _Errand(work, then)
        self._out.append(errand)
        self._runner.orders.put(errand)
        if len(self._out) == 1:
            self.busy_changed.emit()

    def forget(self) -> None:
        """What has been asked so far is not wanted any more: it is not begun, or left at its next pause."""
        if self._out:
            self._drop()
            self.busy_changed.emit()

    def stop(self) -> None:
        """End the thread; running work leaves at its next pause, and nothing waits for it."""
        self._drop()
        self._runner.stop()

    def _drop(self) -> None:
        for errand in self._out:
            errand.is_wanted = False
        self._out.clear()

    def _take(self, errand: _Errand, answer: object) -> None:
        if errand not in self._out:
            return
        self._out.remove(errand)
        errand.then(answer)
        if not self._out:
            self.busy_changed.emit()
