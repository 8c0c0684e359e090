"""What each kind of step offers beside its one length, as data: choices, lengths and ticks.

Adding a step to the station means one entry in ``KINDS``.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from vivid_thimble.core.edits.remedies import usual_bridge_width
from vivid_thimble.core.job.edits import free_id
from vivid_thimble.core.job.values import Item, Job
from vivid_thimble.core.steps import (
    Band,
    Bridges,
    FillPinholes,
    Join,
    Mirror,
    RemoveSpecks,
    RoundCorners,
    Slice,
    Smooth,
    Step,
    Strengthen,
    Stretch,
    Thicken,
    Tie,
    Trim,
    Weld,
)


@dataclass(frozen=True)
class Choice:
    """One of several values."""

    attribute: str
    word: str
    name: str
    entries: tuple[tuple[Any, str], ...]


@dataclass(frozen=True)
class Length:
    """A length in the job's unit. ``square``: it is kept as an area, and shown as the side of a square."""

    attribute: str
    word: str
    name: str
    title: str
    square: bool = False


@dataclass(frozen=True)
class Switch:
    """Something that is on or off."""

    attribute: str
    word: str
    name: str


@dataclass(frozen=True)
class Others:
    """Other elements of the item, in an order, those that the step names ticked."""

    attribute: str
    word: str
    name: str
    title: str
    hint: str


@dataclass(frozen=True)
class Pieces:
    """The pieces into which the step divides, those ticked that are not left out; nothing where it divides nothing."""

    attribute: str
    word: str
    name: str
    title: str
    hint: str


Control = Choice | Length | Switch | Others | Pieces


@dataclass(frozen=True)
class Kind:
    """A kind of step: what its button says, how a new one is made, whose it can be, and its controls. ``length``: the
    attribute and title of the one length that is shown beside its name."""

    step: type[Step]
    line: str
    make: Callable[[Job, Item], Step] | None
    for_element: bool = True
    for_film: bool = False
    length: tuple[str, str] | None = None
    controls: tuple[Control, ...] = ()
    hint: str = ""

    @property
    def title(self) -> str:
        return self.step.TITLE.split()[0]


def _film_of(item: Item) -> Any:
    return item.layers[0].film


ANGLES = (
    (None, "As suits each"),
    (90.0, "All upright"),
    (0.0, "All level"),
    (45.0, "All rising"),
    (-45.0, "All falling"),
)
COUNTS = ((None, "By the middle's size"), (1, "One"), (2, "Two"), (3, "Three"), (4, "Four"))
CORNERS = (("round", "Rounded"), ("drawn", "As drawn"), ("sharp", "Sharp, whatever the angle"))
KINDS: tuple[Kind, ...] = (
    Kind(
        Join,
        "close up letters until they hold together",
        lambda job, item: Join(id=free_id("join", job), neck=_film_of(item).join_neck),
        length=("neck", "Neck"),
    ),
    Kind(
        Weld,
        "overlaps become one outline, nothing is cut through",
        lambda job, item: Weld(id=free_id("weld", job)),
        for_film=True,
    ),
    Kind(
        Thicken,
        "every edge moves out a little",
        lambda job, item: Thicken(id=free_id("thicken", job), by=0.2),
        for_film=True,
        length=("by", "Thicken by"),
        controls=(
            Choice("corners", "&Corners", "thickenCorners", CORNERS),
            Length("to", "&Just enough for", "thickenTo", "Width that every line gets"),
        ),
        hint="Just enough: type the width that every line must have; the distance is worked out at every size. "
        "Leave it empty to thicken by the distance above.",
    ),
    Kind(
        Strengthen,
        "only what is too thin gets wider",
        lambda job, item: Strengthen(
            id=free_id("strengthen", job), to=_film_of(item).thinnest_line, openings=item.is_stencil
        ),
        length=("to", "Thicken to"),
    ),
    Kind(
        Slice,
        "cut by other elements, which stay as they are",
        lambda job, item: Slice(id=free_id("slice", job)),
        controls=(
            Choice(
                "keep",
                "What &stays",
                "sliceKeep",
                (
                    ("outside", "What lies outside them"),
                    ("overlap", "What lies under them"),
                    ("divide", "All, divided"),
                ),
            ),
            Length("halo", "&Gap round them", "sliceHalo", "Gap round what cuts"),
            Others(
                "by", "Cut by", "sliceBy", "Elements that cut this one", "Cut by these, in this order; tick what cuts:"
            ),
            Pieces(
                "left_out",
                "Pieces that stay",
                "slicePieces",
                "Pieces that the element is divided into",
                "Pieces; untick those that are left out:",
            ),
        ),
    ),
    Kind(
        Bridges,
        "strips of sheet hold the middles of a stencil",
        lambda job, item: Bridges(id=free_id("bridges", job), width=usual_bridge_width(item)),
        for_film=True,
        length=("width", "Width of the bridges"),
        controls=(
            Choice("angle_deg", "They &run", "bridgeAngle", ANGLES),
            Choice("count", "Each &middle", "bridgeCount", COUNTS),
            Choice(
                "style", "S&hape", "bridgeStyle", (("straight", "Straight strips"), ("curved", "Bent along an arc"))
            ),
            Switch("feet", "Feet &widen into the sheet", "bridgeFeet"),
            Length(
                "dropped_area",
                "&Drop up to",
                "bridgeDropped",
                "Middles up to this size across drop out",
                square=True,
            ),
        ),
        hint="Bridges keep their width at every size.",
    ),
    Kind(
        Band,
        "only a band along every edge stays",
        lambda job, item: Band(id=free_id("band", job)),
        length=("width", "Width of the band"),
        controls=(
            Choice(
                "side",
                "It &lies",
                "bandSide",
                (("outside", "Outside the edge"), ("centred", "On the edge"), ("inside", "Inside the edge")),
            ),
        ),
    ),
    Kind(
        RoundCorners,
        "corners get a radius, so that thick sheet does not tear",
        lambda job, item: RoundCorners(id=free_id("round", job)),
        for_film=True,
        length=("by", "Radius of the corners"),
    ),
    Kind(
        FillPinholes,
        "small holes are closed",
        lambda job, item: FillPinholes(id=free_id("pinholes", job), area=_film_of(item).smallest_area),
        controls=(Length("area", "Holes &up to", "fillUpTo", "Holes up to this size across", square=True),),
    ),
    Kind(
        Smooth,
        "ripples of a rough face or trace go, corners stay",
        lambda job, item: Smooth(id=free_id("smooth", job), by=0.15),
        length=("by", "Smooth within"),
    ),
    Kind(
        Mirror,
        "turned over",
        lambda job, item: Mirror(id=free_id("mirror", job)),
        controls=(
            Choice(
                "across", "&Turned", "mirrorAcross", (("sideways", "Left for right"), ("upside-down", "Top for bottom"))
            ),
        ),
    ),
    Kind(
        Trim,
        "gives way where upper films cover it",
        lambda job, item: Trim(id=free_id("trim", job)),
        for_element=False,
        for_film=True,
        length=("trap", "Overlap that stays"),
    ),
    Kind(Stretch, "", None),
    Kind(Tie, "", None, length=("width", "Width of the strips")),
    Kind(
        RemoveSpecks,
        "",
        None,
        controls=(Length("area", "Specks &up to", "specksUpTo", "Specks up to this size across", square=True),),
    ),
)


def kind_of(step: Step) -> Kind:
    return next(kind for kind in KINDS if kind.step is type(step))
