"""Bridges: strips of sheet across the openings of a stencil, made anew at every size with their width kept."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.bridging.by_hand import PlacedBridge, found_again
from vivid_thimble.core.bridging.plan import Bridge, BridgePlan, BridgeRules, Point, plan_bridges, strip_of
from vivid_thimble.core.bridging.walls import walls_of
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of, merged
from vivid_thimble.core.geometry.region import Region, difference


@dataclass(frozen=True, eq=False)
class PlacedBridges:
    """``plan`` with those by hand first. ``by_hand``: the number of each in the step, for as many bridges; ``unfit``:
    numbers of those by hand that do not fit any more."""

    plan: BridgePlan
    by_hand: tuple[int, ...]
    unfit: tuple[int, ...]


class Bridges(Struct, frozen=True, tag="bridges", kw_only=True):
    """``width`` mm at every size. ``angle_deg``: one angle for all; ``count``: for each island, None: by its size.

    Islands under ``dropped_area`` mm2 drop out. ``placed`` by hand stand where their opening still is; ``avoided``
    are places, in shares of the design's box, where no bridge is wanted.
    """

    VERSION: ClassVar[int] = 1
    TITLE: ClassVar[str] = "Bridges"
    id: str
    width: float = 1.5
    angle_deg: float | None = None
    count: int | None = None
    dropped_area: float = 0.0
    placed: tuple[PlacedBridge, ...] = ()
    avoided: tuple[Point, ...] = ()
    enabled: bool = True

    def describe(self) -> str:
        return f"Bridges: {self.width:g} mm wide hold the middles"

    def apply(self, parts: Parts) -> Parts:
        return with_bridges(parts, self.planned(parts).plan.bridges)

    def planned(self, parts: Parts) -> PlacedBridges:
        """Where the bridges of these parts are."""
        openings, box = merged(parts).polygons, bounds_of(parts)
        if box is None:
            return PlacedBridges(BridgePlan((), 0), (), ())
        walls = walls_of(openings)
        found = [found_again(one, walls, box, self.width) for one in self.placed]
        given = [(k, one) for k, one in enumerate(found) if one is not None]
        size = np.array([box[2] - box[0], box[3] - box[1]])
        avoided = [tuple((np.array(at) * size + box[:2]).tolist()) for at in self.avoided]
        rules = BridgeRules(self.width, self.angle_deg, self.count, self.dropped_area)
        plan = plan_bridges(openings, rules, [one for _, one in given], avoided, walls)
        unfit = tuple(k for k, one in enumerate(found) if one is None)
        return PlacedBridges(plan, tuple(k for k, _ in given), unfit)


def with_bridges(parts: Parts, bridges: tuple[Bridge, ...]) -> Parts:
    """Openings with bridges left in them."""
    return tuple(_bridged(part, bridges) for part in parts)


def _bridged(part: Part, bridges: tuple[Bridge, ...]) -> Part:
    strips = [strip_of(bridge) for bridge in bridges]
    touching = [strip for strip in strips if shapely.intersects(strip, part.region.polygons)]
    if not touching:
        return part
    taken = [Region.from_polygons(strip) for strip in touching]
    return part.with_region(difference(part.region, taken))
