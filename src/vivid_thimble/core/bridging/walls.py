"""The walls between openings and sheet as one table of segments, and rays through it.

An *opening* is a polygon that is cut out. Its outer ring meets the sheet round it; each of its holes is an *island*, a
part of the sheet that nothing holds. Rings are numbered through all openings. Points are (x, y) in mm.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray

COARSE_MM = 0.03
"""Walls are thinned to this for looking; strips are cut from the true ones."""
CORNER_TURN_DEG = 35.0
"""A wall that turns by more at one vertex has a corner there."""


@dataclass(frozen=True, eq=False)
class Walls:
    """``starts``, ``ends`` (s, 2) of all segments and the ring of each. ``rings``: the points (n, 2) of each ring, not
    closed, gone round so that it lies on its left, y up (its area positive). ``opening_of``: the opening of each ring;
    ``is_outer``: whether a ring is the outer one of its opening."""

    starts: FloatArray
    ends: FloatArray
    ring_of: IntArray
    rings: list[FloatArray]
    opening_of: IntArray
    is_outer: NDArray[np.bool_]

    @cached_property
    def tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.linestrings(np.stack([self.starts, self.ends], axis=1)))

    @cached_property
    def around(self) -> FloatArray:
        """The length of each ring."""
        return np.asarray(np.add.reduceat(np.hypot(*(self.ends - self.starts).T), self.first))

    @cached_property
    def across(self) -> FloatArray:
        """The larger extent of each ring."""
        most = np.maximum.reduceat(self.starts, self.first, axis=0)
        least = np.minimum.reduceat(self.starts, self.first, axis=0)
        return np.asarray((most - least).max(axis=1))

    @cached_property
    def first(self) -> IntArray:
        """Where each ring begins among the segments."""
        sizes = np.array([len(ring) for ring in self.rings], dtype=np.int64)
        return np.asarray(np.cumsum(sizes) - sizes)

    @cached_property
    def corners(self) -> tuple[FloatArray, IntArray]:
        """The points where rings turn sharply (k, 2), and their rings."""
        return corners_of(self.rings)

    @cached_property
    def corner_tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.points(self.corners[0]))


def walls_of(openings: MultiPolygon) -> Walls:
    """The walls of all openings, in their order; outer rings before their holes."""
    thinned = shapely.simplify(openings, COARSE_MM, preserve_topology=False)
    if _ring_count(thinned) != _ring_count(openings):
        thinned = openings
    rings: list[FloatArray] = []
    opening_of: list[int] = []
    is_outer: list[bool] = []
    for number, polygon in enumerate(shapely.get_parts(thinned)):
        for k, ring in enumerate((polygon.exterior, *polygon.interiors)):
            points = np.asarray(ring.coords)[:-1]
            rings.append(points if _area(points) > 0.0 else points[::-1])
            opening_of.append(number)
            is_outer.append(k == 0)
    if not rings:
        none = np.zeros((0, 2))
        empty = np.zeros(0, dtype=np.int64)
        return Walls(none, none, empty, [], empty, empty.astype(bool))
    starts = np.concatenate(rings)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    ring_of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    return Walls(starts, ends, ring_of, rings, np.array(opening_of), np.array(is_outer))


def _ring_count(openings: shapely.Geometry) -> tuple[int, int]:
    parts = shapely.get_parts(openings)
    return len(parts), int(shapely.get_num_interior_rings(parts).sum())


def _area(ring: FloatArray) -> float:
    x, y = ring.T
    return float((x[:-1] @ y[1:] - x[1:] @ y[:-1] + x[-1] * y[0] - x[0] * y[-1]) / 2.0)


@dataclass(frozen=True, eq=False)
class Crossings:
    """Where lines cross segments: ``t`` (c,) along the line, its number (in rising order) and that of the segment.
    ``count``: of all lines."""

    t: FloatArray
    line: IntArray
    segment: IntArray
    count: int

    def first_after(self, least: FloatArray) -> tuple[FloatArray, IntArray]:
        """The smallest t over ``least`` (n,) on each line and its segment; inf and -1 for none."""
        return self._least(self.t, self.t > least[self.line])

    def last_before(self, most: FloatArray) -> tuple[FloatArray, IntArray]:
        """The largest t under ``most``; -inf and -1 for none."""
        t, segment = self._least(-self.t, self.t < most[self.line])
        return -t, segment

    def _least(self, t: FloatArray, there: NDArray[np.bool_]) -> tuple[FloatArray, IntArray]:
        found, segment = np.full(self.count, np.inf), np.full(self.count, -1, dtype=np.int64)
        rows = np.flatnonzero(there)
        if len(rows):
            line = self.line[rows]
            first = np.flatnonzero(np.r_[True, line[1:] != line[:-1]])
            found[line[first]] = np.minimum.reduceat(t[rows], first)
            best = rows[t[rows] == found[line]]
            segment[self.line[best]] = self.segment[best]
        return found, segment


def crossings(walls: Walls, points: FloatArray, ways: FloatArray, back: FloatArray, ahead: FloatArray) -> Crossings:
    """Lines through ``points`` (n, 2) along unit ``ways`` (n, 2), from ``back`` (n,) before to ``ahead`` after them,
    against all walls."""
    pieces = np.stack([points - ways * back[:, None], points + ways * ahead[:, None]], axis=1)
    line, segment = walls.tree.query(shapely.linestrings(pieces))
    normal = np.stack([ways[:, 1], -ways[:, 0]], axis=1)[line]
    starts, ends = walls.starts[segment], walls.ends[segment]
    own = points[line]
    a, b = ((starts - own) * normal).sum(axis=1), ((ends - own) * normal).sum(axis=1)
    cut = np.flatnonzero((a > 0.0) != (b > 0.0))
    line, segment, a, b = line[cut], segment[cut], a[cut], b[cut]
    place = starts[cut] + (ends[cut] - starts[cut]) * (a / (a - b))[:, None]
    t = ((place - own[cut]) * ways[line]).sum(axis=1)
    inside = np.flatnonzero((t >= -back[line]) & (t <= ahead[line]))
    order = inside[np.argsort(line[inside], kind="stable")]
    return Crossings(np.asarray(t[order]), line[order], segment[order], len(points))


def corners_of(rings: Sequence[FloatArray]) -> tuple[FloatArray, IntArray]:
    """The points where rings turn sharply (k, 2), and the number of their rings."""
    if not rings:
        return np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
    points = np.concatenate(rings)
    into = points - np.concatenate([np.roll(ring, 1, axis=0) for ring in rings])
    out = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings]) - points
    turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1)))
    sharp = np.flatnonzero(np.degrees(turn) > CORNER_TURN_DEG)
    of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    return points[sharp], of[sharp]
