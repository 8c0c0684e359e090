"""Which bridges a stencil gets: each island one or more, tied to the sheet or to islands that are.

Islands are taken the cheapest first, outwards from the sheet (Prim 1957). Larger ones get the best opposed pair, long
ones more. An island that another one hangs on counts that bridge as its own as well.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
import shapely.affinity
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.bridging.balance import balanced, is_alike, longest_stretch, rim_places
from vivid_thimble.core.bridging.candidates import EQUAL_PLACES, Candidates, candidates
from vivid_thimble.core.bridging.walls import Walls, walls_of
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.holding.strips import straight_strips, strip_between
from vivid_thimble.core.pauses import pause

Point = tuple[float, float]
SMALL = 4.0
"""Islands smaller than so many widths across get one bridge."""
SLENDER = 12.0
"""Bridges that are so many times longer than wide are slender: a large island gets more of them."""
BY_AROUND = ((84.0, 2), (130.0, 3), (330.0, 4))
"""Islands whose wall is up to so many widths long get so many bridges ..."""
MOST_BRIDGES = 6
"""... and larger ones this many."""
OPPOSED = 1.3
"""What a pair costs that is not opposed, in lengths of the shortest bridge."""
COLLINEAR = 0.4
ONE_LINE = 0.12
"""And for each width that the two lie beside one line."""
BALANCE = 1.0
"""What a stretch of wall as long as the best possible costs when bridges are added to others."""
AVOIDED = 2.0
"""Bridges keep so many widths away from places where none is wanted."""
APART = 2.5
"""Bridges of one island lie at least so many widths apart."""
DEARER = 1.8
"""Small islands keep one bridge when the second would be so many times dearer."""
MOST_ROUNDS = 6
"""Islands that hang on islands which hang on nothing are held one round later."""
NEARBY = 4.0
"""Weak bridges are fitted to the sheet within so many widths."""
BACKED = (0.12, 0.5)
"""Behind a foot there is whole sheet from here to there, in widths."""
NEARLY_WIDE = 0.9
LEAST_ISLAND_MM2 = 1e-3
"""Smaller ones are dust of the drawing."""
TOUCHING_MM = 1e-6
"""Openings closer than this may hold a piece of sheet between them."""
ALLOWANCE_MM = 0.008
"""Strips are wider by this, so that a bridge as wide as a limit is not measured below it."""
INTO_SHEET = 0.08
"""Strips reach this share of their width into the sheet at both feet."""


@dataclass(frozen=True)
class BridgeRules:
    """``width`` mm at the final size; ``angle_deg``: one angle for all, counter-clockwise as seen; ``count``: how many
    for each island, None: by its size. Islands whose area is under ``dropped_area`` mm2 get none: they drop out."""

    width: float = 1.5
    angle_deg: float | None = None
    count: int | None = None
    dropped_area: float = 0.0


@dataclass(frozen=True)
class Bridge:
    """From the wall of an island to the wall on the other side, in mm. ``weak``: no clean landing was found there."""

    start: Point
    end: Point
    width: float
    weak: bool = False
    rings: tuple[int, int] = (-1, -1)
    """The walls that it joins, an island's first; -1 where that is not known."""
    patch: Polygon | None = None
    """What it covers when that is no straight strip."""

    def shifted(self, dx: float, dy: float) -> Bridge:
        patch = None if self.patch is None else shapely.affinity.translate(self.patch, dx, dy)
        start, end = (self.start[0] + dx, self.start[1] + dy), (self.end[0] + dx, self.end[1] + dy)
        return replace(self, start=start, end=end, patch=patch)

    @property
    def length(self) -> float:
        return float(np.hypot(self.end[0] - self.start[0], self.end[1] - self.start[1]))

    @property
    def middle(self) -> Point:
        return (self.start[0] + self.end[0]) / 2.0, (self.start[1] + self.end[1]) / 2.0


@dataclass(frozen=True, eq=False)
class BridgePlan:
    """``bridges`` in the order in which they were chosen; ``dropped``: places of islands that get none."""

    bridges: tuple[Bridge, ...]
    islands: int
    dropped: tuple[Point, ...] = ()


def plan_bridges(
    openings: MultiPolygon,
    rules: BridgeRules,
    given: Sequence[Bridge] = (),
    avoided: Sequence[Point] = (),
    walls: Walls | None = None,
) -> BridgePlan:
    """``given`` bridges stand as they are, and count for the islands that they hold; others keep away from ``avoided``
    places. ``walls`` are those of the openings if known already."""
    walls = walls_of(openings) if walls is None else walls
    islands = np.flatnonzero(~walls.is_outer)
    dropped = [k for k in islands.tolist() if Polygon(walls.rings[k]).area < rules.dropped_area]
    planner = _Planner(walls, rules)
    planner.take(given)
    wanted = [k for k in islands.tolist() if k not in dropped]
    pause("Placing bridges")
    choices = candidates(walls, wanted, rules.width, rules.angle_deg) if wanted else {}
    choices = {k: _away_from(one, avoided, rules.width) for k, one in choices.items()}
    for opening in np.unique(walls.opening_of[islands]).tolist():
        pause()
        own = [k for k in np.flatnonzero(walls.opening_of == opening).tolist() if not walls.is_outer[k]]
        planner.tie([k for k in own if k in choices], choices)
    places = [Polygon(walls.rings[k]).representative_point() for k in dropped]
    told = _with_cracked_feet_told(planner.bridges, walls)
    bridges = [*told, *_what_is_missing(openings, told, rules)]
    return BridgePlan(tuple(bridges), len(islands), tuple((p.x, p.y) for p in places))


def _with_cracked_feet_told(bridges: Sequence[Bridge], walls: Walls) -> list[Bridge]:
    """Bridges whose feet stand on sheet that a slit runs through are weak; slits may pass between the lines by which
    strips are judged."""
    if not bridges:
        return []
    starts, ends = np.array([one.start for one in bridges]), np.array([one.end for one in bridges])
    widths = np.array([one.width for one in bridges])
    way = (ends - starts) / np.maximum(np.hypot(*(ends - starts).T), 1e-9)[:, None]
    near, far = (share * widths[:, None] * way for share in BACKED)
    none = np.zeros(len(bridges))
    feet = np.concatenate(
        [
            straight_strips(starts - far, starts - near, NEARLY_WIDE * widths, none),
            straight_strips(ends + near, ends + far, NEARLY_WIDE * widths, none),
        ]
    )
    cracked = np.unique(walls.tree.query(feet, predicate="intersects")[0] % len(bridges))
    weak = set(cracked.tolist())
    return [replace(one, weak=True) if k in weak else one for k, one in enumerate(bridges)]


def _what_is_missing(openings: MultiPolygon, bridges: Sequence[Bridge], rules: BridgeRules) -> list[Bridge]:
    """Weak bridges for islands that still hang on nothing: walls touch there, run closer than a strip is wide, or two
    openings enclose one between them."""
    if openings.is_empty or _all_hold(openings, bridges, max(rules.dropped_area, LEAST_ISLAND_MM2)):
        return []
    added: list[Bridge] = []
    frame = shapely.box(*shapely.bounds(openings)).buffer(rules.width, join_style="mitre")
    for _ in range(MOST_ROUNDS):
        strips = strips_of((*bridges, *added))
        rest = shapely.difference(openings, shapely.union_all(strips)) if strips else openings
        held, *pieces = sorted(shapely.get_parts(shapely.difference(frame, rest)), key=_outermost)
        loose = [one for one in pieces if one.area >= max(rules.dropped_area, LEAST_ISLAND_MM2)]
        if not loose:
            break
        whole = [held, *loose]
        nearest = dict(shapely.STRtree(whole).query_nearest(loose, exclusive=True, all_matches=False).T.tolist())
        for k, piece in enumerate(loose):
            pause()
            added.append(_weak_bridge(piece, whole[nearest[k]], rules.width))
    return added


def _all_hold(openings: MultiPolygon, bridges: Sequence[Bridge], least: float) -> bool:
    """Whether no opening has an island left in it, and none touches another: then nothing can be loose."""
    parts = shapely.get_parts(openings)
    tree = shapely.STRtree(parts)
    near = tree.query(parts, predicate="dwithin", distance=TOUCHING_MM)
    if (near[0] != near[1]).any():
        return False
    strips = np.array(strips_of(bridges), dtype=object)
    rest = parts.copy()
    strip, part = tree.query(strips, predicate="intersects") if len(strips) else np.zeros((2, 0), dtype=np.int64)
    crossed = np.unique(part)
    own = [shapely.union_all(strips[strip[part == k]]) for k in crossed.tolist()]
    rest[crossed] = shapely.difference(parts[crossed], own)
    pieces = shapely.get_parts(rest)
    holes = [
        shapely.Polygon(ring)
        for piece in pieces[shapely.get_num_interior_rings(pieces) > 0]
        for ring in piece.interiors
    ]
    return not any(hole.area >= least for hole in holes)


def _weak_bridge(piece: Polygon, other: Polygon, width: float) -> Bridge:
    """The strip that holds two pieces of sheet along the shortest way between them."""
    line = shapely.shortest_line(piece, other)
    (x0, y0), (x1, y1) = line.coords
    near = shapely.bounds(shapely.buffer(line, NEARBY * width)).tolist()  # what is farther does not hold them
    patch = strip_between(shapely.clip_by_rect(piece, *near), shapely.clip_by_rect(other, *near), width)
    if patch is not None:
        patch = _over_its_gap(patch, piece, other, width)
    return Bridge((x0, y0), (x1, y1), width, weak=True, patch=patch)


def _over_its_gap(patch: Polygon, piece: Polygon, other: Polygon, width: float) -> Polygon:
    """A patch that covers no more than one gap between two pieces of sheet, and ends on both."""
    gaps = shapely.get_parts(shapely.difference(patch, shapely.union(piece, other)))
    tied = shapely.dwithin(gaps, piece, TOUCHING_MM) & shapely.dwithin(gaps, other, TOUCHING_MM)
    gaps = gaps[tied & (shapely.length(gaps) / 2.0 >= NEARLY_WIDE * width)]
    if not len(gaps):
        return patch
    gap = gaps[np.argmin(shapely.area(gaps))]
    return shapely.intersection(patch, shapely.buffer(gap, INTO_SHEET * width, join_style="mitre"))


def _outermost(piece: Polygon) -> float:
    """Sorting key: the sheet round everything comes first."""
    left, low, right, high = piece.bounds
    return float((left - right) * (high - low))


def _away_from(choice: Candidates, avoided: Sequence[Point], width: float) -> Candidates:
    if not len(avoided) or not len(choice):
        return choice
    away = np.sqrt(((choice.centres[:, None] - np.array(avoided)[None]) ** 2).sum(axis=2)).min(axis=1)
    return choice.chosen(np.flatnonzero(away > AVOIDED * width))


class _Planner:
    def __init__(self, walls: Walls, rules: BridgeRules) -> None:
        self.walls, self.rules = walls, rules
        self.bridges: list[Bridge] = []
        self.feet: dict[int, list[FloatArray]] = {}
        """The middles of the bridges that each ring has."""
        self.held = walls.is_outer.copy()
        """Rings that hang together with the sheet, as far as their own opening is concerned."""
        self.by_hand: set[int] = set()
        """Rings with bridges that were placed by hand: they get another one only if they would fall out."""

    def take(self, given: Sequence[Bridge]) -> None:
        """Bridges that were placed by hand."""
        links = [bridge.rings for bridge in given]
        for bridge in given:
            self.bridges.append(bridge)
            for ring in bridge.rings:
                self.feet.setdefault(ring, []).append(np.array(bridge.middle))
                self.by_hand.add(ring)
        for _ in links:  # as often as the longest chain may be
            for a, b in links:
                if self.held[a] or self.held[b]:
                    self.held[[a, b]] = True

    def tie(self, islands: list[int], choices: Mapping[int, Candidates]) -> None:
        """Hold all islands of one opening."""
        targets = {k: np.unique(choices[k].target) for k in islands}
        price = {k: self._cheapest(choices[k]) for k in islands if not self.held[k]}
        while price:
            best = min(price, key=lambda k: price[k])
            if not np.isfinite(price[best]):
                break  # what no clean strip holds is tied weakly in the end
            before = self.held.copy()
            self._hold(best, choices[best])
            self.held[best] = True
            price = {k: price[k] for k in price if not self.held[k]}
            for k in price:  # those that could reach what is held by now, and was not before
                if (self.held & ~before)[targets[k]].any():
                    price[k] = self._cheapest(choices[k])
        for k in islands:
            self._hold(k, choices[k])

    def _usable(self, choice: Candidates) -> Candidates:
        """Those that reach what is held, and are not too near to bridges that are there."""
        good = self.held[choice.target]
        taken = [*self.feet.get(choice.ring, ())]
        if taken:
            away = np.sqrt(((choice.centres[:, None] - np.array(taken)[None]) ** 2).sum(axis=2)).min(axis=1)
            good &= away > APART * self.rules.width
        return choice.chosen(np.flatnonzero(good))

    def _cheapest(self, choice: Candidates) -> float:
        usable = self._usable(choice)
        return round(float(usable.cost[0] * usable.shortest), EQUAL_PLACES) if len(usable) else np.inf

    def _hold(self, ring: int, choice: Candidates) -> None:
        """Give an island as many bridges as it needs, counting those that it has."""
        wanted = self._wanted(ring, choice.shortest if len(choice) else 0.0)
        if ring in self.by_hand:
            wanted = len(self.feet[ring]) + (not self.held[ring])
        while len(self.feet.get(ring, ())) < wanted:
            usable = self._usable(choice)
            if not len(usable):
                return
            has = self.feet.get(ring, [])
            small = self._across(ring) < 2.5 * SMALL * self.rules.width
            is_free = self.rules.angle_deg is None  # one angle for all leaves only few places
            if not has and wanted > 2 and is_free and self._balance(ring, usable, wanted):
                return
            if not has and wanted > 1:
                pair = self._best_pair(choice, small)
                if pair is not None:
                    for row in pair:
                        self._build(ring, choice, row)
                    continue
            row = self._best_row(usable, has, self.walls.rings[ring])
            if has and small and usable.cost[row] > DEARER * choice.cost[0]:
                return
            self._build(ring, usable, row)

    def _balance(self, ring: int, usable: Candidates, wanted: int) -> bool:
        """Build so many bridges, evenly along an island's wall; False when that cannot be."""
        rows = balanced(usable, self.walls.rings[ring], wanted)
        if rows is None:
            return False
        apart = np.sqrt(((usable.centres[rows, None] - usable.centres[None, rows]) ** 2).sum(axis=2))
        if (apart[np.triu_indices(len(rows), 1)] <= APART * self.rules.width).any():
            return False
        for row in rows.tolist():
            self._build(ring, usable, row)
        return True

    def _across(self, ring: int) -> float:
        return float(self.walls.across[ring])

    def _wanted(self, ring: int, shortest: float) -> int:
        if self.rules.count is not None:
            return max(self.rules.count, 1)
        width = self.rules.width
        if self._across(ring) < SMALL * width:
            return 1
        around = float(self.walls.around[ring]) / width
        counts = [count for most, count in BY_AROUND if around <= most] + [MOST_BRIDGES] * 2
        is_slender = shortest > SLENDER * width and self._across(ring) > 2.0 * SMALL * width
        wanted = counts[1] if is_slender else counts[0]
        wall = self.walls.rings[ring]
        return wanted + 1 if wanted % 2 and is_alike(wall, 0) and is_alike(wall, 1) else wanted

    def _best_pair(self, usable: Candidates, small: bool) -> tuple[int, int] | None:
        """Two that are cheap, opposed seen from the island's middle, and run along one line."""
        if len(usable) < 2:
            return None
        out = usable.centres - usable.middle
        out /= np.maximum(np.hypot(*out.T), 1e-9)[:, None]
        facing = out @ out.T
        along = np.abs(usable.ways @ usable.ways.T)
        cost = usable.cost[:, None] + usable.cost[None, :]
        aside = np.abs(_cross(usable.centres[None] - usable.centres[:, None], usable.ways[:, None])) / self.rules.width
        cost = cost + OPPOSED * (1.0 + facing) + COLLINEAR * (1.0 - along) + ONE_LINE * np.minimum(aside + aside.T, 4.0)
        apart = np.sqrt(((usable.centres[:, None] - usable.centres[None]) ** 2).sum(axis=2))
        cost[apart <= APART * self.rules.width] = np.inf
        held = self.held[usable.target]
        cost[~held[:, None] & ~held[None, :]] = np.inf  # one of them reaches what is held
        first, second = divmod(int(np.round(cost, EQUAL_PLACES).argmin()), len(usable))
        if not np.isfinite(cost[first, second]) or facing[first, second] > 0.35:
            return None
        dear = max(usable.cost[first], usable.cost[second]) > DEARER * usable.cost[0]
        return None if small and dear else (first, second)

    def _best_row(self, usable: Candidates, has: Sequence[FloatArray], ring: FloatArray) -> int:
        """The cheapest, far from those that are there, where it leaves no long stretch of the wall free."""
        cost = usable.cost.copy()
        if has:
            out = usable.centres - usable.middle
            out /= np.maximum(np.hypot(*out.T), 1e-9)[:, None]
            own = np.array(has) - usable.middle
            own /= np.maximum(np.hypot(*own.T), 1e-9)[:, None]
            cost = cost + OPPOSED * (1.0 + (out @ own.T).max(axis=1))
            places, around = rim_places(ring, np.concatenate([usable.points, np.array(has)]))
            new, there = places[: len(usable)], places[len(usable) :]
            free = np.array([longest_stretch(np.r_[there, one], around) for one in new])
            cost = cost + BALANCE * free * (len(has) + 1) / around
        return int(np.round(cost, EQUAL_PLACES).argmin())

    def _bridge(self, ring: int, usable: Candidates, row: int) -> Bridge:
        start = usable.points[row] + usable.ways[row] * usable.low[row]
        end = usable.points[row] + usable.ways[row] * usable.high[row]
        rings = ring, int(usable.target[row])
        return Bridge((float(start[0]), float(start[1])), (float(end[0]), float(end[1])), self.rules.width, rings=rings)

    def _build(self, ring: int, usable: Candidates, row: int) -> None:
        bridge = self._bridge(ring, usable, row)
        self.bridges.append(bridge)
        for end in bridge.rings:
            self.feet.setdefault(end, []).append(np.array(bridge.middle))
            self.held[end] = True


def _cross(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def strip_of(bridge: Bridge) -> Polygon:
    """What a bridge covers: a strip a little longer than from wall to wall, or its own outline."""
    (strip,) = strips_of([bridge])
    return strip


def strips_of(bridges: Sequence[Bridge]) -> list[Polygon]:
    """What each bridge covers."""
    if not bridges:
        return []
    starts, ends = np.array([one.start for one in bridges]), np.array([one.end for one in bridges])
    widths = np.array([one.width for one in bridges])
    strips = straight_strips(starts, ends, widths + ALLOWANCE_MM, INTO_SHEET * widths)
    return [strip if one.patch is None else one.patch for one, strip in zip(bridges, strips, strict=True)]
