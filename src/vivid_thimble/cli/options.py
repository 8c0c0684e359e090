"""Options that several commands take, and what they mean."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.core.job.values import Placement
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.ranges import Limit, Size


def count_of_films(text: str) -> int:
    if not text.isdigit() or int(text) < 1:
        raise argparse.ArgumentTypeError(f'a number of films from 1 on is expected, not "{text}"')
    return int(text)


def area_mm2(text: str) -> float:
    """An area in mm2, its unit told or not."""
    value = float(text.lower().removesuffix("mm2").removesuffix("mm²").strip())
    if not value >= 0.0:
        raise ValueError(text)
    return value


def add_size(parser: argparse.ArgumentParser, *, required: bool) -> None:
    group = parser.add_mutually_exclusive_group(required=required)
    group.add_argument("--width", help="width of the finished design")
    group.add_argument("--height", help="height of the finished design")


def film_of_options(options: argparse.Namespace) -> Film:
    film = USUAL_FILM[getattr(options, "method", None) or "decal"]
    if options.min_line:
        film = replace(film, thinnest_line=parse_length_within(options.min_line, Limit, "--min-line"))
    if options.min_gap:
        film = replace(film, thinnest_gap=parse_length_within(options.min_gap, Limit, "--min-gap"))
    return film


def placement_of(options: argparse.Namespace) -> Placement | None:
    if options.width is not None:
        return Placement(width=parse_length_within(options.width, Size, "The width"))
    if options.height is not None:
        return Placement(height=parse_length_within(options.height, Size, "The height"))
    return None
