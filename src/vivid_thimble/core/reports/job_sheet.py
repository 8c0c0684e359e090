"""The job sheet: one page of plain text to keep beside the work."""

from __future__ import annotations

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.job.values import Item, Job, elements_of, mirror_reason
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.room.thing import size_in_words
from vivid_thimble.core.sources.provenance import may_not_be_sold

METHOD_LINES = {
    "decal": "decal: the film stays on the item",
    "film-stencil": "stencil of film, used once",
    "rigid-stencil": "rigid stencil, used again",
    "screen-stencil": "screen stencil",
    "heat-film": "heat film",
}


def job_sheet(job: Job, result: ItemResult) -> str:
    """What is made, from which films and drawings, in which order it is weeded; lengths in the job's unit."""
    item = job.item
    blocks = [_head(job, item, result), _films(job, result), drawings_on(job, item), *_weeding(result)]
    blocks.append(
        [
            "Take care",
            "  Makers' labels, local rules and licensed practice come before anything on this sheet.",
            "  Never heat film before you know what it is made of.",
        ]
    )
    return "\n\n".join("\n".join(block) for block in blocks if block) + "\n"


def _head(job: Job, item: Item, result: ItemResult) -> list[str]:
    lines = [job.name, f"  {item.name}, {size_in_words(item, job.unit)}", f"  {METHOD_LINES[item.method]}"]
    if reason := mirror_reason(item):
        lines.append(f"  {reason}")
    if result.size is not None and result.margins is not None:
        design = " x ".join(format_length(mm, job.unit) for mm in result.size)
        left, right, top, bottom = (format_length(mm, job.unit) for mm in result.margins)
        lines.append(f"  Design {design}: {left} left, {right} right, {top} top, {bottom} bottom")
    lines += _sheet(job, item, result)
    if job.for_sale:
        lines.append("  Made for sale")
    return lines


def _sheet(job: Job, item: Item, result: ItemResult) -> list[str]:
    """The stencil's sheet and the register marks."""
    box = result.sheet_box
    lines = []
    if box is not None:
        size = " x ".join(format_length(mm, job.unit) for mm in (box[2] - box[0], box[3] - box[1]))
        lines.append(f"  Sheet {size}; paint is {item.paint}")
    if item.register is not None:
        scrap = format_length(item.register.scrap_size, job.unit)
        lines.append(f"  Register marks: lay scraps of {scrap} square under them, in the same places for every colour")
        lines.append("  Let each colour dry as its maker says before the next")
    return lines


def _films(job: Job, result: ItemResult) -> list[str]:
    lines = ["Films"]
    for number, layer in enumerate(result.layers, start=1):
        pieces = len(layer.inspection.kept)
        thinnest = layer.inspection.thinnest_line
        line = "" if thinnest is None else f", thinnest line {format_length(thinnest, job.unit)}"
        lines.append(f"  {number}. {layer.layer.film.name}: {pieces} piece{'s' * (pieces != 1)} kept{line}")
    return lines


def drawings_on(job: Job, item: Item) -> list[str]:
    """Where the drawings of an item are from, and what stands against selling them."""
    lines = []
    for element in elements_of(item):
        source = element.source
        if source.origin is not None:
            lines.append(f"  {source.origin.sentence(element.name)}")
            if job.for_sale and (reminder := may_not_be_sold(source.origin, element.name)):
                lines.append(f"    {reminder}")
    return ["Drawings", *lines] if lines else []


def _weeding(result: ItemResult) -> list[list[str]]:
    """The picks of each film, in order."""
    blocks = []
    for number, (layer, plan) in enumerate(zip(result.layers, result.weedings, strict=True), start=1):
        low, high = plan.effort.minutes
        film = f" of film {number}, {layer.layer.film.name}" if len(result.layers) > 1 else ""
        picks = [f"  {pick.number:3d}  {pick.what} ({pick.area:.0f} mm2)" for pick in plan.picks]
        blocks.append([f"Weeding{film}, about {low} to {high} minutes", f"  {plan.reason}", *picks])
    return blocks
