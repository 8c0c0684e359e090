"""Computed results by content key."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np
import shapely

from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.pauses import pause

T = TypeVar("T")
HOLDING_SHAPES = ("parts", "areas", "one", "films", "kept")
"""Attributes under which results keep their shapes."""
HOLDING_PIXELS = ("pixels", "alpha", "coverage", "labels", "picture")
"""And their arrays."""
BYTES_A_VERTEX = 64
"""So many bytes of an array weigh as much as a vertex, which brings a share of its curves along."""


class Cache:
    """Results by content key, the least recently used dropped first; safe between threads.

    Bounded by their number and by the vertices of all the shapes in them.
    """

    def __init__(self, most: int = 4000, most_vertices: int = 4_000_000) -> None:
        self._most, self._most_vertices = most, most_vertices
        self._vertices: dict[str, int] = {}
        self._total = 0
        self._values: OrderedDict[str, Any] = OrderedDict()
        self._lock = threading.Lock()
        self.hits = self.misses = 0

    def get(self, key: str, make: Callable[[], T]) -> T:
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                self.hits += 1
                found: T = self._values[key]
                return found
        self.misses += 1
        pause()
        value = make()
        with self._lock:
            self._keep(key, value)
        return value

    def _keep(self, key: str, value: object) -> None:
        self._total += (weight := vertices_in(value)) - self._vertices.pop(key, 0)
        self._values[key], self._vertices[key] = value, weight
        while len(self._values) > self._most or (self._total > self._most_vertices and len(self._values) > 1):
            dropped, _ = self._values.popitem(last=False)
            self._total -= self._vertices.pop(dropped)

    def renewed(self, slot: str, renew: Callable[[T | None], T]) -> T:
        """Put a new value into a slot, made from the one before (None at first)."""
        with self._lock:
            before: T | None = self._values.pop(slot, None)
            self._total -= self._vertices.pop(slot, 0)
        value = renew(before)
        with self._lock:
            self._keep(slot, value)
        return value


def vertices_in(value: object) -> int:
    """Vertices of the shapes in a cached value: a shape, or things that hold some, alone, in a tuple or by name.

    Arrays weigh by their bytes.
    """
    if isinstance(value, dict):
        value = tuple(value.values())
    if isinstance(value, tuple):
        return sum(vertices_in(one) for one in value)
    if isinstance(value, np.ndarray):
        return value.nbytes // BYTES_A_VERTEX
    region = getattr(value, "region", value)
    if isinstance(region, Region):
        region = region.polygons
    if isinstance(region, shapely.Geometry):
        return int(shapely.get_num_coordinates(region))
    return sum(vertices_in(getattr(value, name, ())) for name in HOLDING_SHAPES + HOLDING_PIXELS)


def content_key(*parts: bytes | str) -> str:
    digest = hashlib.blake2b(digest_size=16)
    for part in parts:
        raw = part.encode() if isinstance(part, str) else part
        digest.update(len(raw).to_bytes(8, "little"))
        digest.update(raw)
    return digest.hexdigest()


def asset_key(data: bytes) -> str:
    """The name under which a file's bytes are kept with the job."""
    return content_key(data)
