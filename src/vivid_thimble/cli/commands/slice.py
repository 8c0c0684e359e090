"""One drawing cut by another."""

from __future__ import annotations

import argparse

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.plain import Plain, design_of, plain_drawing, plain_job, strangers_of, told_and_written
from vivid_thimble.cli.written import add_out, written
from vivid_thimble.core.geometry.region import Region, difference, intersection
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.steps import Slice
from vivid_thimble.core.steps.slice import Keep

HELP = "one drawing cut by another"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("first")
    parser.add_argument("second")
    parser.add_argument(
        "--keep", choices=("difference", "overlap", "both"), default="difference", help="what of the first"
    )
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    """The first drawing without the second, or what they share, or both as two films."""
    first, second = plain_drawing(options.first), plain_drawing(options.second)
    films: dict[str, tuple[Region, Keep]] = {
        "difference": (difference(first.region, [second.region]), "outside"),
        "overlap": (intersection(first.region, second.region), "overlap"),
    }
    if options.keep != "both":
        whole, how = films[options.keep]
        return told_and_written(options, "sliced", whole, plain_job([_sliced(first, second, 1, how)]), first, second)
    films = {name: film for name, film in films.items() if not film[0].is_empty}
    answer = {
        "layers": [
            {"name": name, "area_mm2": round(region.area, 3), "kept_pieces": len(region.polygons.geoms)}
            for name, (region, _) in films.items()
        ],
        "not_understood": strangers_of(first, second),
    }
    colour = USUAL_FILM["decal"].colour
    job = plain_job([_sliced(first, second, 2 * k + 1, how) for k, (_, how) in enumerate(films.values())])
    cut = [(name, colour, region) for name, (region, _) in films.items()]
    return answer | written(options, design_of(cut, job, first, second))


def _sliced(first: Plain, second: Plain, number: int, keep: Keep) -> list[Element]:
    """The first drawing, sliced by the second one, which only helps."""
    knife = second.element(number + 1, helps_only=True)
    return [first.element(number, steps=(Slice(id=f"slice-{number}", by=(knife.id,), keep=keep),)), knife]
