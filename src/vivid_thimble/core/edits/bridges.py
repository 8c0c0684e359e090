"""Edits of bridges by hand, as changes of the recipe.

Once one bridge of a middle is touched, the others of that middle are placed by hand as well: they stay where they are,
and the planner adds none unless the middle would fall out.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from vivid_thimble.core.bridging.by_hand import PlacedBridge, placed_at
from vivid_thimble.core.bridging.plan import Bridge
from vivid_thimble.core.job.edits import with_steps_of
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.steps import Bridges, Step, of_kind
from vivid_thimble.core.steps.bridges import FoundBridges


def with_bridge(job: Job, owner: str, own: FoundBridges, bridge: Bridge, instead_of: int | None = None) -> Job:
    """A bridge placed by hand, new or ``instead_of`` the one of that number; ``owner``: the element or film."""
    rest = _others_of_middle(own, [bridge, *_numbered(own, instead_of)], instead_of)
    return _placed(job, owner, own, [*rest, bridge], instead_of)


def without_bridge(job: Job, owner: str, own: FoundBridges, number: int) -> Job:
    """A bridge taken out; the planner keeps away from its place."""
    gone = own.found.plan.bridges[number]
    job = _placed(job, owner, own, _others_of_middle(own, [gone], number), number)
    shunned = placed_at(gone.start, gone.end, own.found.box)
    at = (shunned.start[0] + shunned.end[0]) / 2.0, (shunned.start[1] + shunned.end[1]) / 2.0
    return _changed(job, owner, own.step, lambda step: replace(step, avoided=(*step.avoided, at)))


def locked(job: Job, owner: str, own: FoundBridges, numbers: Sequence[int]) -> Job:
    """Bridges kept where they are, whatever the planner would choose later."""
    bridges = [own.found.plan.bridges[k] for k in numbers if k >= len(own.found.by_hand)]
    more = tuple(placed_at(one.start, one.end, own.found.box) for one in bridges if not one.weak)
    return _changed(job, owner, own.step, lambda step: replace(step, placed=(*step.placed, *more)))


def automatic(job: Job, owner: str, own: FoundBridges) -> Job:
    """Nothing by hand any more."""
    return _changed(job, owner, own.step, lambda step: replace(step, placed=(), avoided=()))


def without_unfit(job: Job, owner: str, own: FoundBridges) -> Job:
    """Without those by hand that do not fit any more."""
    kept = tuple(one for k, one in enumerate(own.step.placed) if k not in own.found.unfit)
    return _changed(job, owner, own.step, lambda step: replace(step, placed=kept))


def _numbered(own: FoundBridges, number: int | None) -> list[Bridge]:
    return [] if number is None else [own.found.plan.bridges[number]]


def _others_of_middle(own: FoundBridges, touched: Sequence[Bridge], but: int | None) -> list[Bridge]:
    """The automatic bridges of the middles that some bridges hold, except one."""
    middles = {ring for bridge in touched for ring in bridge.rings if ring >= 0 and not own.walls.is_outer[ring]}
    bridges = own.found.plan.bridges
    numbers = range(len(own.found.by_hand), len(bridges))
    return [bridges[k] for k in numbers if k != but and not bridges[k].weak and middles & set(bridges[k].rings)]


def _placed(job: Job, owner: str, own: FoundBridges, more: Sequence[Bridge], gone: int | None) -> Job:
    """The step with more bridges by hand, and without the one of that number among those found."""
    by_hand = own.found.by_hand
    away = by_hand[gone] if gone is not None and gone < len(by_hand) else None
    kept: list[PlacedBridge] = [one for k, one in enumerate(own.step.placed) if k != away]
    kept += [placed_at(one.start, one.end, own.found.box) for one in more]
    return _changed(job, owner, own.step, lambda step: replace(step, placed=tuple(kept)))


def _changed(job: Job, owner: str, own: Bridges, change: Callable[[Bridges], Bridges]) -> Job:
    def steps(before: tuple[Step, ...]) -> tuple[Step, ...]:
        step = next((one for one in of_kind(before, Bridges) if one.id == own.id), None)
        return tuple(change(step) if step is not None and one is step else one for one in before)

    return with_steps_of(job, owner, steps)
