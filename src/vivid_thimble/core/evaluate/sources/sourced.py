"""What a resolver is given, and what it makes of a source: a shape of the final size in the item's middle."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.contours import DoubledOutline, OpenOutline
from vivid_thimble.core.job.values import Assets, Element, Item, plain
from vivid_thimble.core.sources.cleaning import Cleaned
from vivid_thimble.core.sources.lettering import NO_HEIGHTS, LetterHeights
from vivid_thimble.core.steps.remarks import Remark


@dataclass(frozen=True, eq=False)
class Placed:
    """Parts, outlines of lines that are open or cut twice, and what only some kinds of source tell."""

    parts: Parts
    opened: tuple[OpenOutline, ...] = ()
    doubled: tuple[DoubledOutline, ...] = ()
    heights: LetterHeights = NO_HEIGHTS
    cleaned: tuple[Cleaned, ...] = ()
    drawing_scale: float | None = None
    baseline: float | None = None


@dataclass(frozen=True, eq=False)
class Sourced:
    """A source at its size, the content key of that, what there is to say of it, and what of a file was left out and
    how often."""

    placed: Placed
    key: str
    notes: tuple[Remark, ...] = ()
    not_understood: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, eq=False)
class Given:
    """The item, the files of the job, the cache; ``result`` evaluates another element (raises InputRefused when it is
    gone or needs this one), ``known`` tells whether there is one."""

    item: Item
    assets: Assets
    cache: Cache
    result: Callable[[str], ElementResult]
    known: Callable[[str], bool]

    @property
    def middle(self) -> tuple[float, float]:
        return self.item.width / 2.0, self.item.height / 2.0

    def placed_key(self, source_key: str, home: Element) -> str:
        """Names a source of this content in the size of an element that lies in the item's middle."""
        return content_key("placed", source_key, plain(home.placement), f"{self.item.width!r} {self.item.height!r}")


class Resolver(Protocol):
    """``home``: the element as it would lie in the item's middle; raises ThimbleError when there is no shape."""

    def __call__(self, source: Any, home: Element, given: Given) -> Sourced: ...


def laid(region: Region, place: Affine, home: Element) -> Region:
    """A region of its final size brought to its place; upright ones keep their vertices, which neighbours share."""
    if home.placement.turn_deg:
        return region.transformed(place)
    dx, dy = place.apply(np.zeros(2)).tolist()
    return region.shifted(dx, dy)
