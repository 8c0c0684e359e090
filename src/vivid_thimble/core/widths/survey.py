"""Both width fields of a shape surveyed: what is too thin, what is thinnest, and from which limit on.

First a quick look with balls (see ``balls``) tells where anything may be below its limit; only there walls are sampled
finely and measured. Gauges show a figure even when nothing is below the limit: then ever larger balls, on samples ever
farther apart, tell where the thinnest place may be, and it is measured there.

What counts as a line or a gap is a matter of shape alone (see ``tips``), so the *critical limit*, from which on
nothing is thin, is the width of the thinnest place. Needle tips and points that touch are left aside: no size cures
them. The film's limit over the critical one is the smallest clean scale, whatever the size it is told at.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial
from threading import Lock

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.widths.balls import FAN_STEP_DEG, crowded, facing_by_balls
from vivid_thimble.core.widths.field import BEYOND_LIMIT, SAMPLES_PER_LIMIT, Field, Side, pairs_within, width_fields
from vivid_thimble.core.widths.long_edges import EdgePairs, as_far_as_few, close_edges, facing_edges
from vivid_thimble.core.widths.places import ThinPlace, arcs_of, closest_points, thin_places, thinnest_place
from vivid_thimble.core.widths.side_by_side import WORTH_A_THREAD, side_by_side, threads_for
from vivid_thimble.core.widths.spots import Spots, spots_of
from vivid_thimble.core.widths.tips import chords_stand, may_stand, standing
from vivid_thimble.core.widths.touching import touching_place, touching_points
from vivid_thimble.core.widths.walls import (
    NO_MEETINGS,
    Meetings,
    Rings,
    Samples,
    Zone,
    edge_lines,
    rings_of,
    sample_walls,
)

SAME_SPOT_HAIRS = 10.0
"""A hair no farther than so many hairs from a touching point is that point."""
NEARLY_MM = 0.02
"""Samples farther apart than a hair by no more than this may have one between them."""
VERY_LONG = 100.0
"""Edges twice as long as so many times the distance at which something is looked for are measured, not guessed."""
LONG_STEPS = 4.0
"""Edges longer than so many steps between samples are compared as a whole."""
FAR_APART = 2.5
"""Limits of lines and gaps that differ by more than so many times are looked at with samples of their own."""
WIDEST_SPANS = 1.001
"""Lines and gaps are looked for up to so many times the longest way across the shape (which is found by turns)."""
SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, with fewer samples."""
MUCH_FINER, FINE_SAMPLES = 4.0, 10_000.0
"""What lies beyond the limit is looked for with so many times as many samples, up to this many."""
WORTH_A_TREE = 100_000
"""With fewer samples than this on them long edges are sampled like others."""
COARSE_ERROR = 1.06
"""Widths by balls on coarse samples are off by no more than this factor."""
FINER = 40.0
"""A place beyond the limit is measured with samples this share of its width apart, where walls are that fine."""
CROWDED = 60
"""With more samples a place than this they are thinned out."""
ROUND_SHARE = 0.3
"""Walls are measured within this share of its width round both ends of a spot."""
ABOUT_ALIKE = 1.01
"""A second survey is believed when it finds no more than so many times the width: where a taper begins to stand hangs
on where its samples lie, and those of the second do not depend on the first."""
CONFIRMED_BY = (1.0, 4.0)
"""So many times as many samples look again."""
FINEST, MOST_STEPS, WORTH_SHARPENING_PAIRS = (160.0, 80.0, 40.0), 8, 60_000
"""In the end a place is measured with samples this share of its width apart, the first at which there are no more pairs
of them than this, and followed so many times."""
HARDLY, HARDLY_MM = 1e-3, 5e-4
"""What changes a width by less than this share of it and this many mm is no other width."""
WORTH_CONFIRMING, WORTH_CONFIRMING_PAIRS = 40_000, 400_000
"""With more samples, or pairs of them, than this nothing is surveyed a second time."""
PLACES_AT_A_TIME, MOST_PLACES = 40, 120
"""Places beyond the limit are measured in batches, the thinnest first; where very many are about as thin, so many."""


@dataclass(frozen=True, eq=False)
class SideSurvey:
    """One side (kept film or waste): the places below the limit, and the thinnest place of all that is a line or a gap
    (None when there is none within the shape's size)."""

    places: tuple[ThinPlace, ...]
    thinnest: ThinPlace | None

    @property
    def critical(self) -> float | None:
        """The critical limit in mm: nothing is thin below it."""
        return None if self.thinnest is None else self.thinnest.thinnest

    def shifted(self, dx: float, dy: float) -> SideSurvey:
        """The same survey when its shape lies elsewhere."""
        thinnest = self.thinnest.shifted(dx, dy) if self.thinnest else None
        return SideSurvey(tuple(place.shifted(dx, dy) for place in self.places), thinnest)


NOTHING_FOUND = SideSurvey((), None)


def survey_widths(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> tuple[SideSurvey, SideSurvey]:
    """Kept film against ``line_limit`` and waste against ``gap_limit`` (mm)."""
    return survey_walls(rings_of(polygons), line_limit, gap_limit)


def survey_walls(
    rings: Rings,
    line_limit: float,
    gap_limit: float,
    only: NDArray[np.bool_] | None = None,
    widest: float | None = None,
) -> tuple[SideSurvey, SideSurvey]:
    """The same for walls at hand. With ``only`` (a mask of edges) the others are taken as absent.

    Nothing thinner than the limits being found, the search goes on to about ``widest`` mm (None: the longest
    way across it).
    """
    if not len(rings) or (only is not None and not only.any()):
        return NOTHING_FOUND, NOTHING_FOUND
    look = _Look(rings, only, widest)
    sides, near = _measured_sides(look, line_limit, gap_limit)
    touching, meetings = touching_points(rings, near)
    hairs = [_hairs(rings, samples, field, meetings) for samples, field in sides]
    meetings = Meetings.joined([meetings, *(beside for _, beside in hairs)])
    look.rings = rings = replace(rings, meetings=meetings)
    pause()
    own = [p for p in touching if p.polygons[0] == p.polygons[1]]
    across = [p for p in touching if p.polygons[0] != p.polygons[1]]
    kept = partial(_surveyed, look, *sides[0], "kept", line_limit, own, hairs[0][0])
    waste = partial(_surveyed, look, *sides[1], "waste", gap_limit, across, hairs[1][0])
    if len(rings) < WORTH_A_THREAD:
        return kept(), waste()
    lines, gaps = side_by_side((kept, waste))
    return lines, gaps


def combined(sides: Sequence[SideSurvey]) -> SideSurvey:
    """One side of shapes that lie so far apart that nothing thin is between them."""
    places = sorted((place for side in sides for place in side.places), key=lambda p: (p.thinnest, p.at))
    thinnest = min((s.thinnest for s in sides if s.thinnest), key=lambda p: (p.thinnest, p.at), default=None)
    return SideSurvey(tuple(places), thinnest)


class _Look:
    """Walls, the edges of them that count (None: all), and how wide places are looked for, in mm.

    Both sides look at the same distances, which depend on the shape alone: samples and pairs serve both.
    """

    def __init__(self, rings: Rings, only: NDArray[np.bool_] | None, widest: float | None) -> None:
        self.rings, self.only = rings, only
        self.widest = WIDEST_SPANS * rings.span if widest is None else widest
        self._samples: dict[float, Samples] = {}
        self._one_an_edge: Samples | None = None
        self._pairs: EdgePairs | None = None
        self._busy = Lock()  # both sides look at the same samples and pairs

    @cached_property
    def _lengths(self) -> FloatArray:
        """Of the edges that count; 0 for the others."""
        lengths = np.hypot(*(self.rings.b - self.rings.a).T)
        return lengths if self.only is None else np.where(self.only, lengths, 0.0)

    def halved_below(self, width: float) -> float:
        """The longest way across the shape, halved until it is no more than a width in mm."""
        return self.rings.span * SEARCH_GROWTH ** -math.ceil(math.log(self.rings.span / width, SEARCH_GROWTH))

    @cached_property
    def length(self) -> float:
        """Of all edges that count, in mm."""
        return float(self._lengths.sum())

    def finer(self, step: float) -> float:
        """A step finer than this one where that takes not too many samples."""
        return min(step, max(step / MUCH_FINER, self.length / FINE_SAMPLES))

    @cached_property
    def tree(self) -> shapely.STRtree:
        """The edges that count."""
        return shapely.STRtree(edge_lines(self.rings, np.flatnonzero(self._lengths)))

    def long(self, step: float) -> IntArray:
        """Edges so long, and so many, that samples of them would be a waste."""
        long = np.flatnonzero(self._lengths > LONG_STEPS * step)
        return long if self._lengths[long].sum() > WORTH_A_TREE * step else long[:0]

    def facing(self, step: float, farthest: float, reach: float, side: Side) -> tuple[Samples, Field]:
        """Chords up to ``reach`` mm from edges that are long for a step to others; ``farthest``: for either side."""
        long = self.long(step)
        with self._busy:
            if self._pairs is None or not self._pairs.has_all(long, farthest):
                far = as_far_as_few(self.rings, self.tree, long, farthest)
                self._pairs = close_edges(self.rings, self.tree, long, far, self.only)
            pairs = self._pairs
        return facing_edges(self.rings, pairs, long, reach, side)

    def samples(self, step: float) -> Samples:
        """Samples about ``step`` mm apart on all edges that are not long."""
        with self._busy:
            if step not in self._samples:
                self._forget(self._samples)
                self._samples[step] = self._fine_samples(step).coarser(step)
            return self._samples[step]

    def _fine_samples(self, step: float) -> Samples:
        """The same without leaving any out where edges are short."""
        counts = self._lengths > 0.0
        if self._lengths.max() > step:
            counts[self.long(step)] = False
            return sample_walls(self.rings, step, counts, FAN_STEP_DEG)
        if self._one_an_edge is None:
            self._one_an_edge = sample_walls(self.rings, step, counts, FAN_STEP_DEG)
        return self._one_an_edge

    def _forget(self, known: dict[float, Samples]) -> None:
        """Make room for another look at a large shape: its two sides are seldom more than one apart."""
        while len(known) > 1 and len(self.rings) >= WORTH_A_THREAD:
            del known[next(iter(known))]


def _measured_sides(
    look: _Look, line_limit: float, gap_limit: float
) -> tuple[tuple[tuple[Samples, Field], tuple[Samples, Field]], NDArray[np.bool_]]:
    """Samples and field of kept film and of waste where either may be below its limit, with all that matters for
    judging it, and the edges they lie on.

    Both share their samples, unless one limit asks for far finer ones than the other for as far a look.
    """
    finest, farthest = min(line_limit, gap_limit), max(line_limit, gap_limit)
    together = farthest <= FAR_APART * finest
    kept, by_film = _edges_near_side(look, "kept", line_limit, farthest if together else line_limit)
    waste, by_waste = _edges_near_side(look, "waste", gap_limit, farthest if together else gap_limit)
    pause()
    near = kept | waste
    if together:
        zone = Zone(np.r_[by_film.points, by_waste.points], max(by_film.distance, by_waste.distance))
        samples = sample_walls(look.rings, finest / SAMPLES_PER_LIMIT, near, zone=zone)
        fields = width_fields(samples, BEYOND_LIMIT * farthest)
        pause()
        return ((samples, fields[0]), (samples, fields[1])), near
    on_film = sample_walls(look.rings, line_limit / SAMPLES_PER_LIMIT, kept, zone=by_film)
    on_waste = sample_walls(look.rings, gap_limit / SAMPLES_PER_LIMIT, waste, zone=by_waste)
    lines = _field(on_film, BEYOND_LIMIT * line_limit, "kept")
    pause()
    gaps = _field(on_waste, BEYOND_LIMIT * gap_limit, "waste")
    pause()
    return ((on_film, lines), (on_waste, gaps)), near


def _edges_near_side(look: _Look, side: Side, limit: float, farthest: float) -> tuple[NDArray[np.bool_], Zone]:
    """The same for one side, and where on these edges it may be; ``farthest``: the limit of either, for looks that
    serve both."""
    pause()
    step = SEARCH_GROWTH * farthest / SAMPLES_PER_LIMIT
    samples = look.samples(step)
    points = samples.point[crowded(samples, side, BEYOND_LIMIT * limit + step)]
    if len(look.long(step)):
        points = np.r_[points, look.facing(step, BEYOND_LIMIT * farthest, BEYOND_LIMIT * limit, side)[0].point]
    zone = Zone(points, BEYOND_LIMIT * limit + step)
    return edges_within(look.rings, *zone, look.only), zone


def _hairs(rings: Rings, samples: Samples, field: Field, known: Meetings) -> tuple[list[ThinPlace], Meetings]:
    """Where outlines all but meet, beside the places known: the narrowest chord of each run of samples that may be."""
    rows = np.flatnonzero((field.partner >= 0) & (field.width <= rings.hair + NEARLY_MM))
    if not len(rows):
        return [], NO_MEETINGS
    ring, arc, same_spot = samples.ring[rows], samples.arc[rows], SAME_SPOT_HAIRS * rings.hair
    near = np.maximum(same_spot, 2.0 * (samples.half[rows[1:]] + samples.half[rows[:-1]]))
    goes_on = (ring[1:] == ring[:-1]) & (arc[1:] - arc[:-1] <= near)
    both = known.both_ways()
    edges, ends, widths = [], [], []
    for run in np.split(rows, np.flatnonzero(~goes_on) + 1):
        first, last = samples.arc[run[[0, -1]]] + np.array([-same_spot, same_spot])
        if ((both.ring == samples.ring[run[0]]) & (both.arc >= first) & (both.arc <= last)).any():
            continue
        best = run[np.argmin(field.width[run])]
        facing = int(samples.edge[best]), int(samples.edge[field.partner[best]])
        width, p, q = closest_points(rings, *facing, samples.point[best], field.foot[best], same_spot)
        if width <= rings.hair:
            edges.append(facing)
            ends.append((p, q))
            widths.append(width)
    if not edges:
        return [], NO_MEETINGS
    at, across, apart = np.array(edges), np.array(ends), np.array(widths)
    arcs, ring = arcs_of(rings, at, across), rings.ring[at]
    stands = chords_stand(rings, (ring[:, 0], arcs[:, 0]), (ring[:, 1], arcs[:, 1]), apart)[0]  # no mere tip
    at, across, apart, arcs, ring = at[stands], across[stands], apart[stands], arcs[stands], ring[stands]
    places = [touching_place(rings, (at[k, 0], at[k, 1]), across[k], width) for k, width in enumerate(apart.tolist())]
    return places, Meetings(ring[:, 0], arcs[:, 0], ring[:, 1], arcs[:, 1], apart)


def _surveyed(
    look: _Look,
    samples: Samples,
    field: Field,
    side: Side,
    limit: float,
    touching: list[ThinPlace],
    hairs: list[ThinPlace],
) -> SideSurvey:
    """One side: what is below the limit, or else the first place beyond it. ``hairs``: where outlines all but touch."""
    pause()
    found, same_spot = thin_places(look.rings, samples, field, limit, side), SAME_SPOT_HAIRS * look.rings.hair
    found = [p for p in found if not (p.is_touching and any(_is_same_spot(p, point, same_spot) for point in touching))]
    seen = [*(p for p in found if p.is_touching), *touching]
    touching = [*touching, *(one for one in hairs if not any(_lies_along(p, one, same_spot) for p in seen))]
    places = tuple(sorted([*found, *touching], key=lambda p: (p.thinnest, p.at)))
    thinnest = thinnest_of(places)
    closer = _looked_at_closely(look, samples, field, side, limit)
    if closer is not None and closer.thinnest < (thinnest.thinnest if thinnest else limit):
        thinnest = closer
    if thinnest is not None:
        thinnest = _followed(look, side, thinnest)
    elif (first := _first_beyond(look, side, limit)) is not None:
        thinnest = _confirmed(look, side, first)
    else:
        return SideSurvey(places, None)
    thinnest = _sharpened(look, side, thinnest)
    return SideSurvey(_with(places, thinnest, limit) if thinnest.thinnest < limit else places, thinnest)


def thinnest_of(places: Sequence[ThinPlace]) -> ThinPlace | None:
    """Of places in order of their widths the first that is a line or a gap."""
    return next((place for place in places if not (place.is_needle or place.is_touching)), None)


def _looked_at_closely(look: _Look, samples: Samples, field: Field, side: Side, limit: float) -> ThinPlace | None:
    """The thinnest place below the limit when walls are sampled as finely as they are close to each other.

    What lies far below the limit is judged by too few samples at first, and luck would tell whether it counts. How fine
    each look is depends on the shape alone, so that all sizes of it are judged alike.
    """
    thinnest = None
    is_large = len(look.rings) >= WORTH_A_THREAD
    step = look.halved_below(limit / SEARCH_GROWTH if is_large else limit)  # the first look was about as fine
    while step > look.rings.hair:
        pause()
        may = may_stand(look.rings, samples, field).width < BEYOND_LIMIT * step
        may |= (field.partner >= 0) & (field.width < 2.0 * samples.half)  # so few samples tell nothing about it
        points = samples.point[may]
        if not len(points):
            break
        samples = _samples_round(look, step / SAMPLES_PER_LIMIT, points, BEYOND_LIMIT * step)
        field = _field(samples, BEYOND_LIMIT * step, side)
        place = thinnest_place(look.rings, samples, field, standing(look.rings, samples, field, side), 0.0)
        if place is not None and (thinnest is None or place.thinnest < thinnest.thinnest):
            thinnest = place
        step /= SEARCH_GROWTH
    return thinnest


def _with(places: tuple[ThinPlace, ...], thinnest: ThinPlace, limit: float) -> tuple[ThinPlace, ...]:
    """The places with the thinnest one in its place among them."""
    spot = shapely.Point(thinnest.at)
    for k, place in enumerate(places):
        if not (place.is_needle or place.is_touching) and shapely.dwithin(place.spine, spot, limit):
            if place.thinnest > thinnest.thinnest:
                better = replace(place, thinnest=thinnest.thinnest, at=thinnest.at, ends=thinnest.ends)
                return (better, *places[:k], *places[k + 1 :])
            return places
    return (thinnest, *places)


def _is_same_spot(place: ThinPlace, other: ThinPlace, within: float) -> bool:
    return math.dist(place.at, other.at) < within


def _lies_along(place: ThinPlace, other: ThinPlace, within: float) -> bool:
    return bool(shapely.dwithin(place.spine, shapely.Point(other.at), within)) or _is_same_spot(place, other, within)


def _first_beyond(look: _Look, side: Side, limit: float) -> ThinPlace | None:
    """The thinnest place of all, when none is below ``limit``; None when there is none within reach."""
    reach = SEARCH_GROWTH * look.halved_below(limit)
    while True:
        pause()
        step = look.finer(reach / SAMPLES_PER_LIMIT)
        samples = look.samples(step)
        looks = [(samples, facing_by_balls(samples, side, reach * COARSE_ERROR))] if len(samples) else []
        if len(look.long(step)):
            looks.append(look.facing(step, reach * COARSE_ERROR, reach * COARSE_ERROR, side))
        spots = Spots.joined([spots_of(look.rings, *one, limit / COARSE_ERROR) for one in looks])
        place = _thinnest_of(look, side, spots)
        if place is not None and place.thinnest <= look.widest:
            return place
        if reach >= look.widest:
            return None
        reach *= SEARCH_GROWTH


def _confirmed(look: _Look, side: Side, place: ThinPlace) -> ThinPlace:
    """The thinnest place when all that is as narrow as this one is surveyed, as if its width were the limit.

    What hardly stands, on rough outlines, may have been missed by samples far apart: ever finer ones look for it. For
    large shapes that would take too long.
    """
    for finer in CONFIRMED_BY:
        width = place.thinnest
        step = width / SAMPLES_PER_LIMIT / finer
        if len(look.rings) + look.length / step > WORTH_CONFIRMING:
            return place
        near, zone = _edges_near_side(look, side, width, width)
        samples = sample_walls(look.rings, step, near, zone=zone)
        if not len(samples) or pairs_within(samples, BEYOND_LIMIT * width) > WORTH_CONFIRMING_PAIRS:
            return place
        again = _thinnest_at(look, side, samples, width, 0.0)
        if again is not None and again.thinnest < (ABOUT_ALIKE * width if finer == 1.0 else width - _hardly(width)):
            place = again
    return place


def _sharpened(look: _Look, side: Side, place: ThinPlace) -> ThinPlace:
    """The place measured with very many samples where it is thinnest, and again when that led elsewhere."""
    for _ in range(MOST_STEPS):
        width = place.thinnest
        for finer in FINEST:
            samples = _samples_round(look, width / finer, np.array(place.ends), BEYOND_LIMIT * width)
            if pairs_within(samples, BEYOND_LIMIT * width) <= WORTH_SHARPENING_PAIRS:
                break
        else:
            return place
        again = _thinnest_at(look, side, samples, width, 0.0)
        if again is None or again.thinnest >= width - _hardly(width):
            return place
        place = again
    return place


def _hardly(width: float) -> float:
    return min(HARDLY * width, HARDLY_MM)


def _thinnest_of(look: _Look, side: Side, spots: Spots) -> ThinPlace | None:
    """The thinnest place at any of the spots, measured finely; None when none counts."""
    best: ThinPlace | None = None
    for some in spots.batches(PLACES_AT_A_TIME, MOST_PLACES):
        if best is not None and some.width[0] > best.thinnest * COARSE_ERROR:
            break
        pause()
        place = _measured(look, side, some)
        if place is not None and (best is None or place.thinnest < best.thinnest):
            best = place
    if best is None:
        return None
    return _followed(look, side, best)


def _followed(look: _Look, side: Side, place: ThinPlace) -> ThinPlace:
    """The place where it is thinnest: a taper may go on, thinner, where nothing was measured."""
    spot = Spots(np.array([place.thinnest]), *(np.array([end]) for end in place.ends))
    again = _measured(look, side, spot, BEYOND_LIMIT)
    return place if again is None or again.thinnest > place.thinnest else again


def _measured(look: _Look, side: Side, spots: Spots, share: float = ROUND_SHARE) -> ThinPlace | None:
    """The thinnest place at some spots, measured finely as far as a ``share`` of its width round them; None when none
    counts.

    Narrower chords that come to light beside them run under corners: their balls are not empty.
    """
    points = np.r_[spots.start, spots.end]
    narrowest, width = float(spots.width[0]) / COARSE_ERROR, float(spots.width[-1]) * COARSE_ERROR
    samples = _samples_round(look, width / SAMPLES_PER_LIMIT, points, share * width)
    thinned = len(samples) > CROWDED * len(points)
    place = _thinnest_at(look, side, samples.coarser(width / FINER) if thinned else samples, width, narrowest)
    if not thinned or place is None:
        return place
    ends = np.array(place.ends)
    samples = _samples_round(look, width / FINER, ends, 3.0 * width / FINER)
    exact = _thinnest_at(look, side, samples, place.thinnest * COARSE_ERROR, narrowest)
    return place if exact is None or exact.thinnest > place.thinnest else exact


def _samples_round(look: _Look, step: float, points: FloatArray, distance: float) -> Samples:
    near = edges_within(look.rings, points, distance, look.only)
    return sample_walls(look.rings, step, near, zone=Zone(points, distance))


def _thinnest_at(look: _Look, side: Side, samples: Samples, width: float, narrowest: float) -> ThinPlace | None:
    """The thinnest place at some samples, up to ``width`` mm and more, that is wider than ``narrowest``."""
    field = _field(samples, BEYOND_LIMIT * width, side)
    return thinnest_place(look.rings, samples, field, standing(look.rings, samples, field, side), narrowest)


def _field(samples: Samples, reach: float, side: Side) -> Field:
    return width_fields(samples, reach, side)[0 if side == "kept" else 1]


def edges_within(
    rings: Rings, points: FloatArray, distance: float, only: NDArray[np.bool_] | None = None
) -> NDArray[np.bool_]:
    """Edges (of those marked by ``only``) that may come within a distance of any of the points."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    near = np.zeros(len(rings), dtype=bool)
    if not len(points):
        return near
    (left, top), (right, bottom) = points.min(axis=0) - distance, points.max(axis=0) + distance
    low, high = np.minimum(rings.a, rings.b), np.maximum(rings.a, rings.b)
    in_box = (low[:, 0] <= right) & (high[:, 0] >= left) & (low[:, 1] <= bottom) & (high[:, 1] >= top)
    rows = np.flatnonzero(in_box if only is None else in_box & only)
    if not len(rows):
        return near
    a, b = rings.a[rows], rings.b[rows]
    half = np.hypot(b[:, 0] - a[:, 0], b[:, 1] - a[:, 1]) / 2.0
    tree = cKDTree(points, balanced_tree=False, compact_nodes=False)
    is_short = half <= distance
    for some in (np.flatnonzero(is_short), np.flatnonzero(~is_short)):  # a few long ones would have all look far
        reach = distance + half[some]
        found, _ = tree.query(
            (a[some] + b[some]) / 2.0,
            distance_upper_bound=float(reach.max(initial=0.0)),
            workers=threads_for(len(some)),
        )
        near[rows[some]] = found <= reach
    long = rows[near[rows] & (half > VERY_LONG * distance)]  # their ends lie far from what lies beside their middles
    if len(long):
        near[long] = False
        near[long[shapely.STRtree(edge_lines(rings, long)).query(shapely.points(points), "dwithin", distance)[1]]] = (
            True
        )
    return near
