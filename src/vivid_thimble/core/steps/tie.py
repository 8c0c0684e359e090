"""Tie on: small strips of film that hold what no shift joins: pairs apart, dots, accents, bars.

A strip runs along the shortest way between two pieces and reaches only as far into both as its neck
needs, so nothing of the letters changes elsewhere. Which pieces hang loose is told by what touches
what once the letters stand.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.parts import Part, Parts
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.holding.strips import strip_between
from vivid_thimble.core.ranges import Fine, Number
from vivid_thimble.core.sources.lines import Align
from vivid_thimble.core.steps.step import Held, StepKind

BAR_SHAPE = 2.5
"""A loose piece so many times wider than high is a bar."""
Hold = Literal["letter", "piece"]


class Knot(Struct, frozen=True, kw_only=True):
    """What is tied: a letter to the one before it, or its own loose pieces to its largest one.

    It applies to the letter with this number, counted from 0, as long as that is still the same letter.
    """

    letter: Number
    label: str
    hold: Hold = "letter"


class Tie(StepKind, Struct, frozen=True, tag="tie", kw_only=True):
    """Strips ``width`` mm wide at every knot; knots of letters that are gone are left aside."""

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Tie on"
    id: str
    width: Fine = 1.0
    knots: tuple[Knot, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        return f"Tie on: strips {self.width:g} mm wide hold what no shift joins"

    def hold(self, letters: Parts, align: Align) -> Held:
        return Held(self.apply(letters), self.width)

    def apply(self, parts: Parts) -> Parts:
        tied = list(parts)
        for knot in self.knots:
            k = knot.letter
            if k >= len(parts) or parts[k].label != knot.label:
                continue
            if knot.hold == "piece":
                tied[k] = _with_strips(tied[k], _pieces_tied(tied[k].region, self.width))
            elif k > 0 and not _are_apart(parts[k - 1], parts[k]):
                strip = strip_between(tied[k - 1].region.polygons, tied[k].region.polygons, self.width)
                tied[k] = _with_strips(tied[k], [strip] if strip is not None else [])
        return tuple(tied)


def _pieces_tied(region: Region, width: float) -> list[shapely.Polygon]:
    """Strips from every smaller piece of a letter to what is already held together, nearest first."""
    held, *loose = sorted(region.polygons.geoms, key=lambda p: -p.area) or [shapely.Polygon()]
    strips = []
    body: shapely.Geometry = held
    while loose:
        nearest = min(loose, key=lambda p: p.distance(body))
        loose.remove(nearest)
        strip = strip_between(body, nearest, width)
        if strip is not None:
            strips.append(strip)
        body = shapely.union_all([body, nearest, *([strip] if strip is not None else [])])
    return strips


def _with_strips(part: Part, strips: Sequence[shapely.Polygon]) -> Part:
    if not strips:
        return part
    return part.with_region(union([part.region, *(Region.from_polygons(strip) for strip in strips)]))


def _are_apart(left: Part, right: Part) -> bool:
    return left.word is None or left.word != right.word


@dataclass(frozen=True)
class LooseMark:
    """A piece of a letter that nothing holds: a dot, an accent, a bar."""

    letter: int
    label: str
    what: str
    at: tuple[float, float]
    size: float = 0.0
    """Its larger extent in mm."""


@dataclass(frozen=True)
class Crossing:
    """Two letters that are no neighbours and run into each other: a swash, or lines too close."""

    first: int
    second: int
    labels: tuple[str, str]
    other_line: bool
    at: tuple[float, float]


def loose_marks(parts: Parts) -> list[LooseMark]:
    """Pieces of letters that touch nothing which holds their letter's largest piece, in reading order."""
    owners, pieces = _pieces(parts)
    if not pieces:
        return []
    group = _groups(pieces)
    largest: dict[int, int] = {}
    for number, owner in enumerate(owners):
        if owner not in largest or pieces[number].area > pieces[largest[owner]].area:
            largest[owner] = number
    holding = {group[number] for number in largest.values()}
    marks = []
    for number, owner in enumerate(owners):
        if group[number] not in holding and parts[owner].word is not None:
            middle = pieces[number].centroid
            what = _what(parts[owner].label, pieces[number], pieces[largest[owner]])
            left, top, right, bottom = pieces[number].bounds
            at, size = (float(middle.x), float(middle.y)), max(right - left, bottom - top)
            marks.append(LooseMark(owner, parts[owner].label, what, at, size))
    return marks


def crossings(parts: Parts) -> list[Crossing]:
    """Letters that share area though they are no neighbours of one word."""
    areas = [part.region.polygons for part in parts]
    if len(areas) < 2:
        return []
    first, second = shapely.STRtree(areas).query(areas, predicate="intersects")
    found = []
    for i, j in sorted((int(a), int(b)) for a, b in zip(first, second, strict=True) if a < b):
        one, other = parts[i], parts[j]
        if one.word is None or other.word is None or (j == i + 1 and one.word == other.word):
            continue
        common = shapely.intersection(areas[i], areas[j])
        if common.area <= 0.0:
            continue
        middle = common.representative_point()
        found.append(
            Crossing(i, j, (one.label, other.label), one.word != other.word, (float(middle.x), float(middle.y)))
        )
    return found


def _pieces(parts: Parts) -> tuple[list[int], list[shapely.Polygon]]:
    owners, pieces = [], []
    for number, part in enumerate(parts):
        for polygon in part.region.polygons.geoms:
            owners.append(number)
            pieces.append(polygon)
    return owners, pieces


def _groups(pieces: list[shapely.Polygon]) -> list[int]:
    """A number for every piece; what touches, directly or through others, has the same one."""
    group = list(range(len(pieces)))

    def root(k: int) -> int:
        while group[k] != k:
            group[k] = group[group[k]]
            k = group[k]
        return k

    first, second = shapely.STRtree(pieces).query(pieces, predicate="intersects")
    for i, j in zip(first.tolist(), second.tolist(), strict=True):
        group[root(i)] = root(j)
    return [root(k) for k in range(len(pieces))]


def _what(label: str, piece: shapely.Polygon, body: shapely.Polygon) -> str:
    """A word for a loose piece."""
    left, top, right, bottom = piece.bounds
    if right - left > BAR_SHAPE * (bottom - top):
        return "bar"
    if any(unicodedata.combining(c) for c in unicodedata.normalize("NFD", label)):
        return "accent"
    return "dot" if bottom <= body.bounds[1] + (body.bounds[3] - body.bounds[1]) / 2.0 else "piece"
