"""The jobs that commands build, evaluated as the window does."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from pathlib import Path as FilePath

from msgspec.structs import replace

from vivid_thimble.cli.opened import Opened
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.drawing_stages import size_at
from vivid_thimble.core.evaluate.recipe import Designed, designs, evaluate
from vivid_thimble.core.evaluate.results import ItemResult, LayerResult
from vivid_thimble.core.formats.svg_shapes import MM_PER_UNIT
from vivid_thimble.core.job.edits import moved_design
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import USUAL_FILM, Method
from vivid_thimble.core.ranges import refuse_absurd
from vivid_thimble.core.sources.artwork import Artwork, ArtworkShare

ROUND_IT = 20.0
"""Room on the thing of a kept job, in mm of its width and its height."""


def art_element(artwork: Artwork, placement: Placement) -> Element:
    return Element(id="art", name=artwork.name, source=artwork, placement=placement)


def one_element_job(element: Element, film: Film, method: Method = "decal", surround: float = 0.0) -> Job:
    return job_of([Layer(id="layer", film=film, elements=(element,))], method, surround)


def job_of(layers: Sequence[Layer], method: Method = "decal", surround: float = 0.0) -> Job:
    """One thing, so large that any design has room on it; whoever keeps the job has it ``fitted``."""
    item = Item(
        id="item", name="the item", width=1e5, height=1e5, method=method, surround=surround, layers=tuple(layers)
    )
    return Job(name="command line", items=(item,))


def films_job(element: Element, colours: Mapping[int, str]) -> Job:
    """A film for each number and its colour; others than the first show their share of its drawing or picture."""
    film, layers = USUAL_FILM["decal"], []
    for number, colour in {0: film.colour, **colours}.items():
        share = ArtworkShare(of=element.id, film=number)
        name = f"{element.name}, film {number + 1}"
        one = element if not number else replace(element, id=f"{element.id}-film-{number + 1}", name=name, source=share)
        own = replace(film, name=f"{film.name}, film {number + 1}", colour=colour) if len(colours) > 1 else film
        layers.append(Layer(id=f"layer-{number + 1}", film=own, elements=(one,)))
    return job_of(layers)


def fitted(job: Job, assets: Mapping[str, bytes], path: str) -> Job:
    """The job on a plain thing a little larger than what is cut, named as the file that it goes to."""
    boxes = [layer.kept.bounds for layer in evaluated(job, assets).layers if layer.kept.bounds]
    if not boxes:
        raise InputRefused(
            f"Nothing is left to cut in {FilePath(path).name}: take smaller lengths, or a larger design."
        )
    left, top, right, bottom = (pick(b[k] for b in boxes) for k, pick in enumerate((min, min, max, max)))
    job = moved_design(job, (job.item.width - left - right) / 2.0, (job.item.height - top - bottom) / 2.0)
    name = FilePath(path).stem
    item = replace(
        job.item, name=name, width=math.ceil(right - left + ROUND_IT), height=math.ceil(bottom - top + ROUND_IT)
    )
    return replace(job, name=name, items=(item,))


def own_size(art: Opened, artwork: Artwork) -> Placement:
    """The size that the file states, or one unit = 1/96 inch as the standard says."""
    width, height = size_at(art.drawing, artwork, art.drawing.mm_per_unit or MM_PER_UNIT[""], art.cache)
    return Placement(width=width) if width >= height else Placement(height=height)


def designed(job: Job, assets: Mapping[str, bytes]) -> list[Designed]:
    """The films of a job before anything is inspected; refused like ``evaluated``."""
    refuse_absurd(job)
    films = designs(job, assets, Cache())
    _refuse_failed(films)
    return films


def evaluated(job: Job, assets: Mapping[str, bytes] | None = None, cache: Cache | None = None) -> ItemResult:
    """The evaluated job; a failed source or step is refused here, since nobody can look at it."""
    refuse_absurd(job)
    result = evaluate(job, assets or {}, cache)
    _refuse_failed(result.layers)
    return result


def _refuse_failed(films: Sequence[Designed | LayerResult]) -> None:
    for film in films:
        if film.problems:
            raise InputRefused(film.problems[0].sentence)
