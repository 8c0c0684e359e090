"""A survey brought up to date after an edit: only its neighbourhood is measured again.

Edges that both shapes share are taken as unchanged. Whatever lies near the others, together
with all places that reach in there, is measured anew; other places and figures are kept.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.short_edges import MIXER
from vivid_thimble.core.widths.places import ThinPlace
from vivid_thimble.core.widths.survey import SideSurvey, combined, edges_within, survey_walls, thinnest_of
from vivid_thimble.core.widths.walls import Rings

LARGEST_SHARE = 0.25
"""When more of the outline than this has changed, a full survey is as quick."""
NEAR_LIMITS = 1.2
"""Places come and go only within so many limits of an edit ..."""
ROUND_LIMITS = 4.0
"""... and so many more limits of wall round them are looked at: facing walls, tips and their ends."""
FARTHEST_MM = 12.0
"""When the thinnest place elsewhere is wider than this, the search for a thinner one is a full one."""
Surveys = tuple[SideSurvey, SideSurvey]


def resurvey(before: Rings, surveys: Surveys, after: Rings, line_limit: float, gap_limit: float) -> Surveys:
    """The surveys of ``after``, given those of ``before`` with the same limits (mm)."""
    gone, come = _changed(before, after)
    if not len(gone) and not len(come):
        return surveys
    if max(len(come), len(gone)) <= LARGEST_SHARE * len(after):
        limit = max(line_limit, gap_limit)
        zone = np.concatenate([_points_on(before, gone, limit), _points_on(after, come, limit)])
        updated = _updated(after, surveys, zone, line_limit, gap_limit)
        if updated is not None:
            return updated
    return survey_walls(after, line_limit, gap_limit)


def _updated(after: Rings, surveys: Surveys, zone: FloatArray, line_limit: float, gap_limit: float) -> Surveys | None:
    """The rest of the old surveys joined with new ones of the zone; None when the rest does not tell enough."""
    limit = max(line_limit, gap_limit)
    near = NEAR_LIMITS * limit
    zone = _with_places_that_reach_in([p for side in surveys for p in side.places], zone, near)
    rests = [_rest(side, zone, near) for side in surveys]
    known = [rest.critical or 0.0 for rest in rests if rest is not None]
    if len(known) < len(rests) or max(known) > FARTHEST_MM:
        return None
    walls = edges_within(after, zone, max(near + ROUND_LIMITS * limit, NEAR_LIMITS * max(known)))
    local = survey_walls(after, line_limit, gap_limit, walls, widest=max(known))
    sides = [
        combined([rest, _inside(part, zone, near)]) for rest, part in zip(rests, local, strict=True) if rest is not None
    ]
    return sides[0], sides[1]


def _reaching_in(places: Sequence[ThinPlace], zone: FloatArray, near: float) -> NDArray[np.bool_]:
    """Which places come within ``near`` mm of any point of the zone."""
    from scipy.spatial import cKDTree  # here: it delays the window's first paint

    points, owner = _points_of(places, near)
    away, _ = cKDTree(zone).query(points, distance_upper_bound=near)
    reaching = np.zeros(len(places), dtype=bool)
    reaching[owner[np.isfinite(away)]] = True
    return reaching


def _with_places_that_reach_in(places: Sequence[ThinPlace], zone: FloatArray, near: float) -> FloatArray:
    """The zone grown by every place that reaches into it, so that each is measured as a whole."""
    while places:
        reaching = _reaching_in(places, zone, near)
        if not reaching.any():
            break
        zone = np.concatenate([zone, _points_of(_chosen(places, reaching), near)[0]])
        places = _chosen(places, ~reaching)
    return zone


def _points_of(places: Sequence[ThinPlace], step: float) -> tuple[FloatArray, IntArray]:
    """Points along the places' middle lines, at most ``step`` mm apart, with the ends of their shortest
    chords, and which place each belongs to."""
    if not places:
        return np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
    spines = shapely.segmentize([place.spine for place in places], step)
    along, owner = shapely.get_coordinates(spines, return_index=True)
    chords = np.array([(place.at, *place.ends) for place in places]).reshape(-1, 2)
    return np.concatenate([along, chords]), np.concatenate([owner, np.repeat(np.arange(len(places)), 3)])


def _rest(side: SideSurvey, zone: FloatArray, near: float) -> SideSurvey | None:
    """What of a survey still holds; None when the place that decides has to be looked for anew."""
    if side.thinnest is None or _reaching_in([side.thinnest], zone, near)[0]:
        return None
    return SideSurvey(_chosen(side.places, ~_reaching_in(side.places, zone, near)), side.thinnest)


def _inside(side: SideSurvey, zone: FloatArray, near: float) -> SideSurvey:
    """What a survey of the zone's surroundings says of the zone itself."""
    places = _chosen(side.places, _reaching_in(side.places, zone, near))
    is_inside = side.thinnest is not None and _reaching_in([side.thinnest], zone, near)[0]
    return SideSurvey(places, side.thinnest if is_inside else thinnest_of(places))


def _chosen(places: Sequence[ThinPlace], which: NDArray[np.bool_]) -> tuple[ThinPlace, ...]:
    return tuple(place for place, chosen in zip(places, which, strict=True) if chosen)


def _changed(rings: Rings, others: Rings) -> tuple[IntArray, IntArray]:
    """Edges of each that the other does not have; rings that both have are set aside first."""
    own, theirs = _fingerprints(rings), _fingerprints(others)
    rows, other_rows = _unshared(rings, own, others, theirs), _unshared(others, theirs, rings, own)
    return (
        rows[~np.isin(own[rows], theirs[other_rows])],
        other_rows[~np.isin(theirs[other_rows], own[rows])],
    )


def _unshared(rings: Rings, own: NDArray[np.uint64], others: Rings, theirs: NDArray[np.uint64]) -> IntArray:
    """Edges on rings that the others do not have just so."""
    sums, other_sums = (_sums(r, f) for r, f in ((rings, own), (others, theirs)))
    return np.flatnonzero(~np.isin(sums, other_sums)[rings.ring])


def _sums(rings: Rings, fingerprints: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """One number a ring, made of those of its edges."""
    sums = np.zeros(len(rings.ring_length), dtype=np.uint64)
    np.add.at(sums, rings.ring, fingerprints)
    return sums


def _fingerprints(rings: Rings) -> NDArray[np.uint64]:
    """A number for each edge that tells edges with other ends apart, down to the last bit of a coordinate."""
    mixed = np.zeros(len(rings), dtype=np.uint64)
    for column in (*rings.a.T, *rings.b.T):
        mixed = (mixed ^ np.ascontiguousarray(column).view(np.uint64)) * MIXER
        mixed ^= mixed >> np.uint64(29)
    return mixed


def _points_on(rings: Rings, edges: IntArray, step: float) -> FloatArray:
    """Points along the marked edges, at most ``step`` mm apart."""
    a, b = rings.a[edges], rings.b[edges]
    lines = shapely.segmentize(shapely.linestrings(np.stack([a, b], axis=1)), step)
    return np.asarray(shapely.get_coordinates(lines))
