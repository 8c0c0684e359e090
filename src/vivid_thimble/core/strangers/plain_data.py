"""Values as plain bytes and back, for what another process or an earlier run made: data only, never code.

Numbers, texts, tuples, arrays, shapes and our own frozen values are written; whoever reads says which of our classes
may come back. Nothing is imported, called or looked up by a name that stands in the bytes. What is the same object
twice is written once.
"""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import fields, is_dataclass
from enum import Enum
from typing import Any

import msgspec
import numpy as np
import shapely

ARRAY_KINDS = "biuf"
DEEPEST = 200
LARGEST_ARRAY_BYTES = 2_000_000_000
Classes = Mapping[str, type]


class NotPlainData(Exception):
    """Bytes that no value comes out of, or a value that cannot be written."""


def packed(value: object) -> bytes:
    """The bytes of a value; raises NotPlainData for what is no data."""
    return msgspec.msgpack.encode(_Writer().plain(value))


def unpacked(data: bytes | memoryview, classes: Classes) -> Any:
    """The value in some bytes; only these classes come back. Raises NotPlainData."""
    try:
        return _Reader(classes).value(msgspec.msgpack.decode(data), 0)
    except NotPlainData:
        raise
    except (msgspec.MsgspecError, ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError) as error:
        raise NotPlainData(f"no value: {error}") from error
    except (shapely.errors.ShapelyError, RecursionError, MemoryError) as error:
        raise NotPlainData("no value") from error


def by_name(classes: Iterable[type]) -> dict[str, type]:
    return {_name(one): one for one in classes}


def own_classes() -> dict[str, type]:
    """All value classes of the core's modules that are loaded."""
    found: dict[str, type] = {}
    for module in [m for name, m in sys.modules.items() if name.startswith("vivid_thimble.core.")]:
        for thing in list(vars(module).values()):
            if isinstance(thing, type) and thing.__module__ == module.__name__ and _is_value_class(thing):
                found[_name(thing)] = thing
    return found


def _is_value_class(one: type) -> bool:
    return is_dataclass(one) or issubclass(one, (msgspec.Struct, Enum)) or _is_named_tuple(one)


def _is_named_tuple(one: type) -> bool:
    return issubclass(one, tuple) and hasattr(one, "_fields")


def _name(one: type) -> str:
    return f"{one.__module__.removeprefix('vivid_thimble.core.')}:{one.__qualname__}"


def _field_names(one: type) -> tuple[str, ...]:
    if issubclass(one, msgspec.Struct):
        return one.__struct_fields__
    if _is_named_tuple(one):
        return tuple(one._fields)  # type: ignore[attr-defined]
    return tuple(field.name for field in fields(one) if field.init)  # type: ignore[arg-type]


class _Writer:
    """Tuples are arrays; whatever else is no single thing is an array in a map of one entry that tells its kind."""

    def __init__(self) -> None:
        self._known: dict[int, int] = {}
        self._kept: list[object] = []  # what was met, so that no other object gets its address

    def plain(self, value: object) -> Any:
        if value is None or isinstance(value, (bool, str, bytes)) or type(value) in (int, float):
            return value
        if type(value) is tuple:
            return [self.plain(one) for one in value]
        if id(value) in self._known:
            return {"&": self._known[id(value)]}
        found = self._thing(value)
        self._known[id(value)] = len(self._kept)
        self._kept.append(value)
        return found

    def _thing(self, value: object) -> dict[str, Any]:
        if isinstance(value, list):
            return {"l": [self.plain(one) for one in value]}
        if isinstance(value, (set, frozenset)):
            kind = "s" if isinstance(value, set) else "f"
            return {kind: sorted((self.plain(one) for one in value), key=repr)}
        if isinstance(value, Counter):
            return {"k": [[self.plain(k), self.plain(v)] for k, v in value.items()]}
        if isinstance(value, Mapping):
            return {"d": [[self.plain(k), self.plain(v)] for k, v in value.items()]}
        if isinstance(value, (np.ndarray, np.generic)):
            return self._array(value)
        if isinstance(value, shapely.Geometry):
            return {"g": shapely.to_wkb(value)}
        if isinstance(value, shapely.STRtree):
            return {"t": [self.plain(one) for one in value.geometries.tolist()]}
        if isinstance(value, Enum):
            return {"e": [_name(type(value)), value.name]}
        if _is_value_class(type(value)):
            return {"c": [_name(type(value)), [self.plain(getattr(value, name)) for name in _field_names(type(value))]]}
        raise NotPlainData(f"{type(value).__name__} is no data")

    def _array(self, value: np.ndarray | np.generic) -> dict[str, Any]:
        array = np.asarray(value)
        if array.dtype == object:
            return {"o": [list(array.shape), [self.plain(one) for one in array.ravel().tolist()]]}
        if array.dtype.kind not in ARRAY_KINDS:
            raise NotPlainData(f"an array of {array.dtype} is no data")
        kind = "a" if isinstance(value, np.ndarray) else "n"
        return {kind: [array.dtype.str, list(array.shape), np.ascontiguousarray(array).tobytes()]}


class _Reader:
    """Every count is bounded by the bytes that are there: no small file makes a large value."""

    def __init__(self, classes: Classes) -> None:
        self._classes = classes
        self._met: list[Any] = []
        self._makers: dict[str, Callable[[Any, int], Any]] = {
            "l": lambda plain, depth: [self.value(one, depth) for one in plain],
            "s": lambda plain, depth: {self.value(one, depth) for one in plain},
            "f": lambda plain, depth: frozenset(self.value(one, depth) for one in plain),
            "k": lambda plain, depth: Counter(dict(self._pairs(plain, depth))),
            "d": lambda plain, depth: dict(self._pairs(plain, depth)),
            "a": lambda plain, depth: self._array(plain),
            "n": lambda plain, depth: self._array(plain)[()],
            "o": self._objects,
            "g": lambda plain, depth: shapely.from_wkb(_of(plain, bytes)),
            "t": lambda plain, depth: shapely.STRtree([self._shape(one, depth) for one in plain]),
            "e": lambda plain, depth: self._class(plain[0], Enum)[_of(plain[1], str)],  # type: ignore[index]
            "c": self._instance,
        }

    def value(self, plain: Any, depth: int) -> Any:
        if depth > DEEPEST:
            raise NotPlainData("too deep")
        if isinstance(plain, list):
            return tuple([self.value(one, depth + 1) for one in plain])
        if not isinstance(plain, dict):
            return plain
        ((kind, inside),) = plain.items()
        if kind == "&":
            return self._met[_of(inside, int)]
        found = self._makers[kind](inside, depth + 1)
        self._met.append(found)
        return found

    def _pairs(self, plain: Any, depth: int) -> list[tuple[Any, Any]]:
        return [(self.value(key, depth), self.value(value, depth)) for key, value in plain]

    def _array(self, plain: Any) -> Any:
        name, shape, raw = plain
        kind = np.dtype(_of(name, str))
        if kind.kind not in ARRAY_KINDS or kind.itemsize > 16 or len(raw) > LARGEST_ARRAY_BYTES:
            raise NotPlainData("an array of another kind")
        return np.frombuffer(_of(raw, bytes), dtype=kind).reshape([_of(n, int) for n in shape]).copy()

    def _objects(self, plain: Any, depth: int) -> Any:
        shape, values = plain
        array = np.empty(len(values), dtype=object)
        for k, one in enumerate(values):
            array[k] = self.value(one, depth)
        return array.reshape([_of(n, int) for n in shape])

    def _shape(self, plain: Any, depth: int) -> shapely.Geometry:
        return _of(self.value(plain, depth), shapely.Geometry)

    def _class(self, name: Any, base: type = object) -> type:
        found = self._classes[_of(name, str)]
        if not issubclass(found, base):
            raise NotPlainData(f"{name} is another thing")
        return found

    def _instance(self, plain: Any, depth: int) -> Any:
        name, values = plain
        found = self._class(name)
        if issubclass(found, Enum):
            raise NotPlainData(f"{name} is another thing")
        names = _field_names(found)
        if len(names) != len(values):
            raise NotPlainData(f"{name} has other fields")
        return found(**{key: self.value(one, depth) for key, one in zip(names, values, strict=True)})


def _of(value: Any, kind: type) -> Any:
    if not isinstance(value, kind):
        raise NotPlainData("another kind of value")
    return value
