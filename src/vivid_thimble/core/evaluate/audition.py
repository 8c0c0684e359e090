"""Which faces cut: the user's own words in every face at hand, at the final size.

The words are taken alone, with their size, steps and film, and evaluated as if the face had been
chosen, so the figures are those that Inspect shows for these words afterwards. Many faces are
shared out to worker processes; until those are ready the first faces are heard in the calling
thread.
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from dataclasses import dataclass

import msgspec
import numpy as np
import shapely
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ElementResult, ItemResult
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.resample import evenly_spaced
from vivid_thimble.core.job.edits import in_face, with_element, with_item
from vivid_thimble.core.job.values import Job, plain
from vivid_thimble.core.sources.fonts import face_title, load_face
from vivid_thimble.core.steps.join import connects, touching_pairs

WORKERS = 2
THIN_STROKE, HEAVY_STROKE = 0.09, 0.2
"""Mean stroke widths as shares of the capitals' height: thinner is a thin face, wider a heavy one."""
ROUGH_BENDS_PER_CM = 4.0
STEPS_PER_HEIGHT, SMOOTH_STEPS, SMALLEST_BEND = 60, 9, 0.0025
"""Roughness: samples along the outline for the height of the letters, samples a smoothing spans, and the
smallest bend as a share of that height."""


@dataclass(frozen=True)
class Audition:
    """One face's figures for the words at their size, in mm; ``refusal`` says why there are none."""

    face: str
    title: str
    refusal: str = ""
    size: tuple[float, float] | None = None
    thinnest_line: float | None = None
    thinnest_gap: float | None = None
    stops: int = 0
    small_pieces: int = 0
    islands: int = 0
    pairs: int = 0
    open_pairs: int = 0
    roughness: float = 0.0
    """Bends per centimetre against a smoothed outline."""
    nodes: int = 0
    kinds: tuple[str, ...] = ()

    @property
    def cuts(self) -> bool:
        """Whether nothing of severity stop was found."""
        return not self.refusal and self.stops == 0


def rank(one: Audition) -> tuple[bool, int, float, str]:
    """Sorting key: faces that cut first, then by how much there is to mend, sturdiest first."""
    return (not one.cuts, one.stops, -(one.thinnest_line or 0.0), one.title.casefold())


def audition_key(job: Job, element_id: str, face: str) -> str:
    """Names a face's figures for the words as they are; fonts are told apart by their content."""
    try:
        content = load_face(face).content_key
    except ThimbleError:
        content = ""
    return content_key("audition", plain(_alone(job, element_id)), element_id, face, content)


def auditioned(job: Job, element_id: str, face: str, assets: Mapping[str, bytes], cache: Cache) -> Audition:
    """One element's words alone, evaluated in another face."""
    title = face_title(face)
    try:
        load_face(face)
    except ThimbleError as error:
        return Audition(face, title, refusal=str(error))

    result = evaluate(with_element(_alone(job, element_id), element_id, lambda e: in_face(e, face)), assets, cache)
    element = next(e for layer in result.layers for e in layer.elements if e.element.id == element_id)
    if element.problems:
        return Audition(face, title, refusal=element.problems[0].sentence)
    missing = next((note for note in element.notes if note.code == "letters-missing"), None)
    if missing is not None:
        return Audition(face, title, refusal=str(missing.message))
    return _figures(face, title, result, element)


def _alone(job: Job, element_id: str) -> Job:
    """The job with nothing but one element on the item in hand; the others stay, for a shared size."""
    layer = next(la for la in job.item.layers if any(e.id == element_id for e in la.elements))
    only = replace(layer, elements=tuple(e for e in layer.elements if e.id == element_id))
    return with_item(job, lambda item: replace(item, layers=(only,)))


def _figures(face: str, title: str, result: ItemResult, element: ElementResult) -> Audition:
    inspection = result.layers[0].inspection
    pairs = touching_pairs(element.letters)
    closed = sum(touching for _, touching in pairs)
    holes = sum(len(p.interiors) for part in element.parts for p in part.region.polygons.geoms)
    bends = roughness([p for part in element.parts for p in part.region.polygons.geoms])
    return Audition(
        face,
        title,
        size=result.size,
        thinnest_line=inspection.thinnest_line,
        thinnest_gap=inspection.thinnest_gap,
        stops=sum(1 for f in result.findings if f.severity == "stop"),
        small_pieces=sum(1 for f in result.findings if f.kind == "small-piece"),
        islands=holes,
        pairs=len(pairs),
        open_pairs=len(pairs) - closed,
        roughness=bends,
        nodes=sum(part.region.outline.node_count for part in element.parts),
        kinds=_kinds(element, holes, bends),
    )


def _kinds(element: ElementResult, holes: int, bends: float) -> tuple[str, ...]:
    kinds = []
    if connects(element.letters):
        kinds.append("connected")
    if holes == 0:
        kinds.append("no islands")
    polygons = [p for part in element.letters for p in part.region.polygons.geoms]
    capital = element.heights.capital or max((p.bounds[3] - p.bounds[1] for p in polygons), default=0.0)
    length = sum(p.length for p in polygons)
    if capital > 0.0 and length > 0.0:
        stroke = 2.0 * sum(p.area for p in polygons) / length / capital
        kinds += ["thin"] if stroke < THIN_STROKE else ["heavy"] if stroke > HEAVY_STROKE else []
    return (*kinds, "rough") if bends > ROUGH_BENDS_PER_CM else tuple(kinds)


def roughness(polygons: Sequence[shapely.Polygon]) -> float:
    """Bends per centimetre of outline: how often it crosses its own smoothed course by more than a little.

    The smoothing spans a seventh of the largest piece's height, so that strokes and corners count little.
    """
    height = max((p.bounds[3] - p.bounds[1] for p in polygons), default=0.0)
    if height <= 0.0:
        return 0.0
    step, bends, length = height / STEPS_PER_HEIGHT, 0, 0.0
    for polygon in polygons:
        for ring in (polygon.exterior, *polygon.interiors):
            points = evenly_spaced(shapely.get_coordinates(ring), step)
            if len(points) < 3 * SMOOTH_STEPS:
                continue
            bends += _crossings(points, SMALLEST_BEND * height)
            length += ring.length
    return 10.0 * bends / length if length else 0.0


def _crossings(points: FloatArray, smallest: float) -> int:
    """How often a closed polyline changes from one side of its smoothed course to the other."""
    half = SMOOTH_STEPS // 2
    wrapped = np.concatenate([points[-half:], points, points[:half]])
    window = np.ones(SMOOTH_STEPS) / SMOOTH_STEPS
    smooth = np.column_stack([np.convolve(wrapped[:, k], window, mode="valid") for k in (0, 1)])
    along = np.roll(smooth, -1, axis=0) - np.roll(smooth, 1, axis=0)
    off = points - smooth
    side = (along[:, 0] * off[:, 1] - along[:, 1] * off[:, 0]) / np.maximum(np.hypot(*along.T), 1e-12)
    signs = np.sign(side[np.abs(side) > smallest])
    return int((signs != np.roll(signs, 1)).sum()) if len(signs) else 0


def auditions(
    job: Job,
    element_id: str,
    faces: Sequence[str],
    assets: Mapping[str, bytes],
    is_stopped: Callable[[], bool] = lambda: False,
) -> Iterator[Audition]:
    """Every face's figures as they come; ends early when ``is_stopped`` says so."""
    waiting = list(faces)
    context = multiprocessing.get_context("forkserver")
    arguments = (msgspec.json.encode(job), element_id, dict(assets))
    with ProcessPoolExecutor(WORKERS, mp_context=context, initializer=_begin, initargs=arguments) as pool:
        ready = [pool.submit(os.getpid) for _ in range(WORKERS)] if len(waiting) > WORKERS else []
        cache = Cache()
        while waiting and not is_stopped() and not (ready and all(one.done() for one in ready)):
            yield auditioned(job, element_id, waiting.pop(0), assets, cache)
        running: set[Future[Audition]] = set()
        while (waiting or running) and not is_stopped():
            while waiting and len(running) < 2 * WORKERS:
                running.add(pool.submit(_heard, waiting.pop(0)))
            done, running = wait(running, return_when=FIRST_COMPLETED)
            yield from (one.result() for one in done)


_given: dict[str, tuple[Job, str, Mapping[str, bytes], Cache]] = {}
"""What a worker process was started with."""


def _begin(job: bytes, element_id: str, assets: Mapping[str, bytes]) -> None:
    _given["job"] = (msgspec.json.decode(job, type=Job), element_id, assets, Cache())


def _heard(face: str) -> Audition:
    job, element_id, assets, cache = _given["job"]
    return auditioned(job, element_id, face, assets, cache)
