"""A made-up source that is composed: a star."""

from __future__ import annotations

from typing import ClassVar

import numpy as np
from msgspec import Struct

from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.ranges import Number
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.lettering import Shaper
from vivid_thimble.core.sources.source import SourceKind


class Star(SourceKind, Struct, frozen=True, tag="star", kw_only=True):
    """So many ``points``, every other corner half as far out."""

    WORD: ClassVar[str] = "star"
    points: Number = 4


def compose_star(star: Star, shape: Shaper) -> Composed:
    turn = np.arange(2 * star.points) * np.pi / star.points
    far = np.where(np.arange(2 * star.points) % 2, 50.0, 100.0)
    corners = np.stack([far * np.cos(turn), far * np.sin(turn)], axis=1)
    return Composed((Part("star", Region.from_path(Path((Contour.from_points(corners),)))),))
