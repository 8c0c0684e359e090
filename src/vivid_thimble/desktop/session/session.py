"""The open job: recipe, assets, undo stack, file, and what was last evaluated.

Undo is a stack of recipes. Views call ``change`` with a name for the step and a new
job; they listen to ``job_changed`` and ``result_changed``.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path as FilePath
from typing import TYPE_CHECKING, TypeVar

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.errors import NumberAbsurd, ThimbleError
from vivid_thimble.core.files import read_file
from vivid_thimble.core.folders import results_folder, settings_folder, versions_folder
from vivid_thimble.core.job.edits import scaled_design
from vivid_thimble.core.job.values import Element, Item, Job, elements_of, new_job
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.ranges import refuse_absurd
from vivid_thimble.core.storage.kept_results import KeptResults
from vivid_thimble.core.storage.project import LARGEST_PROJECT_BYTES, open_project, save_project
from vivid_thimble.core.storage.stock import films_for
from vivid_thimble.core.storage.versions import keep_version
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.clean_sizes import CleanSizes
from vivid_thimble.desktop.session.derived import Insights
from vivid_thimble.desktop.session.evaluator import Aim, Answer, Evaluator, Filling, Sizing, UntilClean
from vivid_thimble.desktop.session.stock import Workshop

if TYPE_CHECKING:  # it brings the numeric libraries
    from vivid_thimble.core.evaluate.audition import Audition
    from vivid_thimble.core.evaluate.results import ItemResult

log = logging.getLogger(__name__)
T = TypeVar("T")
MERGE_WITHIN_S = 1.2
"""Edits of the same field in quick succession are one step of undo."""
DEEPEST_UNDO = 500


@dataclass(frozen=True, eq=False)
class Version:
    """A recipe and the name of the edit that led to it."""

    name: str
    job: Job
    picture: list[QImage] = field(default_factory=list)
    """What it looks like, small, once that is known: one picture or none."""


class Session(QObject):
    """State of one window. The job is frozen; every edit makes a new one."""

    job_changed = Signal()
    result_changed = Signal()
    element_chosen = Signal()
    file_changed = Signal()
    reading_changed = Signal()
    doing_changed = Signal(str)
    """What is being worked on, in words."""
    told = Signal(str)
    """A sentence for the person, about what was worked out."""

    def __init__(self, parent: QObject | None = None, workshop: Workshop | None = None) -> None:
        super().__init__(parent)
        self.workshop = workshop or Workshop(settings_folder(), self)
        self._undo: list[Version] = []
        self._redo: list[Version] = []
        self._now = Version("New job", new_job())
        self._saved: Job | None = self._now.job
        self._merge: tuple[str, float] = ("", 0.0)
        self.assets: dict[str, bytes] = {}
        self.path: FilePath | None = None
        self._on_disk: str | None = None
        """The digest of the file's content, as this window knows it."""
        self.versions_kept = 20
        self.result: ItemResult | None = None
        self._result_of: Job | None = None
        """The job that the result belongs to."""
        self.failure = ""
        self._chosen = ""
        self._also: tuple[str, ...] = ()
        self._aim: Aim | None = None
        """What the job is still to be brought to, exactly; an edit that gives sizes itself ends it."""
        self._aim_is_edit = False
        """Whether the present version is the first guess of the aim, which the exact one replaces."""
        self.cache = Cache(beside=self.workshop.results)
        self._kept = KeptResults(results_folder())
        self._keeper = Background(self)
        self._evaluator = Evaluator(self.cache, self)
        self._evaluator.answered.connect(self._take_answer)
        self._evaluator.doing.connect(self.doing_changed)
        self.insights = Insights(self, self)
        self.clean_sizes = CleanSizes(self, self)
        self._reader = Background(self)
        """Stands for all that is being read; another one when that is not wanted any more."""
        self._scout = Background(self)
        self._reader.busy_changed.connect(self.reading_changed)
        self.reading = ""
        """The name of the file that was last asked for."""
        self.auditions: dict[str, Audition] = {}
        """What faces were heard with, by audition_key; kept as long as the window is open."""
        self.previews: dict[str, QImage] = {}
        """Pictures of the words in those faces, by the same key."""

    @property
    def job(self) -> Job:
        return self._now.job

    @property
    def is_busy(self) -> bool:
        return self._evaluator.is_busy or self.is_reading

    @property
    def is_stale(self) -> bool:
        """Whether the result is that of an earlier state of the job."""
        return self._result_of is not self.job and self._result_of != self.job

    @property
    def is_evaluating(self) -> bool:
        return self._evaluator.is_busy

    @property
    def is_keeping(self) -> bool:
        """Whether a result is being written for the next time."""
        return self._keeper.is_busy

    @property
    def is_reading(self) -> bool:
        """Whether files are being read that are to join the job."""
        return self._reader.is_busy

    @property
    def is_saved(self) -> bool:
        """Whether the file holds this job; which item is in hand does not count."""
        return self._saved is not None and (
            self._saved is self.job or replace(self._saved, at=0) == replace(self.job, at=0)
        )

    @property
    def chosen(self) -> str:
        """Id of the element in hand; the first one when the chosen one is gone."""
        ids = [e.id for e in elements_of(self.job.item)]
        if self._chosen in ids:
            return self._chosen
        return ids[0] if ids else ""

    def evaluated(self, element_id: str) -> Element | None:
        """An element of the item in hand as it was last evaluated: followers led, shared sizes given."""
        elements = elements_of(self.result.item) if self.result is not None else ()
        return next((one for one in elements if one.id == element_id), None)

    @property
    def picked(self) -> tuple[str, ...]:
        """All elements in hand, the chosen one first."""
        ids = {e.id for e in elements_of(self.job.item)}
        return tuple(dict.fromkeys(one for one in (self.chosen, *self._also) if one in ids))

    def choose(self, element_id: str) -> None:
        """Take one element in hand, and no other."""
        self._chosen, self._also = element_id, ()
        self.element_chosen.emit()

    def press(self, element_id: str) -> None:
        """An element is pressed: one of several that are in hand brings them all along."""
        if element_id not in self.picked:
            self.choose(element_id)

    def pick(self, element_ids: Iterable[str]) -> None:
        """Take several elements in hand, the first as the one that others are brought to."""
        first, *rest = [*element_ids] or [""]
        self._chosen, self._also = first, tuple(rest)
        self.element_chosen.emit()

    def pick_also(self, element_id: str) -> None:
        """Take one more element in hand, or lay it aside again."""
        picked = self.picked
        if element_id in picked:
            self.pick([one for one in picked if one != element_id] or picked)
        else:
            self.pick([*picked, element_id])

    @property
    def films_at_hand(self) -> tuple[Film, ...]:
        """Those of the stock that the item's method can be cut from."""
        return films_for(self.workshop.stock, self.job.item.method)

    def hold_item(self, index: int) -> None:
        """Take another item of the job in hand; that is no step of undo."""
        index = min(max(index, 0), len(self.job.items) - 1)
        if index != self.job.at:
            self._now = Version(self._now.name, replace(self.job, at=index))
            self._aim = None
            self._announce()

    def change(self, name: str, job: Job, *, merge: str = "", aim: Aim | None = None) -> None:
        """Make ``job`` the current recipe; ``merge`` names a field whose quick edits become one step.

        ``aim``: what it is still to be brought to, in the same step.
        """
        if job == self.job or not self._is_sound(job):
            return
        if aim is not None or (self._aim is not None and not _same_sizes(job, self.job)):
            self._aim, self._aim_is_edit = aim, aim is not None  # edits hold in the order in which they were made
        self._record(name, job, merge)
        self._announce()

    def size_design(self, axis: int, size: float) -> None:
        """Bring the whole design to a width (axis 0) or height (axis 1).

        At once by what it has now, and exactly when that is worked out, since steps keep their lengths: one edit. What
        moves things meanwhile keeps the size, what gives sizes itself takes over.
        """
        has = self._present_size
        if has is None or has[axis] <= 0.0:
            self._take_aim(Sizing(axis, size), self.job)
        else:
            self._take_aim(Sizing(axis, size), scaled_design(self.job, size / has[axis]))

    def fill_room(self, margin: float) -> None:
        """Make the design as large as fits so many mm from the edges of the thing, in the middle; one edit."""
        result = self.result
        guess = self.job
        if result is not None and result.bounds is not None and result.item.id == self.job.item.id:
            from vivid_thimble.core.edits.fitting import fitted_by  # here: it brings the numeric libraries

            guess = fitted_by(self.job, result.bounds, margin)
        self._take_aim(Filling(margin), guess)

    def enlarge_until_clean(self) -> None:
        """Make the design as large as it must be at least, if the room allows it."""
        self._take_aim(UntilClean(), self.job)

    @property
    def _present_size(self) -> tuple[float, float] | None:
        """Of the design of the item in hand as it was last evaluated."""
        result = self.result
        return result.size if result is not None and result.item.id == self.job.item.id else None

    def _take_aim(self, aim: Aim, guess: Job) -> None:
        changes = guess != self.job
        if changes and not self._is_sound(guess):
            return
        if changes:
            self._record(aim.TITLE, guess)
        self._aim, self._aim_is_edit = aim, changes
        if changes:
            self._announce()
        else:
            self._ask()

    def _is_sound(self, job: Job) -> bool:
        """Whether all numbers are such as can be made; if not, that is told, and everything shows what it was."""
        try:
            refuse_absurd(job)
        except NumberAbsurd as error:
            self.told.emit(str(error))
            self.job_changed.emit()
            return False
        return True

    def _record(self, name: str, job: Job, merge: str = "") -> None:
        now = time.monotonic()
        merges = bool(merge) and self._merge[0] == merge and now - self._merge[1] < MERGE_WITHIN_S
        if not (merges and self._undo):
            self._undo.append(self._now)
            del self._undo[:-DEEPEST_UNDO]
        self._merge = (merge, now)
        self._redo.clear()
        self._now = Version(name, job)

    def undo_name(self) -> str:
        return self._now.name if self._undo else ""

    def redo_name(self) -> str:
        return self._redo[-1].name if self._redo else ""

    def undo(self) -> None:
        if self._undo:
            self._aim = None
            self._redo.append(self._now)
            self._now = self._undo.pop()
            self._merge = ("", 0.0)
            self._announce()

    @property
    def history(self) -> tuple[list[Version], int]:
        """All versions, the oldest first, and the number of the present one."""
        return [*self._undo, self._now, *reversed(self._redo)], len(self._undo)

    def jump(self, number: int) -> None:
        """To any version of the history; the others stay."""
        versions, now = self.history
        if number == now or not 0 <= number < len(versions):
            return
        self._aim = None
        self._undo, self._now = versions[:number], versions[number]
        self._redo = versions[:number:-1]
        self._merge = ("", 0.0)
        self._announce()

    def remember_picture(self, made: Callable[[], QImage]) -> None:
        """What the present version looks like; the picture is made on a thread."""
        version = self._now

        def take(picture: QImage | Failed) -> None:
            if not isinstance(picture, Failed):
                version.picture[:] = [picture]

        self._keeper.run(made, take)

    def look_ahead(self, job: Job | None, then: Callable[[ItemResult], object] = lambda _: None) -> None:
        """What a job would become, worked out beside the one in hand; only the last one asked for is answered, and none
        after None."""
        if job is None:
            self._scout.drop()
            return
        assets, cache = dict(self.assets), self.cache

        def worked_out() -> ItemResult:
            from vivid_thimble.core.evaluate.recipe import evaluate  # here: it brings the numeric libraries

            return evaluate(job, assets, cache)

        def answered(answer: ItemResult | Failed) -> None:
            if not isinstance(answer, Failed):  # what cannot be worked out is told when it is applied
                then(answer)

        self._scout.run(worked_out, answered, newest_only=True)

    def leave_edit(self) -> None:
        """Stop the computation of the last edit by taking the edit back; it can be done again. An opened job stays."""
        if not self._evaluator.is_busy:
            return
        self._evaluator.leave()
        if self._aim is not None and not self._aim_is_edit:  # nothing was changed yet
            self._aim = None
            self._ask()
        else:
            self.undo()

    def redo(self) -> None:
        if self._redo:
            self._aim = None
            self._undo.append(self._now)
            self._now = self._redo.pop()
            self._merge = ("", 0.0)
            self._announce()

    def read(
        self, name: str, work: Callable[[], T], then: Callable[[T], None], refused: Callable[[str], object]
    ) -> None:
        """Read a file for this job without holding up the window; it is dropped when another job is begun meanwhile.

        ``refused`` gets the sentence when it cannot be read.
        """

        def answered(answer: T | Failed) -> None:
            if not isinstance(answer, Failed):
                then(answer)
            elif isinstance(answer.error, ThimbleError):
                refused(str(answer.error))
            else:
                log.error("%s could not be read", name, exc_info=answer.error)
                refused(f"{name} could not be read ({answer.error}): save it in another format and try again.")

        self.reading = name
        self._reader.run(work, answered)

    def stop_reading(self) -> None:
        """Files that are being read are not wanted any more."""
        self._reader.drop()

    def start(self, job: Job, assets: dict[str, bytes], path: FilePath | None = None, *, saved: bool = True) -> None:
        """Begin with another job; the undo stack starts anew."""
        self._aim = None
        self.stop_reading()
        self._undo.clear()
        self._redo.clear()
        self._now = Version("Open", job)
        self._saved = job if saved else None
        self.assets = dict(assets)
        self.path = path
        self._on_disk = _stamp_of(path)
        self.result = self._result_of = None
        self._chosen, self._also = "", ()
        self._evaluator.ask(job, self.assets, kept=self._kept if saved else None)
        self.job_changed.emit()
        self.file_changed.emit()

    def open(self, path: FilePath) -> None:
        """Raises ProjectNotReadable; the current job stays when it does."""
        job, assets = open_project(path)
        self.start(job, assets, path)

    def save(self, path: FilePath) -> None:
        """Raises InputRefused when the place cannot be written; nothing changes then."""
        keep_version(path, versions_folder(), self.versions_kept)
        save_project(path, self.job, self.assets)
        self.path = path
        self._on_disk = _stamp_of(path)
        self._saved = self.job
        self._keep_result()
        self.file_changed.emit()

    def _keep_result(self) -> None:
        """What a saved job yields, so that it is there at once when it is opened again."""
        result = self.result
        if result is not None and self.is_saved and not self._evaluator.is_busy:
            self._keeper.run(partial(self._kept.keep, self.job, result), lambda _: None)

    @property
    def saved_job(self) -> Job | None:
        """The job as it was last opened or saved."""
        return self._saved

    def is_changed_elsewhere(self, path: FilePath) -> bool:
        """Whether the file of this job was written by another program since it was opened or saved here."""
        return path == self.path and self._on_disk is not None and _stamp_of(path) not in (None, self._on_disk)

    def stop(self) -> None:
        """End the computing threads."""
        self._reader.stop()
        self._scout.stop()
        self._evaluator.stop()
        self._keeper.stop()
        self.insights.stop()
        self.clean_sizes.stop()

    def _announce(self) -> None:
        self._ask()
        self.job_changed.emit()

    def _ask(self) -> None:
        self._evaluator.ask(self.job, dict(self.assets), self._aim)

    def _take_answer(self, answer: Answer) -> None:
        self.failure = answer.failure
        aim, self._aim = self._aim, None
        if aim is not None and answer.job != self.job and not self._is_sound(answer.job):
            self._aim_is_edit = False
            self._ask()
            return
        if answer.result is not None:
            self.result, self._result_of = answer.result, answer.job
        if aim is not None and answer.job != self.job:
            if self._aim_is_edit:
                self._now = Version(self._now.name, answer.job)
            else:
                self._record(aim.TITLE, answer.job)
            self.job_changed.emit()
        self._aim_is_edit = False
        self.result_changed.emit()
        if answer.told:
            self.told.emit(answer.told)
        self._keep_result()


def _same_sizes(job: Job, other: Job) -> bool:
    """Whether nothing of two states of an item differs that tells how large its elements are."""

    def sized(item: Item) -> list[tuple[object, ...]]:
        return [(e.id, e.source, e.steps, replace(e.placement, dx=0.0, dy=0.0)) for e in elements_of(item)]

    return (
        job.item.id == other.item.id
        and job.shared == other.shared
        and sized(job.item) == sized(other.item)
        and [layer.steps for layer in job.item.layers] == [layer.steps for layer in other.item.layers]
    )


def _stamp_of(path: FilePath | None) -> str | None:
    """Tells a file's content from any other; time and size may be alike."""
    if path is None:
        return None
    try:
        return asset_key(read_file(path, LARGEST_PROJECT_BYTES))
    except OSError:
        return None
