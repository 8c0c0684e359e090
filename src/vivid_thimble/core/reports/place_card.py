"""Where every film and piece goes on the thing, as a tape is read: from its true edges, as one stands before it while
working.

What is worked from behind or on the underside is measured there, so left and right change places.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from vivid_thimble.core.blanks.kinds import Ball, Cloth, Cylinder, Tapered
from vivid_thimble.core.evaluate.results import ElementResult, ItemResult, LayerResult
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.room.thing import edges_of, thing_box, true_share

SHEET = "sheet"
WORTH_TELLING_MM = 1.0
"""An arc and its chord are told apart from this difference on."""


@dataclass(frozen=True)
class Placing:
    """One thing to lay down. Lengths in mm; None: does not apply.

    ``part`` is None for all of a film together, "sheet" for the sheet of a stencil, else the name of an element.
    ``baseline``: from the thing's upper edge to the first baseline of level words. ``front_left`` and ``front_right``:
    on round things from the line in front, the middle of the room, to both ends. ``arc`` and ``chord``: the width along
    the surface and straight across.
    """

    item: str
    film: str
    part: str | None
    left: float
    right: float
    top: float
    bottom: float
    below_rim: float | None = None
    below_collar: float | None = None
    arc: float | None = None
    chord: float | None = None
    baseline: float | None = None
    front_left: float | None = None
    front_right: float | None = None


def placings(result: ItemResult) -> tuple[Placing, ...]:
    """For every film the whole of it, the sheet of a stencil, then its elements where there are several."""
    found = []
    for layer in result.layers:
        if layer.box is None:
            continue
        shown = [one for one in layer.elements if one.box is not None and not one.element.helps_only]
        found.append(_placing(result.item, layer, None, layer.box, shown[0] if len(shown) == 1 else None))
        if layer.sheet_box is not None:
            found.append(_placing(result.item, layer, SHEET, layer.sheet_box))
        if len(shown) > 1:
            found += [_placing(result.item, layer, one.element.name, one.box, one) for one in shown if one.box]
    return tuple(found)


def placing_lines(one: Placing, unit: Unit) -> tuple[str, ...]:
    """Its distances as they are measured, a line each."""

    def say(mm: float) -> str:
        return format_length(mm, unit)

    top = f"{say(one.top)} from the top"
    if one.below_rim is not None:
        top = f"{say(one.top)} below the rim"
    elif one.below_collar is not None:
        top = f"{say(one.top)} below the collar"
    lines = [f"{say(one.left)} from the left, {say(one.right)} from the right", f"{top}, {say(one.bottom)} from below"]
    if one.baseline is not None:
        lines.append(f"baseline {say(one.baseline)} from the top")
    if one.front_left is not None and one.front_right is not None:
        lines.append(f"{say(one.front_left)} left and {say(one.front_right)} right of the front line")
    if one.arc is not None and one.chord is not None and one.arc - one.chord > WORTH_TELLING_MM:
        lines.append(f"{say(one.arc)} round, {say(one.chord)} straight across")
    return tuple(lines)


def placing_title(one: Placing) -> str:
    """What is laid down."""
    return one.film if one.part is None else f"{one.film}, {one.part}"


def is_worked_from_behind(item: Item) -> bool:
    """Whether the hand sees left and right the other way round than the reader of the finished thing."""
    return item.side in ("behind", "underside") or item.method == "screen-stencil"


def _placing(
    item: Item, layer: LayerResult, part: str | None, box: Box, element: ElementResult | None = None
) -> Placing:
    left, right, top, bottom = edges_of(item, box)
    behind = is_worked_from_behind(item)
    blank = item.blank
    is_round = isinstance(blank, Cylinder | Tapered | Ball)
    share = true_share(item, (box[1] + box[3]) / 2.0)
    arc = (box[2] - box[0]) * share if is_round else None
    before, after = (item.width / 2.0 - box[0]) * share, (box[2] - item.width / 2.0) * share
    baseline = element.baseline - thing_box(item)[1] if element is not None and element.baseline is not None else None
    return Placing(
        item=item.name,
        film=layer.layer.film.name,
        part=part,
        left=right if behind else left,
        right=left if behind else right,
        top=top,
        bottom=bottom,
        below_rim=top if isinstance(blank, Cylinder | Tapered) else None,
        below_collar=top if isinstance(blank, Cloth) else None,
        arc=arc,
        chord=None if arc is None else _chord(item, arc, share),
        baseline=baseline,
        front_left=(after if behind else before) if is_round else None,
        front_right=(before if behind else after) if is_round else None,
    )


def _chord(item: Item, arc: float, share: float) -> float:
    """Straight across between both ends of an arc round the side."""
    blank = item.blank
    assert isinstance(blank, Cylinder | Tapered | Ball)
    radius = blank.girth * share / math.tau
    return 2.0 * radius * math.sin(min(arc / (2.0 * radius), math.pi / 2.0))
