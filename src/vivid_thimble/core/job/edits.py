"""Edits of a job: what changes by a function of what is there, ids, sizes and places."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from vivid_thimble.core.job.values import Element, Item, Job, Layer, all_elements, elements_of, find_element, source_as
from vivid_thimble.core.sources.source import SourceKind
from vivid_thimble.core.steps import Step


def with_item(job: Job, change: Callable[[Item], Item]) -> Job:
    """Change the item in hand."""
    held = job.item
    return replace(job, items=tuple(change(item) if item is held else item for item in job.items))


def with_layer(job: Job, change: Callable[[Layer], Layer]) -> Job:
    """Change the first layer of the item in hand."""
    return with_item(job, lambda item: replace(item, layers=(change(item.layers[0]), *item.layers[1:])))


def with_element(job: Job, element_id: str, change: Callable[[Element], Element]) -> Job:
    """Change one element wherever it is; raises KeyError for an unknown id."""
    find_element(job, element_id)

    def layer_changed(layer: Layer) -> Layer:
        return replace(layer, elements=tuple(change(e) if e.id == element_id else e for e in layer.elements))

    def item_changed(item: Item) -> Item:
        holds = any(e.id == element_id for layer in item.layers for e in layer.elements)
        return replace(item, layers=tuple(layer_changed(la) for la in item.layers)) if holds else item

    return replace(job, items=tuple(item_changed(item) for item in job.items))


def with_steps_of(job: Job, owner: str, change: Callable[[tuple[Step, ...]], tuple[Step, ...]]) -> Job:
    """Change the steps of an element, or of a layer of the item in hand; raises KeyError for an unknown id."""
    if any(layer.id == owner for layer in job.item.layers):
        return with_item(
            job,
            lambda item: replace(
                item,
                layers=tuple(replace(la, steps=change(la.steps)) if la.id == owner else la for la in item.layers),
            ),
        )
    return with_element(job, owner, lambda e: replace(e, steps=change(e.steps)))


def with_source(job: Job, element_id: str, kind: type[SourceKind], **values: object) -> Job:
    """Some values of a source changed, if it is of that kind; raises KeyError for an unknown id."""

    def changed(element: Element) -> Element:
        if source_as(element, kind) is None:
            return element
        return replace(element, source=replace(element.source, **values))

    return with_element(job, element_id, changed)


def in_face(element: Element, face: str) -> Element:
    """An element set in another face; what has no face stays."""
    return replace(element, source=element.source.in_face(face))


def with_followers_led(item: Item) -> Item:
    """Answer bands get the letters, size and place of their grid; further films of a drawing or picture those of it."""
    elements = {element.id: element for element in elements_of(item)}
    if not any(element.source.follows for element in elements.values()):
        return item

    def placed(element: Element) -> Element:
        leader = elements.get(element.source.follows)
        source = None if leader is None else element.source.led_by(leader.source)
        if leader is None or source is None:
            return element
        return replace(element, source=source, placement=leader.placement)

    return replace(
        item, layers=tuple(replace(la, elements=tuple(placed(e) for e in la.elements)) for la in item.layers)
    )


def free_id(stem: str, job: Job) -> str:
    """An id that nothing of the job has."""
    return fresh_id(stem, ids_in(job))


def ids_in(job: Job) -> set[str]:
    """The ids of all items, layers, elements, steps and shared sizes."""
    taken = {e.id for e in all_elements(job)} | {s.id for e in all_elements(job) for s in e.steps}
    taken |= {s.id for item in job.items for layer in item.layers for s in layer.steps}
    taken |= {layer.id for item in job.items for layer in item.layers}
    return taken | {item.id for item in job.items} | {one.id for one in job.shared}


def fresh_id(stem: str, taken: set[str]) -> str:
    """The first numbered id that is not taken."""
    number = 1
    while f"{stem}-{number}" in taken:
        number += 1
    return f"{stem}-{number}"


def scaled_design(job: Job, factor: float) -> Job:
    """Every element of the item in hand larger or smaller about its middle; steps keep their sizes.

    Words that share their size with other items take those along.
    """
    if not factor > 0.0:
        raise ValueError(f"a design cannot be scaled by {factor}")
    sharing = {e.placement.shared for e in elements_of(job.item)} - {None}
    for element in elements_of(job.item):
        job = with_element(job, element.id, lambda e: replace(e, placement=e.placement.scaled(factor)))
    shared = tuple(replace(one, share=one.share * factor) if one.id in sharing else one for one in job.shared)
    return replace(job, shared=shared)


def moved_design(job: Job, dx: float, dy: float) -> Job:
    """Every element of the item in hand shifted by the same distance."""
    for element in elements_of(job.item):
        job = with_element(job, element.id, lambda e: shifted(e, dx, dy))
    return job


def shifted(element: Element, dx: float, dy: float) -> Element:
    """An element moved on the item."""
    place = element.placement
    return replace(element, placement=replace(place, dx=place.dx + dx, dy=place.dy + dy))
