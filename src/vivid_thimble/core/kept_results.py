"""Results of saved jobs, kept from one run of the program to the next: a job that is opened again is there at once.

What was kept is shown while everything is computed anew; it never takes the place of that. A file holds one result
under the content key of the job, which names its files by their contents, and of this very version of the program.
"""

from __future__ import annotations

import contextlib
import io
import os
import pickle
from dataclasses import is_dataclass
from functools import cache
from pathlib import Path as FilePath
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from vivid_thimble import __version__
from vivid_thimble.core.cache import content_key, vertices_in
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.job import Job, plain

if TYPE_CHECKING:  # it brings all that a result is made of
    from vivid_thimble.core.results import ItemResult

ENDING = ".result"
MOST_KEPT = 24
MOST_VERTICES = 150_000
"""Larger ones would hold up the window while they are written."""
OURS = "vivid_thimble.core."
NEEDED = {
    ("msgspec._utils", "rebuild"),
    ("numpy", "dtype"),
    ("numpy", "ndarray"),
    ("numpy._core.multiarray", "_reconstruct"),
    ("numpy._core.multiarray", "scalar"),
    ("numpy._core.numeric", "_frombuffer"),
    ("shapely.io", "from_wkb"),
    ("shapely.strtree", "STRtree"),
}
"""What results are put together by, apart from our own values; a file that asks for anything else is not read."""


class KeptResults:
    """A folder of results. Nothing here raises: without it a job takes a moment longer to open."""

    def __init__(self, folder: FilePath) -> None:
        self.folder = folder

    def find(self, job: Job) -> ItemResult | None:
        """What was kept for this job; None when there is nothing, or nothing that can be read."""
        path = self._path(job)
        try:
            found = _Reader(io.BytesIO(path.read_bytes())).load()
            os.utime(path)
        except Exception:  # a damaged file can raise whatever it likes
            return None
        from vivid_thimble.core.results import ItemResult

        return found if isinstance(found, ItemResult) else None

    def keep(self, job: Job, result: ItemResult) -> None:
        """Keep a result; the ones that were not looked at for longest are thrown out."""
        if sum(vertices_in(layer.kept) + vertices_in(layer.parts) for layer in result.layers) > MOST_VERTICES:
            return
        with contextlib.suppress(OSError, ThimbleError):
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            path = self._path(job)
            data = pickle.dumps(result, protocol=5)
            if not path.exists() or path.read_bytes() != data:  # other fonts may be installed by now
                write_atomically(path, data)
            for old in sorted(self.folder.glob(f"*{ENDING}"), key=_used, reverse=True)[MOST_KEPT:]:
                old.unlink(missing_ok=True)

    def _path(self, job: Job) -> FilePath:
        return self.folder / f"{content_key(_program(), plain(job))}{ENDING}"


class _Reader(pickle.Unpickler):
    """Makes our own values, arrays and shapes, and calls nothing else."""

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) in NEEDED:
            return super().find_class(module, name)
        if module.startswith(OURS) and "." not in name:
            found = super().find_class(module, name)
            is_value = is_dataclass(found) or (isinstance(found, type) and issubclass(found, Struct))
            if is_value and found.__module__ == module:  # and not what a module of ours has imported
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is no part of a result")


@cache
def _program() -> str:
    """This version of the program: other code may compute something else."""
    folder = FilePath(__file__).parent
    written = max((path.stat().st_mtime_ns for path in folder.rglob("*.py")), default=0)
    return f"{__version__} {written}"


def _used(path: FilePath) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0
