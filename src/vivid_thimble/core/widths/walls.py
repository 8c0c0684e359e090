"""The boundary of kept film as walls: samples with normals, ready for the width field.

Rings are turned so that kept film lies to the left of every edge; the left normal of
a wall then points into kept film and its opposite into waste. Long edges are cut into
sub-edges of at most the sampling step, each with one sample in its middle. A corner
that pokes into kept film or into waste gets a fan of normals, because the nearest
wall may face the corner itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.short_edges import steady_corners

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

HAIR_SHARE = 1e-4
"""Film or waste this thin, as a share of the longest way across the shape, is as good as a point in which two parts
touch: no size worth cutting makes a line or a gap of it. Polygons that stand for curves are off by half as much at most
(``as_cut`` of a region)."""
WIDEST_HAIR_MM = 0.1
"""However large a shape is."""
DUST_HAIRS = 2.0
"""A piece or a hole no larger than a square of so many hairs is dust: it is told, but nothing is measured at it."""
POINTS_AT_A_TIME = 1_000
"""What is near so many points is looked up in one go."""
MANY_SAMPLES, ABOUT_A_ZONE = 10_000, 3.0
"""An edge of more samples gets them only about the zone that matters, so many times as far from its points."""
FAN_STEP_DEG = 15.0
"""Directions of a corner's fan; corners that turn less have no fan (adjacent edges serve)."""
LONGEST_INSIDE = 1.01
"""A chord is measured to within this factor."""


def span_of(points: FloatArray) -> float:
    """The longest way across points (n, 2), in mm: however they are turned, that is the same (within 0.004 %)."""
    rim = shapely.get_coordinates(shapely.convex_hull(shapely.linestrings(np.r_[points, points[:1]])))
    angles = np.radians(np.arange(0.0, 180.0))
    return float(np.ptp(rim @ np.stack([np.cos(angles), np.sin(angles)]), axis=0).max())


def hair_of(span: float) -> float:
    """Width in mm up to which a line or gap of a shape that is so many mm across is but a hair."""
    return min(HAIR_SHARE * span, WIDEST_HAIR_MM)


@dataclass(frozen=True, eq=False)
class Meetings:
    """Places where two outlines, or two stretches of one, meet or all but meet: a distance in mm along each ring, and
    how far apart they are in mm."""

    ring: IntArray
    arc: FloatArray
    other_ring: IntArray
    other_arc: FloatArray
    apart: FloatArray

    def __len__(self) -> int:
        return len(self.ring)

    @staticmethod
    def joined(several: Sequence[Meetings]) -> Meetings:
        return Meetings(
            np.concatenate([one.ring for one in several]),
            np.concatenate([one.arc for one in several]),
            np.concatenate([one.other_ring for one in several]),
            np.concatenate([one.other_arc for one in several]),
            np.concatenate([one.apart for one in several]),
        )

    def both_ways(self) -> Meetings:
        """Each once from either outline."""
        return Meetings.joined([self, Meetings(self.other_ring, self.other_arc, self.ring, self.arc, self.apart)])


_NO_RING, _NO_LENGTH = np.zeros(0, dtype=np.int64), np.zeros(0)
NO_MEETINGS = Meetings(_NO_RING, _NO_LENGTH, _NO_RING, _NO_LENGTH, _NO_LENGTH)


@dataclass(frozen=True, eq=False)
class Rings:
    """Edges of all rings: edge i runs from ``a[i]`` to ``b[i]``; ``following`` is the next edge."""

    a: FloatArray
    b: FloatArray
    ring: IntArray
    following: IntArray
    preceding: IntArray
    arc: FloatArray
    """Distance of each edge's start along its ring."""
    ring_length: FloatArray
    ring_polygon: IntArray
    """Which polygon each ring belongs to."""
    meetings: Meetings = NO_MEETINGS
    """Known when a shape was looked through: what lies beside them may be a mere cusp."""

    def __len__(self) -> int:
        return len(self.a)

    @cached_property
    def span(self) -> float:
        """The longest way across the shape, in mm."""
        return span_of(self.a)

    @cached_property
    def hair(self) -> float:
        """Width in mm up to which a line or a gap is but a hair."""
        return hair_of(self.span)

    @cached_property
    def body(self) -> FloatArray:
        """How wide in mm the film or the opening inside each ring is on the whole: twice the area by the length
        of outline, of the ring alone or of its piece with its openings, whichever is less."""
        doubled = self.a[:, 0] * self.b[:, 1] - self.b[:, 0] * self.a[:, 1]
        count = len(self.ring_length)
        enclosed = np.bincount(self.ring, doubled, minlength=count)
        pieces = int(self.ring_polygon.max()) + 1
        area = np.bincount(self.ring_polygon, enclosed, minlength=pieces)
        length = np.bincount(self.ring_polygon, self.ring_length, minlength=pieces)
        alone = np.abs(enclosed) / np.maximum(self.ring_length, 1e-300)
        whole = np.abs(area) / np.maximum(length, 1e-300)
        return np.asarray(np.minimum(alone, whole[self.ring_polygon]))

    @cached_property
    def holds(self) -> FloatArray:
        """The longest chord in mm inside each ring: above 0 where it encloses film, below 0 where it encloses waste."""
        held = np.zeros(len(self.ring_length))
        if not len(self):
            return held
        starts = np.flatnonzero(np.r_[True, self.ring[1:] != self.ring[:-1]])
        size = np.maximum.reduceat(self.a, starts) - np.minimum.reduceat(self.a, starts)
        own = self.a - self.a[starts].repeat(np.diff(np.r_[starts, len(self.ring)]), axis=0)
        turn = np.add.reduceat(own[:, 0] * (self.b - self.a)[:, 1] - own[:, 1] * (self.b - self.a)[:, 0], starts)
        held[self.ring[starts]] = np.sign(turn) * np.hypot(size[:, 0], size[:, 1])
        return held

    @cached_property
    def _begins(self) -> FloatArray:
        """Where each ring begins when all are laid end to end."""
        return np.cumsum(self.ring_length) - self.ring_length

    @cached_property
    def _running(self) -> FloatArray:
        """Where each edge begins when all rings are laid end to end."""
        return self.arc + self._begins[self.ring]

    def edge_at(self, ring: IntArray, arc: FloatArray) -> IntArray:
        """The edges on which distances along rings lie."""
        along = self._begins[ring] + np.mod(arc, self.ring_length[ring])
        return np.asarray(np.searchsorted(self._running, along, side="right") - 1)

    def point_at(self, ring: IntArray, arc: FloatArray) -> FloatArray:
        """The boundary points (n, 2) at distances along rings; beyond a ring's length they go on round it."""
        along = self._begins[ring] + np.mod(arc, self.ring_length[ring])
        edge = np.searchsorted(self._running, along, side="right") - 1
        span = self.b[edge] - self.a[edge]
        share = (along - self._running[edge]) / np.hypot(span[:, 0], span[:, 1])
        return np.asarray(self.a[edge] + span * np.minimum(share, 1.0)[:, None])


class Zone(NamedTuple):
    """All that is within a distance, in mm, of any of some points (n, 2)."""

    points: FloatArray
    distance: float


@dataclass(frozen=True, eq=False)
class Samples:
    """Samples in order along the rings; one of a fan has ``half`` = 0 (it is a point)."""

    point: FloatArray
    normal: FloatArray
    direction: FloatArray
    half: FloatArray
    """Half the length of the sub-edge a sample stands for, 0 in a fan."""
    side: IntArray
    """0 on walls; at a corner +1 if it pokes into kept film, -1 if into waste."""
    arc: FloatArray
    edge: IntArray
    ring: IntArray
    holds: FloatArray
    """Of its ring (see ``Rings.holds``)."""

    def __len__(self) -> int:
        return len(self.point)

    def too_long(self, rows: IntArray, chord: FloatArray, kept: NDArray[np.bool_] | bool) -> NDArray[np.bool_]:
        """Chords at these samples that what their ring encloses cannot hold: they leave it again."""
        inside = np.where(kept, 1.0, -1.0) * self.holds[rows]
        return np.asarray((inside > 0.0) & (chord > inside * LONGEST_INSIDE))

    @cached_property
    def tree(self) -> cKDTree:
        """The points in a search tree."""
        from scipy.spatial import cKDTree  # here: it delays the window's first paint

        return cKDTree(self.point, balanced_tree=False, compact_nodes=False)

    def following(self, index: IntArray) -> IntArray:
        """The next sample of the same ring for each sample (the first one after the last)."""
        return np.asarray(_after(self.ring)[index])

    def extended(self, rings: Rings, ring: IntArray, arc: FloatArray) -> Samples:
        """The samples with more of them, at distances along rings."""
        edge = rings.edge_at(ring, arc)
        new = (
            rings.point_at(ring, arc), left_normals(rings, edge), directions(rings, edge), np.full(len(edge), 1e-9),
            np.zeros(len(edge), dtype=np.int64), np.mod(arc, rings.ring_length[ring]), edge, ring, rings.holds[ring],
        )  # fmt: skip
        old = (getattr(self, one.name) for one in fields(self))
        return Samples(*(np.concatenate(both) for both in zip(old, new, strict=True)))

    def coarser(self, step: float) -> Samples:
        """One sample for every ``step`` mm of boundary, each standing for its tangent; corners stay.

        Good for finding where walls face each other within several steps, not for measuring.
        """
        walls = np.flatnonzero(self.side == 0)
        cell = np.floor(self.arc[walls] / step).astype(np.int64)
        ring = self.ring[walls]
        first = np.r_[True, (cell[1:] != cell[:-1]) | (ring[1:] != ring[:-1])] if len(walls) else walls
        keep = np.sort(np.r_[walls[first], np.flatnonzero(self.side != 0)])
        return replace(self._chosen(keep), half=np.where(self.side[keep] == 0, step / 2.0, 0.0))

    def near(self, points: FloatArray, distance: float) -> Samples:
        """The samples within a distance of any of the points."""
        is_near = np.zeros(len(self), dtype=bool)
        for at in range(0, len(points), POINTS_AT_A_TIME):
            for found in self.tree.query_ball_point(points[at : at + POINTS_AT_A_TIME], distance, return_sorted=False):
                is_near[found] = True
        return self._chosen(np.flatnonzero(is_near))

    def _chosen(self, rows: IntArray) -> Samples:
        return Samples(*(getattr(self, one.name)[rows] for one in fields(self)))


def rings_of(polygons: MultiPolygon) -> Rings:
    """All rings with kept film on their left; dust and edges too short to have a direction are left out."""
    parts = shapely.get_parts(polygons)
    rings, polygon_of = shapely.get_rings(parts, return_index=True)
    coordinates, ring_of = shapely.get_coordinates(rings, return_index=True)
    if not len(coordinates):
        none = np.zeros(0, dtype=np.int64)
        empty = np.zeros((0, 2))
        return Rings(empty, empty, none, none, none, np.zeros(0), np.zeros(0), none)
    is_outer = np.r_[True, polygon_of[1:] != polygon_of[:-1]]
    same_ring = ring_of[1:] == ring_of[:-1]
    moved = (coordinates[1:] != coordinates[:-1]).any(axis=1)
    keep = same_ring & moved
    corners, ring = coordinates[:-1][keep], ring_of[:-1][keep]
    hair = hair_of(span_of(corners))
    steady = steady_corners(corners, ring) & ~_is_dust(corners, ring, hair)
    a, ring = corners[steady], ring[steady]
    b = a[_after(ring)]
    centre = a.mean(axis=0)
    doubled = (a[:, 0] - centre[0]) * (b[:, 1] - centre[1]) - (b[:, 0] - centre[0]) * (a[:, 1] - centre[1])
    signed = np.bincount(ring, doubled, minlength=len(rings))
    turn = (signed > 0) != is_outer
    a, b, ring = _turned(a, b, ring, turn)
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    ends = np.r_[starts[1:], len(ring)] - 1
    following, preceding = _after(ring), np.arange(-1, len(ring) - 1)
    preceding[starts] = ends
    lengths = np.hypot(*(b - a).T)
    running = np.cumsum(lengths) - lengths
    arc: FloatArray = running - np.repeat(running[starts], ends - starts + 1)
    totals: FloatArray = np.asarray(np.bincount(ring, lengths, minlength=len(rings)), dtype=np.float64)
    return Rings(a, b, ring, following, preceding, arc, totals, polygon_of.astype(np.int64))


def _is_dust(corners: FloatArray, ring: IntArray, hair: float) -> NDArray[np.bool_]:
    """Corners of rings that are specks: pieces and holes within a square of a few hairs, unless all are."""
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    sizes = np.maximum.reduceat(corners, starts) - np.minimum.reduceat(corners, starts)
    dust = sizes.max(axis=1) <= DUST_HAIRS * hair
    return np.repeat(dust & ~dust.all(), np.diff(np.r_[starts, len(ring)]))


def _after(ring: IntArray) -> IntArray:
    """The place of the next corner of the same ring for every corner; ``ring`` ascends."""
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    following = np.arange(1, len(ring) + 1)
    following[np.r_[starts[1:], len(ring)] - 1] = starts
    return following


def _turned(
    a: FloatArray, b: FloatArray, ring: IntArray, turn: NDArray[np.bool_]
) -> tuple[FloatArray, FloatArray, IntArray]:
    """Reverse the order and direction of the edges of the marked rings."""
    if not turn.any():
        return a, b, ring
    starts = np.flatnonzero(np.r_[True, ring[1:] != ring[:-1]])
    sizes = np.diff(np.r_[starts, len(ring)])
    within = np.arange(len(ring)) - np.repeat(starts, sizes)
    flip = turn[ring]
    order = np.where(flip, np.repeat(starts + sizes - 1, sizes) - within, np.arange(len(ring)))
    a, b = a[order], b[order]
    return np.where(flip[:, None], b, a), np.where(flip[:, None], a, b), ring


def sample_walls(
    rings: Rings,
    step: float,
    only: NDArray[np.bool_] | None = None,
    fan_step: float = FAN_STEP_DEG,
    zone: Zone | None = None,
) -> Samples:
    """Samples at most ``step`` mm apart along all rings, with fans (a direction every ``fan_step`` degrees) at corners.

    With ``only`` (a mask of edges) the other edges get no samples. An edge of very many samples gets them only in
    and about the ``zone``, when there is one.
    """
    rows = np.arange(len(rings)) if only is None else np.flatnonzero(only)
    span = rings.b[rows] - rings.a[rows]
    length = np.hypot(span[:, 0], span[:, 1])
    direction = span / length[:, None]
    normal = np.stack([-direction[:, 1], direction[:, 0]], axis=1)
    cuts = np.maximum(np.ceil(length / step), 1.0).astype(np.int64)
    before = left_normals(rings, rings.preceding[rows])
    turn = np.arctan2(before[:, 0] * normal[:, 1] - before[:, 1] * normal[:, 0], (before * normal).sum(axis=1))
    fan = np.ceil(np.abs(turn) / np.radians(fan_step)) - 1
    fan = np.maximum(fan, np.abs(turn) > np.radians(FAN_STEP_DEG)).astype(np.int64)
    total = cuts + fan
    some: dict[int, IntArray] = {}
    if zone is not None:
        for k in np.flatnonzero(cuts > MANY_SAMPLES).tolist():
            cells = _cells_near(rings.a[rows[k]], direction[k], length[k] / cuts[k], int(cuts[k]), zone)
            some[k] = np.r_[np.arange(fan[k]), fan[k] + cells]
            total[k] = len(some[k])
    row = np.repeat(np.arange(len(rows)), total)
    begins = np.cumsum(total) - total
    within = np.arange(len(row)) - np.repeat(begins, total)
    for k, numbers in some.items():
        within[begins[k] : begins[k] + len(numbers)] = numbers
    in_fan = within < fan[row]
    fraction = np.where(in_fan, 0.0, (within - fan[row] + 0.5) / cuts[row])
    edge = rows[row]
    point = rings.a[edge] + span[row] * fraction[:, None]
    normals = normal[row]
    f = row[in_fan]
    angle = turn[f] * (within[in_fan] + 1) / (fan[f] + 1)
    cosine, sine = np.cos(angle), np.sin(angle)
    x, y = before[f].T
    normals[in_fan] = np.stack([x * cosine - y * sine, x * sine + y * cosine], axis=1)
    side = np.where(in_fan, np.where(turn[row] < 0, 1, -1), 0)
    half = np.where(in_fan, 0.0, length[row] / cuts[row] / 2.0)
    arc = rings.arc[edge] + length[row] * fraction
    return Samples(
        point, normals, direction[row], half, side, arc, edge, rings.ring[edge], rings.holds[rings.ring[edge]]
    )


def _cells_near(start: FloatArray, direction: FloatArray, cell: float, cells: int, zone: Zone) -> IntArray:
    """Which of the equal cells of an edge lie in and about a zone."""
    along = (zone.points - start) @ direction
    beside = np.abs((zone.points - start) @ (-direction[1], direction[0]))
    at = np.sort(along[beside <= zone.distance]) / cell
    if not len(at):
        return np.zeros(0, dtype=np.int64)
    reach = ABOUT_A_ZONE * zone.distance / cell
    begins = np.flatnonzero(np.r_[True, np.diff(at) > 2.0 * reach])
    lows = np.clip(np.floor(at[begins] - reach), 0, cells).astype(np.int64)
    highs = np.clip(np.ceil(at[np.r_[begins[1:], len(at)] - 1] + reach), 0, cells).astype(np.int64)
    runs = [np.arange(low, high) for low, high in zip(lows.tolist(), highs.tolist(), strict=True)]
    return np.unique(np.concatenate(runs))


def edge_lines(rings: Rings, edges: IntArray) -> NDArray[np.object_]:
    """Edges as lines."""
    return np.asarray(shapely.linestrings(np.stack([rings.a[edges], rings.b[edges]], axis=1)))


def directions(rings: Rings, edges: IntArray) -> FloatArray:
    """Unit vectors (n, 2) along edges."""
    span = rings.b[edges] - rings.a[edges]
    return np.asarray(span / np.hypot(span[:, 0], span[:, 1])[:, None])


def left_normals(rings: Rings, edges: IntArray) -> FloatArray:
    """Unit normals (n, 2) of edges, into kept film."""
    along = directions(rings, edges)
    return np.stack([-along[:, 1], along[:, 0]], axis=1)
