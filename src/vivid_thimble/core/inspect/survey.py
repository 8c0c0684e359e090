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
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.inspect.places import ThinPlace, thin_places, thinnest_place
from vivid_thimble.core.inspect.touching import touching_points
from vivid_thimble.core.inspect.walls import Rings, Samples, rings_of, sample_walls
from vivid_thimble.core.inspect.widths import SAMPLES_PER_LIMIT, Field, Sides, width_fields

WIDEST_SEARCH_MM = 60.0
"""Lines and gaps wider than this are no concern; the gauge then shows nothing."""
SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, with fewer samples."""
COARSE_ERROR = 1.1
"""Widths from coarse samples are at most this factor too large."""
PRECISE = 1.002
"""The critical limit is found to this factor."""
BISECTIONS = 8
"""Halvings of the bracket round the critical limit, at most."""


@dataclass(frozen=True, eq=False)
class SideSurvey:
    """One side (kept film or waste): the places below the limit, the thinnest place of all
    (None when nothing is closer than WIDEST_SEARCH_MM), and the critical limit in mm."""

    places: tuple[ThinPlace, ...]
    thinnest: ThinPlace | None
    critical: float | None


@dataclass(frozen=True, eq=False)
class _Survey:
    rings: Rings
    samples: Samples
    kept: Field
    waste: Field
    reach: float

    @classmethod
    def of(cls, polygons: MultiPolygon, reach: float, step: float) -> _Survey:
        rings = rings_of(polygons)
        samples = sample_walls(rings, step)
        return cls(rings, samples, *width_fields(samples, reach), reach)

    def farther(self, sides: Sides) -> _Survey:
        """The same walls searched over a longer distance with fewer samples."""
        reach = self.reach * SEARCH_GROWTH
        samples = self.samples.coarser(reach / SAMPLES_PER_LIMIT)
        return _Survey(self.rings, samples, *width_fields(samples, reach, sides), reach)

    def places(self, field: Field, limit: float) -> list[ThinPlace]:
        return thin_places(self.rings, self.samples, field, limit)

    def thinnest(self, field: Field, limit: float) -> ThinPlace | None:
        return thinnest_place(self.rings, self.samples, field, limit)


def survey_widths(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> tuple[SideSurvey, SideSurvey]:
    """Kept film against ``line_limit`` and waste against ``gap_limit`` (mm)."""
    survey = _Survey.of(polygons, max(line_limit, gap_limit), min(line_limit, gap_limit) / SAMPLES_PER_LIMIT)
    touching = touching_points(survey.rings, survey.samples)
    lines = _judged(survey, survey.kept, line_limit, [p for p in touching if p.polygons[0] == p.polygons[1]])
    gaps = _judged(survey, survey.waste, gap_limit, [p for p in touching if p.polygons[0] != p.polygons[1]])
    while not (lines.thinnest and gaps.thinnest) and survey.reach < WIDEST_SEARCH_MM:
        sides: Sides = "waste" if lines.thinnest else "kept" if gaps.thinnest else "both"
        survey = survey.farther(sides)
        lines, gaps = _extended(lines, survey, survey.kept), _extended(gaps, survey, survey.waste)
    return lines, gaps


def _judged(survey: _Survey, field: Field, limit: float, touching: list[ThinPlace]) -> SideSurvey:
    """Everything below the limit; beyond it as far as the survey reaches."""
    places = tuple(sorted([*survey.places(field, limit), *touching], key=lambda p: (p.thinnest, p.at)))
    thinnest = _thinnest(places)
    if thinnest is None:
        critical, thinnest = _first_place(survey, field, limit, survey.reach)
    elif thinnest.thinnest <= 0.0:
        critical = None
    else:
        critical = _critical(survey, field, thinnest, thinnest.thinnest, limit)[0] or limit
    return SideSurvey(places, thinnest, critical)


def _extended(side: SideSurvey, survey: _Survey, field: Field) -> SideSurvey:
    """A farther survey's answer for a side that has none yet."""
    if side.thinnest is not None:
        return side
    critical, thinnest = _first_place(survey, field, survey.reach / SEARCH_GROWTH, survey.reach)
    return SideSurvey(side.places, thinnest, critical)


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
    confirmed: ThinPlace | None = None
    for _ in range(BISECTIONS):
        # a plain thin place appears as soon as the limit passes its width: try just there
        low = max(low, min(place.thinnest, high))
        just = low * PRECISE
        if just >= high:
            break
        found = _place_at(survey, field, just)
        if found is not None:
            return just, found
        if confirmed is None:
            confirmed = _place_at(survey, field, high)
            if confirmed is None:
                return None, None
        low, middle = just, float(np.sqrt(just * high))
        found = _place_at(survey, field, middle)
        if found is None:
            low = middle
        else:
            high, confirmed = middle, found
        place = confirmed
    return high, confirmed or place


def _place_at(survey: _Survey, field: Field, limit: float) -> ThinPlace | None:
    """The thinnest place at a limit, by samples as fine as that limit asks for."""
    near = _edges_near_thin(survey, field, limit)
    samples = sample_walls(survey.rings, limit / SAMPLES_PER_LIMIT, near)
    is_kept = field is survey.kept
    fields = width_fields(samples, limit, "kept" if is_kept else "waste")
    return thinnest_place(survey.rings, samples, fields[0 if is_kept else 1], limit)


def _edges_near_thin(survey: _Survey, field: Field, limit: float) -> NDArray[np.bool_]:
    """Edges round every sample that may be thinner than ``limit``, far enough to hold all that matters."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    thin = field.width < COARSE_ERROR * limit
    if not thin.any():
        return np.zeros(len(survey.rings), dtype=bool)
    middle = (survey.rings.a + survey.rings.b) / 2.0
    half = np.hypot(*(survey.rings.b - survey.rings.a).T) / 2.0
    step = float(survey.samples.half.max()) * 2.0
    distance, _ = cKDTree(survey.samples.point[thin]).query(middle)
    return np.asarray(distance <= limit * 1.2 + half + step)


def _thinnest(places: Sequence[ThinPlace]) -> ThinPlace | None:
    counted = [p for p in places if not p.is_needle]
    return min(counted, key=lambda p: p.thinnest) if counted else None
