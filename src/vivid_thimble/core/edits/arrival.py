"""How large and where a new element comes in: as large as fits its room both ways, beside what is there already."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.drawing_stages import drawing_of, size_at
from vivid_thimble.core.evaluate.elements import evaluate_element
from vivid_thimble.core.evaluate.recipe import design_bounds
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import with_element, with_item
from vivid_thimble.core.job.values import Assets, Element, Item, Job, Placement, find_element, source_as
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.room.thing import room_box
from vivid_thimble.core.sources.artwork import Artwork

FRESH_SHARE = 0.8
"""So much of the room a new element takes, across or down, when it is the first one."""
BESIDE_SHARE = 0.92
"""So much of the free place beside what is there."""
WORTH_IT = 0.2
"""A free place that makes an element smaller than this share of what the whole room allows is not taken."""


def arrived(job: Job, element_id: str, assets: Assets, cache: Cache) -> tuple[Job, str]:
    """A new element of the item in hand sized and placed, and a sentence about a size that its file states.

    An element that yields nothing stays as it is.
    """
    element, item = find_element(job, element_id), job.item
    box = evaluate_element(item, element, assets, cache).box
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return job, ""
    size = box[2] - box[0], box[3] - box[1]
    others = design_bounds(with_item(job, lambda one: _without(one, element_id)), assets, cache)
    stated = _stated_size(element, assets, cache)
    if stated is not None and stated[0] <= item.width and stated[1] <= item.height:
        place = _place_for(item, stated, others) or _middle(room_box(item))
        wide, high = format_length(stated[0], job.unit, with_unit=False), format_length(stated[1], job.unit)
        said = f"{element.name} is as large as its file states: {wide} × {high}."
        return _put(job, element, place, stated[0] / size[0]), said
    room = _best_room(item, size, others)
    share = FRESH_SHARE if room == room_box(item) else BESIDE_SHARE
    return _put(job, element, _middle(room), share * _fit(size, room)), ""


def _put(job: Job, element: Element, middle: tuple[float, float], factor: float) -> Job:
    dx, dy = middle[0] - job.item.width / 2.0, middle[1] - job.item.height / 2.0
    placement: Placement = replace(element.placement.scaled(factor), dx=dx, dy=dy)
    return with_element(job, element.id, lambda e: replace(e, placement=placement))


def _without(item: Item, element_id: str) -> Item:
    return replace(
        item,
        layers=tuple(
            replace(layer, elements=tuple(e for e in layer.elements if e.id != element_id)) for layer in item.layers
        ),
    )


def _stated_size(element: Element, assets: Assets, cache: Cache) -> tuple[float, float] | None:
    """What the file of a drawing says of its own size."""
    artwork = source_as(element, Artwork)
    if artwork is None:
        return None
    try:
        drawing = drawing_of(artwork, assets, cache)
        if drawing.mm_per_unit is None:
            return None
        return size_at(drawing, artwork, drawing.mm_per_unit, cache)
    except ThimbleError:
        return None


def _best_room(item: Item, size: tuple[float, float], others: Box | None) -> Box:
    """The free place that takes most, or the whole room when none takes much."""
    whole = room_box(item)
    if others is None:
        return whole
    places = [place for place in _free_places(whole, others) if place[2] > place[0] and place[3] > place[1]]
    best = max(places, key=lambda place: _fit(size, place), default=whole)
    return best if _fit(size, best) >= WORTH_IT * _fit(size, whole) else whole


def _place_for(item: Item, size: tuple[float, float], others: Box | None) -> tuple[float, float] | None:
    """The middle of a free place that takes a given size."""
    if others is None:
        return None
    places = [p for p in _free_places(room_box(item), others) if p[2] - p[0] >= size[0] and p[3] - p[1] >= size[1]]
    return _middle(places[0]) if places else None


def _free_places(whole: Box, others: Box) -> list[Box]:
    """Right, below, left and above."""
    left, top, right, bottom = whole
    return [
        (others[2], top, right, bottom),
        (left, others[3], right, bottom),
        (left, top, others[0], bottom),
        (left, top, right, others[1]),
    ]


def _fit(size: tuple[float, float], room: Box) -> float:
    return min((room[2] - room[0]) / size[0], (room[3] - room[1]) / size[1])


def _middle(room: Box) -> tuple[float, float]:
    return (room[0] + room[2]) / 2.0, (room[1] + room[3]) / 2.0
