"""The largest size that fits."""

from __future__ import annotations

from dataclasses import dataclass

from vivid_thimble.core.blanks.kinds import Ball
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.room.thing import thing_box


@dataclass(frozen=True)
class Fitting:
    """The largest size in mm of a design that keeps its proportions, and what decides."""

    width: float
    height: float
    reason: str


def fitting_box(item: Item, margin: float) -> Box | None:
    """The part of the room that lies ``margin`` mm from the thing's edges, or None."""
    left, top, right, bottom = thing_box(item)
    box = (
        max(left + margin, 0.0),
        max(top + margin, 0.0),
        min(right - margin, item.width),
        min(bottom - margin, item.height),
    )
    return box if box[2] > box[0] and box[3] > box[1] else None


def what_fits(item: Item, size: tuple[float, float], margin: float) -> Fitting | None:
    """The largest size in the room that leaves ``margin`` mm to every edge of the thing; None when nothing is left.

    On a ball the film must lie down without snips too.
    """
    box = fitting_box(item, margin)
    if box is None or min(size) <= 0.0:
        return None
    wanted = [((box[2] - box[0]) / size[0], "the width decides"), ((box[3] - box[1]) / size[1], "the height decides")]
    if isinstance(item.blank, Ball):
        flat = item.blank.largest(*size) / size[1]
        wanted.append((flat, "larger film would crease at its edge unless it is snipped"))
    factor, reason = min(wanted)
    return Fitting(size[0] * factor, size[1] * factor, reason)
