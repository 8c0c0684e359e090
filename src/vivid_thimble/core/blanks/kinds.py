"""Kinds of blanks: which lengths a tape takes of each, and the room that is left for the design.

The design is laid out on the *level rectangle*: across along the girth at the middle of the usable
height, down along the side as the tape lies. For flat things that is the thing itself.

Every kind is two shapes: the *thing* with its true edges, which is what a hand measures from, and the
*room* on it. ``MEASURES`` tells what is measured and where the tape lies; ``usable`` is the room for the
design in mm, ``kept_free`` what lies between it and the edges of the thing on the level rectangle. Round
things have no edges at the sides: there it is the handle's edge, without a handle the line at the back,
opposite the middle of the design; on a ball the ends of the half that is seen.

A seen part is a third of the girth unless it is told otherwise: at its ends a shape looks half as wide as
it is (60 degrees away from the front).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import ClassVar, Literal, NamedTuple

from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.ranges import Percent, Room, Size

Shown = Literal["third", "half", "all"]
SHOWN_SHARE: dict[Shown, float] = {"third": 1 / 3, "half": 1 / 2, "all": 1.0}
BALL_ACROSS, BALL_DOWN = 1 / 3, 1 / 4
"""The part of a ball's girth that a design takes at most, across and down: what is seen well from the front."""
Say = Callable[[float], str]
Free = tuple[float, float, float, float]
"""Left, top, right and bottom, in mm."""


class Measure(NamedTuple):
    """One length that is taken: the field that holds it, what it is called, and where the tape lies."""

    field: str
    title: str
    tape: str
    at_least: float = 0.0
    """It must be more than this (a room that is kept free may be nothing: -1)."""


def _room(field: str, title: str, tape: str) -> Measure:
    return Measure(field, title, tape, -1.0)


class Panel(Struct, frozen=True, kw_only=True, tag="panel"):
    """A board, sign or sheet."""

    TITLE: ClassVar[str] = "Flat panel"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("width", "Width", "from edge to edge"),
        Measure("height", "Height", "from edge to edge"),
        _room("edge", "Edge", "kept free along every edge: bevel, frame, screws"),
    )
    width: Size = 300.0
    height: Size = 200.0
    edge: Room = 10.0

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.width - 2 * self.edge, self.height - 2 * self.edge), "the edges")

    @property
    def kept_free(self) -> Free:
        return (self.edge, self.edge, self.edge, self.edge)

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.width)} × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return f"{say(self.edge)} stay free along every edge."


class Strip(Struct, frozen=True, kw_only=True, tag="strip"):
    """A shelf edge, a book spine, a rail."""

    TITLE: ClassVar[str] = "Strip"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("width", "Length", "along the strip, between its ends or corners"),
        Measure("height", "Height", "across the strip where it is narrowest"),
        _room("ends", "At the ends", "kept free at both ends"),
        _room("rim", "Above, below", "kept free along both long edges"),
    )
    width: Size = 600.0
    height: Size = 30.0
    ends: Room = 10.0
    rim: Room = 2.0

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.width - 2 * self.ends, self.height - 2 * self.rim), "what stays free")

    @property
    def kept_free(self) -> Free:
        return (self.ends, self.rim, self.ends, self.rim)

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.width)} × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return f"Tallest letter and deepest tail together must fit into {say(self.usable[1])}."


class Cloth(Struct, frozen=True, kw_only=True, tag="cloth"):
    """A shirt, a bag, a flag."""

    TITLE: ClassVar[str] = "Cloth"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("width", "Seam to seam", "laid flat, from one side seam to the other"),
        Measure("height", "Collar to hem", "from the lower edge of the collar to the hem"),
        _room("collar", "Below collar", "from the collar down to where the design begins"),
        _room("seam", "From seams", "kept free beside both side seams"),
        _room("hem", "Above the hem", "kept free above the hem"),
    )
    width: Size = 460.0
    height: Size = 560.0
    collar: Room = 60.0
    seam: Room = 60.0
    hem: Room = 120.0

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.width - 2 * self.seam, self.height - self.collar - self.hem), "seams, collar and hem")

    @property
    def kept_free(self) -> Free:
        return (self.seam, self.collar, self.seam, self.hem)

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.width)} × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return f"The upper edge of the room lies {say(self.collar)} below the collar; no seam lies under a press."


class Screen(Struct, frozen=True, kw_only=True, tag="screen"):
    """Mesh in a frame."""

    TITLE: ClassVar[str] = "Screen"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("width", "Mesh width", "inside the frame, from wood to wood"),
        Measure("height", "Mesh height", "inside the frame, from wood to wood"),
        _room("well", "For the ink", "kept free along the frame, where ink and squeegee rest"),
    )
    width: Size = 400.0
    height: Size = 300.0
    well: Room = 40.0

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.width - 2 * self.well, self.height - 2 * self.well), "the room for the ink")

    @property
    def kept_free(self) -> Free:
        return (self.well, self.well, self.well, self.well)

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.width)} × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return f"The film reaches up to the frame; the design stays {say(self.well)} away from it."


class Glass(Struct, frozen=True, kw_only=True, tag="glass"):
    """A pane that is decorated on its back."""

    TITLE: ClassVar[str] = "Glass seen from behind"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("width", "Width", "of the glass that shows inside its frame"),
        Measure("height", "Height", "of the glass that shows inside its frame"),
        _room("edge", "Edge", "kept free along every edge"),
    )
    width: Size = 300.0
    height: Size = 200.0
    edge: Room = 5.0

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.width - 2 * self.edge, self.height - 2 * self.edge), "the edges")

    @property
    def kept_free(self) -> Free:
        return (self.edge, self.edge, self.edge, self.edge)

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.width)} × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return "Worked from behind and read from the front: everything is mirrored when it is cut."


class Cylinder(Struct, frozen=True, kw_only=True, tag="cylinder"):
    """A bottle, a mug, a straight lantern."""

    TITLE: ClassVar[str] = "Bottle, mug, cylinder"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("girth", "Girth", "once round, where the design will be"),
        Measure("across", "Or across", "straight across, from one side to the other, where the design will be"),
        Measure("height", "Height", "along the side, where it is straight"),
        _room("rim", "Below rim", "kept free at the top: lips and lids"),
        _room("foot", "Above foot", "kept free at the bottom"),
        _room("handle", "Handle", "width of the handle with room for fingers; 0 for none"),
    )
    girth: Size = 250.0
    height: Size = 95.0
    rim: Room = 15.0
    foot: Room = 5.0
    handle: Room = 0.0
    shown: Shown = "third"

    @property
    def across(self) -> float:
        return self.girth / math.pi

    @property
    def around(self) -> float:
        """The girth less what the handle takes."""
        return self.girth - self.handle

    @property
    def seen_width(self) -> float:
        """How much of the girth is seen well from the front."""
        return self.girth * SHOWN_SHARE["third"]

    @property
    def usable(self) -> tuple[float, float]:
        across = min(self.girth * SHOWN_SHARE[self.shown], self.around)
        return _left((across, self.height - self.rim - self.foot), "rim, foot and handle")

    @property
    def kept_free(self) -> Free:
        beside = (self.around - self.usable[0]) / 2.0
        return beside, self.rim, beside, self.foot

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.girth)} round × {say(self.height)}"

    def tell(self, say: Say) -> str:
        return (
            f"{say(self.girth / math.pi)} across. From the front {say(self.seen_width)} are seen well and "
            f"{say(self.girth / 2)} at all."
        )


class Tapered(Struct, frozen=True, kw_only=True, tag="tapered"):
    """A cup, a tumbler, a tapered lantern: straight sides, wider at one end."""

    TITLE: ClassVar[str] = "Tapered cup or lantern"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("upper", "Girth above", "once round at the upper edge"),
        Measure("across_above", "Or across", "straight across the upper edge"),
        Measure("lower", "Girth below", "once round at the lower edge"),
        Measure("across_below", "Or across", "straight across the lower edge"),
        Measure("height", "Height", "along the slope from edge to edge, tape lying on the side"),
        _room("rim", "Below rim", "kept free at the top: lips and lids"),
        _room("foot", "Above foot", "kept free at the bottom"),
        _room("handle", "Handle", "width of the handle with room for fingers; 0 for none"),
    )
    upper: Size = 280.0
    lower: Size = 200.0
    height: Size = 120.0
    rim: Room = 15.0
    foot: Room = 8.0
    handle: Room = 0.0
    shown: Shown = "third"

    @property
    def across_above(self) -> float:
        return self.upper / math.pi

    @property
    def across_below(self) -> float:
        return self.lower / math.pi

    def girth_at(self, down: float) -> float:
        """Once round, so many mm below the upper edge along the side."""
        return self.upper + (self.lower - self.upper) * down / self.height

    @property
    def middle(self) -> float:
        """How far below the upper edge the middle of the room lies."""
        return (self.rim + self.height - self.foot) / 2.0

    @property
    def girth(self) -> float:
        """Once round in the middle of the room."""
        return self.girth_at(self.middle)

    @property
    def seen_width(self) -> float:
        return self.girth * SHOWN_SHARE["third"]

    @property
    def usable(self) -> tuple[float, float]:
        if abs(self.upper - self.lower) >= math.tau * self.height:
            raise InputRefused(
                "A side cannot slope that much: measure both girths again, and the height along the side with the tape "
                "lying on it."
            )
        across = min(self.girth * SHOWN_SHARE[self.shown], self.around)
        return _left((across, self.height - self.rim - self.foot), "rim, foot and handle")

    @property
    def fan_radius(self) -> float:
        """Radius in mm of the arc that the middle of the room becomes when its side is laid flat.

        Negative when the lower girth is the larger one; infinite for a straight side. (A cone unrolls to
        a sector: its angle is the difference of the girths over the height along the side.)
        """
        slope = (self.upper - self.lower) / self.height
        return self.girth / slope if abs(slope) > 1e-9 else math.inf

    @property
    def around(self) -> float:
        """The girth in the middle of the room less what the handle takes."""
        return self.girth - self.handle

    @property
    def kept_free(self) -> Free:
        beside = (self.around - self.usable[0]) / 2.0
        return beside, self.rim, beside, self.foot

    def size(self, bare: Say, say: Say) -> str:
        return f"{bare(self.upper)}/{bare(self.lower)} round × {say(self.height)}"

    def tell(self, say: Say) -> str:
        if not math.isfinite(self.fan_radius):
            return "Both girths are alike: the side lies flat without bending."
        height = self.usable[1]
        share = 50.0 * abs(height / self.fan_radius)
        ends = ("wider", "narrower") if self.fan_radius > 0 else ("narrower", "wider")
        return (
            f"{say(self.girth)} round in the middle, {say(self.seen_width)} of it seen well from the front. The film "
            f"is bent to a radius of {say(abs(self.fan_radius))} so that lines look level: what lies at the upper edge "
            f"becomes {share:.1f} % {ends[0]}, at the lower edge {ends[1]}."
        )


class Ball(Struct, frozen=True, kw_only=True, tag="ball"):
    """A glass float, a bauble, a balloon."""

    TITLE: ClassVar[str] = "Ball, float or balloon"
    MEASURES: ClassVar[tuple[Measure, ...]] = (
        Measure("girth", "Girth", "once round at the widest place"),
        Measure("front", "Or front width", "over the front, from one side to the other: half the girth"),
        Measure("across", "Or across", "straight across, through the middle, between two books"),
        Measure("bears", "Film gives, %", "how much too long its edge may be before it creases"),
    )
    girth: Size = 380.0
    bears: Percent = 3.0
    """So many per cent of its length the edge of a film can be too long before it creases; vinyl-like film by hand."""

    @property
    def front(self) -> float:
        return self.girth / 2.0

    @property
    def across(self) -> float:
        return self.girth / math.pi

    @property
    def radius(self) -> float:
        return self.girth / math.tau

    @property
    def seen_width(self) -> float:
        return self.girth * BALL_ACROSS

    @property
    def usable(self) -> tuple[float, float]:
        return _left((self.girth * BALL_ACROSS, self.girth * BALL_DOWN), "nothing")

    @property
    def kept_free(self) -> Free:
        beside, above = (self.front - self.usable[0]) / 2.0, (self.front - self.usable[1]) / 2.0
        return beside, above, beside, above

    def size(self, bare: Say, say: Say) -> str:
        return f"{say(self.girth)} round"

    def tell(self, say: Say) -> str:
        return (
            f"{say(self.girth / math.pi)} across, {say(self.front)} over the front. Without snips a round design lies "
            f"down up to {say(self.largest(1.0, 1.0))} across, a long line of words up to "
            f"{say(self.largest(10.0, 1.0))} high."
        )

    def surplus(self, width: float, height: float) -> float:
        """By how much of its length the edge of flat film of this size is too long on the ball, 0 to 1.

        Laid down from its middle outwards, a circle at the distance s on a ball of radius R is 2 pi R sin(s / R)
        long where flat film has 2 pi s. Laid down along its middle line, the film's long edges at h above and below
        have to shrink by 1 - cos(h / R). A hand does what is better: the first for round things, the second for words.
        """
        return min(self._as_disc(math.hypot(width, height) / 2.0), self._as_band(min(width, height) / 2.0))

    def is_band(self, width: float, height: float) -> bool:
        """Whether film of this size is better laid down along its middle line."""
        return self._as_band(min(width, height) / 2.0) < self._as_disc(math.hypot(width, height) / 2.0)

    def _as_disc(self, reach: float) -> float:
        angle = min(reach / self.radius, math.pi)
        return 1.0 - math.sin(angle) / angle if angle > 1e-6 else 0.0

    def _as_band(self, half: float) -> float:
        return 1.0 - math.cos(min(half / self.radius, math.pi / 2.0))

    def largest(self, across: float, down: float) -> float:
        """How high (mm) film of these proportions may be before its edge creases."""
        low, high = 0.0, self.girth
        for _ in range(60):
            middle = (low + high) / 2.0
            fits = self.surplus(middle * across / down, middle) < self.bears / 100.0
            low, high = (middle, high) if fits else (low, middle)
        return low


Blank = Panel | Strip | Cloth | Screen | Glass | Cylinder | Tapered | Ball
BLANKS: tuple[type[Blank], ...] = (Panel, Strip, Cloth, Screen, Glass, Cylinder, Tapered, Ball)
ROUND = (Cylinder, Tapered)
OTHER_MEASURES: dict[str, tuple[str, float]] = {
    "front": ("girth", 2.0),
    "across": ("girth", math.pi),
    "across_above": ("upper", math.pi),
    "across_below": ("lower", math.pi),
}
"""Lengths that may be measured instead of a girth, and what each must be multiplied by."""


def measured(blank: Blank, field: str, value: float) -> Blank:
    """A blank with one length measured anew.

    Raises InputRefused when no room is left or the length cannot be.
    """
    import msgspec

    measure = next(one for one in type(blank).MEASURES if one.field == field)
    if not math.isfinite(value) or value <= measure.at_least or (measure.at_least < 0.0 and value < 0.0):
        raise InputRefused(f"{measure.title} cannot be {value:g}: measure {measure.tape}.")
    if field in OTHER_MEASURES:
        field, factor = OTHER_MEASURES[field]
        value *= factor
    changed = msgspec.structs.replace(blank, **{field: value})
    changed.usable  # noqa: B018  # it raises when nothing is left
    return changed


def _left(room: tuple[float, float], taken_by: str) -> tuple[float, float]:
    if min(room) <= 0.0:
        raise InputRefused(f"No room is left for the design: {taken_by} take all of it; measure again.")
    return room
