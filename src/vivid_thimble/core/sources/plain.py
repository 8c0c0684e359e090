"""Plain shapes: plates to knock words out of, frames and bands, discs, pennants."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from msgspec import Struct

from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.plain_shapes import ellipse, rectangle
from vivid_thimble.core.geometry.region import Region, difference
from vivid_thimble.core.ranges import Factor, Fraction
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.source import SourceKind

Form = Literal["rectangle", "ellipse", "pennant", "diamond"]
WORKING_MM = 100.0
"""The width in which a shape is made."""


class Plain(SourceKind, Struct, frozen=True, tag="plain", kw_only=True):
    """``ratio``: height over width. ``corner``: radius as a share of half the shorter side, 0 to 1. ``band``: only a
    band along the edge stays, its width as a share of the whole width; 0: the shape is full."""

    WORD: ClassVar[str] = "plain shape"
    form: Form = "rectangle"
    ratio: Factor = 0.6
    corner: Fraction = 0.0
    band: Fraction = 0.0


def compose_plain(plain: Plain) -> Composed:
    """The shape, sized by its outer edge."""
    wide, high = WORKING_MM, WORKING_MM * min(max(plain.ratio, 0.01), 100.0)
    outer = _outline(plain, wide, high)
    if plain.band > 0.0:
        outer = difference(outer, [offset(outer, -plain.band * WORKING_MM, corners="drawn")])
    return Composed((Part(plain.form, outer),), (0.0, 0.0, wide, high))


def _outline(plain: Plain, wide: float, high: float) -> Region:
    radius = min(max(plain.corner, 0.0), 1.0) * min(wide, high) / 2.0
    if plain.form == "rectangle":
        return rectangle((0.0, 0.0, wide, high), radius)
    if plain.form == "ellipse":
        return ellipse((0.0, 0.0, wide, high))
    corners = {
        "pennant": [(0.0, 0.0), (wide, high / 2.0), (0.0, high)],
        "diamond": [(wide / 2.0, 0.0), (wide, high / 2.0), (wide / 2.0, high), (0.0, high / 2.0)],
    }[plain.form]
    shape = Region.from_path(Path((Contour.from_points(np.array(corners)),)))
    soft = min(radius, 0.2 * min(wide, high))
    return offset(offset(shape, -soft, corners="drawn"), soft) if soft > 0.0 else shape
