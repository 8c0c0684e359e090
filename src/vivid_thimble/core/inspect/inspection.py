"""The whole inspection of one layer at its final size.

``inspect_shape`` measures and judges: thinnest line and gap with their places, kept
and waste pieces, islands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

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
from vivid_thimble.core.inspect.places import ThinPlace
from vivid_thimble.core.inspect.survey import SideSurvey, survey_widths


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


def inspect_shape(
    polygons: MultiPolygon,
    limits: Limits,
    *,
    is_sheet: bool,
    weeding_box: Box,
    surveys: tuple[SideSurvey, SideSurvey] | None = None,
) -> Inspection:
    """Measure and judge kept film ``polygons``; ``is_sheet`` when they are a stencil's sheet.

    ``surveys`` of lines and gaps are taken as given when they are known already. Empty film gives
    an inspection without figures or findings.
    """
    if polygons.is_empty:
        return Inspection((), None, None, None, None, (), (), (), None)
    lines, gaps = surveys or survey_widths(polygons, limits.line, limits.gap)
    kept = kept_pieces(polygons, limits.circle)
    waste = waste_pieces(polygons, weeding_box, limits.circle)
    if is_sheet:
        waste = [piece for piece in waste if not piece.is_surround]
    loose = _loose(polygons, kept) if is_sheet else []
    findings = [_line_finding(place, limits.line) for place in lines.places]
    findings += [_gap_finding(place, limits.gap) for place in gaps.places]
    findings += _small_findings(kept, loose, limits)
    findings += [_loose_finding(piece) for piece in loose]
    return Inspection(
        findings=tuple(sorted(findings, key=order_of)),
        thinnest_line=lines.thinnest.thinnest if lines.thinnest else None,
        thinnest_gap=gaps.thinnest.thinnest if gaps.thinnest else None,
        thinnest_line_at=lines.thinnest,
        thinnest_gap_at=gaps.thinnest,
        kept=tuple(kept),
        waste=tuple(waste),
        loose=tuple(loose),
        smallest_clean_scale=_clean_scale(lines, gaps, kept, loose, limits),
    )


def _loose(polygons: MultiPolygon, kept: Sequence[Piece]) -> list[Piece]:
    loose = set(islands(polygons))
    return [piece for piece in kept if piece.index in loose]


def _line_finding(place: ThinPlace, limit: float) -> Finding:
    if place.thinnest == 0.0:
        sentence = "Two parts hang together in a single point: the film tears there at any size."
        return _place_finding("thin-neck", "stop", sentence, place, limit)
    if place.is_needle:
        sentence = f"A tip runs out thinner than {limit:g} mm over {place.length:.1f} mm: it curls up while weeding."
        return _place_finding("needle-tip", "look", sentence, place, limit)
    if place.is_neck(limit):
        sentence = f"A neck is only {place.thinnest:.2f} mm wide: the film tears there."
        return _place_finding("thin-neck", "stop", sentence, place, limit)
    sentence = f"A line is only {place.thinnest:.2f} mm thin over {place.length:.1f} mm: it stretches or lifts."
    return _place_finding("thin-line", "stop", sentence, place, limit)


def _gap_finding(place: ThinPlace, limit: float) -> Finding:
    if place.thinnest == 0.0:
        sentence = "Two parts touch in a single point: the waste tears there at any size."
        return _place_finding("thin-gap", "stop", sentence, place, limit)
    if place.is_needle:
        sentence = f"A cleft runs out narrower than {limit:g} mm over {place.length:.1f} mm: waste stays in its tip."
        return _place_finding("thin-gap", "look", sentence, place, limit)
    sentence = f"A gap is only {place.thinnest:.2f} mm wide over {place.length:.1f} mm: it closes or tears."
    return _place_finding("thin-gap", "stop", sentence, place, limit)


def _place_finding(kind: Kind, severity: Severity, sentence: str, place: ThinPlace, limit: float) -> Finding:
    return Finding(
        kind, severity, sentence, place.at, width=place.thinnest, length=place.length, limit=limit, ends=place.ends,
        remedies=REMEDIES[kind] if place.thinnest > 0.0 else (),
    )  # fmt: skip


def _small_findings(kept: Sequence[Piece], loose: Sequence[Piece], limits: Limits) -> list[Finding]:
    known = {id(piece) for piece in loose}
    small = [p for p in kept if id(p) not in known and is_small(p, limits.area, limits.circle)]
    return [
        Finding(
            "small-piece", "stop", f"A piece of only {piece.area:.2f} mm² lifts with the waste and gets lost.",
            piece.at,
            width=piece.circle, area=piece.area, limit=limits.area, remedies=REMEDIES["small-piece"],
        )
        for piece in small
    ]  # fmt: skip


def _loose_finding(piece: Piece) -> Finding:
    sentence = f"A middle of {piece.area:.0f} mm² falls out: nothing ties it to the sheet."
    return Finding("loose-piece", "stop", sentence, piece.at, area=piece.area)


def _clean_scale(
    lines: SideSurvey, gaps: SideSurvey, kept: Sequence[Piece], loose: Sequence[Piece], limits: Limits
) -> float | None:
    """Scale from which no line, gap or piece is below its limit; None: no size cures what was found."""
    if loose or any(place.thinnest <= 0.0 for side in (lines, gaps) for place in side.places):
        return None
    needs = [clean_scale(piece, limits.area, limits.circle) for piece in kept]
    needs += [limits.line / lines.critical] if lines.critical else []
    needs += [limits.gap / gaps.critical] if gaps.critical else []
    return max(needs, default=None)
