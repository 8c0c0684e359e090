"""What evaluating a job yields: shapes at the final size, problems, findings."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

import shapely

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.cut.cutting import FILM_MARGIN_MM, Cut, plan_cut
from vivid_thimble.core.finish.weeding import WeedingPlan, weeding_plan
from vivid_thimble.core.geometry.parts import Part, Parts, bounds_of
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.contours import DoubledOutline, OpenOutline
from vivid_thimble.core.inspect.findings import Accepted, Finding, Point
from vivid_thimble.core.inspect.inspection import Inspection
from vivid_thimble.core.job.values import Element, Item, Layer, mirror_reason
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.messages import Message
from vivid_thimble.core.room.thing import edges_of
from vivid_thimble.core.sources.cleaning import Cleaned
from vivid_thimble.core.sources.lettering import NO_HEIGHTS, LetterHeights
from vivid_thimble.core.steps.remarks import Remark
from vivid_thimble.core.steps.step import Shown


@dataclass(frozen=True)
class Problem:
    """A source or step that failed: where, and the sentence to show."""

    step_id: str
    message: Message

    @property
    def sentence(self) -> str:
        """In English."""
        return str(self.message)


T = TypeVar("T", bound=Shown)


def shown_of(result: ElementResult | LayerResult, kind: type[T]) -> tuple[T, ...]:
    """What the steps of an element or film found of one kind."""
    return tuple(one for one in result.shown if isinstance(one, kind))


@dataclass(frozen=True, eq=False)
class ElementResult:
    """``letters``: the placed source before any step; ``parts``: after its steps."""

    element: Element
    letters: Parts
    parts: Parts
    problems: tuple[Problem, ...]
    notes: tuple[Remark, ...]
    open_outlines: tuple[OpenOutline, ...]
    doubled_outlines: tuple[DoubledOutline, ...]
    key: str
    home_parts: Parts = ()
    """``parts`` as they are before the element is moved to its place, and the key of that."""
    home_key: str = ""
    heights: LetterHeights = NO_HEIGHTS
    """Heights of the letters in mm, for words."""
    cleaned: tuple[Cleaned, ...] = ()
    """For drawings: what was found to clean, places on the item."""
    drawing_scale: float | None = None
    """For drawings: how many mm a unit of the file is on the item."""
    remarks: tuple[Remark, ...] = ()
    """What its steps have to say about their outcome."""
    shown: tuple[Shown, ...] = ()
    """What its steps found to be shown."""
    baseline: float | None = None
    """For level words: where their first baseline lies."""
    kept_box: Box | None = None
    """The box of the parts before bridges took of its edges; None when there are none at the end."""
    not_understood: tuple[tuple[str, int], ...] = ()
    """What its drawing holds and was left out, and how often."""

    @property
    def box(self) -> Box | None:
        """What its size and place mean."""
        return self.kept_box or bounds_of(self.parts)


@dataclass(frozen=True, eq=False)
class LayerResult:
    """``parts``: the design; ``kept``: the film that stays (for stencils the sheet without the design, marks included).
    ``beside``: what is cut of the same film but is no part of either, such as a sticker; ``marks``: register marks."""

    layer: Layer
    elements: tuple[ElementResult, ...]
    parts: Parts
    design: Region
    kept: Region
    problems: tuple[Problem, ...]
    inspection: Inspection
    key: str
    box: Box | None = None
    """What size and place of the design mean, on the level rectangle."""
    level: Parts = ()
    """``parts`` as they look level on a tapered side; the same ones everywhere else."""
    bend: Bend | None = None
    """How the film of a tapered side is bent; all but ``elements`` and ``level`` are as the film lies flat."""
    marks: Parts = ()
    beside: Parts = ()
    remarks: tuple[Remark, ...] = ()
    shown: tuple[Shown, ...] = ()
    """What the film's own steps found to be shown; elements have theirs."""
    sheet_box: Box | None = None
    """For stencils: the sheet without its tab, on the level rectangle."""
    waste_cuts: tuple[Path, ...] = ()
    """The weeding box and the relief cuts that are cut as well."""

    def on_film(self, at: Point) -> Point:
        """A place of the level design where it lies on the flat film."""
        return at if self.bend is None else self.bend.place(at)

    def on_item(self, at: Point) -> Point:
        """A place of the flat film where it is in the level design."""
        return at if self.bend is None else self.bend.place_back(at)

    def level_bounds(self, region: Region) -> Box | None:
        """The box of a region of the flat film on the level rectangle."""
        if self.bend is None or region.bounds is None:
            return region.bounds
        left, top, right, bottom = shapely.transform(shapely.segmentize(region.polygons, 1.0), self.bend.undone).bounds
        return left, top, right, bottom

    @property
    def is_one_strip(self) -> bool:
        """Whether its waste is one long strip, the spiral of a portrait, which no cut may part."""
        return any(element.element.source.is_one_strip for element in self.elements)

    @property
    def is_sheet(self) -> bool:
        """Whether the film is a sheet with the design cut out of it."""
        return self.sheet_box is not None

    @property
    def cut_paths(self) -> tuple[Path, ...]:
        """What the knife follows: the sheet's outline, or every part on its own while unwelded."""
        return tuple(part.region.outline for part in self.cut_parts)

    @property
    def cut_parts(self) -> Parts:
        if self.is_sheet:
            return (Part("sheet", self.kept), *self.beside)
        return (*self.parts, *self.marks, *self.beside)


@dataclass(frozen=True, eq=False)
class ItemResult:
    item: Item
    layers: tuple[LayerResult, ...]
    bounds: Box | None
    sheet_bounds: Box | None
    findings: tuple[Finding, ...]
    accepted: tuple[tuple[Finding, Accepted], ...] = ()
    """Findings that are let be, with the reason."""
    snips: tuple[tuple[Point, Point], ...] = ()
    """On a ball: where the film round the design is snipped, from its edge inwards."""

    @property
    def sheet_box(self) -> Box | None:
        """The sheet of a stencil, of the first film that has one."""
        return next((layer.sheet_box for layer in self.layers if layer.sheet_box is not None), None)

    def element(self, element_id: str) -> ElementResult | None:
        """What became of an element; None for an unknown id."""
        elements = (element for layer in self.layers for element in layer.elements)
        return next((one for one in elements if one.element.id == element_id), None)

    @property
    def margins(self) -> tuple[float, float, float, float] | None:
        """Left, right, top and bottom from the true edges of the thing to the design."""
        return None if self.bounds is None else edges_of(self.item, self.bounds)

    @property
    def spare(self) -> tuple[float, float, float, float] | None:
        """Left, right, top and bottom room between the design and the edges of its room."""
        if self.bounds is None:
            return None
        left, top, right, bottom = self.bounds
        return left, self.item.width - right, top, self.item.height - bottom

    @cached_property
    def thinnest(self) -> tuple[float | None, float | None]:
        """The thinnest line and gap of all films."""
        lines = [la.inspection.thinnest_line for la in self.layers if la.inspection.thinnest_line is not None]
        gaps = [la.inspection.thinnest_gap for la in self.layers if la.inspection.thinnest_gap is not None]
        return min(lines, default=None), min(gaps, default=None)

    @cached_property
    def smallest_clean_scale(self) -> float | None:
        """The smallest scale at which every film is clean."""
        return max((s for la in self.layers if (s := la.inspection.smallest_clean_scale) is not None), default=None)

    @cached_property
    def weedings(self) -> tuple[WeedingPlan, ...]:
        """The numbered picks of every film."""
        item = self.item
        return tuple(
            weeding_plan(
                layer.inspection,
                layer.kept.polygons,
                is_sheet=item.is_stencil,
                flipped=item.weeding_flipped,
                margin=item.weeding_box,
                parted=not layer.is_one_strip,
            )
            for layer in self.layers
        )

    @property
    def size(self) -> tuple[float, float] | None:
        if self.bounds is None:
            return None
        return self.bounds[2] - self.bounds[0], self.bounds[3] - self.bounds[1]


def film_margin(item: Item) -> float:
    """Room of film round what is cut: a stencil's sheet brings its own."""
    return 0.0 if item.is_stencil else FILM_MARGIN_MM


def cut_of(layer: LayerResult, item: Item, carrier: Carrier) -> Cut:
    """The cut of a layer as its method and side ask; see plan_cut for what is refused."""
    paths = (*layer.cut_paths, *layer.waste_cuts)
    return plan_cut(paths, layer.layer.film, carrier, margin=film_margin(item), mirror_reason=mirror_reason(item))
