"""Curves that survive booleans.

The kernel works on polygons, yet most edges of its result still lie on a segment
that went in. This module finds that segment for every result edge and hands it back:
whole when all of it survived (the very same numbers), cut to the parameter range
that survived otherwise. Edges without an origin stay straight lines.

What it cannot do: invent curves for shapes that never had any (offsets, traces);
``fit`` does that.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import NestedRings
from vivid_thimble.core.geometry.flatten import FlatPath, IntArray
from vivid_thimble.core.geometry.path import Contour, Path, cubic_speed, evaluate_cubic, line_segments, split_cubic
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM, GRID_MM

_ON_EDGE_STEPS = 3.0
"""A crossing is rounded to the grid, so it lies within this many steps of its edge."""
_NEWTON_STEPS, _NEWTON_DONE = 5, 1e-9
"""At most so many steps; one as small as this doubles its exact digits to all there are."""
_STEEPEST_LEFT = 0.03
"""Sine of the angle up to which crossings are left where the polygons cross: nearly tangent curves may cross twice."""


@dataclass(frozen=True, eq=False)
class TaggedEdges:
    """The edges of flattened sources in grid steps: start, end, segment, and its t range."""

    a: FloatArray
    b: FloatArray
    segment: IntArray
    t0: FloatArray
    t1: FloatArray


def tagged_edges(flat: FlatPath, grid_points: FloatArray) -> TaggedEdges:
    """Edges of closed flattened contours; ``grid_points`` are ``flat.points`` on the grid."""
    count = len(grid_points)
    following = np.arange(1, count + 1)
    sizes = np.diff(flat.starts)
    ends = flat.starts[1:][sizes > 0]
    following[ends - 1] = flat.starts[:-1][sizes > 0]
    t1 = flat.t[following]
    t1 = np.where(flat.segment[following] != flat.segment, 1.0, t1)
    t1 = np.where(t1 <= flat.t, 1.0, t1)
    return TaggedEdges(grid_points, grid_points[following], flat.segment, flat.t, t1)


def recover(nested: NestedRings, edges: TaggedEdges, sources: Path) -> Path:
    """The boundary of a boolean's result as curves, ring by ring in the order of ``nested``."""
    rings = [ring for polygon in nested for ring in polygon]
    if not rings:
        return Path()
    a, b = _edges_of(rings)
    ring_of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    origin, forward = _match_whole_edges(a, b, edges)
    ta = np.where(forward, edges.t0[origin], edges.t1[origin])
    tb = np.where(forward, edges.t1[origin], edges.t0[origin])
    _match_cut_edges(a, b, origin, ta, tb, edges)
    segment = np.where(origin >= 0, edges.segment[origin], -1)
    return _assemble(a, ring_of, segment, ta, tb, sources)


def matched_edges(nested: NestedRings, edges: TaggedEdges) -> tuple[IntArray, NDArray[np.bool_]]:
    """For each edge of the rings the source edge with the same ends (-1: none), and whether it runs the same way."""
    return _match_whole_edges(*_edges_of([ring for polygon in nested for ring in polygon]), edges)


def _edges_of(rings: list[FloatArray]) -> tuple[FloatArray, FloatArray]:
    return np.concatenate(rings), np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])


def _keys(a: FloatArray, b: FloatArray) -> tuple[NDArray[np.uint64], NDArray[np.bool_]]:
    """A hash of each undirected edge, and whether a is its lexicographically first end."""
    ai, bi = a.astype(np.int64), b.astype(np.int64)
    first = (ai[:, 0] < bi[:, 0]) | ((ai[:, 0] == bi[:, 0]) & (ai[:, 1] <= bi[:, 1]))
    low = np.where(first[:, None], ai, bi).view(np.uint64)
    high = np.where(first[:, None], bi, ai).view(np.uint64)
    key = low[:, 0] * np.uint64(0x9E3779B97F4A7C15) + low[:, 1]
    key = (key ^ (key >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9) + high[:, 0]
    key = (key ^ (key >> np.uint64(32))) * np.uint64(0x94D049BB133111EB) + high[:, 1]
    return key ^ (key >> np.uint64(31)), first


def _match_whole_edges(a: FloatArray, b: FloatArray, edges: TaggedEdges) -> tuple[IntArray, NDArray[np.bool_]]:
    """For each result edge the source edge with the same ends (-1: none), and its direction."""
    source_keys, _ = _keys(edges.a, edges.b)
    order = np.argsort(source_keys, kind="stable")
    wanted, _ = _keys(a, b)
    at = np.searchsorted(source_keys[order], wanted)
    origin = order[np.minimum(at, len(order) - 1)]
    same = (edges.a[origin] == a).all(axis=1) & (edges.b[origin] == b).all(axis=1)
    opposite = (edges.a[origin] == b).all(axis=1) & (edges.b[origin] == a).all(axis=1)
    return np.where(same | opposite, origin, -1), same


def _match_cut_edges(
    a: FloatArray, b: FloatArray, origin: IntArray, ta: FloatArray, tb: FloatArray, edges: TaggedEdges
) -> None:
    """Fill in, in place, the result edges that are a part of a source edge cut by a crossing."""
    loose = np.flatnonzero(origin < 0)
    if not len(loose):
        return
    used = np.zeros(len(edges.a), dtype=bool)
    used[origin[origin >= 0]] = True
    candidates = np.flatnonzero(~used)
    tree = shapely.STRtree(shapely.linestrings(np.stack([edges.a[candidates], edges.b[candidates]], axis=1)))
    middles = shapely.points((a[loose] + b[loose]) / 2.0)
    which, found = tree.query(middles, predicate="dwithin", distance=_ON_EDGE_STEPS)
    if not len(which):
        return
    result, source = loose[which], candidates[found]
    span = edges.b[source] - edges.a[source]
    square = np.maximum((span**2).sum(axis=1), 1e-300)
    at_a = ((a[result] - edges.a[source]) * span).sum(axis=1) / square
    at_b = ((b[result] - edges.a[source]) * span).sum(axis=1) / square
    off = np.maximum(
        np.hypot(*(a[result] - edges.a[source] - at_a[:, None] * span).T),
        np.hypot(*(b[result] - edges.a[source] - at_b[:, None] * span).T),
    )
    slack = _ON_EDGE_STEPS / np.sqrt(square)
    inside = (np.minimum(at_a, at_b) > -slack) & (np.maximum(at_a, at_b) < 1 + slack) & (off <= _ON_EDGE_STEPS)
    for keep in np.flatnonzero(inside)[np.argsort(-off[inside], kind="stable")]:
        edge, s = result[keep], source[keep]
        width = edges.t1[s] - edges.t0[s]
        origin[edge] = s
        ta[edge] = edges.t0[s] + width * min(max(at_a[keep], 0.0), 1.0)
        tb[edge] = edges.t0[s] + width * min(max(at_b[keep], 0.0), 1.0)


def _assemble(
    vertices: FloatArray, ring_of: IntArray, segment: IntArray, ta: FloatArray, tb: FloatArray, sources: Path
) -> Path:
    """Merge consecutive edges of one segment into runs and cut the runs out of the sources."""
    count = len(vertices)
    starts = np.flatnonzero(np.r_[True, ring_of[1:] != ring_of[:-1]])
    previous = np.arange(count) - 1
    previous[starts] = np.r_[starts[1:], count] - 1
    continues = (
        (segment >= 0)
        & (segment[previous] == segment)
        & (np.abs(tb[previous] - ta) < 1e-12)
        & (np.sign(tb[previous] - ta[previous]) == np.sign(tb - ta))
    )
    heads = np.flatnonzero(~continues)
    headed = np.zeros(int(ring_of[-1]) + 1, dtype=bool)
    headed[ring_of[heads]] = True
    heads = np.sort(np.r_[heads, starts[~headed]])
    run_ring = ring_of[heads]
    last_of_ring = np.r_[run_ring[1:] != run_ring[:-1], True]
    first_of_ring = np.r_[True, last_of_ring[:-1]]
    next_run = np.arange(1, len(heads) + 1)
    next_run[last_of_ring] = np.flatnonzero(first_of_ring)
    tails = previous[heads[next_run]]
    return _cut_runs(vertices * GRID_MM, heads, tails, next_run, run_ring, segment, ta, tb, sources)


def _cut_runs(
    vertices: FloatArray,
    heads: IntArray,
    tails: IntArray,
    next_run: IntArray,
    run_ring: IntArray,
    segment: IntArray,
    ta: FloatArray,
    tb: FloatArray,
    sources: Path,
) -> Path:
    all_segments = np.concatenate([c.segments for c in sources.contours if len(c)])
    all_lines = np.concatenate([c.is_line for c in sources.contours if len(c)])
    seg, t0, t1 = segment[heads], ta[heads], tb[tails]
    known = seg >= 0
    is_line = np.where(known, all_lines[seg], True)
    start = vertices[heads].copy()
    _sharpen_crossings(all_segments, seg, t0, t1, next_run, start)
    at_start, at_end = known & (t0 == 0.0), known & (t0 == 1.0)
    start[at_start] = all_segments[seg[at_start], 0]
    start[at_end] = all_segments[seg[at_end], 3]
    out = line_segments(start, start[next_run])
    whole = known & (t0 == 0.0) & (t1 == 1.0)
    whole_back = known & (t0 == 1.0) & (t1 == 0.0)
    part = known & ~is_line & ~whole & ~whole_back
    out[whole] = all_segments[seg[whole]]
    out[whole_back] = all_segments[seg[whole_back]][:, ::-1]
    if part.any():
        cut = split_cubic(all_segments[seg[part]], t0[part], t1[part])
        shift0 = start[part] - cut[:, 0]
        shift1 = start[next_run][part] - cut[:, 3]
        cut[:, :2] += shift0[:, None]
        cut[:, 2:] += shift1[:, None]
        out[part] = cut
    out[:, 0] = start
    out[:, 3] = start[next_run]
    edges = np.flatnonzero(np.r_[True, run_ring[1:] != run_ring[:-1], True])
    return Path(
        tuple(
            Contour(out[i:j].copy(), is_line[i:j].copy(), closed=True)
            for i, j in zip(edges[:-1], edges[1:], strict=True)
        )
    )


def _sharpen_crossings(
    all_segments: FloatArray, seg: IntArray, t0: FloatArray, t1: FloatArray, next_run: IntArray, start: FloatArray
) -> None:
    """Move, in place, the points where runs of two segments meet from the crossing of their polygons to that of
    the curves themselves.

    Newton's method from the polygons' crossing; a point that would go farther than the polygons can be
    off (their tolerance over the sine of the angle) stays where it is.
    """
    before = np.flatnonzero((seg >= 0) & (seg[next_run] >= 0) & (seg != seg[next_run]))
    after = next_run[before]
    within = (t1[before] > 0.0) & (t1[before] < 1.0) & (t0[after] > 0.0) & (t0[after] < 1.0)
    before, after = before[within], after[within]
    if not len(before):
        return
    one, other = all_segments[seg[before]], all_segments[seg[after]]
    s, t = t1[before].copy(), t0[after].copy()
    with np.errstate(divide="ignore", invalid="ignore"):
        for _ in range(_NEWTON_STEPS):
            gap = evaluate_cubic(one, s) - evaluate_cubic(other, t)
            u, v = cubic_speed(one, s), cubic_speed(other, t)
            turn = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
            step_s = (gap[:, 0] * v[:, 1] - gap[:, 1] * v[:, 0]) / turn
            step_t = (gap[:, 0] * u[:, 1] - gap[:, 1] * u[:, 0]) / turn
            s, t = s - step_s, t - step_t
            if not (np.maximum(np.abs(step_s), np.abs(step_t)) > _NEWTON_DONE).any():
                break
        point, twin = evaluate_cubic(one, s), evaluate_cubic(other, t)
        meets = np.hypot(*(point - twin).T) < GRID_MM
        steep = np.abs(turn) / (np.hypot(*u.T) * np.hypot(*v.T))
        near = np.hypot(*(point - start[after]).T) * steep < 2.0 * FLATTEN_MM
    good = meets & near & (steep > _STEEPEST_LEFT) & (s > 0.0) & (s < 1.0) & (t > 0.0) & (t < 1.0)
    t1[before[good]], t0[after[good]] = s[good], t[good]
    start[after[good]] = point[good]
