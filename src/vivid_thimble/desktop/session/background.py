"""Work away from the window's thread, one piece after the other; answers come back on the window's thread."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Callable, Iterable
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
    """What is answered when the work raised."""

    error: Exception


@dataclass(eq=False)
class Ticket:
    """Work that was asked for. ``progress`` hears, in the working thread, what is being done."""

    work: Callable[[], Any]
    then: Callable[[Any], None]
    progress: Callable[[str], object] | None = None
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
    """Does what is asked for, one after the other, until it is stopped."""

    done = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.orders: SimpleQueue[Ticket | None] = SimpleQueue()
        self._now: Ticket | None = None

    def stop(self) -> None:
        super().stop()
        self.orders.put(None)

    def work(self) -> None:
        while (ticket := self.orders.get()) is not None and not self.is_stopped:
            if ticket.is_wanted:
                self._now = ticket
                answer = self._answer(ticket)
                self._now = None
                if not self.is_stopped:
                    self.done.emit(ticket, answer)
                del answer  # waiting for the next one keeps nothing alive
            del ticket

    def _watch(self, doing: str) -> None:
        now = self._now
        if self.is_stopped or (now is not None and not now.is_wanted):
            raise Stopped
        if doing and now is not None and now.progress is not None:
            now.progress(doing)

    def _answer(self, ticket: Ticket) -> object:
        try:
            return ticket.work()
        except Exception as error:  # the window must survive whatever a computation does
            return Failed(error)
        except BaseException as error:  # one that would end the program
            return Failed(RuntimeError(f"{type(error).__name__}: {error}"))


class Background(QObject):
    """A thread of its own. ``busy_changed`` tells when it has something to do, and when nothing any more."""

    busy_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._out: list[Ticket] = []
        self._runner: _Runner | None = None

    @property
    def is_busy(self) -> bool:
        return bool(self._out)

    def run(
        self,
        work: Callable[[], T],
        then: Callable[[T | Failed], None],
        *,
        newest_only: bool = False,
        progress: Callable[[str], object] | None = None,
    ) -> Ticket:
        """Do ``work`` in its turn, and hand what it returns to ``then``; ``newest_only``: nothing else that was asked
        for is wanted any more. The thread begins with the first."""
        was_busy = self.is_busy
        if newest_only:
            self._drop(self._out)
        ticket = Ticket(work, then, progress)
        self._out.append(ticket)
        if self._runner is None:
            self._runner = _Runner()
            self._runner.done.connect(self._take)
            self._runner.start()
        self._runner.orders.put(ticket)
        if not was_busy:
            self.busy_changed.emit()
        return ticket

    def drop(self, ticket: Ticket | None = None) -> None:
        """This is not wanted any more (None: nothing that has been asked for): it never begins, or leaves at its next
        pause, and is not answered."""
        was_busy = self.is_busy
        self._drop([ticket] if ticket is not None else list(self._out))
        if was_busy and not self.is_busy:
            self.busy_changed.emit()

    def stop(self) -> None:
        """End the thread; running work leaves at its next pause, and nothing waits for it."""
        self._drop(self._out)
        if self._runner is not None:
            self._runner.stop()

    def _drop(self, tickets: Iterable[Ticket]) -> None:
        for ticket in tickets:
            ticket.is_wanted = False
        self._out = [ticket for ticket in self._out if ticket.is_wanted]

    def _take(self, ticket: Ticket, answer: object) -> None:
        if ticket not in self._out:
            return
        self._out.remove(ticket)
        ticket.then(answer)
        if not self.is_busy:
            self.busy_changed.emit()
