"""Slice: one element cut by others. Nothing is consumed: the others stay as they are and may change any time."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import ClassVar, Literal

import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of
from vivid_thimble.core.geometry.region import Region, difference, intersection, union

Keep = Literal["outside", "overlap", "divide"]
Point = tuple[float, float]
DUST_MM2 = 1e-4
"""Smaller pieces are rounding between outlines that nearly coincide."""


class Slice(Struct, frozen=True, tag="slice", kw_only=True):
    """What lies under the elements ``by`` (ids) is taken away, or is all that is kept, or everything is divided along
    their outlines. ``halo``: they count as so many mm larger all round, which knocks them out with a gap.

    ``left_out``: divided pieces that hold one of these places, in shares of the element's box, are left out.
    """

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Slice"
    id: str
    by: tuple[str, ...] = ()
    keep: Keep = "outside"
    halo: float = 0.0
    left_out: tuple[Point, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        what = {"outside": "what lies under others is cut away", "overlap": "only what lies under others stays"}
        return f"Slice: {what.get(self.keep, 'parted along the outlines of others')}"

    def sliced(self, parts: Parts, others: Sequence[Region]) -> Parts:
        """``others``: the cutting shapes, at the place of the parts."""
        cutters = [grown for one in others if not (grown := offset(one, self.halo)).is_empty]
        if not cutters:
            return parts
        if self.keep == "divide":
            return self._divided(parts, cutters)
        if self.keep == "outside":
            return _kept(part.with_region(difference(part.region, cutters)) for part in parts)
        cutter = union(cutters)
        return _kept(part.with_region(intersection(part.region, cutter)) for part in parts)

    def _divided(self, parts: Parts, cutters: Sequence[Region]) -> Parts:
        return tuple(
            piece for piece, place in self.pieces(parts, cutters) if not self._is_left_out(piece, place, parts)
        )

    def pieces(self, parts: Parts, cutters: Sequence[Region]) -> list[tuple[Part, Point]]:
        """All pieces into which parts are divided, each with a place inside it in shares of the parts' box."""
        box = bounds_of(parts)
        if box is None:
            return []
        pieces = [part.with_region(one) for part in parts for one in _apart(part.region, cutters)]
        wide, high = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)
        inside = [shapely.point_on_surface(piece.region.polygons) for piece in pieces]
        return [
            (piece, (round((p.x - box[0]) / wide, 5), round((p.y - box[1]) / high, 5)))
            for piece, p in zip(pieces, inside, strict=True)
        ]

    def _is_left_out(self, piece: Part, place: Point, parts: Parts) -> bool:
        box = bounds_of(parts)
        if box is None or not self.left_out:
            return False
        if place in self.left_out:
            return True
        at = [shapely.Point(box[0] + x * (box[2] - box[0]), box[1] + y * (box[3] - box[1])) for x, y in self.left_out]
        return bool(shapely.intersects(piece.region.polygons, at).any())


def _apart(region: Region, cutters: Sequence[Region]) -> list[Region]:
    """A region divided along the outlines of all cutters, one after the other."""
    whole = [region]
    for cutter in cutters:
        halves = [half for one in whole for half in (difference(one, [cutter]), intersection(one, cutter))]
        whole = [half for half in halves if not half.is_empty]
    return [piece for one in whole for piece in one.pieces() if piece.area > DUST_MM2]


def _kept(parts: Iterable[Part]) -> Parts:
    return tuple(part for part in parts if not part.region.is_empty)
