"""A drawing as it was read: painted parts in painting order, before any decision.

A reader (SVG, DXF, PDF) fills it; ``artwork`` turns it into film. What the reader met and
does not understand is counted by name, and so is what it simplified: nothing disappears silently.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.booleans.kernels import FillRule
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.geometry.region import Region, difference, intersection, union
from vivid_thimble.core.geometry.stroke import Stroke, StrokeStyle, stroke_outlines
from vivid_thimble.core.geometry.tolerances import STROKE_MM
from vivid_thimble.core.pauses import pause

Colour = tuple[int, int, int]
"""red, green, blue, 0 to 255"""

WHITE: Colour = (255, 255, 255)
WHITE_FROM = 250
"""A colour whose three values all reach this is paper white: it cuts away."""
IDENTITY = Affine()
OPAQUE_FROM = 0.98
"""From this opacity on a colour hides what lies below it."""


def is_white(colour: Colour) -> bool:
    return min(colour) >= WHITE_FROM


def mixed(below: Colour, above: Colour, opacity: float) -> Colour:
    """What is seen where a colour lies over another."""
    r, g, b = (round(x + (y - x) * opacity) for x, y in zip(below, above, strict=True))
    return r, g, b


@dataclass(frozen=True, eq=False)
class Clip:
    """What may be seen of a part: areas added (True) or taken away (False) one after the other, all
    of it within further clips."""

    areas: tuple[tuple[DrawingPart, bool], ...]
    within: tuple[Clip, ...] = ()

    def region(self, affine: Affine) -> Region:
        """The visible area, mapped by ``affine``."""
        seen = Region()
        for part, adds in self.areas:
            area = part.region(affine)
            seen = union([seen, area]) if adds else difference(seen, [area])
        for clip in self.within:
            seen = intersection(seen, clip.region(affine))
        return seen


@dataclass(frozen=True)
class Veil:
    """A translucent group: its parts are painted over each other first, then seen through all at once."""

    number: int
    opacity: float


@dataclass(frozen=True, eq=False)
class DrawingPart:
    """One painted shape. ``own`` maps its path to the drawing's units.

    With ``stroke`` the path is a line drawn with that pen, and ``dots`` (n, 2) are its contours without
    extent; otherwise the path is filled by the rule. ``groups`` are the names of the groups round it,
    outermost first.
    """

    name: str
    path: Path
    rule: FillRule
    colour: Colour
    opacity: float = 1.0
    stroke: StrokeStyle | None = None
    dots: FloatArray | None = None
    own: Affine = IDENTITY
    clips: tuple[Clip, ...] = ()
    groups: tuple[str, ...] = ()
    veils: tuple[Veil, ...] = ()
    """The translucent groups round it, outermost first; ``opacity`` counts them in."""

    @property
    def own_opacity(self) -> float:
        """The opacity of the part alone, without the groups round it."""
        through = math.prod(veil.opacity for veil in self.veils)
        return min(self.opacity / through, 1.0) if through > 0.0 else 0.0

    @property
    def is_opaque(self) -> bool:
        return self.opacity >= OPAQUE_FROM

    @property
    def is_white(self) -> bool:
        """Whether it cuts away what lies below it."""
        return is_white(mixed((0, 0, 0), self.colour, self.opacity))

    @property
    def inks(self) -> bool:
        """Whether something is seen where it lies on white paper."""
        return not is_white(mixed(WHITE, self.colour, self.opacity))

    @property
    def lines(self) -> Path:
        """The path in the drawing's units."""
        return self.path if self.own == IDENTITY else self.path.transformed(self.own)

    def region(self, affine: Affine) -> Region:
        """The covered area, mapped by ``affine``, without regard to clips."""
        return regions_of([self], affine)[0]


def regions_of(parts: Sequence[DrawingPart], affine: Affine) -> list[Region]:
    """The area that each part covers, mapped by ``affine``, without regard to clips; strokes are drawn together."""
    maps = [part.own.then(affine) for part in parts]
    sizes = [float(np.linalg.norm([[m.a, m.b], [m.c, m.d]], 2)) for m in maps]
    strokes = [
        Stroke(part.path, part.stroke, part.dots, STROKE_MM / size)
        for part, size in zip(parts, sizes, strict=True)
        if part.stroke is not None and size > 0.0
    ]
    outlines = iter(stroke_outlines(strokes))
    found = []
    for part, whole, size in zip(parts, maps, sizes, strict=True):
        pause()
        if part.stroke is None:
            found.append(Region.from_path(part.path.transformed(whole), part.rule))
        else:
            found.append(Region.from_path(next(outlines).transformed(whole)) if size > 0.0 else Region())
    return found


@dataclass(frozen=True, eq=False)
class EmbeddedPicture:
    """A picture of pixels inside a drawing: its file's bytes, and the map from a square of side 1 to its place."""

    name: str
    data: bytes
    own: Affine = IDENTITY


@dataclass(frozen=True, eq=False)
class Drawing:
    """``mm_per_unit`` is the physical scale that the file states, or None. ``page`` is what a viewer shows of it,
    in its units. ``simplified`` counts what was taken otherwise than drawn (a gradient as one colour), ``hidden``
    what the file itself hides, ``stray`` points that draw nothing."""

    parts: tuple[DrawingPart, ...]
    mm_per_unit: float | None = None
    not_understood: Mapping[str, int] = field(default_factory=dict)
    simplified: Mapping[str, int] = field(default_factory=dict)
    page: Box | None = None
    pictures: tuple[EmbeddedPicture, ...] = ()
    hidden: int = 0
    stray: int = 0

    @property
    def colours(self) -> tuple[Colour, ...]:
        """The colours in painting order of their first use."""
        return tuple(dict.fromkeys(part.colour for part in self.parts))
