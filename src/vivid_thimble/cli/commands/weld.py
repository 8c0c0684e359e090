"""Several drawings to one outline."""

from __future__ import annotations

import argparse

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.plain import plain_drawing, plain_job, told_and_written
from vivid_thimble.cli.written import add_out
from vivid_thimble.core.steps import Weld

HELP = "several drawings to one outline"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("art", nargs="+")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    drawings = [plain_drawing(art) for art in options.art]
    job = plain_job([[one.element(k) for k, one in enumerate(drawings, start=1)]], (Weld(id="weld"),))
    return told_and_written(options, "welded", job, *drawings)
