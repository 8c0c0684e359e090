"""The job: what is to be made, as frozen plain values.

job -> items -> layers -> elements (source, placement, steps). Nothing computed is
stored here; ``recipe`` evaluates it. Saved files hold these values and nothing else
(see ``formats.project``), so tags and field names are part of the file format.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Blank
from vivid_thimble.core.cache import content_key
from vivid_thimble.core.inspect.findings import Accepted
from vivid_thimble.core.lengths import Unit
from vivid_thimble.core.materials.carriers import ROLL, Carrier
from vivid_thimble.core.materials.films import (
    DECAL_FILM,
    Film,
)
from vivid_thimble.core.materials.method import STENCIL_METHODS, Method, Paint
from vivid_thimble.core.materials.surfaces import SurfaceName
from vivid_thimble.core.ranges import Axis, Factor, Near, Number, Room, Shift, Size, Turn
from vivid_thimble.core.sources.artwork import Artwork, ArtworkFilm, ArtworkShare
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.letter_grid import AnswerBands, GridBands, LetterGrid
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.monogram import Monogram
from vivid_thimble.core.sources.picture import Picture, PictureFilm
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.sources.source import SourceKind
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.steps.register import RegisterMarks

Assets = Mapping[str, bytes]
"""The files of a job by their keys."""
Side = Literal["front", "behind", "underside"]
Source = (
    Words
    | Artwork
    | ArtworkShare
    | ArtworkFilm
    | Monogram
    | LetterGrid
    | AnswerBands
    | GridBands
    | Picture
    | PictureFilm
    | LinePortrait
    | Copied
    | Plain
)
USUAL_FRAME: dict[Method, Frame] = {"screen-stencil": Frame(fit="item")}


SIZES = ("width", "height", "capital", "strip", "em")


class Placement(Struct, frozen=True, kw_only=True):
    """Where and how large an element lies. Exactly one of these tells the size, in mm: width or height
    of its inked box, height of a capital letter, ``strip`` (from the tallest letter of the face to its
    deepest tail), or ``em`` (the size of the font). ``shared`` names a size that several elements share.

    ``dx``, ``dy``: middle of the inked box from the middle of the item.
    """

    dx: Shift = 0.0
    dy: Shift = 0.0
    width: Size | None = None
    height: Size | None = None
    capital: Size | None = None
    strip: Size | None = None
    em: Size | None = None
    shared: str | None = None
    turn_deg: Turn = 0.0

    def scaled(self, factor: float) -> Placement:
        """Larger or smaller about the middle of the item; a shared size stays."""
        grown = {k: v * factor for k in SIZES if (v := getattr(self, k)) is not None}
        return replace(self, dx=self.dx * factor, dy=self.dy * factor, **grown)

    def sized(self, **size: float | str) -> Placement:
        """The same place with one size instead of the present one."""
        return replace(self, **dict.fromkeys((*SIZES, "shared")) | size)


class Element(Struct, frozen=True, kw_only=True):
    id: str
    name: str
    source: Source
    placement: Placement
    steps: tuple[Step, ...] = ()
    helps_only: bool = False
    """It is not cut itself: its shape only serves others, to slice them."""


class Layer(Struct, frozen=True, kw_only=True):
    """Everything that is cut from one film. Its steps run over all its elements together."""

    id: str
    film: Film
    elements: tuple[Element, ...] = ()
    steps: tuple[Step, ...] = ()


class Photo(Struct, frozen=True, kw_only=True):
    """A picture of the thing itself: the key of its file, and where the room for the design lies in it, in shares of
    its width and height (left, top, right, bottom)."""

    asset: str
    room: tuple[Near, Near, Near, Near] = (0.0, 0.0, 1.0, 1.0)


class Guide(Struct, frozen=True, kw_only=True):
    """A line to lay things along: upright at x = ``at`` (axis 0) or level at y = ``at`` (axis 1), in mm."""

    axis: Axis
    at: Shift


class Item(Struct, frozen=True, kw_only=True):
    """The measured blank (usable width and height) and what goes on it."""

    id: str
    name: str
    width: Size
    height: Size
    blank: Blank | None = None
    """What was measured, when the room is more than a plain rectangle; width and height follow from it."""
    colour: str = ""
    """Of the thing itself, as #rrggbb; empty: not told."""
    photo: Photo | None = None
    guides: tuple[Guide, ...] = ()
    method: Method = "decal"
    side: Side = "front"
    surround: Room = 20.0
    """Of a stencil, where its frame tells no other margin."""
    frame: Frame = Frame()
    paint: Paint = "dabbed"
    register: RegisterMarks | None = None
    weeding_box: Room | None = None
    """A rectangle is cut so many mm round the design (None: none)."""
    relief: bool = False
    """Straight cuts part the waste."""
    accepted: tuple[Accepted, ...] = ()
    """Findings that are let be, each with its reason."""
    surface: SurfaceName = "smooth"
    squeegee: Size | None = None
    """Width of the squeegee, for screens (None: not told)."""
    weeding_flipped: bool = False
    """Pull the waste in the other order than the recommended one."""
    layers: tuple[Layer, ...] = ()

    @property
    def is_stencil(self) -> bool:
        return self.method in STENCIL_METHODS


Match = Literal["letters", "width"]


class SharedSize(Struct, frozen=True, kw_only=True):
    """One size for words on several items: the same letters, or the same width.

    It is the largest with which every word keeps ``margin`` mm to the edges of its item, times ``share``.
    """

    id: str
    match: Match = "letters"
    margin: Shift = 0.0
    share: Factor = 1.0


class Job(Struct, frozen=True, kw_only=True):
    name: str
    unit: Unit = "mm"
    carrier: Carrier = ROLL
    items: tuple[Item, ...] = ()
    shared: tuple[SharedSize, ...] = ()
    for_sale: bool = False
    """What is made is sold: licences for personal use are not enough."""
    at: Number = 0
    """Number of the item in hand, counted from 0."""

    @property
    def item(self) -> Item:
        """The item in hand."""
        return self.items[min(max(self.at, 0), len(self.items) - 1)]


def new_job(name: str = "New job", width: float = 200.0, height: float = 100.0) -> Job:
    """An empty decal job on a flat item."""
    layer = Layer(id="layer-1", film=DECAL_FILM)
    return Job(name=name, items=(Item(id="item-1", name="Item", width=width, height=height, layers=(layer,)),))


def mirror_reason(item: Item) -> str | None:
    """Why the cut is mirrored, in one sentence; None when it is not."""
    if item.method == "heat-film":
        return "Mirrored: heat film is cut from behind and turned over to be pressed."
    if item.method == "screen-stencil":
        return "Mirrored: the stencil sits on the underside of the mesh."
    if item.side == "behind":
        return "Mirrored: the film sits behind the glass and is read from the other side."
    if item.side == "underside":
        return "Mirrored: the film sits on the underside and is read through the item."
    return None


def steps_of(job: Job, owner: str) -> tuple[Step, ...]:
    """The steps of an element, or of a layer of the item in hand; none for an unknown id."""
    holders: list[Layer | Element] = [*job.item.layers, *elements_of(job.item)]
    return next((one.steps for one in holders if one.id == owner), ())


def layer_of(item: Item, element_id: str) -> Layer:
    """The layer that holds an element; the first one for an unknown id."""
    return next((la for la in item.layers if any(e.id == element_id for e in la.elements)), item.layers[0])


def find_element(job: Job, element_id: str) -> Element:
    for item in job.items:
        for layer in item.layers:
            for element in layer.elements:
                if element.id == element_id:
                    return element
    raise KeyError(element_id)


S = TypeVar("S", bound=SourceKind)


def source_as(element: Element | None, kind: type[S]) -> S | None:
    """The source of an element if it is of that kind; None for everything else."""
    return element.source if element is not None and isinstance(element.source, kind) else None


def source_in(job: Job, element_id: str, kind: type[S]) -> S | None:
    """The same for an element of the item in hand by its id."""
    return source_as(next((one for one in elements_of(job.item) if one.id == element_id), None), kind)


def all_elements(job: Job) -> tuple[Element, ...]:
    """The elements of all items."""
    return tuple(e for item in job.items for e in elements_of(item))


def elements_of(item: Item) -> tuple[Element, ...]:
    return tuple(e for layer in item.layers for e in layer.elements)


def plain(value: object) -> bytes:
    """The canonical bytes of any recipe value; equal values give equal bytes."""
    return msgspec.json.encode(value, order="deterministic")


def letters_key(words: SourceKind) -> str:
    """The asset name of stored letter outlines for these words."""
    return f"letters-{content_key(plain(words))}"
