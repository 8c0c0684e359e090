"""A job with a thing for every name of a list, from the words of another job."""

from __future__ import annotations

import argparse
from pathlib import Path as FilePath

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.findings import stops_of
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.sets import make_set, names_in_file, shared_of
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.values import Element, Job, SharedSize, elements_of
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.ranges import Room
from vivid_thimble.core.storage.project import ENDING, open_project, save_project

HELP = "a thing for every name of a list, all of one size, from the words of a job"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("job", help="a job whose thing in hand has words")
    parser.add_argument("names", help="a text file with one name a line, or a table with a column of names")
    parser.add_argument("--words", metavar="NAME", help="which words, where the thing has several")
    parser.add_argument("--margin", help="room to the edges of the thing")
    parser.add_argument("-o", "--out", required=True, help="write the set, as .thimble")


def answer(options: argparse.Namespace) -> Facts:
    if not options.out.lower().endswith(ENDING):
        raise InputRefused(f"{options.out} is no name of a job: end it with {ENDING}.")
    job, assets = open_project(options.job)
    words = _words(job, options.words)
    known = shared_of(job, words.id) or SharedSize(id="")
    margin = parse_length_within(options.margin, Room, "--margin") if options.margin else known.margin
    made = make_set(job, words.id, names_in_file(FilePath(options.names)), known.match, margin)
    save_project(options.out, made, assets)
    cache, found = Cache(), []
    total = 0
    for k, item in enumerate(made.items):
        result = evaluate(replace(made, at=k), assets, cache)
        stops = len(stops_of(result))
        left, top, right, bottom = result.bounds or (0.0, 0.0, 0.0, 0.0)
        size = f"{right - left:.2f} x {bottom - top:.2f} mm"
        total += stops
        found.append({"item": item.name, "stops": stops, "says": f"{size}, {stops or 'nothing'} to mend"})
    return {"items": found, "stops": total, "written": options.out}


def _words(job: Job, name: str | None) -> Element:
    """The words of the thing in hand, or those of that name."""
    found = [e for e in elements_of(job.item) if e.source.SETS_WORDS and name in (None, e.name)]
    if not found:
        raise InputRefused(
            f"{job.item.name} has no words{f' named {name}' if name else ''}: open the job and add them."
        )
    if len(found) > 1:
        names = ", ".join(element.name for element in found)
        raise InputRefused(f"{job.item.name} has several words ({names}): tell with --words which get the names.")
    return found[0]
