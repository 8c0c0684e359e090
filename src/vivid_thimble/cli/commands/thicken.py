"""A drawing with every edge moved out."""

from __future__ import annotations

import argparse

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.plain import plain_drawing, plain_job, told_and_written
from vivid_thimble.cli.written import add_out
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.ranges import Moved
from vivid_thimble.core.steps import Thicken

HELP = "a drawing with every edge moved out"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("art")
    parser.add_argument("--by", required=True, help="how far edges move out; negative thins")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    one, by = plain_drawing(options.art), parse_length_within(options.by, Moved, "--by")
    job = plain_job([[one.element(steps=(Thicken(id="thicken", by=by),))]])
    return told_and_written(options, "thickened", job, one)
