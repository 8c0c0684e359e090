"""The whole inspection of one layer at its final size.

``inspect_shape`` measures and judges: thinnest line and gap with their places, kept
and waste pieces, islands, fit on the item. Gauges show a figure even when nothing is
below the limit, so widths are searched over growing distances until one is found.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.inspect.findings import REMEDIES, Finding, Kind, Severity, order_of
from vivid_thimble.core.inspect.pieces import (
    Piece,
    clean_scale,
    is_small,
    islands,
    kept_pieces,
    waste_pieces,
)
from vivid_thimble.core.inspect.places import ThinPlace, thin_places
from vivid_thimble.core.inspect.touching import touching_points
from vivid_thimble.core.inspect.walls import Rings, Samples, rings_of, sample_walls
from vivid_thimble.core.inspect.widths import SAMPLES_PER_LIMIT, Field, width_fields

WIDEST_SEARCH_MM = 60.0
"""Lines and gaps wider than this are no concern; the gauge then shows nothing."""

SEARCH_GROWTH = 2.0
"""Each search without a result looks so many times farther, on a coarser outline."""
SEARCH_LEVELS = 4
"""Steps of the limit within one search."""


@dataclass(frozen=True)
class Limits:
    """What the film can bear, in mm and mm2."""

    line: float
    gap: float
    area: float
    circle: float


@dataclass(frozen=True, eq=False)
class Inspection:
    """Figures (None: does not apply) and findings, worst first."""

    findings: tuple[Finding, ...]
    thinnest_line: float | None
    thinnest_gap: float | None
    thinnest_line_at: ThinPlace | None
    thinnest_gap_at: ThinPlace | None
    kept: tuple[Piece, ...]
    waste: tuple[Piece, ...]
    loose: tuple[Piece, ...]
    smallest_clean_scale: float | None


def inspect_shape(polygons: MultiPolygon, limits: Limits, *, is_sheet: bool, weeding_box: Box) -> Inspection:
    """Measure and judge kept film ``polygons``; ``is_sheet`` when they are a stencil's sheet.

    Empty film gives an inspection without figures or findings.
    """
    if polygons.is_empty:
        return Inspection((), None, None, None, None, (), (), (), None)
    lines, gaps = _places(polygons, limits)
    kept = kept_pieces(polygons, limits.circle)
    waste = (
        waste_pieces(polygons, weeding_box, limits.circle)
        if not is_sheet
        else [p for p in waste_pieces(polygons, weeding_box, limits.circle) if not p.is_surround]
    )
    loose = _loose(polygons, kept) if is_sheet else []
    findings = [_line_finding(p, limits.line) for p in lines if p.thinnest < limits.line]
    findings += [_gap_finding(p, limits.gap) for p in gaps if p.thinnest < limits.gap]
    findings += _small_findings(kept, loose, limits)
    findings += [_loose_finding(piece) for piece in loose]
    line = _thinnest(lines)
    gap = _thinnest(gaps)
    return Inspection(
        findings=tuple(sorted(findings, key=order_of)),
        thinnest_line=line.thinnest if line else None,
        thinnest_gap=gap.thinnest if gap else None,
        thinnest_line_at=line,
        thinnest_gap_at=gap,
        kept=tuple(kept),
        waste=tuple(waste),
        loose=tuple(loose),
        smallest_clean_scale=_clean_scale(line, gap, kept, loose, limits),
    )


def _places(polygons: MultiPolygon, limits: Limits) -> tuple[list[ThinPlace], list[ThinPlace]]:
    """Places below the limits, or the thinnest of all when there are none.

    What counts as a taper depends on the width asked for, so the thinnest place is the
    first that appears while that width grows.
    """
    reach = max(limits.line, limits.gap)
    rings, samples, (kept, waste) = _fields(polygons, reach)
    lines = thin_places(rings, samples, kept, limits.line)
    gaps = thin_places(rings, samples, waste, limits.gap)
    touching = touching_points(rings, samples)
    lines += [p for p in touching if p.polygons[0] == p.polygons[1]]
    gaps += [p for p in touching if p.polygons[0] != p.polygons[1]]
    low = min(limits.line, limits.gap)
    while (not _thinnest(lines) or not _thinnest(gaps)) and reach < WIDEST_SEARCH_MM:
        for found, field, limit in ((lines, kept, limits.line), (gaps, waste, limits.gap)):
            if not _thinnest(found):
                first = _first_place(rings, samples, field, max(low, limit), reach)
                found += [first] if first else []
        low, reach = reach, reach * SEARCH_GROWTH
        if not _thinnest(lines) or not _thinnest(gaps):
            rings, samples, (kept, waste) = _fields(_simplified(polygons, reach), reach)
    return lines, gaps


def _first_place(rings: Rings, samples: Samples, field: Field, low: float, high: float) -> ThinPlace | None:
    """The thinnest place that appears while the limit grows from ``low`` to ``high``."""
    if low >= high or not (field.width < high).any():
        return None
    for limit in np.geomspace(low, high, SEARCH_LEVELS + 1)[1:]:
        place = _thinnest(thin_places(rings, samples, field, float(limit)))
        if place:
            return place
    return None


def _fields(polygons: MultiPolygon, reach: float) -> tuple[Rings, Samples, tuple[Field, Field]]:
    rings = rings_of(polygons)
    samples = sample_walls(rings, reach / SAMPLES_PER_LIMIT)
    return rings, samples, width_fields(samples, reach)


def _simplified(polygons: MultiPolygon, reach: float) -> MultiPolygon:
    """Fewer vertices for a search over a long distance; the error stays below 0.1 % of it."""
    simple = shapely.simplify(polygons, reach / 1000.0)
    return simple if simple.geom_type == "MultiPolygon" else MultiPolygon([simple])


def _thinnest(places: Sequence[ThinPlace]) -> ThinPlace | None:
    counted = [p for p in places if not p.is_needle]
    return min(counted, key=lambda p: p.thinnest) if counted else None


def _loose(polygons: MultiPolygon, kept: Sequence[Piece]) -> list[Piece]:
    loose = set(islands(polygons))
    return [piece for piece in kept if piece.index in loose]


def _line_finding(place: ThinPlace, limit: float) -> Finding:
    if place.is_needle:
        kind: Kind = "needle-tip"
        sentence = f"A tip runs out thinner than {limit:g} mm over {place.length:.1f} mm: it curls up while weeding."
        severity: Severity = "look"
    elif place.is_neck(limit):
        kind, severity = "thin-neck", "stop"
        sentence = f"A neck is only {place.thinnest:.2f} mm wide: the film tears there."
    else:
        kind, severity = "thin-line", "stop"
        sentence = f"A line is only {place.thinnest:.2f} mm thin over {place.length:.1f} mm: it stretches or lifts."
    if place.thinnest == 0.0:
        kind, severity = "thin-neck", "stop"
        sentence = "Two parts hang together in a single point: the film tears there at any size."
    return Finding(
        kind,
        severity,
        sentence,
        place.at,
        place.thinnest,
        place.length,
        None,
        limit,
        place.ends,
        remedies=REMEDIES.get(kind, ()),
    )


def _gap_finding(place: ThinPlace, limit: float) -> Finding:
    if place.thinnest == 0.0:
        sentence = "Two parts touch in a single point: the waste tears there at any size."
    elif place.is_needle:
        sentence = f"A cleft runs out narrower than {limit:g} mm over {place.length:.1f} mm: waste stays in its tip."
        return Finding(
            "thin-gap",
            "look",
            sentence,
            place.at,
            place.thinnest,
            place.length,
            None,
            limit,
            place.ends,
            remedies=REMEDIES["thin-gap"],
        )
    else:
        sentence = f"A gap is only {place.thinnest:.2f} mm wide over {place.length:.1f} mm: it closes or tears."
    return Finding(
        "thin-gap",
        "stop",
        sentence,
        place.at,
        place.thinnest,
        place.length,
        None,
        limit,
        place.ends,
        remedies=REMEDIES["thin-gap"],
    )


def _small_findings(kept: Sequence[Piece], loose: Sequence[Piece], limits: Limits) -> list[Finding]:
    known = {id(piece) for piece in loose}
    return [
        Finding(
            "small-piece",
            "stop",
            f"A piece of only {piece.area:.2f} mm² lifts with the waste and gets lost.",
            piece.at,
            piece.circle,
            None,
            piece.area,
            limits.area,
            remedies=REMEDIES["small-piece"],
        )
        for piece in kept
        if id(piece) not in known and is_small(piece, limits.area, limits.circle)
    ]


def _loose_finding(piece: Piece) -> Finding:
    return Finding(
        "loose-piece",
        "stop",
        f"A middle of {piece.area:.0f} mm² falls out: nothing ties it to the sheet.",
        piece.at,
        None,
        None,
        piece.area,
        None,
    )


def _clean_scale(
    line: ThinPlace | None, gap: ThinPlace | None, kept: Sequence[Piece], loose: Sequence[Piece], limits: Limits
) -> float | None:
    """Scale at which the thinnest places and smallest pieces meet their limits; None: no size does."""
    if loose:
        return None
    needs = [0.0]
    for place, limit in ((line, limits.line), (gap, limits.gap)):
        if place is not None:
            if place.thinnest <= 0.0:
                return None
            needs.append(limit / place.thinnest)
    needs += [clean_scale(piece, limits.area, limits.circle) for piece in kept]
    return max(needs) or None
