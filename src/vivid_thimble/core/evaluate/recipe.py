"""Evaluating a job: from plain values to shapes at the final size, cached by content.

Each stage is keyed by what it depends on: step tag + step version + parameters + the
keys of its inputs. A step that fails is recorded on that step and skipped; everything
else stays visible. Nothing here is edited by hand.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import shapely

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.blanks.kinds import ROUND, Ball
from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.elements import ItemElements
from vivid_thimble.core.evaluate.results import ElementResult, ItemResult, LayerResult, Problem
from vivid_thimble.core.evaluate.shared_sizes import with_shared_sizes
from vivid_thimble.core.evaluate.stepping import Stepped, run_steps
from vivid_thimble.core.evaluate.verdict import fit_findings, layer_findings, licence_findings
from vivid_thimble.core.finish.relief import waste_cuts
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged
from vivid_thimble.core.geometry.path import Box, Path, box_round
from vivid_thimble.core.geometry.plain_shapes import rectangle
from vivid_thimble.core.geometry.region import Region, difference, intersection
from vivid_thimble.core.inspect.findings import accepting, order_of
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.job.edits import scaled_design, with_followers_led
from vivid_thimble.core.job.values import Assets, Item, Job, Layer, plain
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.room.ball import Snip, snips
from vivid_thimble.core.room.thing import bend_of, sheet_room, stencil_box
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.steps.remarks import Remark
from vivid_thimble.core.steps.step import Around, Other, Shown
from vivid_thimble.core.widths.resurvey import Surveys, resurvey
from vivid_thimble.core.widths.survey import SideSurvey, combined, survey_walls
from vivid_thimble.core.widths.walls import Rings, rings_of

MOST_ROUNDS = 6
FARTHEST_FACTOR = 4.0
"""A size is searched for within this much of what it would be without steps of fixed lengths."""


def evaluate(job: Job, assets: Assets, cache: Cache | None = None) -> ItemResult:
    """The item in hand with everything that can be computed of it."""
    cache = cache or Cache()
    item = with_followers_led(with_shared_sizes(job, assets, cache).item)
    designed = _designed(item, assets, cache)
    bounds = box_round(one.box for one in designed)
    layers = tuple(_evaluate_layer(item, one, bounds, cache) for one in designed)
    sheet = bounds_of((*(Part("", layer.kept) for layer in layers), *(p for layer in layers for p in layer.beside)))
    findings = [finding for layer in layers for finding in layer_findings(layer)]
    findings += fit_findings(item, layers, job.carrier)
    findings += licence_findings(item) if job.for_sale else []
    let_be = [(finding, one) for finding in findings if (one := accepting(finding, item.accepted, bounds)) is not None]
    gone = {id(finding) for finding, _ in let_be}
    told = sorted((finding for finding in findings if id(finding) not in gone), key=order_of)
    return ItemResult(item, layers, bounds, sheet, tuple(told), tuple(let_be), _snips(item, layers, bounds))


def _snips(item: Item, layers: Sequence[LayerResult], bounds: Box | None) -> tuple[Snip, ...]:
    """For the film round a design on a ball, which reaches SURROUND_MM beyond it."""
    if not isinstance(item.blank, Ball) or bounds is None or item.is_stencil:
        return ()
    film = bounds[0] - SURROUND_MM, bounds[1] - SURROUND_MM, bounds[2] + SURROUND_MM, bounds[3] + SURROUND_MM
    pieces = [piece for layer in layers for piece in layer.kept.polygons.geoms]
    return tuple(snips(item, shapely.MultiPolygon(pieces), film))


def designs(job: Job, assets: Assets, cache: Cache) -> list[Designed]:
    """The films in hand as far as they are designed: no sheet is made, and nothing is inspected."""
    return _designed(with_followers_led(with_shared_sizes(job, assets, cache).item), assets, cache)


def design_bounds(job: Job, assets: Assets, cache: Cache) -> Box | None:
    """The box of the finished design in hand, without inspecting it."""
    return box_round(one.box for one in designs(job, assets, cache))


def sized_design(job: Job, assets: Assets, cache: Cache, axis: int, size: float) -> Job:
    """Scale the whole design until its finished box is ``size`` mm wide (axis 0) or high (axis 1).

    Steps keep their lengths and cleaning its limits, so the factor is corrected until the size is right within
    0.001 mm. An empty design stays. A size that no factor near the first guess yields (steps eat up everything, or keep
    it larger) is come near to only.
    """
    box = design_bounds(job, assets, cache)
    now = _extent(box, axis)
    if now <= 0.0 or abs(now - size) < 1e-3:
        return job
    guess = factor = size / now
    for _ in range(MOST_ROUNDS):
        now = _extent(design_bounds(scaled_design(job, factor), assets, cache), axis)
        if abs(now - size) < 1e-3:
            break
        wanted = factor * 2.0 if now <= 0.0 else factor * size / now
        kept = min(max(wanted, guess / FARTHEST_FACTOR), guess * FARTHEST_FACTOR)
        if kept == factor:
            break
        factor = kept
    return scaled_design(job, factor)


def _extent(box: Box | None, axis: int) -> float:
    return 0.0 if box is None else box[2 + axis] - box[axis]


@dataclass(frozen=True, eq=False)
class Designed:
    """A layer's elements and its parts after all steps, with what failed, what is remarked and the content key."""

    layer: Layer
    elements: tuple[ElementResult, ...]
    parts: Parts
    problems: tuple[Problem, ...]
    remarks: tuple[Remark, ...]
    key: str
    shown: tuple[Shown, ...]
    box: Box | None


def _designed(item: Item, assets: Assets, cache: Cache) -> list[Designed]:
    """All layers, the upper ones first."""
    elements = ItemElements(item, assets, cache)
    found: list[Designed] = []
    for layer in item.layers:
        found.append(_layer_designed(layer, elements, found, cache))
    return found


def _layer_designed(layer: Layer, elements: ItemElements, above: Sequence[Designed], cache: Cache) -> Designed:
    own = tuple(elements.result(element.id) for element in layer.elements)
    shown = [element for element in own if not element.element.helps_only]
    before = Stepped(
        tuple(part for element in shown for part in element.parts),
        content_key("layer", *(element.key for element in shown)),
        tuple(problem for element in own for problem in element.problems),
        tuple(remark for element in own for remark in element.remarks),
        kept_box=box_round(element.box for element in shown),
    )
    others = tuple(Other(one.key, partial(_design_of, one, cache)) for one in above)
    after = run_steps(layer.steps, before, Around("film", above=others), cache)
    return Designed(layer, own, after.parts, after.problems, after.remarks, after.key, after.shown, after.box)


def _design_of(one: Designed, cache: Cache) -> Region:
    return cache.get(content_key("merged", one.key), lambda: merged(one.parts))


def _evaluate_layer(item: Item, one: Designed, bounds: Box | None, cache: Cache) -> LayerResult:
    """``bounds`` of all films' designs: frames and register marks are the same in all of them."""
    level, bend = one.parts, bend_of(item)
    own_bounds = one.box
    if bend is not None:
        one = _bent(bend, one, cache)
    layer, problems = one.layer, one.problems
    design = _design_of(one, cache)
    marks: Parts = ()
    if item.register is not None and bounds is not None and not design.is_empty:
        marks = tuple(Part("register mark", _laid(mark, bend)) for mark in item.register.marks(bounds))
    box = bounds if len(item.layers) > 1 else own_bounds
    sheet_box: Box | None = None
    kept = design
    measured: Callable[[], Region] = partial(_design_of, one, cache)  # register marks are cut, and are nothing to weed
    sheet_key = content_key("sheet", one.key, plain(item.register), repr(bounds if marks else None))
    if item.is_stencil and box is not None:
        sheet_box = stencil_box(item, box)
        sheet_key = content_key(sheet_key, plain(item.frame), repr(sheet_box))
        own = partial(_stencil_of, item, sheet_box, design, marks)
        try:
            kept = cache.get(sheet_key, own)
            measured = partial(_stencil_of, item, sheet_box, design, ()) if marks else lambda: kept
        except InputRefused as error:
            problems, sheet_box = (*problems, Problem("frame", error.message)), None
    elif marks:
        kept = cache.get(sheet_key, lambda: merged((Part("", design), *marks)))
    sticker = item.register.loose_disc(sheet_box) if item.register is not None and sheet_box is not None else None
    beside = (Part("sticker", _laid(sticker, bend)),) if sticker is not None else ()
    inspect_key = content_key("inspect", sheet_key, item.method, plain(layer.film))
    elements = () if marks or bend is not None else one.elements
    inspection = cache.get(inspect_key, lambda: _inspect(measured(), item, layer, elements, cache))
    return LayerResult(
        layer,
        one.elements,
        one.parts,
        design,
        kept,
        problems,
        inspection,
        one.key,
        marks=marks,
        beside=beside,
        remarks=one.remarks,
        shown=one.shown,
        box=own_bounds,
        level=level,
        bend=bend,
        sheet_box=sheet_box,
        waste_cuts=() if item.is_stencil else _waste_cuts(item, one, kept, sheet_key, cache),
    )


def _bent(bend: Bend, one: Designed, cache: Cache) -> Designed:
    """A layer on a tapered side, as its film lies flat."""
    key = content_key("bent", one.key, repr(bend))
    parts = cache.get(key, lambda: tuple(part.with_region(bend.region(part.region)) for part in one.parts))
    return replace(one, parts=parts, key=key)


def _laid(region: Region, bend: Bend | None) -> Region:
    """A region of the level rectangle as it lies on the flat film."""
    return region if bend is None else bend.region(region)


def _stencil_of(item: Item, box: Box, design: Region, marks: Parts) -> Region:
    """The sheet with the design cut out, as the film lies flat; on round things its tab ends at rim and foot too."""
    outline = item.frame.outline(box)
    if isinstance(item.blank, ROUND):
        _, top, _, bottom = sheet_room(item)
        left, _, right, _ = outline.bounds or box
        outline = intersection(outline, rectangle((left - 1.0, top, right + 1.0, bottom)))
    return _cut_out(_laid(outline, bend_of(item)), design, marks)


def _waste_cuts(item: Item, one: Designed, kept: Region, key: str, cache: Cache) -> tuple[Path, ...]:
    """The weeding box and the relief cuts; never through the one strip of a spiral."""
    relief = item.relief and not any(element.element.source.is_one_strip for element in one.elements)
    wanted = repr((item.weeding_box, relief))
    return cache.get(
        content_key("waste cuts", key, wanted),
        lambda: waste_cuts(kept.polygons, item.weeding_box, relief=relief),
    )


def _cut_out(sheet: Region, design: Region, marks: Parts) -> Region:
    return difference(sheet, [design, *(mark.region for mark in marks)])


def stencil_sheet(design: Region, surround: float) -> Region:
    """A rectangle ``surround`` mm larger than the design on every side, with the design cut out."""
    if design.bounds is None:
        return design
    frame = Frame()
    return _cut_out(frame.outline(frame.box(design.bounds, surround, design.bounds)), design, ())


def _inspect(kept: Region, item: Item, layer: Layer, elements: tuple[ElementResult, ...], cache: Cache) -> Inspection:
    pause("Measuring lines and gaps")
    limits = limits_of(layer.film)
    box = kept.bounds or (0.0, 0.0, 0.0, 0.0)
    if not item.is_stencil:
        box = (box[0] - SURROUND_MM, box[1] - SURROUND_MM, box[2] + SURROUND_MM, box[3] + SURROUND_MM)
    surveys = None if item.is_stencil or layer.steps else _surveys_apart(elements, limits, cache)
    film = kept.as_cut()
    if surveys is None and not film.is_empty:
        surveys = _surveyed(film, limits, f"{item.id} {layer.id}", cache)
    return inspect_shape(
        film,
        limits,
        is_sheet=item.is_stencil,
        weeding_box=box,
        surveys=surveys,
        carried=item.method in ("film-stencil", "screen-stencil"),
    )


def limits_of(film: Film) -> Limits:
    return Limits(film.thinnest_line, film.thinnest_gap, film.smallest_area, film.smallest_circle)


def _surveys_apart(
    elements: tuple[ElementResult, ...], limits: Limits, cache: Cache
) -> tuple[SideSurvey, SideSurvey] | None:
    """Surveys of elements that do not come near each other, each looked up on its own.

    An edit of one element then leaves the others' surveys alone. None when the elements are closer
    than the limits: then only the whole can tell.
    """
    drawn = [element for element in elements if bounds_of(element.parts) and not element.element.helps_only]
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
    left, top, right, bottom = shapely.total_bounds(boxes).tolist()
    known = side.critical if side.critical is not None else math.hypot(right - left, bottom - top)
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
    return combined([side, SideSurvey((), across.thinnest)])


def _survey_of(element: ElementResult, limits: Limits, cache: Cache) -> tuple[SideSurvey, SideSurvey]:
    key = content_key("survey", element.home_key, repr((limits.line, limits.gap)))
    return cache.get(
        key, lambda: _surveyed(merged(element.home_parts).as_cut(), limits, f"element {element.element.id}", cache)
    )


def _surveyed(polygons: shapely.MultiPolygon, limits: Limits, whose: str, cache: Cache) -> Surveys:
    """A survey that starts from the one before of the same layer or element: an edit re-checks its neighbourhood."""
    walls = rings_of(polygons)

    def renew(before: tuple[Rings, Surveys] | None) -> tuple[Rings, Surveys]:
        if before is None:
            return walls, survey_walls(walls, limits.line, limits.gap)
        return walls, resurvey(*before, walls, limits.line, limits.gap)

    return cache.renewed(content_key("latest survey", whose, repr((limits.line, limits.gap))), renew)[1]
