"""One drawing cut by another."""

from __future__ import annotations

import argparse

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.plain import Plain, design_of, films_of, plain_drawing, plain_job, strangers_of, told_and_written
from vivid_thimble.cli.written import add_out, written
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.steps import Slice
from vivid_thimble.core.steps.slice import Keep

KEEPS: dict[str, Keep] = {"difference": "outside", "overlap": "overlap"}
"""What of the first drawing is asked for, as steps call it."""
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
    if options.keep != "both":
        job = plain_job([_sliced(first, second, 1, KEEPS[options.keep])])
        return told_and_written(options, "sliced", job, first, second)
    both = {name: _sliced(first, second, 2 * k + 1, keep) for k, (name, keep) in enumerate(KEEPS.items())}
    made = zip(both.items(), films_of(plain_job(list(both.values())), first, second), strict=True)
    films = {name: (region, elements) for (name, elements), region in made if not region.is_empty}
    answer = {
        "layers": [
            {"name": name, "area_mm2": round(region.area, 3), "kept_pieces": len(region.polygons.geoms)}
            for name, (region, _) in films.items()
        ],
        "not_understood": strangers_of(first, second),
    }
    colour = USUAL_FILM["decal"].colour
    job = plain_job([elements for _, elements in films.values()])
    cut = [(name, colour, region) for name, (region, _) in films.items()]
    return answer | written(options, design_of(cut, job, first, second))


def _sliced(first: Plain, second: Plain, number: int, keep: Keep) -> list[Element]:
    """The first drawing, sliced by the second one, which only helps."""
    knife = second.element(number + 1, helps_only=True)
    return [first.element(number, steps=(Slice(id=f"slice-{number}", by=(knife.id,), keep=keep),)), knife]
