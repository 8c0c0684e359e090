"""Where every film of a job goes on its thing, from its true edges."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, figure
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.reports.place_card import Placing, placing_lines, placing_title, placings
from vivid_thimble.core.storage.project import open_project

HELP = "where every film of a job goes on its thing, from its true edges"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("job", help="a project file")


def answer(options: argparse.Namespace) -> Facts:
    """All items of a job, in order."""
    job, assets = open_project(options.job)
    cache = Cache()
    found = [one for k in range(len(job.items)) for one in placings(evaluate(replace(job, at=k), assets, cache))]
    return {"items": [_placing_json(one) for one in found]}


def _placing_json(one: Placing) -> Facts:
    return {
        "item": one.item,
        "film": one.film,
        "part": one.part,
        "from_left_mm": figure(one.left),
        "from_right_mm": figure(one.right),
        "from_top_mm": figure(one.top),
        "from_bottom_mm": figure(one.bottom),
        "below_rim_mm": figure(one.below_rim),
        "below_collar_mm": figure(one.below_collar),
        "left_of_front_mm": figure(one.front_left),
        "right_of_front_mm": figure(one.front_right),
        "arc_mm": figure(one.arc),
        "chord_mm": figure(one.chord),
        "baseline_mm": figure(one.baseline),
        "says": f"{placing_title(one)}: {'; '.join(placing_lines(one, 'mm'))}.",
    }
