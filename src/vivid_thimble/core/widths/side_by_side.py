"""Work in two threads: large arrays and trees run unlocked, so that what does not depend on each other may overlap."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from contextvars import copy_context
from typing import TypeVar

from vivid_thimble.core.pauses import pause

LOOKS_UP_S = 0.05
"""So often it is looked whether the work is still wanted."""
THREADS = 2
WORTH_A_THREAD = 20_000
"""With fewer points than this starting a thread takes longer, or two only wait for each other."""
Result = TypeVar("Result")


def side_by_side(works: Sequence[Callable[[], Result]]) -> list[Result]:
    """The results in the order of the works; the first error among them is raised. One alone needs no thread."""
    if len(works) <= 1:
        return [work() for work in works]
    pool = ThreadPoolExecutor(THREADS)
    try:
        running = [pool.submit(copy_context().run, work) for work in works]
        while wait(running, LOOKS_UP_S).not_done:
            pause()
        return [one.result() for one in running]
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


def threads_for(count: int) -> int:
    """In how many threads to look up so many points in a tree."""
    return THREADS if count >= WORTH_A_THREAD else 1
