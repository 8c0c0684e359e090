"""Natural pauses of long work: where it tells what it does, and may be stopped.

Whoever starts the work watches it; the work calls ``pause`` wherever it could stop, at least every tenth of a second.
Without a watcher pauses do nothing. A watcher belongs to the thread that set it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Watcher = Callable[[str], None]
"""Gets what is being done, in words, or nothing new to tell (""); may raise Stopped."""
_watcher: ContextVar[Watcher | None] = ContextVar("watcher", default=None)


class Stopped(Exception):
    """The work is not wanted any more. No fault: it is caught by whoever watches, and by nobody else."""


@contextmanager
def watched(by: Watcher) -> Iterator[None]:
    """Everything inside pauses for ``by``, after whoever watches already."""
    outer = _watcher.get()

    def both(doing: str) -> None:
        if outer is not None:
            outer(doing)
        by(doing)

    token = _watcher.set(both)
    try:
        yield
    finally:
        _watcher.reset(token)


def pause(doing: str = "") -> None:
    """Raises Stopped when the work is not wanted any more."""
    by = _watcher.get()
    if by is not None:
        by(doing)
