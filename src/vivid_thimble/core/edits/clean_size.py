"""From which size on a design is clean, confirmed by evaluating it there.

Where everything grows alike one inspection tells it (``Inspection.causes``). But bridges, joins, marks and halos keep
their lengths, lines of a portrait are drawn anew and drawings are cleaned anew at every size: then the size is searched
for, and what is told was evaluated.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.remedies import leaves_room
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.edits import scaled_design
from vivid_thimble.core.job.values import Assets, Job, elements_of
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.pauses import pause

NEAR = 1.005
"""A size is told to within this factor: on the upper side, so that it is clean."""
SMALLEST, LARGEST = 1 / 64, 64.0
"""Sizes are searched for within these factors of the present one."""
FIRST_STEP, LONGEST_STEP = 1.03, 1.5
SAME_PLACE = 1.5
"""Two findings no farther apart than so many times what they measure are one place."""


@dataclass(frozen=True)
class CleanSize:
    """``scale`` of the present size from which on nothing of severity stop remains but what no size cures (None: at no
    size that was tried), the ``deciding`` place as it is just below, its place at the present size, and the scale
    ``without`` it (None: that was not asked for, or changes nothing)."""

    scale: float | None
    deciding: Finding | None = None
    without: float | None = None


def keeps_lengths(job: Job) -> bool:
    """Whether something of the item in hand does not grow with its size."""
    item = job.item
    steps = [s for e in elements_of(item) for s in e.steps] + [s for layer in item.layers for s in layer.steps]
    if item.register is not None or any(e.source.HAS_LENGTHS for e in elements_of(item)):
        return True
    return any(step.enabled and step.HAS_LENGTHS for step in steps)


def clean_size(
    job: Job, assets: Assets, cache: Cache, result: ItemResult | None = None, *, with_other: bool = False
) -> CleanSize | None:
    """The smallest clean size of the item in hand; ``with_other``: also without the place that decides.

    None when no line, gap or piece is anywhere near its limit, so that nothing depends on the size.
    """
    result = result or evaluate(job, assets, cache)
    if result.bounds is None or result.smallest_clean_scale is None:
        return None
    middle = job.item.width / 2.0, job.item.height / 2.0
    search = _Search(job, assets, cache, middle)
    scale, deciding = search.smallest(result.smallest_clean_scale * NEAR)
    if scale is None or deciding is None:
        return CleanSize(scale, deciding)
    without = None
    if with_other and deciding.at is not None:
        search.left_aside = deciding
        without, _ = search.smallest(scale)
    return CleanSize(scale, deciding, without if without is not None and without < scale / NEAR else None)


def enlarged_within_room(job: Job, assets: Assets, cache: Cache) -> tuple[Job, str]:
    """The design in hand at its smallest clean size, about the item's middle, and a sentence when that cannot be."""
    result = evaluate(job, assets, cache)
    found = clean_size(job, assets, cache, result)
    if found is None or result.size is None or (found.scale is not None and found.scale <= 1.0):
        return job, "Nothing here is cured by a larger size."
    if found.scale is None:
        return job, "No size that was tried is clean: mend what the findings tell first."
    if leaves_room(result, found.scale):
        wide, high = (format_length(found.scale * side, job.unit) for side in result.size)
        what = f"It would be clean at {wide} × {high}, which leaves the room on {job.item.name}"
        return job, f"{what}: nothing was changed."
    return scaled_design(job, found.scale), ""


class _Search:
    """Evaluates the design at other sizes; every size once."""

    def __init__(self, job: Job, assets: Assets, cache: Cache, middle: tuple[float, float]) -> None:
        self._job, self._assets, self._cache, self._middle = job, assets, cache, middle
        self.left_aside: Finding | None = None
        """A place that does not count."""
        self._known: dict[float, ItemResult] = {}

    def smallest(self, guess: float) -> tuple[float | None, Finding | None]:
        """The smallest clean scale to within NEAR, and what stops just below it, placed as at the present size."""
        low, high = self._bracket(guess)
        if high is None:
            return None, self._stop_at(low)
        while low is not None and high / low > NEAR:
            middle = math.sqrt(low * high)
            low, high = (low, middle) if self._is_clean(middle) else (middle, high)
        return high, None if low is None else self._stop_at(low)

    def _bracket(self, guess: float) -> tuple[float | None, float | None]:
        """An unclean scale below and a clean one above, as near to the guess as can be; None where there is none."""
        step = FIRST_STEP
        if self._is_clean(guess):
            high = guess
            while high / step > SMALLEST:
                if not self._is_clean(high / step):
                    return high / step, high
                high, step = high / step, min(step * step, LONGEST_STEP)
            return None, high
        low = guess
        while low * step < LARGEST:
            if self._is_clean(low * step):
                return low, low * step
            low, step = low * step, min(step * step, LONGEST_STEP)
        return low, None

    def _at(self, scale: float) -> ItemResult:
        if scale not in self._known:
            pause("Trying other sizes")
            self._known[scale] = evaluate(scaled_design(self._job, scale), self._assets, self._cache)
        return self._known[scale]

    def _stops(self, scale: float) -> list[Finding]:
        """What stops there and larger sizes may cure."""
        result = self._at(scale)
        found = [f for la in result.layers for f in la.inspection.findings if f.severity == "stop" and f.cured_by_size]
        return [f for f in found if not self._is_aside(f, scale)]

    def _is_clean(self, scale: float) -> bool:
        result = self._at(scale)
        return not any(layer.problems for layer in result.layers) and not self._stops(scale)

    def _is_aside(self, finding: Finding, scale: float) -> bool:
        aside = self.left_aside
        if aside is None or aside.at is None or finding.at is None or finding.kind != aside.kind:
            return False
        reach = SAME_PLACE * max(aside.limit or 0.0, aside.width or 0.0, aside.length or 0.0) / min(scale, 1.0)
        return math.dist(self._present(finding.at, scale), aside.at) <= reach

    def _stop_at(self, scale: float | None) -> Finding | None:
        """What lies farthest below its limit there, at its place of the present size."""
        stops = [] if scale is None else self._stops(scale)
        if scale is None or not stops:
            return None
        worst = min(stops, key=_share_of_limit)
        return worst if worst.at is None else replace(worst, at=self._present(worst.at, scale))

    def _present(self, at: tuple[float, float], scale: float) -> tuple[float, float]:
        (x, y), (a, b) = at, self._middle
        return a + (x - a) / scale, b + (y - b) / scale


def _share_of_limit(finding: Finding) -> float:
    figure = finding.area if finding.kind == "small-piece" else finding.width
    return 1.0 if figure is None or not finding.limit else figure / finding.limit
