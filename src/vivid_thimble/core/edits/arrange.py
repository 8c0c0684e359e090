"""Arranging elements on the item: alignment, even gaps, equal sizes, rows; what a moved one snaps to and how far it is
from its neighbours.

Boxes are (left, top, right, bottom) in mm on the item; ``boxes`` are those of elements as they are drawn, by id.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from msgspec.structs import replace

from vivid_thimble.core.edits.linked import leader_of, leading
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.job.edits import fresh_id, ids_in, shifted, with_element
from vivid_thimble.core.job.values import SIZES, Element, Item, Job, all_elements
from vivid_thimble.core.steps import Stretch, of_kind

Boxes = Mapping[str, Box]
Axis = Literal[0, 1]
Line = Literal["left", "middle", "right", "top", "centre", "bottom"]
LINES: dict[Line, tuple[Axis, float]] = {
    "left": (0, 0.0),
    "middle": (0, 0.5),
    "right": (0, 1.0),
    "top": (1, 0.0),
    "centre": (1, 0.5),
    "bottom": (1, 1.0),
}
"""The axis of each line and where it lies in a box, 0 to 1."""
NEARLY_MM = 1e-6
NEARLY_SAME = 1e-4
"""Factors that differ by less are the same."""


# -- which elements -----------------------------------------------------------------


def boxes_of(result: ItemResult, job: Job) -> dict[str, Box]:
    """The boxes of all elements that draw something; an element that others follow in the job takes those in."""
    found: dict[str, Box] = {}
    for layer in result.layers:
        for element in layer.elements:
            box = element.box
            if box is not None:
                of = leader_of(job, element.element.id)
                known = [box, found[of]] if of in found else [box]
                whole = box_round(known)
                assert whole is not None
                found[of] = whole
    return found


# -- moving and sizing ---------------------------------------------------------------


def moved(job: Job, ids: Sequence[str], dx: float, dy: float) -> Job:
    """Elements shifted by the same distance."""
    for one in _leaders(job, ids):
        job = with_element(job, one, lambda e: shifted(e, dx, dy))
    return job


def resized(job: Job, ids: Sequence[str], factor: float, about: tuple[float, float]) -> Job:
    """Elements larger or smaller about a place on the item; linked copies take their size from what they copy."""
    item = job.item
    for one in _leaders(job, ids):
        job = with_element(job, one, lambda e: _spread(e, item, factor, factor, about))
    return job


def stretched(job: Job, ids: Sequence[str], across: float, down: float, about: tuple[float, float]) -> Job:
    """Elements so many times as wide and as high about a place on the item, their proportions not kept."""
    if abs(across - down) < NEARLY_SAME:
        return resized(job, ids, down, about)
    taken, item = ids_in(job), job.item

    def shape(element: Element) -> Element:
        place = element.placement
        has_size = any(getattr(place, one) is not None for one in SIZES) or place.shared is not None
        element = _spread(element, item, across, down, about)
        if has_size:
            return _with_stretch(element, across / down, 1.0, taken)
        return _with_stretch(element, across, down, taken)  # a copy has no size of its own to grow

    for one in _leaders(job, ids):
        job = with_element(job, one, shape)
        for follower in (e.id for e in all_elements(job) if leading(e) == one):
            job = with_element(job, follower, lambda e: _with_stretch(e, across / down, 1.0, taken))
    return job


def turned(job: Job, ids: Sequence[str], angle_deg: float, about: tuple[float, float]) -> Job:
    """Elements turned together about a place on the item, counter-clockwise as seen."""
    x, y = about[0] - job.item.width / 2.0, about[1] - job.item.height / 2.0
    turn = Affine.translation(-x, -y).then(Affine.turning(angle_deg)).then(Affine.translation(x, y))

    def changed(element: Element) -> Element:
        place = element.placement
        dx, dy = turn.apply(np.array([place.dx, place.dy])).tolist()
        angle = math.remainder(place.turn_deg + angle_deg, 360.0)
        return replace(element, placement=replace(place, dx=dx, dy=dy, turn_deg=angle))

    for one in _leaders(job, ids):
        job = with_element(job, one, changed)
    return job


def _spread(element: Element, item: Item, across: float, down: float, about: tuple[float, float]) -> Element:
    """An element ``down`` times as large, its place as far from another one as both factors ask."""
    place, x, y = element.placement, item.width / 2.0, item.height / 2.0
    dx = about[0] + (x + place.dx - about[0]) * across - x
    dy = about[1] + (y + place.dy - about[1]) * down - y
    return replace(element, placement=replace(place.scaled(down), dx=dx, dy=dy))


def _leaders(job: Job, ids: Sequence[str]) -> list[str]:
    """The elements that have the places of some, each once."""
    return list(dict.fromkeys(leader_of(job, each) for each in ids))


def _with_stretch(element: Element, across: float, down: float, taken: set[str]) -> Element:
    """Before all other steps, whose lengths hold for the stretched shape; one that changes nothing any more goes."""
    own = next(iter(of_kind(element.steps, Stretch)), None)
    rest = tuple(step for step in element.steps if step is not own)
    if own is None:
        own = Stretch(id=fresh_id("stretch", taken))
        taken.add(own.id)
    across, down = own.across * across, own.down * down
    if abs(across - 1.0) < NEARLY_SAME and abs(down - 1.0) < NEARLY_SAME:
        return replace(element, steps=rest)
    return replace(element, steps=(replace(own, across=across, down=down, enabled=True), *rest))


def aligned(job: Job, boxes: Boxes, ids: Sequence[str], line: Line) -> Job:
    """Elements brought to one line: a single one to the item, several to the first of them."""
    axis, share = LINES[line]
    ids = _drawn(job, boxes, ids)
    if not ids:
        return job
    goal = (0.0, 0.0, job.item.width, job.item.height) if len(ids) == 1 else boxes[ids[0]]
    for one in ids:
        way = _at(goal, axis, share) - _at(boxes[one], axis, share)
        job = _along(job, one, axis, way)
    return job


def spread_evenly(job: Job, boxes: Boxes, ids: Sequence[str], axis: Axis, *, over_item: bool = False) -> Job:
    """Equal gaps between elements, in the order in which they lie: the outer two stay, or with ``over_item`` the gaps
    to the item's edges are the same as those between them."""
    row = sorted(_drawn(job, boxes, ids), key=lambda one: _at(boxes[one], axis, 0.5))
    inner = sum(_long(boxes[one], axis) for one in row)
    if over_item and row:
        gap = ((job.item.width, job.item.height)[axis] - inner) / (len(row) + 1)
        at = gap
    elif len(row) >= 3:
        first, last = boxes[row[0]], boxes[row[-1]]
        gap = (_at(last, axis, 1.0) - _at(first, axis, 0.0) - inner) / (len(row) - 1)
        at = _at(first, axis, 0.0)
    else:
        return job
    for one in row:
        job = _along(job, one, axis, at - _at(boxes[one], axis, 0.0))
        at += _long(boxes[one], axis) + gap
    return job


def same_size(job: Job, boxes: Boxes, ids: Sequence[str], axis: Axis) -> Job:
    """Elements brought to the width (axis 0) or height (1) of the first, each about its own middle."""
    ids = _drawn(job, boxes, ids)
    for one in ids[1:]:
        factor = _long(boxes[ids[0]], axis) / max(_long(boxes[one], axis), NEARLY_MM)
        job = resized(job, [one], factor, (_at(boxes[one], 0, 0.5), _at(boxes[one], 1, 0.5)))
    return job


def in_rows(job: Job, boxes: Boxes, ids: Sequence[str], columns: int, gap: float) -> Job:
    """Elements laid out in rows of so many, as they were chosen, their cells as large as the largest of them; the whole
    keeps its middle."""
    ids = _drawn(job, boxes, ids)
    if not ids:
        return job
    columns = min(max(columns, 1), len(ids))
    wide, high = (max(_long(boxes[one], axis) for one in ids) + gap for axis in (0, 1))
    rows = math.ceil(len(ids) / columns)
    whole = box_round([boxes[one] for one in ids])
    assert whole is not None
    x0, y0 = _at(whole, 0, 0.5) - wide * (columns - 1) / 2.0, _at(whole, 1, 0.5) - high * (rows - 1) / 2.0
    for k, one in enumerate(ids):
        x, y = x0 + wide * (k % columns), y0 + high * (k // columns)
        job = _along(job, one, 0, x - _at(boxes[one], 0, 0.5))
        job = _along(job, one, 1, y - _at(boxes[one], 1, 0.5))
    return job


def _drawn(job: Job, boxes: Boxes, ids: Sequence[str]) -> list[str]:
    return [one for one in _leaders(job, ids) if one in boxes]


def _along(job: Job, one: str, axis: Axis, way: float) -> Job:
    return moved(job, [one], *((way, 0.0) if axis == 0 else (0.0, way)))


def _at(box: Box, axis: Axis, share: float) -> float:
    return box[axis] + share * (box[axis + 2] - box[axis])


def _long(box: Box, axis: Axis) -> float:
    return box[axis + 2] - box[axis]


# -- while moving --------------------------------------------------------------------


@dataclass(frozen=True)
class SnapLine:
    """A line that a moved box came to lie on: upright at x = ``at`` (axis 0), or level at y = ``at``; ``over`` tells
    from where to where it is worth showing."""

    axis: Axis
    at: float
    over: tuple[float, float]


def snapped(
    box: Box, others: Sequence[Box], item: tuple[float, float], within: float
) -> tuple[float, float, list[SnapLine]]:
    """How far a box moves on so that an edge or middle of it meets one of the others, or of the item, no more than
    ``within`` mm away; and the lines that it meets then."""
    whole = (0.0, 0.0, *item)
    shift, lines = [0.0, 0.0], []
    for axis in (0, 1):
        met = _nearest(box, [whole, *others], axis, within)
        if met is not None:
            shift[axis], at, other = met
            low, high = min(other[1 - axis], box[1 - axis]), max(other[3 - axis], box[3 - axis])
            lines.append(SnapLine(axis, at, (low, high)))
    return shift[0], shift[1], lines


def _nearest(box: Box, others: Sequence[Box], axis: Axis, within: float) -> tuple[float, float, Box] | None:
    """The smallest way from a line of the box to a line of another one: the way, where the line is, and whose."""
    best: tuple[float, float, Box] | None = None
    for other in others:
        for goal in (0.0, 0.5, 1.0):
            for own in (0.0, 0.5, 1.0):
                at = _at(other, axis, goal)
                way = at - _at(box, axis, own)
                if abs(way) <= within and (best is None or abs(way) < abs(best[0]) - NEARLY_MM):
                    best = way, at, other
    return best


@dataclass(frozen=True)
class Room:
    """The room on one side of a box: from ``start`` to ``end``, ``wide`` mm (negative: over the edge)."""

    start: tuple[float, float]
    end: tuple[float, float]
    wide: float
    to_neighbour: bool


def rooms(box: Box, others: Sequence[Box], thing: Box) -> list[Room]:
    """The room left, right, above and below a box: to the nearest other box beside it, or to the thing's edge."""
    return [_room(box, others, thing, axis, forwards=forwards) for axis in (0, 1) for forwards in (False, True)]


def _room(box: Box, others: Sequence[Box], thing: Box, axis: Axis, *, forwards: bool) -> Room:
    edge = box[axis + 2] if forwards else box[axis]
    goal, beside = (thing[axis + 2] if forwards else thing[axis]), False
    cross: Axis = 1 if axis == 0 else 0
    middle = _at(box, cross, 0.5)
    for other in others:
        if other[cross] >= box[cross + 2] or other[cross + 2] <= box[cross]:
            continue  # it lies above or below, not beside
        facing = other[axis] if forwards else other[axis + 2]
        ahead = facing >= edge - NEARLY_MM if forwards else facing <= edge + NEARLY_MM
        if ahead and (facing < goal if forwards else facing > goal):
            goal, beside = facing, True
            middle = (max(other[cross], box[cross]) + min(other[cross + 2], box[cross + 2])) / 2.0
    wide = goal - edge if forwards else edge - goal
    start, end = ((edge, middle), (goal, middle)) if axis == 0 else ((middle, edge), (middle, goal))
    return Room(start, end, wide, beside)
