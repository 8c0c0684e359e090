"""How each station stands, in a few words for the work path; told without opening it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.core.room.thing import size_in_words
from vivid_thimble.desktop.session.derived import CUT

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


@dataclass(frozen=True)
class Standing:
    """How a station stands: a few words and a verdict."""

    words: str
    verdict: str
    was: bool = False
    """It belongs to an earlier state of the job."""


NOTHING = Standing("nothing yet", "none")


def _measure(session: Session) -> Standing:
    item, unit = session.job.item, session.job.unit
    return Standing(size_in_words(item, unit, briefly=True), "fine")


def _gather(session: Session) -> Standing:
    kinds = [e.source.WORD for e in elements_of(session.job.item)]
    if not kinds:
        return NOTHING
    counts = {kind: kinds.count(kind) for kind in kinds if kind not in ("answer bands", "film")}
    parts = [kind if count == 1 else f"{count} x {kind}" for kind, count in counts.items()]
    result = session.result
    failed = result is not None and any(layer.problems for layer in result.layers)
    return Standing(", ".join(parts), "stop" if failed else "fine")


def _shape(session: Session) -> Standing:
    item = session.job.item
    elements = elements_of(item)
    if not elements:
        return NOTHING
    steps = [s for e in elements for s in e.steps if s.enabled]
    steps += [s for layer in item.layers for s in layer.steps if s.enabled]
    result = session.result
    overlap = result is not None and any(f.kind == "overlapping-cuts" for f in result.findings)
    words = "as drawn" if not steps else f"{len(steps)} step" + "s" * (len(steps) > 1)
    return Standing("not welded" if overlap else words, "stop" if overlap else "fine")


def _inspect(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    stops = sum(1 for f in result.findings if f.severity == "stop")
    looks = len(result.findings) - stops
    if stops:
        return Standing(f"{stops} to mend", "stop")
    return Standing(f"{looks} to look at", "look") if looks else Standing("clean", "fine")


def _cut(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    planned = session.insights.of(CUT)
    if planned is None:
        return Standing("…", "none")
    cut, _ = planned
    if cut is None:
        return Standing("too large", "stop")
    return Standing("mirrored" if cut.plan.mirrored else "fits", "fine")


def _weed(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    count = sum(len(layer.inspection.waste) for layer in result.layers)
    return Standing(f"{count} pick" + "s" * (count != 1), "fine")


FROM_RESULT = ("inspect", "cut", "weed")
"""Stations that stand as the last result says."""


def standing_of(key: str, session: Session, *, stale: bool) -> Standing:
    """How a station stands; ``stale``: what comes from the result is told as what it was."""
    standing = STANDINGS[key](session)
    return replace(standing, was=stale and key in FROM_RESULT and standing.verdict != "none")


STANDINGS: dict[str, Callable[[Session], Standing]] = {
    "measure": _measure,
    "gather": _gather,
    "shape": _shape,
    "inspect": _inspect,
    "cut": _cut,
    "weed": _weed,
}
