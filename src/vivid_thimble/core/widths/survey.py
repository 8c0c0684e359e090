"""Both width fields of a shape surveyed: what is too thin, what is thinnest, and from which limit on.

Gauges show a figure even when nothing is below the limit, so widths are searched over
growing distances, with samples thinned out accordingly, until one is found; the figure
itself is then measured with fine samples.

The *critical limit* says from which size on a shape is clean. Going down from the film's
limit when something is thin, it is the first limit at which nothing is; going up when
nothing is thin, the first limit at which something is. Needle tips and points that touch
are left aside: no size cures them. The film's limit over the critical one is the smallest
clean scale.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from contextvars import copy_context
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.widths.field import BEYOND_LIMIT, SAMPLES_PER_LIMIT, Field, Side, width_fields
from vivid_thimble.core.widths.places import ThinPlace, first_place, thin_places, thinnest_width
from vivid_thimble.core.widths.tips import Standing, standing
from vivid_thimble.core.widths.touching import touching_points
from vivid_thimble.core.widths.walls import Rings, Samples, rings_of, sample_walls

PRECISE = 1.002
"""The critical limit is found to this factor."""
FINEST = 60.0
"""Burrs are confirmed with samples down to this share of the limit."""
SAME_SPOT_MM = 0.1
"""A hair this close to a touching point is that point."""
CONFIRMED = 1.005
"""A place is confirmed by fine samples when it counts at a limit this much above its width."""
JUST_BELOW, JUST_ABOVE = 1.0 - 1e-6, 1.0 + 1e-6
"""Limits at which a width just does not count, and just counts."""
WIDEST_SEARCH_MM = 60.0
"""Lines and gaps wider than this are no concern; the gauge then shows nothing."""
SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, with fewer samples."""
STRIDE = 1.06
"""After each spot that turned out harmless, so many times more is looked at in one go."""
WORTH_A_THREAD = 20_000
"""With fewer samples than this two threads only wait for each other."""
COARSE_ERROR = 1.08
"""Widths from coarse samples are off by no more than this factor."""

LOOKS_UP_S = 0.05
"""So often it is looked whether a survey on other threads is still wanted."""


@dataclass(frozen=True, eq=False)
class SideSurvey:
    """One side (kept film or waste): the places below the limit, the thinnest place of all
    (None when nothing is closer than WIDEST_SEARCH_MM), the critical limit in mm and its place."""

    places: tuple[ThinPlace, ...]
    thinnest: ThinPlace | None
    critical: float | None
    deciding: ThinPlace | None = None

    def shifted(self, dx: float, dy: float) -> SideSurvey:
        """The same survey when its shape lies elsewhere."""
        thinnest, deciding = (p.shifted(dx, dy) if p else None for p in (self.thinnest, self.deciding))
        return SideSurvey(tuple(place.shifted(dx, dy) for place in self.places), thinnest, self.critical, deciding)


NOTHING_FOUND = SideSurvey((), None, None)


@dataclass(frozen=True, eq=False)
class _Survey:
    rings: Rings
    samples: Samples
    kept: Field
    waste: Field
    reach: float
    only: NDArray[np.bool_] | None

    @classmethod
    def coarse(cls, rings: Rings, reach: float, only: NDArray[np.bool_] | None = None) -> _Survey:
        """A first look with few samples, on the marked edges."""
        step = reach / SAMPLES_PER_LIMIT
        samples = sample_walls(rings, step, only).coarser(step)
        return cls(rings, samples, *width_fields(samples, reach), reach, only)

    def fine(self, line_limit: float, gap_limit: float) -> _Survey:
        """The same walls sampled for measuring, wherever the first look leaves room for a thin place.

        Facing walls open by at most 60 degrees, so between two samples the width falls by no more
        than 1.2 times their distance.
        """
        room = 1.2 * self.reach / SAMPLES_PER_LIMIT
        near = _edges_near(self, self.kept.width < line_limit + room, line_limit)
        near |= _edges_near(self, self.waste.width < gap_limit + room, gap_limit)
        samples = sample_walls(self.rings, min(line_limit, gap_limit) / SAMPLES_PER_LIMIT, near)
        reach = BEYOND_LIMIT * max(line_limit, gap_limit)
        return _Survey(self.rings, samples, *width_fields(samples, reach), reach, near)

    def field(self, side: Side) -> Field:
        return self.kept if side == "kept" else self.waste

    def farther(self, side: Side) -> _Survey:
        """The same walls searched over a longer distance with fewer samples."""
        reach = self.reach * SEARCH_GROWTH
        samples = self.samples.coarser(reach / SAMPLES_PER_LIMIT)
        return _Survey(self.rings, samples, *width_fields(samples, reach, side), reach, self.only)


def survey_widths(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> tuple[SideSurvey, SideSurvey]:
    """Kept film against ``line_limit`` and waste against ``gap_limit`` (mm)."""
    return survey_walls(rings_of(polygons), line_limit, gap_limit)


def survey_walls(
    rings: Rings,
    line_limit: float,
    gap_limit: float,
    only: NDArray[np.bool_] | None = None,
    widest: float = WIDEST_SEARCH_MM,
) -> tuple[SideSurvey, SideSurvey]:
    """The same for walls at hand. With ``only`` (a mask of edges) the others are taken as absent.

    Nothing thinner than the limits being found, the search goes on to about ``widest`` mm.
    """
    if not len(rings) or (only is not None and not only.any()):
        return NOTHING_FOUND, NOTHING_FOUND
    survey = _Survey.coarse(rings, SEARCH_GROWTH * max(line_limit, gap_limit), only)
    pause()
    fine = survey.fine(line_limit, gap_limit)
    pause()
    touching = touching_points(rings, only)
    pause()
    own = [p for p in touching if p.polygons[0] == p.polygons[1]]
    across = [p for p in touching if p.polygons[0] != p.polygons[1]]
    if len(survey.samples) < WORTH_A_THREAD:
        return (
            _surveyed(survey, fine, "kept", line_limit, own, widest),
            _surveyed(survey, fine, "waste", gap_limit, across, widest),
        )
    pool = ThreadPoolExecutor(2)  # the sides do not depend on each other; large arrays and trees run unlocked
    try:
        watched = [copy_context() for _ in range(2)]
        lines = pool.submit(watched[0].run, _surveyed, survey, fine, "kept", line_limit, own, widest)
        gaps = pool.submit(watched[1].run, _surveyed, survey, fine, "waste", gap_limit, across, widest)
        while wait((lines, gaps), LOOKS_UP_S).not_done:
            pause()
        return lines.result(), gaps.result()
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


def combined(sides: Sequence[SideSurvey]) -> SideSurvey:
    """One side of shapes that lie so far apart that nothing thin is between them."""
    places = sorted((place for side in sides for place in side.places), key=lambda p: (p.thinnest, p.at))
    thinnest = min((s.thinnest for s in sides if s.thinnest), key=lambda p: (p.thinnest, p.at), default=None)
    first = min(
        (side for side in sides if side.critical is not None), key=lambda s: s.critical or 0.0, default=NOTHING_FOUND
    )
    return SideSurvey(tuple(places), thinnest, first.critical, first.deciding)


def _surveyed(
    coarse: _Survey, fine: _Survey, side: Side, limit: float, touching: list[ThinPlace], widest: float
) -> SideSurvey:
    """One side: what is below the limit, or else the first place beyond it."""
    pause()
    found = thin_places(fine.rings, fine.samples, fine.field(side), limit)
    found = [p for p in found if not (p.is_touching and any(_is_same_spot(p, point) for point in touching))]
    places = tuple(sorted([*found, *touching], key=lambda p: (p.thinnest, p.at)))
    deciding = next((place for place in found if _a_size_cures(place)), None)
    if deciding is not None:
        critical, deciding = _clean_below(fine, side, deciding, limit)
    else:
        critical, deciding = _first_beyond(coarse, side, limit, widest)
    thinnest = next((place for place in places if not place.is_needle), deciding)
    return SideSurvey(places, thinnest, critical, deciding)


def _a_size_cures(place: ThinPlace) -> bool:
    return not (place.is_needle or place.is_touching)


def _is_same_spot(place: ThinPlace, other: ThinPlace) -> bool:
    return float(np.hypot(place.at[0] - other.at[0], place.at[1] - other.at[1])) < SAME_SPOT_MM


def _clean_below(
    survey: _Survey, side: Side, thinnest: ThinPlace, high: float
) -> tuple[float | None, ThinPlace | None]:
    """The first limit, going down from the thinnest place, at which nothing counts, and what decides it.

    That place itself no longer counts there, but a burr may that is short beside greater limits.
    """
    limit = thinnest.thinnest
    judge = _Judge.near(survey, side, limit, limit / SAMPLES_PER_LIMIT)
    if not np.isfinite(judge.thinnest_width(limit * CONFIRMED)):
        # two corners came closer than any facing walls do
        return _measured(survey, side, limit, high)
    deciding = thinnest
    while np.isfinite(lower := judge.thinnest_width(limit * JUST_BELOW)):
        finer = _Judge.near(survey, side, limit, max(lower / SAMPLES_PER_LIMIT, limit / FINEST))
        lower = finer.thinnest_width(limit * JUST_BELOW)
        if not np.isfinite(lower):
            break  # what coarse samples took for a burr
        place = finer.first_place(limit * JUST_BELOW)
        if place is None:
            break  # a hair
        if not np.isfinite(finer.thinnest_width(lower * CONFIRMED)):
            return _measured(survey, side, lower, limit)  # a burr until the limit is somewhat larger
        deciding, limit, judge = place, max(lower, place.thinnest), finer
    return limit, deciding


@dataclass(frozen=True, eq=False)
class _Judge:
    """One side's walls sampled and judged about as finely as needed, for limits up to a bound."""

    rings: Rings
    samples: Samples
    field: Field
    stands: Standing

    @classmethod
    def near(cls, survey: _Survey, side: Side, limit: float, step: float) -> _Judge:
        """Samples ``step`` mm apart wherever the survey is thin for limits up to ``limit``."""
        near = _edges_near(survey, survey.field(side).width < BEYOND_LIMIT * limit, limit)
        samples = sample_walls(survey.rings, step, near)
        field = width_fields(samples, BEYOND_LIMIT * limit, side)[0 if side == "kept" else 1]
        return cls(survey.rings, samples, field, standing(survey.rings, samples, field))

    def thinnest_width(self, limit: float) -> float:
        return thinnest_width(self.rings, self.samples, self.field, self.stands, limit)

    def first_place(self, limit: float) -> ThinPlace | None:
        """The thinnest place below a limit that is no needle tip."""
        return first_place(self.rings, self.samples, self.field, self.stands, limit)


def _first_beyond(survey: _Survey, side: Side, limit: float, widest: float) -> tuple[float | None, ThinPlace | None]:
    """The smallest limit beyond ``limit`` at which anything counts, and the thinnest place there.

    Coarse samples tell where to look; what they find is measured with fine ones. None when there is
    nothing within ``widest`` mm or so.
    """
    low, stride = limit, 1.0
    while True:
        field = survey.field(side)
        stands = standing(survey.rings, survey.samples, field)
        deep = stands.firm | (stands.depth > stands.width)
        for width in np.sort(stands.width[deep & (stands.width > low / COARSE_ERROR) & np.isfinite(stands.width)]):
            if width > widest:
                return None, None
            if width * COARSE_ERROR <= low:
                continue
            high = min(max(float(width) * COARSE_ERROR, low * stride), 2.0 * survey.reach)
            critical, place = _measured(survey, side, low, high)
            if place is not None:
                return critical, place
            low, stride = high, min(stride * STRIDE, SEARCH_GROWTH)
        if survey.reach >= widest:
            return None, None
        survey = survey.farther(side)


def _measured(survey: _Survey, side: Side, low: float, high: float) -> tuple[float | None, ThinPlace | None]:
    """The smallest limit between two at which anything counts, with its thinnest place; None when nothing does."""
    judge = _Judge.near(survey, side, high, high / SAMPLES_PER_LIMIT)
    if not np.isfinite(judge.thinnest_width(high)):
        return None, None
    while high > low * PRECISE:
        width = judge.thinnest_width(high) * JUST_ABOVE
        limit = width if low < width < high else float(np.sqrt(low * high))
        if not np.isfinite(judge.thinnest_width(limit)):
            low = limit
            continue
        high = limit
        if limit == width:  # nothing that counts is thinner
            break
    return high, judge.first_place(high)


def _edges_near(survey: _Survey, thin: NDArray[np.bool_], limit: float) -> NDArray[np.bool_]:
    """Edges round the marked samples, far enough to hold all that matters at ``limit``."""
    step = float(survey.samples.half.max()) * 2.0
    return edges_within(survey.rings, survey.samples.point[thin], limit * 1.2 + step, survey.only)


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
    reach = distance + np.hypot(b[:, 0] - a[:, 0], b[:, 1] - a[:, 1]) / 2.0
    found, _ = cKDTree(points).query((a + b) / 2.0, distance_upper_bound=float(reach.max()))
    near[rows] = found <= reach
    return near
