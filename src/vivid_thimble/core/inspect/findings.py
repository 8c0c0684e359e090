"""What an inspection has to say, one finding a matter.

A finding carries a stable kind, its place, figure and limit, a severity (stop or
look), a plain sentence and the remedies that exist for it. Judging is kept apart
from measuring: ``inspection`` measures, this module words it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Kind = Literal[
    "thin-line",
    "thin-neck",
    "needle-tip",
    "thin-gap",
    "cleft",
    "loose-piece",
    "small-piece",
    "pinhole",
    "overlapping-cuts",
    "open-path",
    "doubled-path",
    "does-not-fit",
    "beyond-carrier",
    "step-failed",
    "note",
]
Severity = Literal["stop", "look"]
Point = tuple[float, float]

REMEDIES: dict[Kind, tuple[str, ...]] = {
    "thin-line": ("thicken-here", "thicken", "enlarge", "other-film"),
    "thin-neck": ("thicken-here", "thicken", "enlarge", "other-film"),
    "needle-tip": ("thicken-here", "thicken"),
    "thin-gap": ("open-gaps", "enlarge", "other-film"),
    "cleft": ("open-gaps",),
    "loose-piece": ("bridge",),
    "small-piece": ("remove-specks", "enlarge", "other-film"),
    "pinhole": ("fill-pinholes", "enlarge"),
    "overlapping-cuts": ("weld",),
    "does-not-fit": ("shrink-to-item",),
}
"""Remedies by name, the first being the one to suggest; the desktop knows how to apply each."""


@dataclass(frozen=True)
class Finding:
    """One thing to say. Lengths in mm, areas in mm2; a figure that does not apply is None."""

    kind: Kind
    severity: Severity
    sentence: str
    at: Point | None = None
    width: float | None = None
    length: float | None = None
    area: float | None = None
    limit: float | None = None
    ends: tuple[Point, Point] | None = None
    belongs_to: str = ""
    cured_by_size: bool = True
    """Whether a larger size would do away with it."""
    remedies: tuple[str, ...] = field(default=())


def order_of(finding: Finding) -> tuple[int, str, float, Point]:
    """Sorting key: stops first, then by kind, worst figure first."""
    worst = finding.width if finding.width is not None else finding.area if finding.area is not None else 0.0
    return (0 if finding.severity == "stop" else 1, finding.kind, worst, finding.at or (0.0, 0.0))
