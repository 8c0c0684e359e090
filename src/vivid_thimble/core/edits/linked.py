"""Elements that follow others, and linked copies."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import fresh_id, ids_in, with_element, with_item
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, all_elements, source_as
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.steps import Mirror

COPY_AWAY_MM = 8.0
"""A copy lies so far right and below of what it copies, unless there is room beside it."""


def leader_of(job: Job, element_id: str) -> str:
    """The element that has the place of this one: further films and answer bands follow another."""
    element = next((one for one in all_elements(job) if one.id == element_id), None)
    return (leading(element) or element_id) if element is not None else element_id


def leading(element: Element) -> str:
    """The id of the element whose place it has; empty when it has its own."""
    return element.source.follows


def with_copies(job: Job, boxes: Mapping[str, Box], ids: Sequence[str], *, mirrored: bool) -> tuple[Job, list[str]]:
    """Linked copies of elements, beside them where the item has room; the new ids."""
    made = []
    for one in dict.fromkeys(leader_of(job, each) for each in ids):
        job, new = _with_copy(job, boxes.get(one), one, mirrored=mirrored)
        made.append(new)
    return job, made


def _with_copy(job: Job, box: Box | None, of: str, *, mirrored: bool) -> tuple[Job, str]:
    taken = ids_in(job)
    new = fresh_id("copy", taken)
    dx, dy = _free_place(job.item, box)

    def copy_of(element: Element, own: str, led: str) -> Element:
        source = Copied(of=_copied_from(element), led=led)
        place = Placement(dx=element.placement.dx + dx, dy=element.placement.dy + dy, turn_deg=_own_turn(element))
        steps = element.steps if source_as(element, Copied) else ()
        if mirrored:
            steps = (*steps, Mirror(id=fresh_id("mirror", taken)))
            taken.add(steps[-1].id)
        return Element(
            id=own,
            name=f"{element.name}, {'mirrored ' if mirrored else ''}copy",
            source=source,
            placement=place,
            steps=steps,
        )

    def layer_copied(layer: Layer) -> Layer:
        more = []
        for element in layer.elements:
            if element.id == of:
                more.append(copy_of(element, new, ""))
            elif leading(element) == of:
                own = fresh_id("copy", taken | {new})
                taken.add(own)
                more.append(copy_of(element, own, new))
        return replace(layer, elements=(*layer.elements, *more))

    taken.add(new)
    return with_item(job, lambda item: replace(item, layers=tuple(layer_copied(la) for la in item.layers))), new


def _copied_from(element: Element) -> str:
    copied = source_as(element, Copied)
    return element.id if copied is None else copied.of


def _own_turn(element: Element) -> float:
    """The turn of a copy is on top of that of what it copies."""
    return element.placement.turn_deg if source_as(element, Copied) else 0.0


def _free_place(item: Item, box: Box | None) -> tuple[float, float]:
    """To the right, below, left or above, where the item has room for another one; else a little aside."""
    if box is None:
        return COPY_AWAY_MM, COPY_AWAY_MM
    wide, high = (box[2] - box[0]) + COPY_AWAY_MM, (box[3] - box[1]) + COPY_AWAY_MM
    if box[2] + wide <= item.width:
        return wide, 0.0
    if box[3] + high <= item.height:
        return 0.0, high
    if box[0] - wide >= 0.0:
        return -wide, 0.0
    return (0.0, -high) if box[1] - high >= 0.0 else (COPY_AWAY_MM, COPY_AWAY_MM)


def unlinked(job: Job, element_id: str) -> Job:
    """A copy that stands on its own from now on: the source and steps of what it copied, then its own steps."""
    known = {one.id: one for one in all_elements(job)}
    taken = ids_in(job)

    def alone(element: Element) -> Element:
        copied = source_as(element, Copied)
        of = None if copied is None else known.get(copied.of)
        if of is None:
            return element
        place = replace(
            of.placement,
            dx=element.placement.dx,
            dy=element.placement.dy,
            turn_deg=of.placement.turn_deg + element.placement.turn_deg,
        )
        steps = []
        for step in of.steps:
            steps.append(replace(step, id=fresh_id(str(step.__struct_config__.tag), taken)))
            taken.add(steps[-1].id)
        return replace(element, source=of.source, placement=place, steps=(*steps, *element.steps))

    return with_element(job, element_id, alone)
