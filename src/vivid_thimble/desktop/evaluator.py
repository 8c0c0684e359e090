"""Evaluation away from the window's thread: one request at a time, the newest wins."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from PySide6.QtCore import QObject, QThread, Signal

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.job import Job
from vivid_thimble.core.results import ItemResult

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Sizing:
    """A wanted size of the whole design: width (axis 0) or height (axis 1) in mm."""

    axis: int
    size: float


@dataclass(frozen=True, eq=False)
class Request:
    id: int
    job: Job
    assets: dict[str, bytes]
    sizing: Sizing | None = None


@dataclass(frozen=True, eq=False)
class Answer:
    """The result for a request, or the sentence why there is none; ``job`` is what was evaluated."""

    id: int
    job: Job
    result: ItemResult | None
    failure: str = ""


class _Worker(QObject):
    """Lives in the worker thread."""

    done = Signal(object)

    def __init__(self, cache: Cache) -> None:
        super().__init__()
        self._cache = cache

    def work(self, request: Request) -> None:
        from vivid_thimble.core.recipe import evaluate, sized_design  # here: it brings the numeric libraries

        job = request.job
        try:
            if request.sizing is not None:
                job = sized_design(job, request.assets, self._cache, request.sizing.axis, request.sizing.size)
            self.done.emit(Answer(request.id, job, evaluate(job, request.assets, self._cache)))
        except Exception as error:  # the window must survive whatever a computation does
            log.exception("evaluation failed")
            self.done.emit(
                Answer(
                    request.id, request.job, None, f"The figures could not be computed ({error}): undo the last edit."
                )
            )


class Evaluator(QObject):
    """Hands the newest request to the worker as soon as it is free; older waiting ones are dropped."""

    answered = Signal(object)
    _send = Signal(object)

    def __init__(self, cache: Cache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thread = QThread(self)
        self._worker = _Worker(cache)
        self._worker.moveToThread(self._thread)
        self._send.connect(self._worker.work)
        self._worker.done.connect(self._done)
        self._thread.start()
        self._newest = 0
        self._running = False
        self._waiting: Request | None = None

    @property
    def is_busy(self) -> bool:
        return self._running or self._waiting is not None

    def ask(self, job: Job, assets: dict[str, bytes], sizing: Sizing | None = None) -> int:
        """Evaluate a job, brought to a size first when one is given; returns the request's id."""
        self._newest += 1
        request = Request(self._newest, job, assets, sizing)
        if self._running:
            self._waiting = request
        else:
            self._running = True
            self._send.emit(request)
        return request.id

    def stop(self) -> None:
        """End the thread; a running computation is waited for."""
        self._waiting = None
        self._thread.quit()
        self._thread.wait(10_000)

    def _done(self, answer: Answer) -> None:
        self._running = False
        waiting, self._waiting = self._waiting, None
        if waiting is not None:
            self._running = True
            self._send.emit(waiting)
        if answer.id == self._newest:
            self.answered.emit(answer)
