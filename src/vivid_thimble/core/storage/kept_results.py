"""Results of saved jobs, kept from one run of the program to the next: a job that is opened again is there at once.

What was kept is shown while everything is computed anew; it never takes the place of that. A file holds one result,
data only (see ``plain_data``), under the content key of the job, which names its files by their contents, and of this
very version of the program. It has to belong to the user, and nobody else may write it.
"""

from __future__ import annotations

import contextlib
import os
from functools import cache
from pathlib import Path as FilePath
from typing import TYPE_CHECKING

import shapely

from vivid_thimble import __version__, core
from vivid_thimble.core.cache import content_key
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import private_folder, read_file, write_atomically
from vivid_thimble.core.job.values import Job, plain
from vivid_thimble.core.strangers.plain_data import NotPlainData, own_classes, packed, unpacked

if TYPE_CHECKING:  # it brings all that a result is made of
    from vivid_thimble.core.evaluate.results import ItemResult

ENDING = ".result"
MOST_KEPT = 24
MOST_VERTICES = 150_000
"""Larger ones would hold up the window while they are written."""
LARGEST_BYTES = 48_000_000


class KeptResults:
    """A folder of results. Nothing here raises: without it a job takes a moment longer to open."""

    def __init__(self, folder: FilePath) -> None:
        self.folder = folder

    def find(self, job: Job) -> ItemResult | None:
        """What was kept for this job; None when there is nothing, or nothing that can be read."""
        path = self._path(job)
        from vivid_thimble.core.evaluate.results import ItemResult  # also that its classes are known

        try:
            found = unpacked(read_file(path, LARGEST_BYTES, private=True), own_classes())
            os.utime(path)
        except Exception:  # our own values may refuse what a damaged file puts into them
            return None
        return found if isinstance(found, ItemResult) else None

    def keep(self, job: Job, result: ItemResult) -> None:
        """Keep a result; the ones that were not looked at for longest are thrown out."""
        regions = [one for layer in result.layers for one in (layer.kept, *(part.region for part in layer.parts))]
        if shapely.get_num_coordinates([one.polygons for one in regions]).sum() > MOST_VERTICES:
            return
        with contextlib.suppress(OSError, ThimbleError, NotPlainData):
            private_folder(self.folder)
            path = self._path(job)
            data = packed(result)
            if len(data) <= LARGEST_BYTES and not _holds(path, data):  # other fonts may be installed by now
                write_atomically(path, data, private=True)
            for old in sorted(self.folder.glob(f"*{ENDING}"), key=_used, reverse=True)[MOST_KEPT:]:
                old.unlink(missing_ok=True)

    def _path(self, job: Job) -> FilePath:
        return self.folder / f"{content_key(_program(), plain(job))}{ENDING}"


def _holds(path: FilePath, data: bytes) -> bool:
    try:
        return read_file(path, len(data), private=True) == data
    except OSError:
        return False


@cache
def _program() -> str:
    """This version of the program: other code may compute something else."""
    folder = FilePath(core.__file__).parent
    written = max((path.stat().st_mtime_ns for path in folder.rglob("*.py")), default=0)
    return f"{__version__} {written}"


def _used(path: FilePath) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0
