"""What an inspection has to say, one finding a matter.

A finding carries a stable kind, its place, figure and limit, a severity (stop or
look), a plain sentence and the remedies that exist for it. Judging is kept apart
from measuring: ``inspection`` measures, this module words it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from msgspec import Struct

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.messages import Message
from vivid_thimble.core.ranges import AnyArea, Near, Room

Severity = Literal["stop", "look"]
Gauge = Literal["line", "gap", "loose", ""]
Point = tuple[float, float]


@dataclass(frozen=True)
class Matter:
    """A kind of finding: the word for it, the remedies by name (the first being the one to suggest; ``edits.remedies``
    knows how to apply each), the gauge whose verdict it decides. ``is_note``: it is only told, in a sentence of its
    own; ``may_be_accepted``: a person may let it be."""

    word: str = "Note"
    remedies: tuple[str, ...] = ()
    gauge: Gauge = ""
    is_note: bool = False
    may_be_accepted: bool = True


NOTE = Matter(is_note=True)
MATTERS: dict[str, Matter] = {
    "thin-line": Matter("Thin line", ("thicken-here", "thicken", "enlarge", "other-film"), "line"),
    "thin-neck": Matter("Thin neck", ("thicken-here", "thicken", "enlarge", "other-film"), "line"),
    "needle-tip": Matter("Needle tip", ("thicken-here", "thicken"), "line"),
    "thin-gap": Matter("Narrow gap", ("open-gaps", "enlarge", "other-film"), "gap"),
    "cleft": Matter("Cleft in the waste", ("open-gaps",)),
    "loose-piece": Matter("Falls out", ("bridge",), "loose"),
    "small-piece": Matter("Small piece", ("remove-specks", "enlarge", "other-film"), "loose"),
    "pinhole": Matter("Pinhole", ("fill-pinholes", "enlarge")),
    "overlapping-cuts": Matter("Cuts overlap", ("weld",), "loose"),
    "open-path": Matter("Open outline"),
    "doubled-path": Matter("Drawn twice"),
    "does-not-fit": Matter("Over the edge", ("shrink-to-item",)),
    "beyond-carrier": Matter("Larger than the carrier"),
    "step-failed": Matter("Step failed", may_be_accepted=False),
    "not-understood": NOTE,
    "letters-missing": NOTE,
    "font-missing": NOTE,
    "not-for-sale": NOTE,
    "closes-counters": NOTE,
    "closes-gaps": NOTE,
    "pieces-vanish": NOTE,
    "bridge-unfit": NOTE,
    "bridge-weak": NOTE,
    "opening-swallowed": NOTE,
    "sheet-past-rim": NOTE,
    "creases-on-ball": NOTE,
    "turns-out-of-sight": NOTE,
    "squeegee-too-wide": NOTE,
    "two-pulls": NOTE,
    "sheet-margin": NOTE,
    "sheet-over-screen": NOTE,
    "mark-at-edge": NOTE,
    "shown-spot": NOTE,
}
"""By their codes, which are stable: saved files and scripts name them. ``shown-spot`` is a place that somebody wants to
see."""


def kinds_of(gauge: Gauge) -> tuple[str, ...]:
    """The codes of the findings that decide the verdict of a gauge."""
    return tuple(kind for kind, matter in MATTERS.items() if matter.gauge == gauge)


@dataclass(frozen=True)
class Finding:
    """One thing to say. Lengths in mm, areas in mm2; a figure that does not apply is None."""

    kind: str
    """One of MATTERS."""
    severity: Severity
    message: Message
    at: Point | None = None
    width: float | None = None
    length: float | None = None
    area: float | None = None
    limit: float | None = None
    ends: tuple[Point, Point] | None = None
    belongs_to: str = ""
    cured_by_size: bool = True
    """Whether a larger size would do away with it."""
    is_curable: bool = True
    """Whether the remedies of its kind serve here."""

    @property
    def matter(self) -> Matter:
        return MATTERS[self.kind]

    @property
    def remedies(self) -> tuple[str, ...]:
        return self.matter.remedies if self.is_curable else ()

    @property
    def sentence(self) -> str:
        """In English."""
        return str(self.message)


def order_of(finding: Finding) -> tuple[int, str, float, Point]:
    """Sorting key: stops first, then by kind, worst figure first."""
    worst = finding.width if finding.width is not None else finding.area if finding.area is not None else 0.0
    return (0 if finding.severity == "stop" else 1, finding.kind, worst, finding.at or (0.0, 0.0))


class Accepted(Struct, frozen=True, kw_only=True):
    """A finding that somebody looked at and lets be, with the reason. ``at``: its place in shares of the design's box;
    ``of``: what it belongs to, when it has no place. It holds as long as the matter gets no worse than it was."""

    kind: str
    reason: str
    of: str | None = None
    """None holds for whatever it belongs to (files of 0.1 do not tell)."""
    at: tuple[Near, Near] | None = None
    width: Room | None = None
    area: AnyArea | None = None


NEAR_SHARE = 0.03
"""An accepted place is found again within this share of the design's diagonal."""
WORSE = 0.97
"""A figure below this share of the accepted one is a new matter."""


def accepted_as(finding: Finding, reason: str, box: Box | None) -> Accepted:
    """The finding as it is let be."""
    at = None
    if finding.at is not None and box is not None:
        wide, high = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)
        at = round((finding.at[0] - box[0]) / wide, 4), round((finding.at[1] - box[1]) / high, 4)
    of = finding.belongs_to if at is None else None
    return Accepted(kind=finding.kind, reason=reason, of=of, at=at, width=finding.width, area=finding.area)


def accepting(finding: Finding, accepted: Iterable[Accepted], box: Box | None) -> Accepted | None:
    """Which acceptance holds for a finding; None for none."""
    return next((one for one in accepted if _holds(one, finding, box)), None)


def _holds(one: Accepted, finding: Finding, box: Box | None) -> bool:
    if one.kind != finding.kind or not finding.matter.may_be_accepted:
        return False
    for was, now in ((one.width, finding.width), (one.area, finding.area)):
        if was is not None and (now is None or now < WORSE * was):
            return False
    if one.at is None or finding.at is None or box is None:
        return one.at is None and finding.at is None and one.of in (None, finding.belongs_to)
    wide, high = box[2] - box[0], box[3] - box[1]
    x, y = box[0] + one.at[0] * wide, box[1] + one.at[1] * high
    return math.hypot(finding.at[0] - x, finding.at[1] - y) <= NEAR_SHARE * math.hypot(wide, high)
