"""A rigid stencil: a sheet with the drawing cut out, its middles bridged."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, rounded, size_of
from vivid_thimble.cli.jobs import designed, job_of
from vivid_thimble.cli.options import add_size, placement_of
from vivid_thimble.cli.plain import assets_of, design_of, plain_drawing
from vivid_thimble.cli.written import add_out, written
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import stencil_sheet
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.job.values import Layer
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.ranges import Fine, Size, refuse_absurd
from vivid_thimble.core.steps import Bridges
from vivid_thimble.core.steps.bridges import FoundBridges

HELP = "a rigid stencil: a sheet with the drawing cut out, its middles bridged"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("art")
    add_size(parser, required=True)
    parser.add_argument("--margin", default="20mm", help="sheet round the design (default 20mm)")
    parser.add_argument("--bridge", default="1.5mm", help="width of the bridges (default 1.5mm)")
    parser.add_argument(
        "--bridge-style", choices=("straight", "curved"), default="straight", help="straight or bent strips"
    )
    parser.add_argument("--feet", action="store_true", help="bridges widen into the sheet at both ends")
    parser.add_argument("--angle", type=float, metavar="DEG", help="one angle for all bridges")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    """A sheet with the drawing cut out, every middle bridged."""
    drawing = plain_drawing(options.art)
    placement = placement_of(options)
    assert placement is not None
    width = parse_length_within(options.bridge, Fine, "--bridge")
    margin = parse_length_within(options.margin, Size, "--margin")
    step = Bridges(id="bridges", width=width, angle_deg=options.angle, style=options.bridge_style, feet=options.feet)
    refuse_absurd(step)
    film = USUAL_FILM["rigid-stencil"]
    element = replace(drawing.element(), placement=placement)
    job = job_of([Layer(id="layer", film=film, elements=(element,), steps=(step,))], "rigid-stencil", margin)
    (made,) = designed(job, assets_of(drawing))
    (bridges,) = (one.found.plan.bridges for one in made.shown if isinstance(one, FoundBridges))
    before = stencil_sheet(merged(made.elements[0].parts), margin)
    sheet = stencil_sheet(merged(made.parts), margin)
    if sheet.bounds is None or not made.parts or merged(made.parts).is_empty:
        raise InputRefused(f"Bridges of {options.bridge} leave nothing of the openings: take a smaller --bridge.")
    left, top, _, _ = sheet.bounds

    def place(at: tuple[float, float]) -> list[float]:
        return rounded((at[0] - left, at[1] - top))

    answer: Facts = {
        "sheet_mm": rounded(size_of(sheet)),
        "islands_before": len(before.polygons.geoms) - 1,
        "islands_after": len(sheet.polygons.geoms) - 1,
        "bridges": [
            {"from_mm": place(one.start), "to_mm": place(one.end), "width_mm": one.width, "weak": one.weak}
            for one in bridges
        ],
        "nodes": sheet.outline.node_count,
        "not_understood": drawing.strangers,
    }
    return answer | written(options, design_of([("stencil", film.colour, sheet)], job, drawing))
