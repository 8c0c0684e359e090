"""Slice: one element cut by others. Nothing is consumed: the others stay as they are and may change any time."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

import shapely
from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of
from vivid_thimble.core.geometry.region import Region, difference, intersection, union
from vivid_thimble.core.ranges import Gentle, Place
from vivid_thimble.core.steps.step import Around, Outcome, Scope, StepKind

Keep = Literal["outside", "overlap", "divide"]
Point = tuple[float, float]
DUST_MM2 = 1e-4
"""Smaller pieces are rounding between outlines that nearly coincide."""


class Slice(StepKind, Struct, frozen=True, tag="slice", kw_only=True):
    """What lies under the elements ``by`` (ids) is taken away, or is all that is kept, or everything is divided along
    their outlines. ``halo``: they count as so many mm larger all round, which knocks them out with a gap.

    ``left_out``: divided pieces that hold one of these places, in shares of the element's box, are left out.
    """

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Slice"
    SCOPES: ClassVar[frozenset[Scope]] = frozenset(("element",))
    id: str
    by: tuple[str, ...] = ()
    keep: Keep = "outside"
    halo: Gentle = 0.0
    left_out: tuple[Place, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        what = {"outside": "what lies under others is cut away", "overlap": "only what lies under others stays"}
        return f"Slice: {what.get(self.keep, 'parted along the outlines of others')}"

    @property
    def elements(self) -> tuple[str, ...]:
        return self.by

    def naming(self, elements: tuple[str, ...]) -> Slice:
        return replace(self, by=elements)

    def without(self, element_id: str) -> Slice:
        return replace(self, by=tuple(one for one in self.by if one != element_id))

    def needs(self, around: Around) -> tuple[str, ...]:
        return tuple(around.element(one).key for one in self.by)

    def run(self, parts: Parts, around: Around) -> Outcome:
        cutters = [around.element(one).region() for one in self.by]
        if self.keep != "divide" or not cutters:
            return Outcome(self.sliced(parts, cutters))
        found = self.pieces(parts, cutters)
        shown = (DividedPiece(self.id, p.place, p.at, p.part.region.area, left_out=p.left_out) for p in found)
        return Outcome(tuple(p.part for p in found if not p.left_out), shown=tuple(shown))

    def sliced(self, parts: Parts, others: Sequence[Region]) -> Parts:
        """``others``: the cutting shapes, at the place of the parts."""
        if self.keep == "divide" and others:
            return self._divided(parts, others)
        cutters = [grown for one in others if not (grown := offset(one, self.halo)).is_empty]
        if not cutters:
            return parts
        if self.keep == "outside":
            return _kept(part.with_region(difference(part.region, cutters)) for part in parts)
        cutter = union(cutters)
        return _kept(part.with_region(intersection(part.region, cutter)) for part in parts)

    def _divided(self, parts: Parts, cutters: Sequence[Region]) -> Parts:
        return tuple(one.part for one in self.pieces(parts, cutters) if not one.left_out)

    def pieces(self, parts: Parts, cutters: Sequence[Region]) -> list[Divided]:
        """All pieces into which parts are divided."""
        box = bounds_of(parts)
        cutters = [grown for one in cutters if not (grown := offset(one, self.halo)).is_empty]
        if box is None:
            return []
        found = [part.with_region(one) for part in parts for one in _apart(part.region, cutters)]
        wide, high = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)
        out = [shapely.Point(box[0] + x * wide, box[1] + y * high) for x, y in self.left_out]
        pieces = []
        for piece in found:
            inside = shapely.point_on_surface(piece.region.polygons)
            place = round((inside.x - box[0]) / wide, 5), round((inside.y - box[1]) / high, 5)
            gone = place in self.left_out or bool(shapely.intersects(piece.region.polygons, out).any())
            pieces.append(Divided(piece, place, (inside.x, inside.y), left_out=gone))
        return pieces


@dataclass(frozen=True, eq=False)
class Divided:
    """A piece, a place inside it in shares of the box of all parts and in mm, and whether it is left out."""

    part: Part
    place: Point
    at: Point
    left_out: bool


@dataclass(frozen=True)
class DividedPiece:
    """One of the pieces that a Slice divides an element into: its place in shares of the element's box, a point inside
    it in mm, its area in mm2."""

    step_id: str
    place: Point
    at: Point
    area: float
    left_out: bool

    def shifted(self, dx: float, dy: float) -> DividedPiece:
        return dataclasses.replace(self, at=(self.at[0] + dx, self.at[1] + dy))


def _apart(region: Region, cutters: Sequence[Region]) -> list[Region]:
    """A region divided along the outlines of all cutters, one after the other."""
    whole = [region]
    for cutter in cutters:
        halves = [half for one in whole for half in (difference(one, [cutter]), intersection(one, cutter))]
        whole = [half for half in halves if not half.is_empty]
    return [piece for one in whole for piece in one.pieces() if piece.area > DUST_MM2]


def _kept(parts: Iterable[Part]) -> Parts:
    return tuple(part for part in parts if not part.region.is_empty)
