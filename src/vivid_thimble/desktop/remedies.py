"""Remedies: what can be done about a finding, as changes of the recipe."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job import Job, Layer, free_id, scaled_design, with_element, with_layer
from vivid_thimble.core.results import ItemResult
from vivid_thimble.core.steps import Thicken, Weld

REMEDY_WORDS = {
    "enlarge": "Enlarge until clean",
    "thicken": "Thicken all",
    "weld": "Weld all",
    "shrink-to-item": "Shrink to the item",
}
CLEAN_ROOM = 1.002
"""Enlarged a little beyond the computed size, so that rounding leaves no finding."""


def remedies_for(job: Job, result: ItemResult | None, finding: Finding) -> list[str]:
    """The remedies of a finding that would help now."""
    if result is None:
        return []
    return [name for name in finding.remedies if remedied(job, result, finding, name) is not None]


def remedied(job: Job, result: ItemResult, finding: Finding, remedy: str) -> Job | None:
    """The job with a remedy applied; None when it cannot help."""
    if remedy == "enlarge":
        scale = result.layers[0].inspection.smallest_clean_scale
        return scaled_design(job, scale * CLEAN_ROOM) if scale is not None and scale > 1.0 else None
    if remedy == "weld":
        return with_layer(job, _welded)
    if remedy == "thicken" and finding.width is not None and finding.limit is not None:
        return _thickened(job, max((finding.limit - finding.width) / 2.0 + 0.01, 0.01))
    if remedy == "shrink-to-item":
        return _shrunk(job, result)
    return None


def _welded(layer: Layer) -> Layer:
    rest = tuple(step for step in layer.steps if not isinstance(step, Weld))
    return replace(layer, steps=(*rest, Weld(id="weld-all")))


def _thickened(job: Job, by: float) -> Job:
    """Every element grows by the same distance; an existing thickening grows with it."""
    for element in job.item.layers[0].elements:
        own = [step for step in element.steps if isinstance(step, Thicken)]
        if own:
            grown = replace(own[-1], by=round(own[-1].by + by, 3), enabled=True)
            steps = tuple(grown if step is own[-1] else step for step in element.steps)
        else:
            steps = (*element.steps, Thicken(id=free_id("thicken", job), by=round(by, 3)))
        job = with_element(job, element.id, lambda e, s=steps: replace(e, steps=s))  # type: ignore[misc]
    return job


def _shrunk(job: Job, result: ItemResult) -> Job | None:
    """The largest size that fits the item with a small margin, centred."""
    if result.size is None or result.bounds is None:
        return None
    item, room = job.item, 0.96
    factor = min(item.width * room / result.size[0], item.height * room / result.size[1], 1.0)
    left, top, right, bottom = result.bounds
    dx, dy = (left + right - item.width) / 2.0, (top + bottom - item.height) / 2.0
    job = scaled_design(job, factor)
    for element in job.item.layers[0].elements:
        place = replace(element.placement, dx=element.placement.dx - dx * factor, dy=element.placement.dy - dy * factor)
        job = with_element(job, element.id, lambda e, p=place: replace(e, placement=p))  # type: ignore[misc]
    return job
