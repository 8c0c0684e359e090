"""Edits of a drawing in a job: its films, and what of it is taken."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.linked import leading, unlinked
from vivid_thimble.core.evaluate.drawing_stages import colour_shares, drawing_of, size_at
from vivid_thimble.core.job.edits import with_item, with_source, with_steps_of
from vivid_thimble.core.job.values import Assets, Element, Item, Job, Placement, elements_of, source_as, source_in
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.drawing import Colour, Drawing
from vivid_thimble.core.sources.line_work import has_thin_lines


@dataclass(frozen=True)
class DrawingLook:
    """What a person needs to see of a drawing to decide how it is taken."""

    drawing: Drawing
    colours: dict[Colour, float]
    """Visible colours in painting order with their share of the area."""
    has_thin_lines: bool
    stated_size: tuple[float, float] | None
    """Width and height in mm that the file itself asks for; None when it states no physical size."""


def look_at(artwork: Artwork, placement: Placement, assets: Assets, cache: Cache) -> DrawingLook:
    """Raises ThimbleError when the drawing cannot be read or nothing of it is left."""
    drawing = drawing_of(artwork, assets, cache)
    unit = drawing.mm_per_unit
    return DrawingLook(
        drawing,
        colour_shares(drawing, artwork, placement, cache),
        has_thin_lines(drawing),
        None if unit is None else size_at(drawing, artwork, unit, cache),
    )


def artwork_in(job: Job, element_id: str) -> Artwork | None:
    """The drawing that an element of the item in hand shows; None for everything else."""
    return source_in(job, element_id, Artwork)


def with_artwork(job: Job, element_id: str, **values: object) -> Job:
    """A drawing taken otherwise."""
    return with_source(job, element_id, Artwork, **values)


def without_element(job: Job, gone: str) -> Job:
    """The job without an element and what belongs to it; layers that this empties go as well. Copies of it stand on
    their own from then on."""
    for element in elements_of(job.item):
        copied = source_as(element, Copied)
        if copied is not None and copied.of == gone:
            job = unlinked(job, element.id)
        if any(gone in step.elements for step in element.steps):
            job = with_steps_of(job, element.id, lambda steps: tuple(s.without(gone) for s in steps))
    return _without(job, lambda element: element.id == gone or _belongs_to(element, gone))


def without_followers(job: Job, of: str) -> Job:
    """The job without what belongs to an element: answer bands, further films."""
    return _without(job, lambda element: _belongs_to(element, of))


def _belongs_to(element: Element, leader: str) -> bool:
    return leading(element) == leader


def _without(job: Job, goes: Callable[[Element], bool]) -> Job:

    def cleared(item: Item) -> Item:
        layers = [replace(la, elements=tuple(e for e in la.elements if not goes(e))) for la in item.layers]
        kept = [la for k, la in enumerate(layers) if k == 0 or la.elements]
        return replace(item, layers=tuple(kept))

    return with_item(job, cleared)
