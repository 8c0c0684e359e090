"""Polygons back to curves: few nodes, true corners, straight lines straight.

Stretches between corners are halved until one G1 cubic reaches within the tolerance,
then neighbours are merged again as long as one cubic serves both. A cubic is a least
squares fit with Newton reparametrisation (Schneider, Graphics Gems I); tangents are
shared between neighbours except at corners. Deviation is checked at the points and at three
places between them, which holds for the polygon as a whole but for a few hundredths. All
stretches of all rings are fitted together, round by round, which keeps the arithmetic in arrays.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.path import Contour, line_segments
from vivid_thimble.core.geometry.tolerances import FIT_MM

CORNER_DEG = 25.0
"""A turn sharper than this within a chord of a few tolerances is a corner."""
ROUNDS = 5
"""Reparametrisations before a stretch is given up and halved."""
FARTHEST_WALK = 60
"""A chord for judging corners ends after so many points at the latest."""
BETWEEN = (0.25, 0.5, 0.75)
"""Where between two points a curve is compared with their edge."""
HOPELESS = 8.0
"""A deviation of so many tolerances does not come back by reparametrising."""
HOPEFUL = 1.2
"""What would end within so many tolerances by its present gain is tried on."""
LONG, FEW = 18, 9
"""Of stretches of so many points a few are tried first: most halvings and mergings end there."""
NEARLY = 1.3
"""A few points may be off by so many tolerances: with all of them the curve lies elsewhere."""


@dataclass(frozen=True, eq=False)
class _Loops:
    """Points of all rings, each repeated at its end, with tangents leaving both ways."""

    points: FloatArray
    ahead: FloatArray
    behind: FloatArray


@dataclass(frozen=True, eq=False)
class _Fits:
    """One entry a stretch: whether it is within tolerance, straight, and its cubic (n, 4, 2)."""

    good: NDArray[np.bool_]
    is_line: NDArray[np.bool_]
    cubics: FloatArray


def fit_rings(rings: Sequence[FloatArray], tolerance: float = FIT_MM) -> list[Contour]:
    """Closed contours within ``tolerance`` mm of rings (n, 2), in their order.

    A repeated last point is dropped. Rings of fewer than 4 points stay straight lines.
    """
    return _fitted([_without_repeats(np.asarray(ring, dtype=np.float64)) for ring in rings], tolerance, closed=True)


def fit_lines(lines: Sequence[FloatArray], tolerance: float = FIT_MM) -> list[Contour]:
    """Open contours within ``tolerance`` mm of polylines (n, 2), n >= 2, in their order; their ends stay put."""
    return _fitted([_with_ends(np.asarray(line, dtype=np.float64)) for line in lines], tolerance, closed=False)


def _fitted(lines: list[FloatArray], tolerance: float, *, closed: bool) -> list[Contour]:
    curved = iter(_fit_all([line for line in lines if len(line) >= 4], tolerance, closed=closed))
    return [next(curved) if len(line) >= 4 else Contour.from_points(line, closed=closed) for line in lines]


def _with_ends(line: FloatArray) -> FloatArray:
    """A polyline without repeated points, its last point kept exactly."""
    if len(line) < 3:
        return line
    keep = np.r_[True, (np.abs(np.diff(line, axis=0)) > 1e-9).any(axis=1)]
    keep[-1] = True
    keep[-2] &= bool((np.abs(line[-1] - line[-2]) > 1e-9).any()) or len(line) == 2
    return np.asarray(line[keep])


def _fit_all(rings: list[FloatArray], tolerance: float, *, closed: bool) -> list[Contour]:
    if not rings:
        return []
    loops, starts, stops, ring_of = (_loops if closed else _chains)(_Rings(rings), tolerance)
    starts, stops, ring_of, fits = _halved_until_good(loops, starts, stops, ring_of, tolerance)
    starts, stops, ring_of, fits = _merged_while_good(loops, starts, stops, ring_of, fits, tolerance)
    bounds = np.flatnonzero(np.r_[True, np.diff(ring_of) != 0, True])
    contours = []
    for i, j in zip(bounds[:-1], bounds[1:], strict=True):
        segments = fits.cubics[i:j].copy()
        if closed:
            segments[-1, 3] = segments[0, 0]
        contours.append(Contour(segments, fits.is_line[i:j].copy(), closed))
    return contours


class _Rings:
    """Polylines laid end to end; each is gone round, from its last point on to its first."""

    def __init__(self, rings: Sequence[FloatArray]) -> None:
        self.size = np.array([len(ring) for ring in rings], dtype=np.int64)
        self.first = np.cumsum(self.size) - self.size
        self.of = np.repeat(np.arange(len(rings)), self.size)
        self.points = np.concatenate(rings)

    def after(self, which: IntArray, step: int) -> IntArray:
        """The points so many steps further on in the same polyline."""
        of = self.of[which]
        return np.asarray(self.first[of] + (which - self.first[of] + step) % self.size[of])


def _chains(lines: _Rings, tolerance: float) -> tuple[_Loops, IntArray, IntArray, IntArray]:
    """Open lines with their tangents, and the stretches between their corners."""
    last = lines.first + lines.size - 1
    node = np.zeros(len(lines.points), dtype=bool)
    node[_corners(lines, tolerance)] = True
    node[lines.first] = node[last] = True
    nodes = np.flatnonzero(node)
    starts, stops = nodes[~np.isin(nodes, last)], nodes[~np.isin(nodes, lines.first)]
    central = _central_tangents(lines)
    leave, arrive = central.copy(), -central
    leave[starts] = _end_tangents(lines, starts, 1)
    arrive[stops] = _end_tangents(lines, stops, -1)
    return _Loops(lines.points, leave, arrive), starts, stops, lines.of[starts]


def _loops(rings: _Rings, tolerance: float) -> tuple[_Loops, IntArray, IntArray, IntArray]:
    """Rings opened at a corner (or at their flattest point), and the stretches between corners."""
    corners = _corners(rings, tolerance)
    smooth = np.bincount(rings.of[corners], minlength=len(rings.size)) == 0
    nodes = np.sort(np.r_[corners, _flattest(rings)[smooth]])
    of = rings.of[nodes]
    opened = nodes[np.r_[True, np.diff(of) > 0]]  # where each ring begins and ends
    base = rings.first + np.arange(len(rings.size))  # each is one point longer now
    ring_of = np.repeat(np.arange(len(rings.size)), rings.size + 1)
    source = (
        rings.first[ring_of]
        + (np.arange(len(ring_of)) - base[ring_of] + (opened - rings.first)[ring_of]) % (rings.size[ring_of])
    )
    central = _central_tangents(rings)[source]
    leave, arrive = central.copy(), -central
    starts = base[of] + nodes - opened[of]
    stops = np.r_[starts[1:], 0]
    closing = np.r_[np.diff(of) > 0, True]
    stops[closing] = base + rings.size
    sharp = ~smooth[of]
    leave[starts[sharp]] = _end_tangents(rings, nodes[sharp], 1)
    arrive[stops[sharp]] = _end_tangents(rings, source[stops[sharp]], -1)
    return _Loops(rings.points[source], leave, arrive), starts, stops, of


def _halved_until_good(
    loops: _Loops, starts: IntArray, stops: IntArray, ring_of: IntArray, tolerance: float
) -> tuple[IntArray, IntArray, IntArray, _Fits]:
    done: list[tuple[IntArray, IntArray, IntArray, _Fits]] = []
    while len(starts):
        fits = _fit_stretches(loops, starts, stops, tolerance)
        good = fits.good
        done.append(
            (starts[good], stops[good], ring_of[good], _Fits(good[good], fits.is_line[good], fits.cubics[good]))
        )
        i, j, ring = starts[~good], stops[~good], ring_of[~good]
        middle = (i + j) // 2
        starts, stops, ring_of = np.r_[i, middle], np.r_[middle, j], np.r_[ring, ring]
    starts, stops, ring_of = (np.concatenate([part[k] for part in done]) for k in range(3))
    order = np.argsort(starts, kind="stable")
    is_line = np.concatenate([part[3].is_line for part in done])[order]
    cubics = np.concatenate([part[3].cubics for part in done])[order]
    return starts[order], stops[order], ring_of[order], _Fits(np.ones(len(order), dtype=bool), is_line, cubics)


def _merged_while_good(
    loops: _Loops, starts: IntArray, stops: IntArray, ring_of: IntArray, fits: _Fits, tolerance: float
) -> tuple[IntArray, IntArray, IntArray, _Fits]:
    """Try to replace neighbouring stretches by one, first even pairs, then odd ones, while it helps."""
    corner = np.zeros(len(loops.points), dtype=bool)
    corner[np.flatnonzero((np.abs(loops.ahead + loops.behind) > 1e-9).any(axis=1))] = True
    idle = 0
    parity = 0
    refused = np.zeros(0, dtype=np.int64)
    while idle < 2 and len(starts) > 1:
        pair = np.arange(parity, len(starts) - 1, 2)
        smooth = (ring_of[pair] == ring_of[pair + 1]) & ~corner[stops[pair]]
        pair = pair[smooth]
        names = starts[pair] * len(loops.points) + stops[pair + 1]
        fresh = ~np.isin(names, refused)
        pair, names = pair[fresh], names[fresh]
        tried = _fit_stretches(loops, starts[pair], stops[pair + 1], tolerance)
        refused = np.concatenate([refused, names[~tried.good]])
        into = pair[tried.good]
        idle = 0 if len(into) else idle + 1
        parity = 1 - parity
        if not len(into):
            continue
        is_line, cubics = fits.is_line.copy(), fits.cubics.copy()
        is_line[into], cubics[into] = tried.is_line[tried.good], tried.cubics[tried.good]
        stops = stops.copy()
        stops[into] = stops[into + 1]
        keep = np.ones(len(starts), dtype=bool)
        keep[into + 1] = False
        starts, stops, ring_of = starts[keep], stops[keep], ring_of[keep]
        fits = _Fits(fits.good[keep], is_line[keep], cubics[keep])
    return starts, stops, ring_of, fits


class _Batch:
    """The points of several stretches laid end to end; rows of one stretch are consecutive. ``few``: only so many
    points of each, evenly taken."""

    def __init__(self, loops: _Loops, starts: IntArray, stops: IntArray, few: int | None = None) -> None:
        sizes = stops - starts + 1 if few is None else np.minimum(stops - starts + 1, few)
        self.first = np.cumsum(sizes) - sizes
        self.last = self.first + sizes - 1
        self.of = np.repeat(np.arange(len(starts)), sizes)
        step_of = np.arange(len(self.of)) - self.first[self.of]
        if few is not None:
            step_of = step_of * (stops - starts)[self.of] // np.maximum(sizes - 1, 1)[self.of]
        self.points = loops.points[step_of + starts[self.of]]
        step = np.r_[0.0, np.hypot(*np.diff(self.points, axis=0).T)]
        step[self.first] = 0.0
        run = np.cumsum(step)
        along = run - run[self.first][self.of]
        self.length = along[self.last]
        self.t = along / np.maximum(self.length, 1e-300)[self.of]
        self.inner = np.ones(len(self.of), dtype=bool)
        self.inner[self.last] = False

    def total(self, values: FloatArray) -> FloatArray:
        return np.asarray(np.add.reduceat(values, self.first))

    def largest(self, values: FloatArray) -> FloatArray:
        return np.asarray(np.maximum.reduceat(values, self.first))


def _fit_stretches(loops: _Loops, starts: IntArray, stops: IntArray, tolerance: float) -> _Fits:
    """One cubic or line for each stretch of points from start to stop."""
    count = len(starts)
    good, is_line = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
    cubics = line_segments(loops.points[starts], loops.points[stops]) if count else np.zeros((0, 4, 2))
    if not count:
        return _Fits(good, is_line, cubics)
    worth = _promising(loops, starts, stops, tolerance)
    is_line[worth] = _straight(_Batch(loops, starts[worth], stops[worth]), tolerance * 0.25)
    good = is_line.copy()
    for rows, found in _rounds(loops, starts, stops, worth[~is_line[worth]], tolerance):
        good[rows], cubics[rows] = True, found
    return _Fits(good, is_line, cubics)


def _promising(loops: _Loops, starts: IntArray, stops: IntArray, tolerance: float) -> IntArray:
    """The stretches that are worth fitting with all their points: short ones, and those of which a few points fit."""
    is_long = stops - starts >= LONG
    found = ~is_long
    for rows, _ in _rounds(loops, starts, stops, np.flatnonzero(is_long), NEARLY * tolerance, FEW):
        found[rows] = True
    return np.flatnonzero(found)


def _rounds(
    loops: _Loops, starts: IntArray, stops: IntArray, active: IntArray, tolerance: float, few: int | None = None
) -> Iterator[tuple[IntArray, FloatArray]]:
    """Least squares and reparametrisation in turn; after each round the stretches that are within tolerance now, and
    their cubics. With ``few`` only so many points of each count, and nothing between them."""
    before = np.full(len(active), np.inf)
    t: FloatArray | None = None
    for left in range(ROUNDS - 1, -1, -1):
        if not len(active):
            return
        batch = _Batch(loops, starts[active], stops[active], few)
        batch.t = batch.t if t is None else t
        cubics = _solved(batch, loops.ahead[starts[active]], loops.behind[stops[active]])
        off = _deviations(batch, cubics, tolerance, BETWEEN if few is None else ())
        fine = off <= tolerance
        yield active[fine], cubics[fine]
        going = ~fine & _may_come(off, before, left, tolerance)
        if not going.any():
            return
        t = _reparametrised(batch, cubics)[going[batch.of]]
        active, before = active[going], off[going]


def _may_come(off: FloatArray, before: FloatArray, left: int, tolerance: float) -> NDArray[np.bool_]:
    """Whether deviations can still fall to the tolerance in the rounds that are left, if they go on falling as fast as
    in the round before."""
    with np.errstate(over="ignore", invalid="ignore"):
        gain = np.where(np.isinf(before), 0.0, off / np.maximum(before, 1e-12))
    return np.asarray((off <= HOPELESS * tolerance) & (off * gain**left <= HOPEFUL * tolerance) & (left > 0))


def _coefficients(cubics: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Of the powers of t, the third first."""
    p0, p1, p2, p3 = (cubics[:, k] for k in range(4))
    c, b = 3.0 * (p1 - p0), 3.0 * (p2 - 2.0 * p1 + p0)
    return p3 - p0 - c - b, b, c, p0


def _on_cubics(cubics: FloatArray, of: IntArray, t: FloatArray) -> FloatArray:
    """Points (n, 2) of the cubics ``of`` each row at ``t`` (n,), by Horner's rule."""
    a, b, c, d = _coefficients(cubics)
    u = t[:, None]
    return np.asarray(((a[of] * u + b[of]) * u + c[of]) * u + d[of])


def _straight(batch: _Batch, tolerance: float) -> NDArray[np.bool_]:
    chord = batch.points[batch.last] - batch.points[batch.first]
    length = np.maximum(np.hypot(*chord.T), 1e-12)
    unit = (chord / length[:, None])[batch.of]
    rel = batch.points - batch.points[batch.first][batch.of]
    off = np.abs(rel[:, 0] * unit[:, 1] - rel[:, 1] * unit[:, 0])
    along = (rel * unit).sum(axis=1)
    back = np.r_[along[:-1] - along[1:], 0.0]
    back = np.where(batch.inner, back, 0.0)
    straight: NDArray[np.bool_] = (length > 1e-9) & (batch.largest(off) <= tolerance) & (batch.largest(back) <= 1e-12)
    return straight


def _solved(batch: _Batch, t1: FloatArray, t2: FloatArray) -> FloatArray:
    """Least squares for the two handle lengths of each stretch, as cubics (n, 4, 2)."""
    t = batch.t
    s = 1.0 - t
    b1, b2 = 3 * s * s * t, 3 * s * t * t
    p0, p3 = batch.points[batch.first], batch.points[batch.last]
    rest = batch.points - (s**3 + b1)[:, None] * p0[batch.of] - (t**3 + b2)[:, None] * p3[batch.of]
    c11, c22 = batch.total(b1 * b1), batch.total(b2 * b2)
    c12 = batch.total(b1 * b2) * (t1 * t2).sum(axis=1)
    x1 = batch.total(b1 * (rest * t1[batch.of]).sum(axis=1))
    x2 = batch.total(b2 * (rest * t2[batch.of]).sum(axis=1))
    determinant = c11 * c22 - c12 * c12
    with np.errstate(divide="ignore", invalid="ignore"):
        alpha, beta = (x1 * c22 - x2 * c12) / determinant, (c11 * x2 - c12 * x1) / determinant
    shortest, longest = 1e-3 * batch.length, 2.0 * batch.length
    usable = (np.abs(determinant) > 1e-12 * c11 * c22) & (np.minimum(alpha, beta) >= shortest)
    usable &= np.maximum(alpha, beta) <= longest
    alpha, beta = (np.where(usable, handle, batch.length / 3.0) for handle in (alpha, beta))
    return np.stack([p0, p0 + alpha[:, None] * t1, p3 + beta[:, None] * t2, p3], axis=1)


def _deviations(batch: _Batch, cubics: FloatArray, tolerance: float, between: Sequence[float]) -> FloatArray:
    """Largest distance at the points and, where that is within tolerance, at the shares ``between`` of the way to the
    next one from the edge to the curve."""
    off = np.hypot(*(batch.points - _on_cubics(cubics, batch.of, batch.t)).T)
    if not between:
        return batch.largest(off)
    rows = np.flatnonzero(batch.inner & (batch.largest(off) <= tolerance)[batch.of])
    start, of = batch.points[rows], batch.of[rows]
    edge = batch.points[rows + 1] - start
    square = np.maximum((edge * edge).sum(axis=1), 1e-24)
    for share in between:
        t = batch.t[rows] + share * (batch.t[rows + 1] - batch.t[rows])
        away = _on_cubics(cubics, of, t) - start
        along = np.clip((away * edge).sum(axis=1) / square, 0.0, 1.0)
        off[rows] = np.maximum(off[rows], np.hypot(*(away - along[:, None] * edge).T))
    return batch.largest(off)


def _reparametrised(batch: _Batch, cubics: FloatArray) -> FloatArray:
    """One Newton step of every point's parameter towards its foot on the cubic."""
    a, b, c, d = _coefficients(cubics)
    u = batch.t[:, None]
    a, b, c = a[batch.of], b[batch.of], c[batch.of]
    away = ((a * u + b) * u + c) * u + d[batch.of] - batch.points
    first = (3.0 * a * u + 2.0 * b) * u + c
    second = 6.0 * a * u + 2.0 * b
    below = (first * first).sum(axis=1) + (away * second).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        step = np.where(np.abs(below) > 1e-12, (away * first).sum(axis=1) / below, 0.0)
    t = np.clip(batch.t - step, 0.0, 1.0)
    t[batch.first], t[batch.last] = 0.0, 1.0
    return np.asarray(t)


def _corners(rings: _Rings, tolerance: float) -> IntArray:
    """Indices of points where the direction turns by more than CORNER_DEG over a short chord,
    judged over a chord and half of it so that finely divided arcs are no corners."""
    back, ahead = _sides(rings)
    sharp = np.abs(_turn(back, ahead)) > CORNER_DEG
    long_sides = (np.hypot(*back.T) > 1e-9) & (np.hypot(*ahead.T) > 1e-9)
    candidates = np.flatnonzero(sharp & long_sides)
    return candidates[_are_corners(rings, candidates, 12.0 * tolerance)]


def _sides(rings: _Rings) -> tuple[FloatArray, FloatArray]:
    """At each point, the way from the one before and to the one after."""
    everywhere = np.arange(len(rings.points))
    following = rings.points[rings.after(everywhere, 1)]
    return rings.points - rings.points[rings.after(everywhere, -1)], following - rings.points


def _are_corners(rings: _Rings, which: IntArray, chord: float) -> NDArray[np.bool_]:
    """The turn stays when seen over longer and longer chords: an arc's turn would grow with them."""
    near = _turn_over(rings, which, chord / 2.0)
    far = _turn_over(rings, which, chord)
    here, points = rings.points[which], rings.points
    own = np.abs(_turn(here - points[rings.after(which, -1)], points[rings.after(which, 1)] - here))
    return np.asarray((near > CORNER_DEG) & (own > 0.45 * far))


def _turn_over(rings: _Rings, which: IntArray, reach: float) -> FloatArray:
    ahead, behind = _walk(rings, which, reach, 1), _walk(rings, which, reach, -1)
    return np.abs(_turn(rings.points[which] - behind, ahead - rings.points[which]))


def _walk(rings: _Rings, which: IntArray, reach: float, step: int) -> FloatArray:
    """For each point the first one along its ring at least ``reach`` away."""
    at = which.copy()
    most = rings.size[rings.of[which]] - 1
    going = np.arange(len(which))
    for walked in range(1, FARTHEST_WALK + 1):
        at[going] = rings.after(at[going], step)
        away = np.hypot(*(rings.points[at[going]] - rings.points[which[going]]).T)
        going = going[(away < reach) & (walked < most[going])]
        if not len(going):
            break
    return np.asarray(rings.points[at])


def _turn(first: FloatArray, second: FloatArray) -> FloatArray:
    cross = first[..., 0] * second[..., 1] - first[..., 1] * second[..., 0]
    return np.asarray(np.degrees(np.arctan2(cross, (first * second).sum(axis=-1))))


def _flattest(rings: _Rings) -> IntArray:
    """The point of each ring where it turns least."""
    order = np.lexsort((np.abs(_turn(*_sides(rings))), rings.of))
    return np.asarray(order[rings.first])


def _central_tangents(rings: _Rings) -> FloatArray:
    """At each point, the tangent of the circle through it and its neighbours (n, 2)."""
    back, ahead = _sides(rings)
    a, b = np.hypot(*back.T)[:, None], np.hypot(*ahead.T)[:, None]
    return _units(back / np.maximum(a, 1e-12) * b + ahead / np.maximum(b, 1e-12) * a)


def _end_tangents(rings: _Rings, nodes: IntArray, step: int) -> FloatArray:
    """Tangents at corners, of the circle through the corner and the next two points one way."""
    p, q, r = (rings.points[rings.after(nodes, k * step)] for k in range(3))
    first, second = q - p, r - q
    a, b = np.hypot(*first.T)[:, None], np.hypot(*second.T)[:, None]
    slope = first / np.maximum(a, 1e-12)
    change = (second / np.maximum(b, 1e-12) - slope) * (a / np.maximum(a + b, 1e-12))
    turn = (np.abs(_turn(first, second)) > CORNER_DEG)[:, None]
    return _units(np.where(turn, slope, slope - change))


def _units(v: FloatArray) -> FloatArray:
    return np.asarray(v / np.maximum(np.hypot(*v.T), 1e-300)[:, None])


def _without_repeats(points: FloatArray) -> FloatArray:
    if len(points) > 1 and np.array_equal(points[0], points[-1]):
        points = points[:-1]
    if not len(points):
        return points
    moved = np.r_[True, (np.abs(np.diff(points, axis=0)) > 1e-9).any(axis=1)]
    return np.asarray(points[moved])
