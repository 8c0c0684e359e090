"""One size for words on several items: the same letters, or the same width.

For every word the largest em is found at which its finished shape keeps the margin on its own item.
The smallest of these decides for all: as the common em, or as the common width. A word's own search
depends on nothing but that word, its item and the margin, so another name leaves the rest cached.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.evaluate.elements import evaluate_element
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import (
    Assets,
    Element,
    Item,
    Job,
    Placement,
    SharedSize,
    elements_of,
    letters_key,
    plain,
)

FITS_MM = 0.005
"""Finished sizes are searched to within this."""
ROUNDS = 16
CLEARLY_SMALLER = 0.93
"""The room's height is not searched for when the width is this much tighter, and the other way round."""
Limit = Literal["width", "height"]


@dataclass(frozen=True)
class Fit:
    """The largest em of a word in its room, what stops it, and the finished size there (mm)."""

    em: float
    limit: Limit
    width: float
    height: float


@dataclass(frozen=True)
class Member:
    """One word of a set as it comes out: its em and finished size in mm. ``item`` counts from 0."""

    item: int
    element: Element
    em: float
    width: float
    height: float
    capital: float | None


@dataclass(frozen=True)
class SetFigures:
    """A shared size with all its words; ``deciding`` is the one that allows no more, and ``limit`` why."""

    shared: SharedSize
    members: tuple[Member, ...]
    deciding: Element | None
    limit: Limit


def with_shared_sizes(job: Job, assets: Assets, cache: Cache) -> Job:
    """The job with every shared size worked out for the item in hand."""
    for shared in job.shared:
        if any(e.placement.shared == shared.id for e in elements_of(job.item)):
            ems, _ = _ems(job, shared, assets, cache, only=job.item)
            for element_id, em in ems.items():
                job = with_element(job, element_id, lambda e, em=em: _at(e, em))  # type: ignore[misc]
    return job


def set_figures(job: Job, shared: SharedSize, assets: Assets, cache: Cache) -> SetFigures:
    """What every word of a set comes out as, and which one decides."""
    ems, deciding = _ems(job, shared, assets, cache)
    members = []
    for number, item, element in _sharing(job, shared):
        em = ems.get(element.id)
        if em is None:
            continue
        result = evaluate_element(item, _at(element, em), assets, cache)
        width, height = _size(item, _at(element, em), assets, cache)
        members.append(Member(number, element, em, width, height, result.heights.capital))
    return SetFigures(shared, tuple(members), deciding[0] if deciding else None, deciding[1] if deciding else "width")


def _ems(
    job: Job, shared: SharedSize, assets: Assets, cache: Cache, only: Item | None = None
) -> tuple[dict[str, float], tuple[Element, Limit] | None]:
    """The em of every member (of one item's members with ``only``), and who decides; words that cannot
    be set are left out."""
    fits = []
    for _, item, element in _sharing(job, shared):
        fit = _fit(item, element, shared.margin, assets, cache)
        if fit is not None:
            fits.append((item, element, fit))
    if not fits:
        return {}, None
    if shared.match == "letters":
        _, decider, least = min(fits, key=lambda one: one[2].em)
        em = least.em * shared.share
        return {e.id: em for item, e, _ in fits if only in (None, item)}, (decider, least.limit)
    _, decider, least = min(fits, key=lambda one: one[2].width)
    wanted = least.width * shared.share
    ems = {}
    for item, element, fit in fits:
        if only in (None, item):
            ems[element.id] = _em_at_width(item, element, fit, wanted, assets, cache)
    return ems, (decider, least.limit)


def _sharing(job: Job, shared: SharedSize) -> list[tuple[int, Item, Element]]:
    return [
        (number, item, element)
        for number, item in enumerate(job.items)
        for element in elements_of(item)
        if element.placement.shared == shared.id and element.source.SETS_WORDS
    ]


def _at(element: Element, em: float) -> Element:
    return replace(element, placement=element.placement.sized(em=em))


def _key(item: Item, element: Element, assets: Assets) -> str:
    """Names a word with its steps, wherever it lies."""
    stored = "".join(key for words in element.source.lettering if (key := letters_key(words)) in assets)
    alone = replace(element, id="", name="", placement=Placement(em=1.0, turn_deg=element.placement.turn_deg))
    return content_key(plain(alone), stored, repr((item.width, item.height)))


def _fit(item: Item, element: Element, margin: float, assets: Assets, cache: Cache) -> Fit | None:
    key = content_key("fit", _key(item, element, assets), repr(margin))
    return cache.get(key, lambda: _fitted(item, element, margin, assets, cache))


def _fitted(item: Item, element: Element, margin: float, assets: Assets, cache: Cache) -> Fit | None:
    room = (item.width - 2.0 * margin, item.height - 2.0 * margin)
    start = item.height
    size = _size(item, _at(element, start), assets, cache)
    if min(size) <= 0.0 or min(room) <= 0.0:
        return None
    guesses = [start * r / s for r, s in zip(room, size, strict=True)]

    def em_in_room(axis: int) -> float:
        return _em_for(lambda em: _size(item, _at(element, em), assets, cache)[axis], guesses[axis], room[axis])

    ems = {k: em_in_room(k) for k in (0, 1) if guesses[k] * CLEARLY_SMALLER <= min(guesses)}
    axis = min(ems, key=lambda k: ems[k])
    width, height = _size(item, _at(element, ems[axis]), assets, cache)
    return Fit(ems[axis], "width" if axis == 0 else "height", width, height)


def _em_at_width(item: Item, element: Element, fit: Fit, wanted: float, assets: Assets, cache: Cache) -> float:
    if abs(fit.width - wanted) <= FITS_MM:
        return fit.em
    key = content_key("width", _key(item, element, assets), repr(wanted))

    def search() -> float:
        return _em_for(lambda em: _size(item, _at(element, em), assets, cache)[0], fit.em * wanted / fit.width, wanted)

    return cache.get(key, search)


def _em_for(size_at: Callable[[float], float], em: float, wanted: float) -> float:
    """The em at which a size that grows with it is the wanted one; steps with lengths bend it a little.

    Where letters stop joining the size jumps: then the largest em below the jump, which is never wider.
    """
    low, high = 0.0, float("inf")
    for _ in range(ROUNDS):
        size = size_at(em)
        if abs(size - wanted) <= FITS_MM or size <= 0.0:
            return em
        low, high = (max(low, em), high) if size < wanted else (low, min(high, em))
        em *= wanted / size
        if not low < em < high:
            em = (low + high) / 2.0
    return low or em


def _size(item: Item, element: Element, assets: Assets, cache: Cache) -> tuple[float, float]:
    """Width and height of the finished words in mm; 0 when they cannot be set."""
    box = evaluate_element(item, element, assets, cache).box
    return (box[2] - box[0], box[3] - box[1]) if box is not None else (0.0, 0.0)
