"""Both width fields of a shape surveyed: what is too thin, what is thinnest, and from which limit on.

Gauges show a figure even when nothing is below the limit, so widths are searched over
growing distances, with samples thinned out accordingly, until one is found; the figure
itself is then measured with fine samples.

What counts as a taper depends on the limit asked for. The *critical limit* is therefore
the smallest limit at which any place appears that is not a needle tip; the smallest
clean scale is the film's limit over the critical one.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.inspect.places import ThinPlace, thin_places, thinnest_place
from vivid_thimble.core.inspect.touching import touching_points
from vivid_thimble.core.inspect.walls import Rings, Samples, rings_of, sample_walls
from vivid_thimble.core.inspect.widths import SAMPLES_PER_LIMIT, Field, Side, width_fields

WIDEST_SEARCH_MM = 60.0
"""Lines and gaps wider than this are no concern; the gauge then shows nothing."""
SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, with fewer samples."""
COARSE_ERROR = 1.08
"""Widths from coarse samples are off by no more than this factor."""
PRECISE = 1.003
"""The critical limit is found to twice this factor."""


@dataclass(frozen=True, eq=False)
class SideSurvey:
    """One side (kept film or waste): the places below the limit, the thinnest place of all
    (None when nothing is closer than WIDEST_SEARCH_MM), and the critical limit in mm."""

    places: tuple[ThinPlace, ...]
    thinnest: ThinPlace | None
    critical: float | None

    def shifted(self, dx: float, dy: float) -> SideSurvey:
        """The same survey when its shape lies elsewhere."""
        thinnest = self.thinnest.shifted(dx, dy) if self.thinnest else None
        return SideSurvey(tuple(place.shifted(dx, dy) for place in self.places), thinnest, self.critical)


@dataclass(frozen=True, eq=False)
class _Survey:
    rings: Rings
    samples: Samples
    kept: Field
    waste: Field
    reach: float

    @classmethod
    def coarse(cls, polygons: MultiPolygon, reach: float) -> _Survey:
        """A first look with few samples."""
        rings = rings_of(polygons)
        step = reach / SAMPLES_PER_LIMIT
        samples = sample_walls(rings, step).coarser(step)
        return cls(rings, samples, *width_fields(samples, reach), reach)

    def fine(self, line_limit: float, gap_limit: float) -> _Survey:
        """The same walls sampled for measuring, wherever the first look leaves room for a thin place.

        Facing walls open by at most 60 degrees, so between two samples the width falls by no more
        than 1.2 times their distance.
        """
        room = 1.2 * self.reach / SAMPLES_PER_LIMIT
        near = _edges_near(self, self.kept.width < line_limit + room, line_limit)
        near |= _edges_near(self, self.waste.width < gap_limit + room, gap_limit)
        samples = sample_walls(self.rings, min(line_limit, gap_limit) / SAMPLES_PER_LIMIT, near)
        reach = max(line_limit, gap_limit)
        return _Survey(self.rings, samples, *width_fields(samples, reach), reach)

    def field(self, side: Side) -> Field:
        return self.kept if side == "kept" else self.waste

    def farther(self, side: Side) -> _Survey:
        """The same walls searched over a longer distance with fewer samples."""
        reach = self.reach * SEARCH_GROWTH
        samples = self.samples.coarser(reach / SAMPLES_PER_LIMIT)
        return _Survey(self.rings, samples, *width_fields(samples, reach, side), reach)

    def places(self, field: Field, limit: float) -> list[ThinPlace]:
        return thin_places(self.rings, self.samples, field, limit)

    def thinnest(self, field: Field, limit: float) -> ThinPlace | None:
        return thinnest_place(self.rings, self.samples, field, limit)[0]


def survey_widths(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> tuple[SideSurvey, SideSurvey]:
    """Kept film against ``line_limit`` and waste against ``gap_limit`` (mm)."""
    survey = _Survey.coarse(polygons, SEARCH_GROWTH * max(line_limit, gap_limit))
    fine = survey.fine(line_limit, gap_limit)
    touching = touching_points(survey.rings)
    own = [p for p in touching if p.polygons[0] == p.polygons[1]]
    across = [p for p in touching if p.polygons[0] != p.polygons[1]]
    with ThreadPoolExecutor(2) as pool:  # the sides do not depend on each other; arrays and trees run unlocked
        lines = pool.submit(_surveyed, survey, fine, "kept", line_limit, own)
        gaps = pool.submit(_surveyed, survey, fine, "waste", gap_limit, across)
        return lines.result(), gaps.result()


def combined(sides: Sequence[SideSurvey]) -> SideSurvey:
    """One side of shapes that lie so far apart that nothing thin is between them."""
    places = sorted((place for side in sides for place in side.places), key=lambda p: (p.thinnest, p.at))
    thinnest = min((s.thinnest for s in sides if s.thinnest), key=lambda p: (p.thinnest, p.at), default=None)
    critical = min((s.critical for s in sides if s.critical is not None), default=None)
    if thinnest is not None and thinnest.thinnest <= 0.0:
        critical = None
    return SideSurvey(tuple(places), thinnest, critical)


def _surveyed(coarse: _Survey, fine: _Survey, side: Side, limit: float, touching: list[ThinPlace]) -> SideSurvey:
    """One side: what is below the limit, or else the first place beyond it."""
    found = _judged(fine, fine.field(side), limit, touching)
    if found.thinnest is not None:
        return found
    survey, low = coarse, limit
    while True:
        critical, thinnest = _first_place(survey, survey.field(side), low, survey.reach)
        if thinnest is not None or survey.reach >= WIDEST_SEARCH_MM:
            return SideSurvey(found.places, thinnest, critical)
        low, survey = survey.reach, survey.farther(side)


def _judged(survey: _Survey, field: Field, limit: float, touching: list[ThinPlace]) -> SideSurvey:
    """Everything below the limit."""
    places = tuple(sorted([*survey.places(field, limit), *touching], key=lambda p: (p.thinnest, p.at)))
    thinnest = _thinnest(places)
    if thinnest is None or thinnest.thinnest <= 0.0:
        return SideSurvey(places, thinnest, None)
    critical = _critical(survey, field, thinnest, thinnest.thinnest, limit)[0] or limit
    return SideSurvey(places, thinnest, critical)


def _first_place(survey: _Survey, field: Field, low: float, high: float) -> tuple[float | None, ThinPlace | None]:
    """The critical limit between two limits, and the thinnest place there; None when there is none."""
    if low >= high or not (field.width < high).any():
        return None, None
    place = survey.thinnest(field, high)
    return (None, None) if place is None else _critical(survey, field, place, low, high)


def _critical(
    survey: _Survey, field: Field, place: ThinPlace, low: float, high: float
) -> tuple[float | None, ThinPlace | None]:
    """Narrow the bracket of limits within which the first place appears, and that place.

    At every limit the walls are sampled as finely as a check at that size would do, but only
    where they are about that thin: nothing can be found elsewhere. None when fine samples do
    not confirm what coarse ones found.
    """
    guess = max(low, min(place.thinnest, high)) * PRECISE
    if guess >= high:
        return high, place
    # a plain thin place appears as soon as the limit passes its width: try just there, then with
    # room for the error of coarse samples, then the whole bracket
    for limit in (guess, min(COARSE_ERROR * guess, high), high):
        near = _edges_near(survey, field.width < COARSE_ERROR * limit, limit)
        found, points = _place_at(survey, field, near, limit)
        if found is not None:
            break
        low = limit
    if found is None:
        return None, None
    if limit == guess:
        return guess, found
    high, place = limit, found
    near &= _edges_within(survey.rings, points, 0.5 * high)
    while high > low * PRECISE**2:
        guess = place.thinnest * PRECISE
        limit = guess if low < guess < high else float(np.sqrt(low * high))
        found, _ = _place_at(survey, field, near, limit)
        if found is None:
            low = limit
        else:
            high, place = limit, found
            low = max(low, min(found.thinnest, high))
    return high, place


def _place_at(
    survey: _Survey, field: Field, near: NDArray[np.bool_], limit: float
) -> tuple[ThinPlace | None, FloatArray]:
    """The thinnest place at a limit, by samples as fine as that limit asks for on the marked edges."""
    samples = sample_walls(survey.rings, limit / SAMPLES_PER_LIMIT, near)
    is_kept = field is survey.kept
    fields = width_fields(samples, limit, "kept" if is_kept else "waste")
    return thinnest_place(survey.rings, samples, fields[0 if is_kept else 1], limit)


def _edges_near(survey: _Survey, thin: NDArray[np.bool_], limit: float) -> NDArray[np.bool_]:
    """Edges round the marked samples, far enough to hold all that matters at ``limit``."""
    step = float(survey.samples.half.max()) * 2.0
    return _edges_within(survey.rings, survey.samples.point[thin], limit * 1.2 + step)


def _edges_within(rings: Rings, points: FloatArray, distance: float) -> NDArray[np.bool_]:
    """Edges that may come within a distance of any of the points."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    if not len(points):
        return np.zeros(len(rings), dtype=bool)
    middle = (rings.a + rings.b) / 2.0
    reach = distance + np.hypot(*(rings.b - rings.a).T) / 2.0
    found, _ = cKDTree(points).query(middle, distance_upper_bound=float(reach.max()))
    return np.asarray(found <= reach)


def _thinnest(places: Sequence[ThinPlace]) -> ThinPlace | None:
    counted = [p for p in places if not p.is_needle]
    return min(counted, key=lambda p: p.thinnest) if counted else None
