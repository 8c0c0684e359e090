"""Computed results by content key, as many as there is room for."""

from __future__ import annotations

import gc
import hashlib
import sys
import threading
from collections import OrderedDict
from collections.abc import Callable
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any, NamedTuple, TypeVar

import numpy as np
import shapely

from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.pauses import pause

T = TypeVar("T")
ROOM_BYTES = 400_000_000
BYTES_A_POINT, BYTES_A_RING = 16, 400
"""Of the geometry library, measured on many small and on few large polygons."""
BYTES_A_SEGMENT, BYTES_A_CONTOUR = 65, 800
WORTH_NAMING_BYTES = 2_000
"""What is as large is weighed once, however many values hold it; smaller things with each that holds them."""
_WEIGHTLESS = (type, ModuleType, FunctionType, BuiltinFunctionType, MethodType, str, int, float, type(None))


class _Kept(NamedTuple):
    value: Any
    own: int
    """Bytes of its small things."""
    large: dict[int, int]
    """Bytes of its large things, by their identity."""


class _Shelf:
    """What several caches keep together, the least recently used first."""

    def __init__(self, most: int, room: int) -> None:
        self.most, self.room = most, room
        self.bytes = 0
        self.kept: OrderedDict[str, _Kept] = OrderedDict()
        self.holders: dict[int, int] = {}
        """How many kept values hold a large thing."""
        self.lock = threading.Lock()

    def take(self, key: str) -> Any:
        """A value taken out; None when there is none."""
        found = self.kept.pop(key, None)
        if found is None:
            return None
        self.bytes -= found.own
        for thing, size in found.large.items():
            self.holders[thing] -= 1
            if not self.holders[thing]:
                del self.holders[thing]
                self.bytes -= size
        return found.value

    def put(self, key: str, kept: _Kept) -> None:
        self.take(key)
        self.kept[key] = kept
        self.bytes += kept.own
        for thing, size in kept.large.items():
            if thing not in self.holders:
                self.bytes += size
            self.holders[thing] = self.holders.get(thing, 0) + 1
        while len(self.kept) > self.most or (self.bytes > self.room and len(self.kept) > 1):
            self.take(next(iter(self.kept)))


class Cache:
    """Results by content key, the least recently used dropped first; safe between threads.

    Bounded by their number and by all the bytes in them, together with those of the cache that it is put ``beside``:
    what one has made serves the others too, since the same key stands for the same content.
    """

    def __init__(self, most: int = 4000, room: int = ROOM_BYTES, beside: Cache | None = None) -> None:
        self._shelf: _Shelf = beside._shelf if beside is not None else _Shelf(most, room)
        self.hits = self.misses = 0

    @property
    def bytes_kept(self) -> int:
        return self._shelf.bytes

    def get(self, key: str, make: Callable[[], T]) -> T:
        with self._shelf.lock:
            if key in self._shelf.kept:
                self._shelf.kept.move_to_end(key)
                self.hits += 1
                found: T = self._shelf.kept[key].value
                return found
        self.misses += 1
        pause()
        return self._kept(key, make())

    def renewed(self, slot: str, renew: Callable[[T | None], T]) -> T:
        """Put a new value into a slot of this cache's own, made from the one before (None at first)."""
        own = f"{slot} of {id(self)}"
        with self._shelf.lock:
            before: T | None = self._shelf.take(own)
        return self._kept(own, renew(before))

    def _kept(self, key: str, value: T) -> T:
        kept = _Kept(value, *_weighed(value))
        with self._shelf.lock:
            self._shelf.put(key, kept)
        return value


def bytes_in(value: object) -> int:
    """Bytes of a value and all that it holds, each thing once."""
    own, large = _weighed(value)
    return own + sum(large.values())


def _weighed(value: object) -> tuple[int, dict[int, int]]:
    """Bytes of the small things in a value together, and those of each large one."""
    sizes: dict[int, int] = {}
    shapes: list[shapely.Geometry] = []
    seen, waiting = {id(value)}, [value]
    while waiting:
        thing = waiting.pop()
        if isinstance(thing, shapely.Geometry):
            shapes.append(thing)
            continue
        inside: list[Any] = []
        if isinstance(thing, Path):
            sizes[id(thing)] = sum(BYTES_A_CONTOUR + len(one) * BYTES_A_SEGMENT for one in thing.contours)
        elif isinstance(thing, np.ndarray) and thing.base is not None:
            inside = [thing.base]
        else:
            sizes[id(thing)], inside = sys.getsizeof(thing, 0), gc.get_referents(thing)
        for one in inside:
            if id(one) not in seen and not isinstance(one, _WEIGHTLESS):
                seen.add(id(one))
                waiting.append(one)
    sizes |= zip(map(id, shapes), _bytes_of(shapes), strict=True)
    large = {thing: size for thing, size in sizes.items() if size >= WORTH_NAMING_BYTES}
    return sum(sizes.values()) - sum(large.values()), large


def _bytes_of(shapes: list[shapely.Geometry]) -> list[int]:
    array = np.array(shapes, dtype=object)
    rings = shapely.get_num_geometries(array) + shapely.get_num_interior_rings(array)
    sizes: list[int] = (shapely.get_num_coordinates(array) * BYTES_A_POINT + rings * BYTES_A_RING).tolist()
    return sizes


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
