"""What would go wrong if a drawing, or a job, were cut at this size."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.findings import inspection_json, stops_of
from vivid_thimble.cli.jobs import art_element, evaluated, one_element_job, own_size
from vivid_thimble.cli.opened import Opened, opened
from vivid_thimble.cli.options import add_size, film_of_options, placement_of
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import STENCIL_METHODS, SURROUND_FOR, USUAL_FILM, Method
from vivid_thimble.core.ranges import Room
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.line_work import guessed_lines
from vivid_thimble.core.storage.project import ENDING, open_project

OF_THE_ITEM = ("size_mm", "places", "findings", "places_no_size_cures")
FOR_DRAWINGS = ("width", "height", "method", "margin", "min-line", "min-gap")
HELP = "what would go wrong if this drawing, or this job, were cut at this size"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("art", help="a drawing or a job")
    add_size(parser, required=False)
    parser.add_argument("--method", choices=sorted(USUAL_FILM))
    parser.add_argument("--margin", help="surround of a stencil")
    parser.add_argument("--min-line", help="thinnest kept line the film bears")
    parser.add_argument("--min-gap", help="narrowest gap the film bears")


def answer(options: argparse.Namespace) -> Facts:
    """Of a drawing, or of the thing in hand of a job, and then of its others too."""
    if options.art.lower().endswith(ENDING):
        return _of_a_job(options)
    art = opened(options.art)
    return inspection_json(evaluated(_art_job(options, art, film_of_options(options)), art.assets, art.cache))


def _of_a_job(options: argparse.Namespace) -> Facts:
    given = [name for name in FOR_DRAWINGS if getattr(options, name.replace("-", "_"))]
    if given:
        raise InputRefused(f"A job has its own sizes, films and limits: leave --{given[0]} out, or inspect a drawing.")
    job, assets = open_project(options.art)
    cache = Cache()
    results = [evaluate(replace(job, at=k), assets, cache) for k in range(len(job.items))]
    return {"items": [_item_json(one) for one in results], "stops": sum(len(stops_of(one)) for one in results)}


def _item_json(result: ItemResult) -> Facts:
    """The findings of a thing, and the figures of each of its films; with what fails."""
    stops = stops_of(result)
    films = [inspection_json(result, k) for k in range(len(result.layers))]
    told = {key: films[0][key] for key in OF_THE_ITEM}
    figures = [{key: value for key, value in film.items() if key not in OF_THE_ITEM} for film in films]
    named = [{"film": la.layer.film.name, **film} for la, film in zip(result.layers, figures, strict=True)]
    says = " ".join(stops) or "nothing to mend"
    return {"item": result.item.name, "says": says, "stops": len(stops), **told, "films": named}


def _art_job(options: argparse.Namespace, art: Opened, film: Film) -> Job:
    method: Method = options.method or "decal"
    surround = SURROUND_FOR["dabbed"] if method in STENCIL_METHODS else 0.0
    if options.margin:
        surround = parse_length_within(options.margin, Room, "--margin")
    artwork = Artwork(asset=art.asset, name=art.name, lines=guessed_lines(art.drawing))
    placement = placement_of(options) or own_size(art, artwork)
    return one_element_job(art_element(artwork, placement), film, method, surround)
