"""Drawings at the size that they state, for commands that combine them."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from vivid_thimble.cli.figures import Facts, rounded, size_of
from vivid_thimble.cli.jobs import designed, job_of
from vivid_thimble.cli.opened import Opened, opened
from vivid_thimble.cli.written import Design, written
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.formats.svg_shapes import MM_PER_UNIT
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import Element, Job, Layer, Placement
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.sources.artwork import Artwork, film_region
from vivid_thimble.core.sources.line_work import guessed_lines, with_lines_as
from vivid_thimble.core.steps import Step


@dataclass(frozen=True)
class Plain:
    """What a drawing covers at the size that it states, from its page's corner, what of it was not understood, and the
    same as an element of a job."""

    art: Opened
    region: Region
    strangers: dict[str, dict[str, int]]

    def element(self, number: int = 1, **values: Any) -> Element:
        """Where the drawing lies; positions count from the page's corner, which is the middle of the thing."""
        left, top, right, bottom = self.region.bounds or (0.0, 0.0, 0.0, 0.0)
        wide, high = right - left, bottom - top
        placement = Placement(
            dx=(left + right) / 2.0,
            dy=(top + bottom) / 2.0,
            width=wide if wide >= high else None,
            height=None if wide >= high else high,
        )
        artwork = Artwork(asset=self.art.asset, name=self.art.name, lines=guessed_lines(self.art.drawing))
        return Element(id=f"art-{number}", name=artwork.name, source=artwork, placement=placement, **values)


def plain_drawing(path: str) -> Plain:
    art = opened(path)
    drawing = with_lines_as(art.drawing, guessed_lines(art.drawing), 0.0, 0.0)
    left, top = drawing.page[:2] if drawing.page is not None else (0.0, 0.0)
    scale = Affine.scaling(drawing.mm_per_unit or MM_PER_UNIT[""])
    region = film_region(drawing, Affine.translation(-left, -top).then(scale), path)
    unknown = dict(drawing.not_understood)
    return Plain(art, region, {art.name: unknown} if unknown else {})


def plain_job(layers: Sequence[Sequence[Element]], steps: Sequence[Step] = ()) -> Job:
    """A job of films of elements that lie anywhere, moved together to the middle of their thing."""
    film = USUAL_FILM["decal"]
    films = [
        Layer(id=f"film-{k}", film=film, elements=tuple(elements), steps=tuple(steps))
        for k, elements in enumerate(layers, start=1)
    ]
    return job_of(films)


def strangers_of(*drawings: Plain) -> dict[str, dict[str, int]]:
    return {name: told for one in drawings for name, told in one.strangers.items()}


def films_of(job: Job, *drawings: Plain) -> list[Region]:
    """What each film of a job of these drawings shows."""
    return [merged(film.parts) for film in designed(job, assets_of(*drawings))]


def told_and_written(options: argparse.Namespace, name: str, job: Job, *drawings: Plain) -> Facts:
    (whole,) = films_of(job, *drawings)
    if whole.bounds is None:
        raise InputRefused("Nothing is left to cut: the drawings do not lie over each other as this needs.")
    answer = {
        "size_mm": rounded(size_of(whole)),
        "nodes": whole.outline.node_count,
        "contours": len(whole.outline.contours),
        "kept_pieces": len(whole.polygons.geoms),
        "not_understood": strangers_of(*drawings),
    }
    return answer | written(options, design_of([(name, USUAL_FILM["decal"].colour, whole)], job, *drawings))


def design_of(films: Sequence[tuple[str, str, Region]], job: Job, *drawings: Plain) -> Design:
    return Design(films, job, assets_of(*drawings))


def assets_of(*drawings: Plain) -> dict[str, bytes]:
    return {key: data for one in drawings for key, data in one.art.assets.items()}
