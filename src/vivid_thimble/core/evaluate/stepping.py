"""Running steps one after the other, each outcome cached by content; one that fails is told and passed over."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.results import Problem
from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import plain
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.remarks import Remark
from vivid_thimble.core.steps.step import Around, Shown


@dataclass(frozen=True, eq=False)
class Stepped:
    """Parts after some steps, the content key, what failed, what the steps remark and what they show."""

    parts: Parts
    key: str
    problems: tuple[Problem, ...] = ()
    remarks: tuple[Remark, ...] = ()
    shown: tuple[Shown, ...] = ()
    kept_box: Box | None = None
    """The box from before steps that keep it, such as bridges, as long as no other step follows."""

    @property
    def box(self) -> Box | None:
        """What sizes and places mean."""
        return self.kept_box or bounds_of(self.parts)


def run_steps(steps: Iterable[Step], before: Stepped, around: Around, cache: Cache) -> Stepped:
    """All steps that are on and have something to do here."""
    for step in steps:
        if step.enabled and around.scope in step.SCOPES:
            before = _run(step, before, around, cache)
    return before


def _run(step: Step, before: Stepped, around: Around, cache: Cache) -> Stepped:
    """One step; when it fails the parts go on as they came."""
    tag = str(step.__struct_config__.tag)
    try:
        key = content_key("step", tag, str(step.VERSION), plain(step), before.key, *step.needs(around))
        outcome = cache.get(key, lambda: step.run(before.parts, around))
    except ThimbleError as error:
        return replace(before, problems=(*before.problems, Problem(step.id, error.message)))
    return replace(
        before,
        parts=outcome.parts,
        key=key,
        remarks=(*before.remarks, *outcome.remarks),
        shown=(*before.shown, *outcome.shown),
        kept_box=before.box if outcome.keeps_box else None,
    )
