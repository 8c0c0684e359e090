"""Evaluation away from the window's thread: one request at a time, the newest wins.

A running computation is left at its next pause when a newer request has come, or when it is stopped by hand.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING, ClassVar, Protocol

from PySide6.QtCore import QObject, QTimer, Signal

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.storage.kept_results import KeptResults
from vivid_thimble.desktop.session.background import Background, Failed

if TYPE_CHECKING:  # it brings all that a result is made of
    from vivid_thimble.core.evaluate.results import ItemResult

log = logging.getLogger(__name__)
PAINT_FIRST_MS = 250
"""What was kept is painted before it is computed anew."""


class Aim(Protocol):
    """What a job is still to be brought to before it is evaluated, since that takes evaluating it."""

    TITLE: ClassVar[str]

    def reached(self, job: Job, assets: dict[str, bytes], cache: Cache) -> tuple[Job, str]:
        """The job as wanted, and a sentence about it, if there is something to say."""


@dataclass(frozen=True)
class Sizing:
    """A wanted size of the whole design: width (axis 0) or height (axis 1) in mm."""

    TITLE: ClassVar[str] = "Size of the design"
    axis: int
    size: float

    def reached(self, job: Job, assets: dict[str, bytes], cache: Cache) -> tuple[Job, str]:
        from vivid_thimble.core.evaluate.recipe import sized_design  # here, as below: it brings the numeric libraries

        return sized_design(job, assets, cache, self.axis, self.size), ""


@dataclass(frozen=True)
class Filling:
    """The largest size that fits, so many mm from the thing's edges, centred."""

    TITLE: ClassVar[str] = "Largest size that fits"
    margin: float

    def reached(self, job: Job, assets: dict[str, bytes], cache: Cache) -> tuple[Job, str]:
        from vivid_thimble.core.edits.fitting import fitted_design

        return fitted_design(job, assets, cache, self.margin), ""


@dataclass(frozen=True)
class Arriving:
    """A new element as large as fits its room, beside what is there."""

    TITLE: ClassVar[str] = "Size of the new element"
    element: str
    says: str = ""
    """What is to be said of it anyway."""

    def reached(self, job: Job, assets: dict[str, bytes], cache: Cache) -> tuple[Job, str]:
        from vivid_thimble.core.edits.arrival import arrived

        job, said = arrived(job, self.element, assets, cache)
        return job, " ".join(one for one in (self.says, said) if one)


@dataclass(frozen=True)
class UntilClean:
    """The smallest clean size, unless that leaves the room."""

    TITLE: ClassVar[str] = "Enlarge until clean"

    def reached(self, job: Job, assets: dict[str, bytes], cache: Cache) -> tuple[Job, str]:
        from vivid_thimble.core.edits.clean_size import enlarged_within_room

        return enlarged_within_room(job, assets, cache)


@dataclass(frozen=True, eq=False)
class Request:
    id: int
    job: Job
    assets: dict[str, bytes]
    aim: Aim | None = None
    kept: KeptResults | None = None


@dataclass(frozen=True, eq=False)
class Answer:
    """The result for a request, or the sentence why there is none; ``job`` is what was evaluated."""

    id: int
    job: Job
    result: ItemResult | None
    failure: str = ""
    told: str = ""
    """What is to be said of the aim."""


def _evaluated(request: Request, cache: Cache) -> Answer:
    from vivid_thimble.core.evaluate.recipe import evaluate

    job, told = request.job, ""
    if request.aim is not None:
        job, told = request.aim.reached(job, request.assets, cache)
    return Answer(request.id, job, evaluate(job, request.assets, cache), told=told)


class Evaluator(QObject):
    """Answers the newest request; older ones are left at their next pause, or never begun."""

    answered = Signal(object)
    doing = Signal(str)
    """What is being worked on, in words; comes from the working thread."""

    def __init__(self, cache: Cache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._cache = cache
        self._background = Background(self)
        self._newest = 0
        self._checking = QTimer(self)
        self._checking.setSingleShot(True)
        self._checking.setInterval(PAINT_FIRST_MS)
        self._checking.timeout.connect(self._check)
        self._kept: Request | None = None
        """What was answered from an earlier run and waits for being computed anew."""

    @property
    def is_busy(self) -> bool:
        return self._background.is_busy or self._kept is not None

    def ask(self, job: Job, assets: dict[str, bytes], aim: Aim | None = None, kept: KeptResults | None = None) -> int:
        """Evaluate a job, brought to an aim first when there is one; returns the request's id.

        ``kept``: what it yielded in an earlier run is answered at once, if it is there, and again when it is computed.
        """
        self._newest += 1
        request = Request(self._newest, job, assets, aim, kept)
        self._kept = None
        if kept is None:
            self._compute(request)
        else:
            self._background.run(partial(kept.find, job), partial(self._take_kept, request), newest_only=True)
        return request.id

    def stop(self) -> None:
        """End the thread; a running computation is left at its next pause."""
        self._kept = None
        self._background.stop()

    def leave(self) -> None:
        """Nothing that was asked for is wanted any more."""
        self._kept = None
        self._background.drop()

    def _compute(self, request: Request) -> None:
        work = partial(_evaluated, request, self._cache)
        self._background.run(work, partial(self._done, request), newest_only=True, progress=self.doing.emit)

    def _take_kept(self, request: Request, found: ItemResult | Failed | None) -> None:
        if found is None or isinstance(found, Failed):
            self._compute(request)
        else:
            self._kept = request
            self._checking.start()
            self.answered.emit(Answer(request.id, request.job, found))

    def _check(self) -> None:
        request, self._kept = self._kept, None
        if request is not None:
            self._compute(request)

    def _done(self, request: Request, answer: Answer | Failed) -> None:
        if isinstance(answer, Failed):
            log.error("evaluation failed", exc_info=answer.error)
            failure = f"The figures could not be computed ({answer.error}): undo the last edit."
            answer = Answer(request.id, request.job, None, failure)
        self.answered.emit(answer)
