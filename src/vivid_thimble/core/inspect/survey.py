"""Both width fields of a shape surveyed: what is too thin, what is thinnest, and from which limit on.

Gauges show a figure even when nothing is below the limit, so widths are searched over
growing distances, on outlines thinned out accordingly, until one is found.

What counts as a taper depends on the limit asked for. The *critical limit* is therefore
the smallest limit at which any place appears that is not a needle tip; the smallest
clean scale is the film's limit over the critical one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.inspect.places import ThinPlace, thin_places
from vivid_thimble.core.inspect.touching import touching_points
from vivid_thimble.core.inspect.walls import Rings, Samples, rings_of, sample_walls
from vivid_thimble.core.inspect.widths import SAMPLES_PER_LIMIT, Field, width_fields

WIDEST_SEARCH_MM = 60.0
"""Lines and gaps wider than this are no concern; the gauge then shows nothing."""
SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, on a coarser outline."""
SEARCH_LEVELS = 4
"""Steps of the limit within one search, before bisection."""
BISECTIONS = 7
"""Halvings of the bracket round the critical limit: 1.19 to within 0.2 %."""


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
    def of(cls, polygons: MultiPolygon, reach: float) -> _Survey:
        rings = rings_of(polygons)
        samples = sample_walls(rings, reach / SAMPLES_PER_LIMIT)
        return cls(rings, samples, *width_fields(samples, reach), reach)

    def places(self, field: Field, limit: float) -> list[ThinPlace]:
        return thin_places(self.rings, self.samples, field, limit)


def survey_widths(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> tuple[SideSurvey, SideSurvey]:
    """Kept film against ``line_limit`` and waste against ``gap_limit`` (mm)."""
    survey = _Survey.of(polygons, max(line_limit, gap_limit))
    touching = touching_points(survey.rings, survey.samples)
    lines = _judged(survey, survey.kept, line_limit, [p for p in touching if p.polygons[0] == p.polygons[1]])
    gaps = _judged(survey, survey.waste, gap_limit, [p for p in touching if p.polygons[0] != p.polygons[1]])
    while not (lines.thinnest and gaps.thinnest) and survey.reach < WIDEST_SEARCH_MM:
        reach = survey.reach * SEARCH_GROWTH
        survey = _Survey.of(_thinned(polygons, reach), reach)
        lines, gaps = _extended(lines, survey, survey.kept), _extended(gaps, survey, survey.waste)
    return lines, gaps


def is_wide_enough(polygons: MultiPolygon, line_limit: float, gap_limit: float) -> bool:
    """Whether no place but needle tips is below its limit: the real check at one pair of limits."""
    survey = _Survey.of(polygons, max(line_limit, gap_limit))
    return not (_thinnest(survey.places(survey.kept, line_limit)) or _thinnest(survey.places(survey.waste, gap_limit)))


def _judged(survey: _Survey, field: Field, limit: float, touching: list[ThinPlace]) -> SideSurvey:
    """Everything below the limit; beyond it as far as the survey reaches."""
    places = tuple(sorted([*survey.places(field, limit), *touching], key=lambda p: (p.thinnest, p.at)))
    thinnest = _thinnest(places)
    if thinnest is None:
        critical, thinnest = _first_place(survey, field, limit, survey.reach)
    elif thinnest.thinnest <= 0.0:
        critical = None
    else:
        critical, _ = _first_place(survey, field, thinnest.thinnest, limit)
        critical = critical or limit
    return SideSurvey(places, thinnest, critical)


def _extended(side: SideSurvey, survey: _Survey, field: Field) -> SideSurvey:
    """A farther survey's answer for a side that has none yet."""
    if side.thinnest is not None:
        return side
    critical, thinnest = _first_place(survey, field, survey.reach / SEARCH_GROWTH, survey.reach)
    return SideSurvey(side.places, thinnest, critical)


def _first_place(survey: _Survey, field: Field, low: float, high: float) -> tuple[float | None, ThinPlace | None]:
    """The critical limit between two limits, and the thinnest place there."""
    if low >= high or not (field.width < high).any():
        return None, None
    for limit in np.geomspace(low, high, SEARCH_LEVELS + 1)[1:]:
        place = _thinnest(survey.places(field, float(limit)))
        if place is not None:
            return _bisected(survey, field, low, float(limit), place)
        low = float(limit)
    return None, None


def _bisected(survey: _Survey, field: Field, low: float, high: float, place: ThinPlace) -> tuple[float, ThinPlace]:
    """Narrow the bracket; a plain thin place appears as soon as the limit passes its width."""
    low = max(low, min(place.thinnest, high))
    for _ in range(BISECTIONS):
        if high / low < 1.002:
            break
        middle = float(np.sqrt(low * high))
        found = _thinnest(survey.places(field, middle))
        if found is None:
            low = middle
        else:
            high, place = middle, found
            low = min(max(low, found.thinnest), high)
    return high, place


def _thinned(polygons: MultiPolygon, reach: float) -> MultiPolygon:
    """Fewer vertices for a search over a long distance; the error stays below 0.1 % of it."""
    simple = shapely.simplify(polygons, reach / 1000.0)
    return simple if simple.geom_type == "MultiPolygon" else MultiPolygon([simple])


def _thinnest(places: Sequence[ThinPlace]) -> ThinPlace | None:
    counted = [p for p in places if not p.is_needle]
    return min(counted, key=lambda p: p.thinnest) if counted else None
