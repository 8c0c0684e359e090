"""Computed results by content key."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


class Cache:
    """Results by content key, the least recently used dropped first; safe between threads."""

    def __init__(self, most: int = 400) -> None:
        self._most = most
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
        value = make()
        with self._lock:
            self._values[key] = value
            while len(self._values) > self._most:
                self._values.popitem(last=False)
        return value

    def renewed(self, slot: str, renew: Callable[[T | None], T]) -> T:
        """Put a new value into a slot, made from the one before (None at first)."""
        with self._lock:
            before: T | None = self._values.pop(slot, None)
        value = renew(before)
        with self._lock:
            self._values[slot] = value
        return value


def content_key(*parts: bytes | str) -> str:
    digest = hashlib.blake2b(digest_size=16)
    for part in parts:
        raw = part.encode() if isinstance(part, str) else part
        digest.update(len(raw).to_bytes(8, "little"))
        digest.update(raw)
    return digest.hexdigest()
