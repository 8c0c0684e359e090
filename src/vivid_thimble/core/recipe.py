"""Evaluating a job: from plain values to shapes at the final size, cached by content.

Each stage is keyed by what it depends on: step tag + step version + parameters + the
keys of its inputs. A step that fails is recorded on that step and skipped; everything
else stays visible. Nothing here is edited by hand.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import FontNotUsable, InputRefused, ThimbleError
from vivid_thimble.core.films import Film
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged
from vivid_thimble.core.geometry.path import Box, Contour, Path
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.inspect.contours import DoubledOutline, OpenOutline, doubled_outlines, open_outlines
from vivid_thimble.core.inspect.findings import order_of
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import SURROUND_MM
from vivid_thimble.core.job import Element, Item, Job, Layer, Placement, Source, all_elements, plain, scaled_design
from vivid_thimble.core.results import ElementResult, ItemResult, LayerResult, Problem
from vivid_thimble.core.sources.artwork import Artwork, film_region
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.fonts import face_title, load_face
from vivid_thimble.core.sources.lettering import LetterOutline, ShapedWords, Words, letters_from_json, shape_words
from vivid_thimble.core.steps import Weld
from vivid_thimble.core.verdict import fit_findings, layer_findings
from vivid_thimble.core.widths.resurvey import Surveys, resurvey
from vivid_thimble.core.widths.survey import WIDEST_SEARCH_MM, SideSurvey, combined, survey_walls
from vivid_thimble.core.widths.walls import Rings, rings_of

Assets = Mapping[str, bytes]
WORKING_SIZE_MM = 400.0
"""Sources are resolved at about this size; crossings found there stay exact enough for banners."""
WORKING_EM_MM = 150.0
"""The em of words while their letters are resolved."""


def asset_key(data: bytes) -> str:
    """The name under which a file's bytes are kept with the job."""
    return content_key(data)


def letters_key(words: Words) -> str:
    """The asset name of stored letter outlines for these words."""
    return f"letters-{content_key(plain(words))}"


def evaluate(job: Job, assets: Assets, cache: Cache | None = None) -> ItemResult:
    """The first item of a job with everything that can be computed of it."""
    cache = cache or Cache()
    item = job.item
    layers = tuple(_evaluate_layer(item, layer, assets, cache) for layer in item.layers)
    bounds = bounds_of(part for layer in layers for part in layer.parts)
    sheet = bounds_of(Part("", layer.kept) for layer in layers)
    findings = [finding for layer in layers for finding in layer_findings(layer)]
    findings += fit_findings(item, layers, job.carrier)
    return ItemResult(item, layers, bounds, sheet, tuple(sorted(findings, key=order_of)))


def design_bounds(job: Job, assets: Assets, cache: Cache) -> Box | None:
    """The box of the first item's finished design, without inspecting it."""
    item = job.item
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
    steps = [s for e in all_elements(job) for s in e.steps] + [s for la in job.item.layers for s in la.steps]
    return any(step.enabled and not isinstance(step, Weld) for step in steps)


def placed_source(source: Source, assets: Assets, cache: Cache) -> tuple[ShapedWords | Drawing, str]:
    """The source before placement, and its content key; raises ThimbleError."""
    if isinstance(source, Words):
        key = content_key("words", plain(source), letters_key(source) if letters_key(source) in assets else "")
        return cache.get(key, lambda: _words(source, assets)), key
    key = content_key("drawing", source.asset)
    return cache.get(key, lambda: _drawing(source, assets)), key


def _words(words: Words, assets: Assets) -> ShapedWords:
    try:
        return shape_words(words)
    except FontNotUsable:
        stored = assets.get(letters_key(words))
        if stored is None:
            raise
        return letters_from_json(stored)


def _drawing(source: Artwork, assets: Assets) -> Drawing:
    if source.asset not in assets:
        raise InputRefused(f"The file of {source.name} is missing from the project: add the drawing again.")
    return read_svg(assets[source.asset], source.name)


def _evaluate_element(item: Item, element: Element, assets: Assets, cache: Cache) -> ElementResult:
    size = f"{item.width!r} {item.height!r}"
    try:
        source, source_key = placed_source(element.source, assets, cache)
        # steps run where the element would lie in the item's middle: moving it costs them nothing
        home = replace(element, placement=replace(element.placement, dx=0.0, dy=0.0))
        key = content_key("placed", source_key, plain(home.placement), size)
        inked = cache.get(content_key("inked", source_key, element.name), lambda: _inked(source, element.name, cache))
        placed = cache.get(key, lambda: _place(inked, home, item))
    except ThimbleError as error:
        problem = Problem("source", str(error))
        return ElementResult(element, (), (), (problem,), (), (), (), content_key(plain(element), str(error)))
    letters = parts = placed.parts
    letters_key = key
    problems: list[Problem] = []
    for step in element.steps:
        parts, key, failed = _apply(step, parts, key, cache)
        problems += [failed] if failed else []
    dx, dy = element.placement.dx, element.placement.dy
    move = repr((dx, dy))
    return ElementResult(
        element,
        cache.get(content_key("moved", letters_key, move), lambda: _moved(letters, dx, dy)),
        cache.get(content_key("moved", key, move), lambda: _moved(parts, dx, dy)),
        tuple(problems),
        _notes(element, source),
        tuple(outline.shifted(dx, dy) for outline in placed.opened),
        tuple(outline.shifted(dx, dy) for outline in placed.doubled),
        content_key(key, move),
        parts,
        key,
        placed.capital,
    )


def _moved(parts: Parts, dx: float, dy: float) -> Parts:
    return tuple(part.shifted(dx, dy) for part in parts)


@dataclass(frozen=True, eq=False)
class _Placed:
    parts: Parts
    opened: tuple[OpenOutline, ...]
    doubled: tuple[DoubledOutline, ...]
    capital: float | None = None


@dataclass(frozen=True, eq=False)
class _Inked:
    """A source as regions at the working scale, before it is placed."""

    parts: Parts
    lines: Path
    box: Box
    capital: float | None = None
    """Height of a capital letter, for words."""


def _inked(source: ShapedWords | Drawing, name: str, cache: Cache) -> _Inked:
    """Resolve overlaps within letters and the painting order of drawings, once for all sizes.

    Raises InputRefused or NothingToDraw when nothing is left.
    """
    if isinstance(source, ShapedWords):
        letters = [Part(letter.label, _letter_region(letter, cache), letter.word) for letter in source.letters]
        parts, lines = tuple(p for p in letters if not p.region.is_empty), Path()
    else:
        scale = Affine.scaling(_working_scale(source))
        parts = (Part(name, film_region(source, scale, name)),)
        lines = Path.joined(part.path.transformed(scale) for part in source.parts if not part.is_white)
    box = bounds_of(parts)
    if box is None:
        raise InputRefused(f"{name} has no outline: choose other words or another drawing.")
    capital = source.capital_height if isinstance(source, ShapedWords) else None
    return _Inked(parts, lines, box, capital * WORKING_EM_MM if capital else None)


def _letter_region(letter: LetterOutline, cache: Cache) -> Region:
    """A letter at the working em; equal glyphs are resolved once."""
    scale = Affine.scaling(WORKING_EM_MM)
    if not letter.glyph:
        return Region.from_path(letter.path.transformed(scale))
    glyph = cache.get(
        content_key("glyph", letter.glyph), lambda: Region.from_path(letter.from_origin().transformed(scale))
    )
    return glyph.shifted(letter.at[0] * WORKING_EM_MM, letter.at[1] * WORKING_EM_MM)


def _place(inked: _Inked, element: Element, item: Item) -> _Placed:
    """Map a source so that its inked box has the placement's size and middle."""
    affine = placement_affine(element.placement, inked.box, item, inked.capital)
    parts = tuple(Part(p.label, p.region.transformed(affine), p.word) for p in inked.parts)
    lines = inked.lines.transformed(affine)
    capital = inked.capital * abs(affine.determinant) ** 0.5 if inked.capital is not None else None
    return _Placed(parts, tuple(open_outlines(lines)), tuple(doubled_outlines(lines)), capital)


def _working_scale(drawing: Drawing) -> float:
    """A scale at which a drawing of any units is WORKING_SIZE_MM large, so that tolerances fit it."""
    box = Path.joined(part.path for part in drawing.parts).bounds
    largest = max(box[2] - box[0], box[3] - box[1]) if box else 0.0
    return WORKING_SIZE_MM / largest if largest > 0.0 else 1.0


def placement_affine(placement: Placement, box: Box, item: Item, capital: float | None = None) -> Affine:
    """The map that brings a source's inked box to its place on the item."""
    left, top, right, bottom = box
    width, height = right - left, bottom - top
    if placement.capital is not None:
        if capital is None:
            raise InputRefused("There are no capital letters to size by: size the shape by its width or height.")
        wanted, has, side = placement.capital, capital, "height of the capitals"
    elif placement.width is not None:
        wanted, has, side = placement.width, width, "width"
    else:
        wanted, has, side = placement.height or 0.0, height, "height"
    if wanted <= 0.0:
        raise InputRefused(f"The {side} must be more than zero: type a size such as 120mm.")
    if has <= 0.0:
        raise InputRefused(f"The shape has no {side} to size by: size it the other way.")
    factor = wanted / has
    return (
        Affine.translation(-(left + right) / 2, -(top + bottom) / 2)
        .then(Affine.scaling(factor))
        .then(Affine.turning(placement.turn_deg))
        .then(Affine.translation(item.width / 2 + placement.dx, item.height / 2 + placement.dy))
    )


def _apply(step: Any, parts: Parts, key: str, cache: Cache) -> tuple[Parts, str, Problem | None]:
    """Run one step; when it fails the parts go on as they came."""
    if not step.enabled:
        return parts, key, None
    after = content_key(type(step).__struct_config__.tag, str(step.VERSION), plain(step), key)
    try:
        return cache.get(after, lambda: step.apply(parts)), after, None
    except ThimbleError as error:
        return parts, key, Problem(step.id, str(error))


def _notes(element: Element, source: ShapedWords | Drawing) -> tuple[str, ...]:
    if isinstance(source, Drawing):
        return tuple(f"{count} x {what}" for what, count in source.not_understood.items())
    notes = []
    if source.missing:
        notes.append(f'The face has no shapes for "{"".join(source.missing)}": they are left out.')
    if isinstance(element.source, Words) and not _face_is_here(element.source):
        title = face_title(element.source.face)
        notes.append(f"The font {title} is not on this machine: the letters stored with the job are used.")
    return tuple(notes)


def _face_is_here(words: Words) -> bool:
    try:
        load_face(words.face)
    except FontNotUsable:
        return False
    return True


def _layer_parts(
    item: Item, layer: Layer, assets: Assets, cache: Cache
) -> tuple[tuple[ElementResult, ...], Parts, tuple[Problem, ...], str]:
    """The elements of a layer and its parts after all steps, with what failed and the content key."""
    elements = tuple(_evaluate_element(item, element, assets, cache) for element in layer.elements)
    parts: Parts = tuple(part for element in elements for part in element.parts)
    key = content_key("layer", *(element.key for element in elements))
    problems = [problem for element in elements for problem in element.problems]
    for step in layer.steps:
        parts, key, failed = _apply(step, parts, key, cache)
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
