"""A drawing into film: what of it is seen, in which film it goes, cleaned at the final size.

Parts are taken in painting order. White shapes over others are knock-outs: they remove what lies below
instead of becoming pieces. A drawing that is white throughout is taken as the shape itself. One film takes all
visible colours together and keeps the drawing's own curves; several films share the curves where they abut.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import ClassVar, Literal

import numpy as np
import shapely
from msgspec import Struct
from shapely import MultiPolygon

from vivid_thimble.core.errors import NothingToDraw
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of
from vivid_thimble.core.geometry.path import Box, Path, box_round
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.seams import without_hairlines
from vivid_thimble.core.geometry.shared_edges.mosaic import mosaic
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.ranges import FilmNumber, Films, Fine, Number
from vivid_thimble.core.sources.cleaning import UNTOUCHED, Cleaned, Cleaning, cleaned_parts, hidden_parts, told_parts
from vivid_thimble.core.sources.colours import film_of
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart, is_white
from vivid_thimble.core.sources.line_work import LineWork, guessed_lines, with_lines_as
from vivid_thimble.core.sources.page import is_far_off
from vivid_thimble.core.sources.painting import PaintedArea, painted_areas, visible_by_colour
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.core.sources.source import OfAnother, OneFile, SourceKind
from vivid_thimble.core.sources.tidy import tidy, tidy_side_by_side

WORKING_SIZE_MM = 400.0
"""Drawings are resolved at about this size; crossings found there stay exact enough for banners."""
JOIN_MM = 0.3
"""Ends of outlines to be filled that are this close at the final size belong together."""
Reading = Literal["picture", "parts"]


class Artwork(OneFile, Struct, frozen=True, tag="artwork", kw_only=True):
    """A downloaded drawing kept with the job: the key of its file, the name it came with, and how it is taken.

    ``page`` counts from 0. ``reading``: the visible picture, or each part whole. ``line_width`` in mm holds for
    widened lines. ``left_out`` are numbers of parts. ``colour_films`` tells the film of a colour (#rrggbb), LEFT_OUT
    for none; colours that it does not name go with the nearest one that it does, or to the first film.
    """

    asset: str
    name: str
    page: Number = 0
    reading: Reading = "picture"
    lines: LineWork = "drawn"
    line_width: Fine = 1.0
    left_out: tuple[Number, ...] = ()
    films: Films = 1
    colour_films: tuple[tuple[str, FilmNumber], ...] = ()
    cleaning: Cleaning = UNTOUCHED
    provenance: Provenance = Provenance()

    @property
    def origin(self) -> Provenance:
        return self.provenance

    def film_shown(self, film: int) -> ArtworkFilm:
        return ArtworkFilm(artwork=self, film=film)

    @property
    def in_films(self) -> bool:
        """Whether colours matter: there are several films, or some colours are left out."""
        return self.films > 1 or bool(self.colour_films)


def artwork_for(drawing: Drawing, asset: str, name: str) -> Artwork:
    """How a drawing that has just been opened is taken: cleaned, its lines as they most likely are meant."""
    return Artwork(asset=asset, name=name, lines=guessed_lines(drawing), cleaning=Cleaning())


class ArtworkShare(OfAnother, Struct, frozen=True, tag="artwork-share", kw_only=True):
    """What a further film shows of a drawing; ``of`` is the element that holds it."""

    WORD: ClassVar[str] = "film"
    IS_LISTED: ClassVar[bool] = False
    of: str
    film: FilmNumber

    def led_by(self, leader: SourceKind) -> SourceKind | None:
        return leader.film_shown(self.film)


class ArtworkFilm(SourceKind, Struct, frozen=True, tag="artwork-film", kw_only=True):
    """A share together with its drawing, as it is evaluated."""

    artwork: Artwork
    film: FilmNumber


@dataclass(frozen=True, eq=False)
class Painted:
    """A drawing at its working scale, cleaned as far as no size is needed, and the area that each part covers."""

    drawing: Drawing
    """As it was read."""
    parts: tuple[DrawingPart, ...]
    areas: tuple[Region, ...]
    report: tuple[Cleaned, ...]
    outlines: Path
    """The filled outlines as they came."""


@dataclass(frozen=True, eq=False)
class Prepared:
    """A drawing at its working scale before anything that depends on the final size.

    Exactly one of ``one``, ``films`` and ``parts`` is filled. ``frame`` is what width and height mean.
    """

    frame: Box
    one: Region | None = None
    films: tuple[MultiPolygon, ...] = ()
    parts: Parts = ()
    report: tuple[Cleaned, ...] = ()
    outlines: Path = field(default_factory=Path)
    """The filled outlines as they came."""


def painted(drawing: Drawing, artwork: Artwork, least_width: float = 0.0) -> Painted:
    """What each part covers, with the report of what was cleaned on the way.

    ``least_width`` in the drawing's units holds for widened lines.
    """
    scale = Affine.scaling(working_scale(drawing))
    taken = _taken(drawing, artwork, least_width)
    taken, report = cleaned_parts(taken, artwork.cleaning, by_lines=artwork.lines == "widened")
    areas = painted_areas(taken.parts, scale)
    parts = list(taken.parts)
    hidden = hidden_parts(parts, [area.polygons for area in areas])
    report += told_parts("hidden", hidden, artwork.cleaning.hidden, parts)
    if hidden and artwork.cleaning.hidden:
        gone = set(hidden)
        parts = [part for k, part in enumerate(parts) if k not in gone]
        areas = [area for k, area in enumerate(areas) if k not in gone]
    outlines = Path.joined(p.lines.transformed(scale) for p in parts if p.stroke is None and not p.is_white)
    told = tuple(one.placed(scale) for one in report)
    return Painted(drawing, tuple(parts), tuple(areas), told, outlines)


def visible_colours(found: Painted) -> dict[Colour, MultiPolygon]:
    """Where each colour shows under what lies over it, in painting order; white left out when it cuts away."""
    return _visible(found.parts, found.areas)


def prepared(found: Painted, artwork: Artwork, colours: Mapping[Colour, MultiPolygon] | None = None) -> Prepared:
    """What is seen of a drawing, by film or part; ``colours`` are its visible ones if known already.

    Raises NothingToDraw when nothing is left.
    """
    if artwork.reading == "parts":
        return _as_parts(found, artwork.name)
    if artwork.in_films:
        return _as_films(found, visible_colours(found) if colours is None else colours, artwork)
    region = _one_film(found.parts, found.areas)
    if region.bounds is None:
        raise NothingToDraw(_why_empty(found.drawing, artwork.name))
    return Prepared(region.bounds, one=region, report=found.report, outlines=found.outlines)


def line_frame(drawing: Drawing) -> Box:
    """The box round all lines at the working scale: what sizes mean when lines are widened."""
    box = Path.joined(part.lines for part in drawing.parts).bounds
    if box is None:
        raise NothingToDraw("The drawing has no lines: choose another.")
    left, top, right, bottom = (edge * working_scale(drawing) for edge in box)
    return left, top, right, bottom


def _taken(drawing: Drawing, artwork: Artwork, least_width: float) -> Drawing:
    out = set(artwork.left_out)
    chosen = tuple(part for k, part in enumerate(drawing.parts) if k not in out)
    reach = JOIN_MM / working_scale(drawing)
    return with_lines_as(replace(drawing, parts=chosen), artwork.lines, least_width, reach)


def _as_parts(found: Painted, name: str) -> Prepared:
    """Each part whole, as it was drawn; white ones are left out when anything else is there."""
    inked = has_ink(found.parts)
    pairs = zip(found.parts, found.areas, strict=True)
    shown = tuple(Part(part.name, area) for part, area in pairs if (part.inks or not inked) and not area.is_empty)
    box = bounds_of(shown)
    if box is None:
        raise NothingToDraw(_why_empty(found.drawing, name))
    return Prepared(box, parts=shown, report=found.report, outlines=found.outlines)


def _as_films(found: Painted, colours: Mapping[Colour, MultiPolygon], artwork: Artwork) -> Prepared:
    """The visible picture parted by film."""
    films: list[list[MultiPolygon]] = [[] for _ in range(artwork.films)]
    for colour, area in colours.items():
        film = film_of(colour, artwork)
        if 0 <= film < artwork.films:
            films[film].append(area)
    held = tuple(polygons_of(shapely.union_all(pieces)) if pieces else MultiPolygon() for pieces in films)
    if all(area.is_empty for area in held):
        raise NothingToDraw(f"Every colour of {artwork.name} is left out: give at least one to a film.")
    left, top, right, bottom = np.array([area.bounds for area in held if not area.is_empty]).T
    frame = float(left.min()), float(top.min()), float(right.max()), float(bottom.max())
    return Prepared(frame, films=held, report=found.report, outlines=found.outlines)


def finished(found: Prepared, artwork: Artwork, factor: float) -> tuple[tuple[Parts, ...], tuple[Cleaned, ...]]:
    """The parts of each film at the final size (``factor`` times the working scale), cleaned, and the whole report."""
    scale = Affine.scaling(factor)
    before = [one.placed(scale) for one in found.report]
    if found.one is not None:
        region, report = tidy(found.one.transformed(scale), artwork.cleaning)
        return ((Part(artwork.name, region),),), (*before, *report)
    if found.parts:
        parts, told = [], []
        for part in found.parts:
            region, report = tidy(part.region.transformed(scale), artwork.cleaning)
            parts.append(Part(part.label, region))
            told += report
        return (tuple(parts),), (*before, *_summed(told))
    grown = [polygons_of(shapely.transform(area, lambda points: points * factor)) for area in found.films]
    regions, report = tidy_side_by_side(grown, artwork.cleaning)  # their common edges are the same curves
    films = tuple(() if region.is_empty else (Part(artwork.name, region),) for region in regions)
    return films, (*before, *report)


def _summed(told: Sequence[Cleaned]) -> list[Cleaned]:
    """The reports of many parts as one."""
    found: dict[str, Cleaned] = {}
    for one in told:
        if one.kind not in found:
            found[one.kind] = one
            continue
        held = found[one.kind]
        found[one.kind] = replace(
            held,
            count=held.count + one.count,
            at=(*held.at, *one.at),
            before=None if held.before is None else held.before + (one.before or 0),
            after=None if held.after is None else held.after + (one.after or 0),
        )
    return list(found.values())


def working_scale(drawing: Drawing) -> float:
    """A scale at which a drawing of any units is WORKING_SIZE_MM large, so that tolerances fit it."""
    box = drawing.page if is_far_off(drawing) else box_round(part.lines.bounds for part in drawing.parts)
    largest = max(box[2] - box[0], box[3] - box[1]) if box is not None else 0.0
    return WORKING_SIZE_MM / largest if largest > 0.0 else 1.0


def film_region(
    drawing: Drawing, affine: Affine, name: str = "The drawing", areas: Sequence[Region] | None = None
) -> Region:
    """All visible colours as one region, mapped by ``affine``, without hairlines where shapes nearly meet.

    ``areas`` are those of the parts if known already. Raises NothingToDraw when nothing that can be cut is left.
    """
    kept = _one_film(drawing.parts, painted_areas(drawing.parts, affine) if areas is None else areas)
    if kept.is_empty:
        raise NothingToDraw(_why_empty(drawing, name))
    return without_hairlines(kept)


def colour_regions(
    drawing: Drawing, affine: Affine, name: str = "The drawing", areas: Sequence[Region] | None = None
) -> dict[Colour, Region]:
    """What is visible of each colour after painting order, white left out: regions that share their edges.

    ``areas`` are those of the parts if known already. Raises NothingToDraw when nothing that can be cut is left.
    """
    visible = _visible(drawing.parts, painted_areas(drawing.parts, affine) if areas is None else areas)
    regions = dict(zip(visible, mosaic(list(visible.values())), strict=True))
    regions = {colour: region for colour, region in regions.items() if not region.is_empty}
    if not regions:
        raise NothingToDraw(_why_empty(drawing, name))
    return regions


def _one_film(parts: Sequence[DrawingPart], areas: Sequence[Region]) -> Region:
    """Everything that is seen, white cutting away, with the curves that the drawing has."""
    white_cuts = has_ink(parts)
    over = np.array([part.is_white and white_cuts for part in parts], dtype=bool)
    inks = [k for k, part in enumerate(parts) if not over[k] and (part.inks or not white_cuts)]
    whites = np.flatnonzero(over)
    tree = shapely.STRtree([areas[int(k)].polygons for k in whites])
    seen = []
    for k in inks:
        pause()
        near = whites[tree.query(areas[k].polygons, predicate="intersects")]
        seen.append(difference(areas[k], [areas[j] for j in sorted(near.tolist()) if j > k]))
    return union(seen)


def _visible(parts: Sequence[DrawingPart], areas: Sequence[Region]) -> dict[Colour, MultiPolygon]:
    white_cuts = has_ink(parts)
    painted = [
        PaintedArea(part.colour, part.own_opacity, area.polygons, part.veils)
        for part, area in zip(parts, areas, strict=True)
    ]
    return {c: area for c, area in visible_by_colour(painted).items() if not (white_cuts and is_white(c))}


def has_ink(parts: Iterable[DrawingPart]) -> bool:
    """Whether a drawing shows anything on white paper; one that is white throughout is taken as the shape itself."""
    return any(part.inks for part in parts)


def _why_empty(drawing: Drawing, name: str) -> str:
    missing = ", ".join(f"{count} x {what}" for what, count in drawing.not_understood.items())
    hint = f" (found: {missing})" if missing else ""
    if any(part.stroke is not None for part in drawing.parts):
        hint = f"{hint}, only lines without width: take its lines as outlines to be filled or as lines to be widened"
        return f"{name} holds no area to cut{hint}."
    return f"{name} holds no shape to cut{hint}: choose another drawing."
