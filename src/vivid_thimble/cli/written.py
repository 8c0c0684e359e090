"""Cut files and jobs that a command leaves."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vivid_thimble.cli.figures import Facts
from vivid_thimble.cli.jobs import fitted
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.formats.cut_file import WRITERS, cut_file
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.storage.project import ENDING, save_project


@dataclass(frozen=True)
class Design:
    """What a command made: films by name and colour, and the job that makes them with its files by their keys."""

    films: Sequence[tuple[str, str, Region]]
    job: Job
    assets: Mapping[str, bytes]


def add_out(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("-o", "--out", help=f"write the cut paths ({', '.join(WRITERS)}) or the job ({ENDING})")


def written(options: argparse.Namespace, design: Design) -> Facts:
    """The file that was asked for, written: its ending tells what."""
    cut, box = _from_the_corner(design.films)
    if not options.out:
        return {}
    if options.out.lower().endswith(ENDING):
        save_project(options.out, fitted(design.job, design.assets, options.out), design.assets)
    else:
        write_atomically(options.out, cut_file(options.out, cut, box[2], box[3]))
    return {"written": str(options.out)}


def _from_the_corner(films: Sequence[tuple[str, str, Region]]) -> tuple[list[CutLayer], Box]:
    """Films moved so that the design's top-left is the origin."""
    boxes = [region.bounds for _, _, region in films if region.bounds]
    if not boxes:
        raise InputRefused("Nothing is left to cut at these sizes: take smaller lengths, or a larger design.")
    left, top = min(b[0] for b in boxes), min(b[1] for b in boxes)
    move = Affine.translation(-left, -top)
    right, bottom = max(b[2] for b in boxes), max(b[3] for b in boxes)
    cut = [CutLayer(label, colour, (region.outline.transformed(move),)) for label, colour, region in films]
    return cut, (0.0, 0.0, right - left, bottom - top)
