"""Earlier versions of saved jobs: whenever a job is saved over its file, what the file held is kept elsewhere."""

from __future__ import annotations

import calendar
import contextlib
import hashlib
import time
from dataclasses import dataclass
from pathlib import Path as FilePath

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.project import ENDING

STAMP = "%Y%m%d-%H%M%S"


@dataclass(frozen=True)
class KeptVersion:
    """A file that holds an earlier version, and when it had been saved (seconds since 1970)."""

    path: FilePath
    saved_s: float


def keep_version(path: FilePath, folder: FilePath, most: int) -> None:
    """Keep what the file holds now, if it is not kept yet; the oldest ones above ``most`` go.

    Trouble here never stands in the way of saving: the new version matters more.
    """
    if most <= 0 or not path.is_file():
        return
    with contextlib.suppress(OSError, ThimbleError):
        place = _place_of(path, folder)
        place.mkdir(parents=True, exist_ok=True)
        stamp = time.strftime(STAMP, time.gmtime(path.stat().st_mtime))
        data = path.read_bytes()
        known = sorted(place.glob(f"*{ENDING}"))
        if not known or known[-1].read_bytes() != data:
            write_atomically(_free(place, stamp), data)
        for old in sorted(place.glob(f"*{ENDING}"))[:-most]:
            old.unlink()


def versions_of(path: FilePath, folder: FilePath) -> list[KeptVersion]:
    """The earlier versions of a job, the newest first."""
    found = []
    for one in _place_of(path, folder).glob(f"*{ENDING}"):
        with contextlib.suppress(ValueError):
            when = time.strptime(one.name[:15], STAMP)
            found.append(KeptVersion(one, float(calendar.timegm(when))))
    return sorted(found, key=lambda kept: kept.path.name, reverse=True)


def _place_of(path: FilePath, folder: FilePath) -> FilePath:
    """One folder a file, named so that a person can find it."""
    digest = hashlib.sha256(str(path.absolute()).encode()).hexdigest()[:12]
    return folder / f"{path.stem[:40]}-{digest}"


def _free(place: FilePath, stamp: str) -> FilePath:
    names = [f"{stamp}{ENDING}", *(f"{stamp}-{k}{ENDING}" for k in range(2, 100))]
    return next(place / name for name in names if not (place / name).exists())
