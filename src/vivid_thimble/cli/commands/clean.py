"""A drawing to clean cut paths."""

from __future__ import annotations

import argparse
from collections.abc import Mapping

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, rounded, size_of
from vivid_thimble.cli.jobs import art_element, evaluated, films_job, one_element_job, own_size
from vivid_thimble.cli.opened import Opened, opened
from vivid_thimble.cli.options import add_size, count_of_films, placement_of
from vivid_thimble.cli.written import Design, add_out, written
from vivid_thimble.core.evaluate.drawing_stages import colour_shares, sized_drawing
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.job.values import Placement
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.ranges import Fine
from vivid_thimble.core.sources.artwork import Artwork, artwork_for
from vivid_thimble.core.sources.cleaning import KINDS, Cleaned
from vivid_thimble.core.sources.cleaning import in_words as cleaned_in_words
from vivid_thimble.core.sources.colours import film_of, grouped, to_hex
from vivid_thimble.core.sources.drawing import Colour

HELP = "a drawing (SVG, DXF, PDF, zip) to clean cut paths"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("art")
    add_size(parser, required=False)
    parser.add_argument("--layers", choices=("keep", "one"), default="one", help="one film, or one for each colour")
    parser.add_argument(
        "--colours", type=count_of_films, metavar="N", help="bring the colours together to so many films"
    )
    parser.add_argument(
        "--lines", choices=("drawn", "widened", "filled"), help="what thin lines mean (default: a guess)"
    )
    parser.add_argument("--line-width", help="least width of widened lines")
    parser.add_argument("--page", type=int, default=0, help="page of a PDF, counted from 0")
    parser.add_argument("--leave", nargs="+", choices=KINDS, metavar="KIND", help=f"do not clean: {', '.join(KINDS)}")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    art = opened(options.art, options.page)
    drawing = art.drawing
    artwork = _artwork(options, art)
    placement = placement_of(options) or own_size(art, artwork)
    if options.layers == "keep" or options.colours:
        artwork = _with_films(artwork, colour_shares(drawing, artwork, placement, art.cache), options.colours)
    job = one_element_job(art_element(artwork, placement), USUAL_FILM["decal"])
    result = evaluated(job, art.assets, art.cache)
    layer = result.layers[0]
    layers = [(artwork.name, layer.layer.film.colour, layer.kept)]
    report = layer.elements[0].cleaned
    if artwork.films > 1:
        films, report = _film_layers(art, artwork, placement)
        layers = list(films.values())
        job = films_job(art_element(artwork, placement), {number: colour for number, (_, colour, _) in films.items()})
    left, top = (min(region.bounds[k] for _, _, region in layers if region.bounds) for k in (0, 1))
    answer = {
        "size_mm": rounded(size_of(union(region for _, _, region in layers))),
        "nodes_before": Path.joined(part.path for part in drawing.parts).node_count,
        "nodes": sum(region.outline.node_count for _, _, region in layers),
        "contours": sum(len(region.outline.contours) for _, _, region in layers),
        "layers": [label for label, _, _ in layers],
        "lines": artwork.lines,
        "open_paths_closed": sum(one.count for one in report if one.kind == "open" and one.on),
        "doubled_paths_removed": sum(one.count for one in report if one.kind == "doubled" and one.on),
        "cleaned": [_cleaned_json(one, (left, top)) for one in report],
        "hidden_in_the_file": drawing.hidden,
        "stray_points": drawing.stray,
        "simplified": dict(drawing.simplified),
        "not_understood": dict(drawing.not_understood),
    }
    return answer | written(options, Design(layers, job, art.assets))


def _artwork(options: argparse.Namespace, art: Opened) -> Artwork:
    """How the drawing is taken, from the options; all in one film."""
    off = dict.fromkeys(options.leave or (), False)
    artwork = artwork_for(art.drawing, art.asset, art.name)
    artwork = replace(artwork, page=options.page, cleaning=replace(artwork.cleaning, **off))
    if options.lines:
        artwork = replace(artwork, lines=options.lines)
    if options.line_width:
        artwork = replace(artwork, line_width=parse_length_within(options.line_width, Fine, "--line-width"))
    return artwork


def _with_films(artwork: Artwork, areas: Mapping[Colour, float], most: int | None) -> Artwork:
    """A film for each colour, or so many films of colours that look alike."""
    groups = grouped(areas, most) if most else [[colour] for colour in areas]
    films = tuple((to_hex(colour), k) for k, group in enumerate(groups) for colour in group)
    return replace(artwork, films=max(len(groups), 1), colour_films=films)


def _film_layers(
    art: Opened, artwork: Artwork, placement: Placement
) -> tuple[dict[int, tuple[str, str, Region]], tuple[Cleaned, ...]]:
    """One layer for each film of a drawing that holds anything, by its number, with the colour of the largest area."""
    sized = sized_drawing(art.drawing, artwork, placement, art.cache)
    areas = colour_shares(art.drawing, artwork, placement, art.cache)
    layers = {}
    for number, parts in enumerate(sized.films):
        colours = [c for c in areas if film_of(c, artwork) == number]
        if colours and parts:
            largest = to_hex(max(colours, key=lambda c: areas[c]))
            layers[number] = (f"colour {largest}", largest, union(part.region for part in parts))
    return layers, sized.report


def _cleaned_json(one: Cleaned, origin: tuple[float, float]) -> Facts:
    places = [rounded((x - origin[0], y - origin[1])) for x, y in one.at]
    line: Facts = {"kind": one.kind, "count": one.count, "done": one.on, "says": cleaned_in_words(one)}
    line |= {key: value for key, value in (("before", one.before), ("after", one.after)) if value is not None}
    if one.largest is not None:
        line["largest_gap_mm"] = round(one.largest, 4)
    return line | ({"at_mm": places} if places else {})
