"""A photo as one line whose width follows its darkness."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, figure, rounded, size_of
from vivid_thimble.cli.jobs import one_element_job
from vivid_thimble.cli.opened import opened_picture
from vivid_thimble.cli.written import Design, add_out, written
from vivid_thimble.core.evaluate.picture_stages import drawn_portrait
from vivid_thimble.core.job.values import Element, Placement
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.ranges import Limit, Size, refuse_absurd
from vivid_thimble.core.sources.line_portrait import LinePortrait, smallest_diameter
from vivid_thimble.core.widths.survey import survey_widths

HELP = "a photo as one line whose width follows its darkness"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("image")
    parser.add_argument("--width", required=True, help="width of the finished portrait")
    parser.add_argument("--min-line", default="0.8mm", help="thinnest kept line the film bears (default 0.8mm)")
    parser.add_argument("--min-gap", default="0.8mm", help="narrowest gap the film bears (default 0.8mm)")
    parser.add_argument("--turns", type=float, metavar="N", help="turns of the spiral (default: the most that cut)")
    parser.add_argument("--lines", choices=("spiral", "rings", "waves"), default="spiral", help="what lines to draw")
    parser.add_argument("--outer-ring", action="store_true", help="a ring round the spiral, tied to its end")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    art = opened_picture(options.image)
    portrait = LinePortrait(
        asset=art.asset,
        name=art.name,
        lines=options.lines,
        turns=options.turns,
        outer_ring=options.outer_ring,
        min_line=parse_length_within(options.min_line, Limit, "--min-line"),
        min_gap=parse_length_within(options.min_gap, Limit, "--min-gap"),
    )
    refuse_absurd(portrait)
    width = parse_length_within(options.width, Size, "--width")
    placement = Placement(width=width)
    drawn = drawn_portrait(art.raster, portrait, placement, art.cache)
    lines, gaps = survey_widths(drawn.kept.polygons, portrait.min_line, portrait.min_gap)
    left, top, _, _ = drawn.kept.bounds or (0.0, 0.0, 0.0, 0.0)

    def place(point: tuple[float, float] | None) -> list[float] | None:
        return None if point is None else rounded((point[0] - left, point[1] - top))

    answer: Facts = {
        "size_mm": rounded(size_of(drawn.kept)),
        "turns": round(drawn.turns, 3),
        "most_turns": round(drawn.most_turns, 3),
        "smallest_width_mm": round(
            smallest_diameter(drawn.turns, portrait.min_line, portrait.min_gap) * width / drawn.circle, 2
        ),
        "thinnest_line_mm": figure(lines.thinnest.thinnest if lines.thinnest else None),
        "thinnest_gap_mm": figure(gaps.thinnest.thinnest if gaps.thinnest else None),
        "kept_pieces": len(drawn.kept.polygons.geoms),
        "nodes": drawn.kept.outline.node_count,
        "kept_end_mm": place(drawn.kept_end),
        "waste_end_mm": place(drawn.waste_end),
    }
    element = Element(id="portrait", name=art.name, source=portrait, placement=placement)
    film = replace(USUAL_FILM["decal"], thinnest_line=portrait.min_line, thinnest_gap=portrait.min_gap)
    job = one_element_job(element, film)
    return answer | written(options, Design([(art.name, "#000000", drawn.kept)], job, art.assets))
