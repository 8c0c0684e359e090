"""Evaluating a job: from plain values to shapes at the final size, cached by content.

Each stage is keyed by what it depends on: step tag + step version + parameters + the
keys of its inputs. A step that fails is recorded on that step and skipped; everything
else stays visible. Nothing here is edited by hand.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.elements import Assets, apply_step, evaluate_element
from vivid_thimble.core.films import Film
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.inspect.findings import order_of
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.job import Item, Job, Layer, elements_of, plain, scaled_design, with_followers_led
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.results import ElementResult, ItemResult, LayerResult, Problem
from vivid_thimble.core.shared_sizes import with_shared_sizes
from vivid_thimble.core.steps import Weld
from vivid_thimble.core.verdict import fit_findings, layer_findings, licence_findings
from vivid_thimble.core.widths.resurvey import Surveys, resurvey
from vivid_thimble.core.widths.survey import WIDEST_SEARCH_MM, SideSurvey, combined, survey_walls
from vivid_thimble.core.widths.walls import Rings, rings_of


def evaluate(job: Job, assets: Assets, cache: Cache | None = None) -> ItemResult:
    """The item in hand with everything that can be computed of it."""
    cache = cache or Cache()
    item = with_followers_led(with_shared_sizes(job, assets, cache).item)
    layers = tuple(_evaluate_layer(item, layer, assets, cache) for layer in item.layers)
    bounds = bounds_of(part for layer in layers for part in layer.parts)
    sheet = bounds_of(Part("", layer.kept) for layer in layers)
    findings = [finding for layer in layers for finding in layer_findings(layer)]
    findings += fit_findings(item, layers, job.carrier)
    findings += licence_findings(item) if job.for_sale else []
    return ItemResult(item, layers, bounds, sheet, tuple(sorted(findings, key=order_of)))


def design_bounds(job: Job, assets: Assets, cache: Cache) -> Box | None:
    """The box of the finished design in hand, without inspecting it."""
    item = with_followers_led(with_shared_sizes(job, assets, cache).item)
    return bounds_of(part for layer in item.layers for part in _layer_parts(item, layer, assets, cache)[1])


def sized_design(job: Job, assets: Assets, cache: Cache, axis: int, size: float) -> Job:
    """Scale the whole design until its finished box is ``size`` mm wide (axis 0) or high (axis 1).

    Steps keep their lengths, so the factor is corrected until the size is right within
    0.001 mm (a few rounds; one when nothing has a fixed length). An empty design stays.
    """
    factor = 1.0
    box = design_bounds(job, assets, cache)
    for _ in range(6):
        now = 0.0 if box is None else box[2 + axis] - box[axis]
        if now <= 0.0 or abs(now - size) < 1e-3:
            break
        factor *= size / now
        if not _has_fixed_lengths(job):
            break
        box = design_bounds(scaled_design(job, factor), assets, cache)
    return scaled_design(job, factor)


def _has_fixed_lengths(job: Job) -> bool:
    steps = [s for e in elements_of(job.item) for s in e.steps] + [s for la in job.item.layers for s in la.steps]
    return any(step.enabled and not isinstance(step, Weld) for step in steps)


def _layer_parts(
    item: Item, layer: Layer, assets: Assets, cache: Cache
) -> tuple[tuple[ElementResult, ...], Parts, tuple[Problem, ...], str]:
    """The elements of a layer and its parts after all steps, with what failed and the content key."""
    elements = tuple(evaluate_element(item, element, assets, cache) for element in layer.elements)
    parts: Parts = tuple(part for element in elements for part in element.parts)
    key = content_key("layer", *(element.key for element in elements))
    problems = [problem for element in elements for problem in element.problems]
    for step in layer.steps:
        parts, key, failed = apply_step(step, parts, key, cache)
        problems += [failed] if failed else []
    return elements, parts, tuple(problems), key


def _evaluate_layer(item: Item, layer: Layer, assets: Assets, cache: Cache) -> LayerResult:
    elements, parts, problems, key = _layer_parts(item, layer, assets, cache)
    design = cache.get(content_key("merged", key), lambda: merged(parts))
    sheet_key = content_key("sheet", key, repr((item.is_stencil, item.surround)))
    kept = cache.get(sheet_key, lambda: stencil_sheet(design, item.surround)) if item.is_stencil else design
    inspect_key = content_key("inspect", sheet_key, plain(layer.film))
    inspection = cache.get(inspect_key, lambda: _inspect(kept, item, layer, elements, cache))
    return LayerResult(layer, elements, parts, design, kept, problems, inspection, key)


def stencil_sheet(design: Region, surround: float) -> Region:
    """A rectangle ``surround`` mm larger than the design on every side, with the design cut out."""
    if design.bounds is None:
        return design
    left, top, right, bottom = design.bounds
    corners = np.array(
        [
            [left - surround, top - surround],
            [right + surround, top - surround],
            [right + surround, bottom + surround],
            [left - surround, bottom + surround],
        ]
    )
    frame = Region.from_path(Path((Contour.from_points(corners),)))
    return difference(frame, [design])


def _inspect(kept: Region, item: Item, layer: Layer, elements: tuple[ElementResult, ...], cache: Cache) -> Inspection:
    pause("Measuring lines and gaps")
    limits = limits_of(layer.film)
    box = kept.bounds or (0.0, 0.0, 0.0, 0.0)
    if not item.is_stencil:
        box = (box[0] - SURROUND_MM, box[1] - SURROUND_MM, box[2] + SURROUND_MM, box[3] + SURROUND_MM)
    surveys = None if item.is_stencil or layer.steps else _surveys_apart(elements, limits, cache)
    if surveys is None and not kept.is_empty:
        surveys = _surveyed(kept.polygons, limits, f"{item.id} {layer.id}", cache)
    return inspect_shape(kept.polygons, limits, is_sheet=item.is_stencil, weeding_box=box, surveys=surveys)


def limits_of(film: Film) -> Limits:
    return Limits(film.thinnest_line, film.thinnest_gap, film.smallest_area, film.smallest_circle)


def _surveys_apart(
    elements: tuple[ElementResult, ...], limits: Limits, cache: Cache
) -> tuple[SideSurvey, SideSurvey] | None:
    """Surveys of elements that do not come near each other, each looked up on its own.

    An edit of one element then leaves the others' surveys alone. None when the elements are closer
    than the limits: then only the whole can tell.
    """
    drawn = [element for element in elements if element.parts]
    if len(drawn) < 2:
        return None
    boxes = [shapely.box(*box) for element in drawn if (box := bounds_of(element.parts))]
    apart = min(a.distance(b) for k, a in enumerate(boxes) for b in boxes[k + 1 :])
    if apart <= max(limits.line, limits.gap):
        return None
    lines, gaps = [], []
    for element in drawn:
        line, gap = _survey_of(element, limits, cache)
        dx, dy = element.element.placement.dx, element.element.placement.dy
        lines.append(line.shifted(dx, dy))
        gaps.append(gap.shifted(dx, dy))
    return combined(lines), _with_gaps_across(combined(gaps), drawn, boxes, limits)


def _with_gaps_across(
    side: SideSurvey, drawn: Sequence[ElementResult], boxes: Sequence[shapely.Polygon], limits: Limits
) -> SideSurvey:
    """Gaps inside the elements completed by the thinnest one between two of them, if that is thinner.

    Only walls that another element's box comes near to can face across.
    """
    known = side.critical if side.critical is not None else WIDEST_SEARCH_MM
    if min(a.distance(b) for k, a in enumerate(boxes) for b in boxes[k + 1 :]) > known:
        return side
    shapes = [list(merged(element.parts).polygons.geoms) for element in drawn]
    owner = np.repeat(np.arange(len(drawn)), [len(pieces) for pieces in shapes])
    walls = rings_of(shapely.MultiPolygon([polygon for pieces in shapes for polygon in pieces]))
    wall_owner = owner[walls.ring_polygon[walls.ring]]
    near = np.zeros(len(walls), dtype=bool)
    for k, box in enumerate(boxes):
        left, top, right, bottom = box.buffer(known).bounds
        low, high = np.minimum(walls.a, walls.b), np.maximum(walls.a, walls.b)
        inside = (low <= (right, bottom)).all(axis=1) & (high >= (left, top)).all(axis=1)
        near |= inside & (wall_owner != k)
    across = survey_walls(walls, limits.line, limits.gap, near, widest=known)[1]
    return combined([side, SideSurvey((), across.deciding, across.critical, across.deciding)])


def _survey_of(element: ElementResult, limits: Limits, cache: Cache) -> tuple[SideSurvey, SideSurvey]:
    key = content_key("survey", element.home_key, repr((limits.line, limits.gap)))
    return cache.get(
        key, lambda: _surveyed(merged(element.home_parts).polygons, limits, f"element {element.element.id}", cache)
    )


def _surveyed(polygons: shapely.MultiPolygon, limits: Limits, whose: str, cache: Cache) -> Surveys:
    """A survey that starts from the one before of the same layer or element: an edit re-checks its neighbourhood."""
    walls = rings_of(polygons)

    def renew(before: tuple[Rings, Surveys] | None) -> tuple[Rings, Surveys]:
        if before is None:
            return walls, survey_walls(walls, limits.line, limits.gap)
        return walls, resurvey(*before, walls, limits.line, limits.gap)

    return cache.renewed(content_key("latest survey", whose, repr((limits.line, limits.gap))), renew)[1]
