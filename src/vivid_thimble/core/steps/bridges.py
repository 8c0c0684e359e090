"""Bridges: strips of sheet across the openings of a stencil, made anew at every size with their width kept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.bridging.by_hand import PlacedBridge, found_again
from vivid_thimble.core.bridging.plan import Bridge, BridgePlan, BridgeRules, Point, plan_bridges, strips_of
from vivid_thimble.core.bridging.shapes import Style, shaped
from vivid_thimble.core.bridging.walls import Walls, walls_of
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.messages import Message
from vivid_thimble.core.ranges import Area, Few, Fine, Place, Turn
from vivid_thimble.core.steps.remarks import Remark
from vivid_thimble.core.steps.step import Around, Outcome, StepKind


@dataclass(frozen=True, eq=False)
class PlacedBridges:
    """``plan`` with those by hand first. ``by_hand``: the number of each in the step, for as many bridges; ``unfit``:
    numbers of those by hand that do not fit any more."""

    plan: BridgePlan
    by_hand: tuple[int, ...]
    unfit: tuple[int, ...]
    walls: Walls
    """Of the openings of the parts that they were planned for, where those were then."""
    box: Box = (0.0, 0.0, 0.0, 0.0)
    """Of those parts."""

    def shifted(self, dx: float, dy: float) -> PlacedBridges:
        plan = replace(self.plan, bridges=tuple(bridge.shifted(dx, dy) for bridge in self.plan.bridges))
        left, top, right, bottom = self.box
        return replace(self, plan=plan, box=(left + dx, top + dy, right + dx, bottom + dy))


class Bridges(StepKind, Struct, frozen=True, tag="bridges", kw_only=True):
    """``width`` mm at every size. ``angle_deg``: one angle for all; ``count``: for each island, None: by its size.

    Islands under ``dropped_area`` mm2 drop out. ``placed`` by hand stand where their opening still is; ``avoided``
    are places, in shares of the design's box, where no bridge is wanted.
    """

    VERSION: ClassVar[int] = 3
    TITLE: ClassVar[str] = "Bridges"
    id: str
    width: Fine = 1.5
    angle_deg: Turn | None = None
    count: Few | None = None
    dropped_area: Area = 0.0
    style: Style = "straight"
    feet: bool = False
    """Both feet widen into the sheet."""
    placed: tuple[PlacedBridge, ...] = ()
    avoided: tuple[Place, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        return f"Bridges: {self.width:g} mm wide hold the middles"

    def run(self, parts: Parts, around: Around) -> Outcome:
        """Bridges are planned once, for the shape and for what is shown and said of them."""
        found = self.planned(parts)
        after = with_bridges(parts, found.plan.bridges)
        return Outcome(after, self._told(parts, after, found), (FoundBridges(self, found),), keeps_box=True)

    def _told(self, before: Parts, after: Parts, found: PlacedBridges) -> tuple[Remark, ...]:
        box = bounds_of(before)
        told = [Remark("bridge-unfit", UNFIT, _place(self.placed[k], box)) for k in found.unfit]
        told += [Remark("bridge-weak", WEAK, bridge.middle) for bridge in found.plan.bridges if bridge.weak]
        return (*told, *(Remark("opening-swallowed", SWALLOWED, at) for at in _swallowed(before, after)))

    def planned(self, parts: Parts) -> PlacedBridges:
        """Where the bridges of these parts are; planned at the origin, so that rounding is alike wherever they lie."""
        openings, box = merged(parts).polygons, bounds_of(parts)
        walls = walls_of(openings)
        if box is None:
            return PlacedBridges(BridgePlan((), 0), (), (), walls)
        found = [found_again(one, walls, box, self.width) for one in self.placed]
        given = [(k, one) for k, one in enumerate(found) if one is not None]
        size, corner = np.array([box[2] - box[0], box[3] - box[1]]), np.array(box[:2])
        home = shapely.transform(openings, lambda points: np.round(points - corner, HOME_PLACES))
        avoided = [tuple((np.array(at) * size).tolist()) for at in self.avoided]
        rules = BridgeRules(self.width, self.angle_deg, self.count, self.dropped_area)
        by_hand = [one.shifted(-box[0], -box[1]) for _, one in given]
        plan = plan_bridges(home, rules, by_hand, avoided, walls_of(home))
        unfit = tuple(k for k, one in enumerate(found) if one is None)
        shapes = shaped(plan.bridges, home, self.style, feet=self.feet)
        placed = tuple(one.shifted(box[0], box[1]) for one in shapes)
        return PlacedBridges(replace(plan, bridges=placed), tuple(k for k, _ in given), unfit, walls, box)


@dataclass(frozen=True, eq=False)
class FoundBridges:
    """The bridges of a step as they are now; ``walls`` of the openings lie ``away`` from where the bridges are."""

    step: Bridges
    found: PlacedBridges
    away: Point = (0.0, 0.0)

    @property
    def walls(self) -> Walls:
        return self.found.walls

    def shifted(self, dx: float, dy: float) -> FoundBridges:
        return replace(self, found=self.found.shifted(dx, dy), away=(self.away[0] + dx, self.away[1] + dy))


HOME_PLACES = 7
"""Decimals of the openings while bridges are planned, in mm."""
UNFIT = Message("A bridge placed by hand does not fit here any more: move it, or take it out.")
WEAK = Message("No bridge of full strength fits here: a middle hangs by a short tie.")
SWALLOWED = Message("The bridges take more than half of this opening: make the design larger, or the bridges narrower.")
SWALLOWED_SHARE = 0.5


def _place(placed: PlacedBridge, box: Box | None) -> Point | None:
    if box is None:
        return None
    x, y = (placed.start[0] + placed.end[0]) / 2.0, (placed.start[1] + placed.end[1]) / 2.0
    return box[0] + x * (box[2] - box[0]), box[1] + y * (box[3] - box[1])


def _swallowed(before: Parts, after: Parts) -> list[Point]:
    """Places of openings of which bridges leave less than half."""
    openings, rest = shapely.get_parts(merged(before).polygons), merged(after).polygons
    lost = shapely.area(openings) - shapely.area(shapely.intersection(openings, rest))
    gone = openings[lost > SWALLOWED_SHARE * shapely.area(openings)]
    return [(p.x, p.y) for p in shapely.point_on_surface(gone)]


def with_bridges(parts: Parts, bridges: tuple[Bridge, ...]) -> Parts:
    """Openings with bridges left in them."""
    return tuple(_bridged(part, bridges) for part in parts)


def _bridged(part: Part, bridges: tuple[Bridge, ...]) -> Part:
    strips = np.array(strips_of(bridges), dtype=object)
    touching = strips[shapely.intersects(strips, part.region.polygons)] if len(strips) else strips
    if not len(touching):
        return part
    taken = [Region.from_polygons(strip) for strip in touching]
    return part.with_region(difference(part.region, taken))
