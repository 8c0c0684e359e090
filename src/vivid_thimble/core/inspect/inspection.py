"""The whole inspection of one layer at its final size.

``inspect_shape`` measures and judges: thinnest line and gap with their places, kept
and waste pieces, islands.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import shapely
from shapely import MultiPolygon

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.inspect.findings import Finding, Severity, order_of
from vivid_thimble.core.inspect.pieces import (
    Piece,
    deciding_piece,
    hanging,
    is_small,
    islands,
    kept_pieces,
    waste_pieces,
)
from vivid_thimble.core.messages import Message
from vivid_thimble.core.widths.places import ThinPlace
from vivid_thimble.core.widths.survey import NOTHING_FOUND, SideSurvey, survey_widths
from vivid_thimble.core.widths.walls import DUST_HAIRS, hair_of, span_of

SPOT_MM = 0.15
"""Thin places shorter than this are called spots."""
PINHOLE_SHARE = 0.25
"""A hole below this share of the smallest kept piece is a pinhole."""


@dataclass(frozen=True)
class Limits:
    """What the film can bear, in mm and mm2."""

    line: float
    gap: float
    area: float
    circle: float


CauseKind = Literal["line", "gap", "piece"]


@dataclass(frozen=True)
class Cause:
    """What decides from which size on a design is clean: for one kind of fault the ``scale`` of the
    present size, the place that decides, its figure (mm; mm2 for areas) and the limit."""

    kind: CauseKind
    scale: float
    at: tuple[float, float]
    figure: float
    limit: float


@dataclass(frozen=True, eq=False)
class Inspection:
    """Figures (None: does not apply) and findings, worst first; causes, the deciding one first."""

    findings: tuple[Finding, ...]
    lines: SideSurvey
    gaps: SideSurvey
    kept: tuple[Piece, ...]
    waste: tuple[Piece, ...]
    loose: tuple[Piece, ...]
    causes: tuple[Cause, ...]

    @property
    def thinnest_line(self) -> float | None:
        return self.lines.thinnest.thinnest if self.lines.thinnest else None

    @property
    def thinnest_gap(self) -> float | None:
        return self.gaps.thinnest.thinnest if self.gaps.thinnest else None

    @property
    def smallest_clean_scale(self) -> float | None:
        """The smallest scale at which nothing of severity stop remains but what no size cures; None
        when nothing depends on the size."""
        return self.causes[0].scale if self.causes else None

    @property
    def incurable(self) -> tuple[Finding, ...]:
        """Findings that stay at any size: touching points, loose pieces, needle tips."""
        return tuple(f for f in self.findings if not f.cured_by_size)


def inspect_shape(
    polygons: MultiPolygon,
    limits: Limits,
    *,
    is_sheet: bool,
    weeding_box: Box,
    surveys: tuple[SideSurvey, SideSurvey] | None = None,
    carried: bool = False,
) -> Inspection:
    """Measure and judge kept film ``polygons``; ``is_sheet`` when they are a stencil's sheet.

    ``carried``: transfer tape carries loose pieces of the sheet across.
    ``surveys`` of lines and gaps are taken as given when they are known already. Empty film gives
    an inspection without figures or findings.
    """
    if polygons.is_empty:
        return Inspection((), NOTHING_FOUND, NOTHING_FOUND, (), (), (), ())
    lines, gaps = surveys or survey_widths(polygons, limits.line, limits.gap)
    kept = kept_pieces(polygons, limits.circle)
    waste = waste_pieces(polygons, weeding_box, limits.circle)
    if is_sheet:
        waste = [piece for piece in waste if not piece.is_surround]
    loose = _loose(polygons, kept) if is_sheet else []
    is_weak = any(not place.is_needle for place in lines.places)
    hung = hanging(polygons, limits.line, limits.area) if is_sheet and is_weak and not carried else []
    held = [piece for piece in kept if not any(piece is one for one in loose)]
    small = [piece for piece in held if is_small(piece, limits.area, limits.circle)]
    small_ones = {piece.index for piece in small}
    # a piece that gets lost is told once, not again for its lines and for the gaps round it
    line_places = [p for p in lines.places if not small_ones.issuperset(p.polygons)]
    gap_places = [p for p in gaps.places if small_ones.isdisjoint(p.polygons)]
    findings = [_line_finding(p, limits.line) for p in line_places if not p.is_touching]
    findings += [_gap_finding(p, limits.gap) for p in gap_places if not p.is_touching]
    findings += _touching_findings([p for p in (*line_places, *gap_places) if p.is_touching], limits)
    dust = (DUST_HAIRS * hair_of(span_of(shapely.get_coordinates(polygons)))) ** 2
    findings += [_small_finding(piece, limits.area, dust) for piece in small]
    findings += _pinhole_findings(waste, gaps, limits.area * PINHOLE_SHARE, is_sheet=is_sheet)
    findings += [_loose_finding(piece, carried=carried) for piece in loose]
    findings += [_hanging_finding(piece, limits.line) for piece in hung]
    return Inspection(
        findings=tuple(sorted(findings, key=order_of)),
        lines=lines,
        gaps=gaps,
        kept=tuple(kept),
        waste=tuple(waste),
        loose=(*loose, *hung),
        causes=_causes(lines, gaps, [piece for piece in held if piece.area > dust], limits),
    )


def _loose(polygons: MultiPolygon, kept: Sequence[Piece]) -> list[Piece]:
    loose = set(islands(polygons))
    return [piece for piece in kept if piece.index in loose]


def _line_finding(place: ThinPlace, limit: float) -> Finding:
    if place.is_needle:
        text = "A tip runs out thinner than {limit:g} mm over {length:.1f} mm: it curls up while weeding."
        told = Message.of(text, limit=limit, length=place.length)
        return _place_finding("needle-tip", "look", told, place, limit)
    if place.is_neck(limit):
        told = Message.of("A neck is {only} wide: the film tears there.", only=_only(place, limit))
        return _place_finding("thin-neck", "stop", told, place, limit)
    text = "A line is {only} wide {over}: it stretches or lifts."
    told = Message.of(text, only=_only(place, limit), over=_over(place))
    return _place_finding("thin-line", "stop", told, place, limit)


def _touching_findings(places: Sequence[ThinPlace], limits: Limits) -> list[Finding]:
    """Places where no more than a hair is between two parts, of film or of waste: noise makes the one of the other."""
    found: list[ThinPlace] = []
    for place in places:
        if all(math.dist(place.at, other.at) > limits.gap for other in found):
            found.append(place)
    told = Message("Two parts touch in a single point, or all but touch: they tear there at any size.")
    return [_place_finding("thin-neck", "stop", told, place, limits.line) for place in found]


def _gap_finding(place: ThinPlace, limit: float) -> Finding:
    if place.is_needle:
        text = "A cleft runs out narrower than {limit:g} mm over {length:.1f} mm: waste stays in its tip."
        told = Message.of(text, limit=limit, length=place.length)
        return _place_finding("cleft", "look", told, place, limit)
    text = "A gap is {only} wide {over}: it closes or tears."
    told = Message.of(text, only=_only(place, limit), over=_over(place))
    return _place_finding("thin-gap", "stop", told, place, limit)


def _only(place: ThinPlace, limit: float) -> Message:
    if round(place.thinnest, 2) >= limit:
        return Message.of("just under {limit:g} mm", limit=limit)
    return Message.of("only {width:.2f} mm", width=place.thinnest)


def _over(place: ThinPlace) -> Message:
    if place.length < SPOT_MM:
        return Message("at one spot")
    return Message.of("over {length:.1f} mm", length=place.length)


def _place_finding(kind: str, severity: Severity, told: Message, place: ThinPlace, limit: float) -> Finding:
    return Finding(
        kind, severity, told, place.at, width=place.thinnest, length=place.length, limit=limit, ends=place.ends,
        is_curable=not place.is_touching, cured_by_size=not (place.is_touching or place.is_needle),
    )  # fmt: skip


def _small_finding(piece: Piece, limit: float, dust: float) -> Finding:
    """A piece that gets lost; as small as dust no size worth cutting makes a piece of it."""
    told = Message.of("A piece of only {area:.2f} mm² lifts with the waste and gets lost.", area=piece.area)
    if piece.area <= dust:
        told = Message("A speck of dust is cut as a piece of its own: leave it out.")
    elif piece.area >= limit:
        text = "A piece is at most {width:.2f} mm across: it lifts with the waste and gets lost."
        told = Message.of(text, width=piece.circle or 0.0)
    return Finding(
        "small-piece", "stop", told, piece.at,
        width=piece.circle, area=piece.area, limit=limit, cured_by_size=piece.area > dust,
    )  # fmt: skip


def _pinhole_findings(waste: Sequence[Piece], gaps: SideSurvey, below: float, *, is_sheet: bool) -> list[Finding]:
    """Waste pieces so small that they are dirt rather than drawing, unless they are narrow gaps already."""
    told = shapely.MultiPoint([place.at for place in gaps.places])
    what = "An opening of only {area:.2f} mm² lets hardly any paint through." if is_sheet else (
        "A hole of only {area:.2f} mm² is more trouble to weed than it shows."
    )  # fmt: skip
    return [
        Finding("pinhole", "look", Message.of(what, area=piece.area), piece.at, area=piece.area, limit=below)
        for piece in waste
        if piece.area < below and not shapely.intersects(piece.polygon, told)
    ]  # fmt: skip


def _loose_finding(piece: Piece, *, carried: bool) -> Finding:
    text = "A middle of {area:.0f} mm² falls out: nothing ties it to the sheet."
    if carried:
        text = "A middle of {area:.0f} mm² is loose: transfer tape has to carry it across."
    return Finding(
        "loose-piece",
        "look" if carried else "stop",
        Message.of(text, area=piece.area),
        piece.at,
        area=piece.area,
        cured_by_size=False,
    )


def _hanging_finding(piece: Piece, limit: float) -> Finding:
    text = "A middle of {area:.0f} mm² hangs by less than {limit:g} mm: it tears off and falls out."
    told = Message.of(text, area=piece.area, limit=limit)
    return Finding("loose-piece", "stop", told, piece.at, area=piece.area, limit=limit)


def _causes(lines: SideSurvey, gaps: SideSurvey, held: Sequence[Piece], limits: Limits) -> tuple[Cause, ...]:
    """From which scale on no line, no gap and no held piece is below its limit, largest first."""
    causes = []
    sides: tuple[tuple[CauseKind, SideSurvey, float], ...]
    sides = (("line", lines, limits.line), ("gap", gaps, limits.gap))
    for kind, side, limit in sides:
        if (place := side.thinnest) is not None:
            causes.append(Cause(kind, limit / place.thinnest, place.at, place.thinnest, limit))
    piece = deciding_piece(held, limits.area, limits.circle)
    if piece is not None:
        causes.append(Cause("piece", piece[0], piece[1].at, piece[1].area, limits.area))
    return tuple(sorted(causes, key=lambda cause: -cause.scale))
