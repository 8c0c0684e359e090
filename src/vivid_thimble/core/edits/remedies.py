"""Remedies: what can be done about a finding, as changes of the recipe.

For a stencil the film that is kept is the sheet round the design, so a line of film gets wider
where the design gives way, and the other way round.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import shapely
from msgspec.structs import replace

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Accepted, Finding, accepted_as
from vivid_thimble.core.job.edits import free_id, scaled_design, with_element, with_item, with_layer, with_steps_of
from vivid_thimble.core.job.values import Item, Job, Layer
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import FILMS_FOR
from vivid_thimble.core.room.margins import centred
from vivid_thimble.core.steps import Bridges, FillPinholes, RemoveSpecks, Step, Strengthen, Thicken, Weld, of_kind

REMEDY_WORDS = {
    "thicken-here": "Thicken where thin",
    "thicken": "Thicken all",
    "open-gaps": "Open narrow gaps",
    "enlarge": "Enlarge until clean",
    "other-film": "Take another film",
    "remove-specks": "Leave out specks",
    "fill-pinholes": "Fill pinholes",
    "weld": "Weld all",
    "bridge": "Bridge all middles",
    "shrink-to-item": "Shrink to the item",
}
REMEDY_LINES = {
    "thicken-here": "Only what is too thin gets as wide as the film asks; everything else stays.",
    "thicken": "Every edge moves out by the same small distance.",
    "open-gaps": "Film beside what is too narrow gives way until the gap is as wide as the film asks.",
    "enlarge": "The whole design grows to its smallest clean size.",
    "other-film": "A film that bears it, with its own limits.",
    "remove-specks": "Pieces as small as this one are left out.",
    "fill-pinholes": "Holes as small as this one are closed.",
    "bridge": "Strips of sheet hold every middle; they keep their width at every size.",
    "weld": "Overlaps become one outline, so that nothing is cut through.",
    "shrink-to-item": "The design becomes as large as the item allows, and is centred.",
}
LOCAL_REMEDIES = ("thicken-here", "open-gaps", "remove-specks", "fill-pinholes")
"""They change the elements at a finding and no others."""
CLEAN_ROOM = 1.005
"""Enlarged a little beyond the computed size, which may be off by half a percent."""
RIGID_BRIDGE_MM, FILM_BRIDGE_MM = 1.5, 1.0
"""The width of new bridges."""
NEAR_MM = 0.05
"""A finding belongs to elements this close to the walls of its place."""


Films = Sequence[Film] | None
"""The films at hand for the job's method, the first choice first; None for the shipped ones."""


def remedies_for(job: Job, result: ItemResult | None, finding: Finding, films: Films = None) -> list[str]:
    """The remedies of a finding that would help now."""
    if result is None:
        return []
    return [name for name in finding.remedies if remedied(job, result, finding, name, films) is not None]


def remedy_words(job: Job, finding: Finding, remedy: str, films: Films = None) -> str:
    """What the remedy's button says."""
    film = other_film(job, finding, films) if remedy == "other-film" else None
    return f"Take {film.name}" if film else REMEDY_WORDS[remedy]


def remedied(job: Job, result: ItemResult, finding: Finding, remedy: str, films: Films = None) -> Job | None:
    """The job with a remedy applied; None when it cannot help."""
    if remedy == "other-film":
        return _with_other_film(job, finding, films)
    apply = _REMEDIES.get(remedy)
    return apply(job, result, finding) if apply is not None else None


def serves_all(job: Job, remedy: str) -> bool:
    """Whether a remedy, applied to all findings of a kind, does more than for one: it changes elements one by one, and
    there are several."""
    return remedy in LOCAL_REMEDIES and len(job.item.layers[0].elements) > 1


def remedied_all(job: Job, result: ItemResult, finding: Finding, remedy: str, films: Films = None) -> Job | None:
    """The same remedy for all findings of that kind; None when it helps nowhere."""
    changed = job
    for one in result.findings:
        if one.kind == finding.kind:
            changed = remedied(changed, result, one, remedy, films) or changed
    return changed if changed != job else None


def let_be(job: Job, result: ItemResult, findings: Sequence[Finding], reason: str) -> Job:
    """Findings accepted with a reason that stays in the job."""
    more = tuple(accepted_as(one, reason, result.bounds) for one in findings if one.matter.may_be_accepted)
    return with_item(job, lambda item: replace(item, accepted=(*item.accepted, *more)))


def judged_again(job: Job, accepted: Accepted) -> Job:
    """What was let be counts again."""
    return with_item(job, lambda item: replace(item, accepted=tuple(one for one in item.accepted if one != accepted)))


def thickened(job: Job, by: float) -> Job | None:
    """Every edge of kept film moves out by ``by`` mm; an existing thickening grows with it. None without elements."""
    by = -by if job.item.is_stencil else by

    def grown(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        own = of_kind(steps, Thicken)
        if not own:
            return (*steps, Thicken(id=free_id("thicken", job), by=round(by, 3)))
        more = replace(own[-1], by=round(own[-1].by + by, 3), enabled=True)
        return tuple(more if step is own[-1] else step for step in steps)

    return _with_steps(job, [e.id for e in job.item.layers[0].elements], grown)


def other_film(job: Job, finding: Finding, films: Films = None) -> Film | None:
    """The first film for the job's method that bears what the present one does not."""
    present = job.item.layers[0].film
    at_hand = FILMS_FOR[job.item.method] if films is None else films
    return next((f for f in at_hand if f.name != present.name and _bears(f, finding)), None)


def _bears(film: Film, finding: Finding) -> bool:
    if finding.kind in ("thin-line", "thin-neck"):
        return finding.width is not None and film.thinnest_line <= finding.width
    if finding.kind == "thin-gap":
        return finding.width is not None and film.thinnest_gap <= finding.width
    if finding.area is None:
        return False
    return film.smallest_area <= finding.area and film.smallest_circle <= (finding.width or math.inf)


def leaves_room(result: ItemResult, scale: float) -> bool:
    """Whether a design that becomes so much larger about the item's middle no longer fits into its room."""
    if result.bounds is None:
        return False
    half = result.item.width / 2.0, result.item.height / 2.0
    return any(
        abs(result.bounds[axis + end] - half[axis]) * scale > half[axis] + 1e-6 for axis in (0, 1) for end in (0, 2)
    )


def _enlarged(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    """By what one inspection tells; it is tried before it is done (see ``clean_size``)."""
    scale = result.smallest_clean_scale
    if scale is None or scale <= 1.0 or not finding.cured_by_size or leaves_room(result, scale * CLEAN_ROOM):
        return None
    return scaled_design(job, scale * CLEAN_ROOM)


def usual_bridge_width(item: Item) -> float:
    """What a new bridge gets in mm."""
    least = RIGID_BRIDGE_MM if item.method == "rigid-stencil" else FILM_BRIDGE_MM
    return max(item.layers[0].film.bridge, least)


def _bridged(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    """Every element gets bridges behind its other steps. Where all have some, middles lie between elements: then their
    films get bridges as well. None when those have some, too."""
    width = usual_bridge_width(job.item)

    def held(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        if own := of_kind(steps, Bridges):
            return tuple(replace(step, enabled=True) if step in own else step for step in steps)
        return (*steps, Bridges(id=free_id("bridges", job), width=width))

    if not job.item.is_stencil:
        return None
    changed = _with_steps(job, [e.id for layer in job.item.layers for e in layer.elements], held)
    if changed is not None:
        return changed
    for layer in job.item.layers:
        changed = with_steps_of(changed or job, layer.id, held)
    return changed if changed != job else None


def _welded_all(job: Job, result: ItemResult, finding: Finding) -> Job:
    def welded(layer: Layer) -> Layer:
        rest = tuple(step for step in layer.steps if step not in of_kind(layer.steps, Weld))
        return replace(layer, steps=(*rest, Weld(id="weld-all")))

    return with_layer(job, welded)


def _thickened_all(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    if finding.width is None or finding.limit is None:
        return None
    return thickened(job, max((finding.limit - finding.width) / 2.0 + 0.01, 0.01))


def _thickened_here(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    return _strengthened(job, result, finding, openings=job.item.is_stencil)


def _gaps_opened(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    return _strengthened(job, result, finding, openings=not job.item.is_stencil)


def _strengthened(job: Job, result: ItemResult, finding: Finding, *, openings: bool) -> Job | None:
    """The elements at a finding strengthened to its limit; None when they are already."""
    limit = finding.limit
    if limit is None:
        return None

    def stronger(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        own = [step for step in of_kind(steps, Strengthen) if step.openings == openings]
        rest = tuple(step for step in steps if step not in own)
        return (*rest, Strengthen(id=free_id("strengthen", job), to=limit, openings=openings))

    def has_it(steps: tuple[Step, ...]) -> bool:
        return any(s.openings == openings and s.enabled and s.to >= limit for s in of_kind(steps, Strengthen))

    return _with_steps(job, _elements_at(result, finding), lambda steps: steps if has_it(steps) else stronger(steps))


def _specks_left_out(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    return None if job.item.is_stencil else _without_small(job, result, finding, RemoveSpecks)


def _pinholes_filled(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    """In a stencil a pinhole is a speck of the design."""
    return _without_small(job, result, finding, RemoveSpecks if job.item.is_stencil else FillPinholes)


def _without_small(
    job: Job, result: ItemResult, finding: Finding, kind: type[RemoveSpecks] | type[FillPinholes]
) -> Job | None:
    if finding.area is None:
        return None
    area = math.ceil(finding.area * 101.0) / 100.0
    stem = "specks" if kind is RemoveSpecks else "pinholes"

    def cleaned(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        return (*(s for s in steps if not isinstance(s, kind)), kind(id=free_id(stem, job), area=area))

    return _with_steps(job, _elements_at(result, finding), cleaned)


def _with_other_film(job: Job, finding: Finding, films: Films) -> Job | None:
    film = other_film(job, finding, films)
    return with_layer(job, lambda layer: replace(layer, film=film)) if film is not None else None


def _with_steps(
    job: Job, elements: Sequence[str], change: Callable[[tuple[Step, ...]], tuple[Step, ...]]
) -> Job | None:
    """The steps of some elements changed; None when that changes nothing."""
    changed = job
    for element in elements:
        changed = with_element(changed, element, lambda e: replace(e, steps=change(e.steps)))
    return changed if changed != job else None


def _elements_at(result: ItemResult, finding: Finding) -> list[str]:
    """The elements of the first layer whose walls make a finding's place; all when that is not known."""
    elements = result.layers[0].elements
    if finding.at is not None:
        point, reach = shapely.Point(finding.at), (finding.width or 0.0) / 2.0 + NEAR_MM
        near = [
            e.element.id
            for e in elements
            if any(shapely.dwithin(part.region.polygons, point, reach) for part in e.parts)
        ]
        if near:
            return near
    return [e.element.id for e in elements]


def _shrunk(job: Job, result: ItemResult, finding: Finding) -> Job | None:
    """The largest size that fits the room with a small margin, centred."""
    if result.size is None or result.bounds is None:
        return None
    item, room = job.item, 0.96
    factor = min(item.width * room / result.size[0], item.height * room / result.size[1], 1.0)
    return scaled_design(centred(job, result.bounds), factor)


_REMEDIES: dict[str, Callable[[Job, ItemResult, Finding], Job | None]] = {
    "thicken-here": _thickened_here,
    "thicken": _thickened_all,
    "open-gaps": _gaps_opened,
    "enlarge": _enlarged,
    "remove-specks": _specks_left_out,
    "fill-pinholes": _pinholes_filled,
    "weld": _welded_all,
    "bridge": _bridged,
    "shrink-to-item": _shrunk,
}
