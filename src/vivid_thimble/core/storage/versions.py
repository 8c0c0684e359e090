"""Earlier versions of saved jobs: whenever a job is saved over its file, what the file held is kept elsewhere."""

from __future__ import annotations

import calendar
import contextlib
import hashlib
import os
import re
import time
from dataclasses import dataclass
from pathlib import Path as FilePath

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import private_folder, write_atomically
from vivid_thimble.core.storage.project import ENDING

STAMP = "%Y%m%d-%H%M%S"
_NAME = re.compile(r"(?:(\d{6,})-)?(\d{8}-\d{6})(?:-\d+)?" + re.escape(ENDING))
"""A number, and when it had been saved; the clock may have been set back meanwhile. The first ones had no number."""


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
        private_folder(place)
        stamp = time.strftime(STAMP, time.gmtime(path.stat().st_mtime))
        data = path.read_bytes()
        known = _kept_in(place)
        if not known or known[-1].read_bytes() != data:
            number = _number_of(known[-1]) + 1 if known else 1
            write_atomically(place / f"{number:06d}-{stamp}{ENDING}", data, private=True)
        for old in _kept_in(place)[:-most]:
            old.unlink()


def versions_of(path: FilePath, folder: FilePath) -> list[KeptVersion]:
    """The earlier versions of a job, the newest first."""
    found = []
    for one in reversed(_kept_in(_place_of(path, folder))):
        with contextlib.suppress(ValueError):
            when = time.strptime(_NAME.sub(r"\2", one.name), STAMP)
            found.append(KeptVersion(one, float(calendar.timegm(when))))
    return found


def _place_of(path: FilePath, folder: FilePath) -> FilePath:
    """One folder a file, named so that a person can find it."""
    digest = hashlib.sha256(os.fsencode(path.absolute())).hexdigest()[:12]
    return folder / f"{path.stem[:40]}-{digest}"


def _kept_in(place: FilePath) -> list[FilePath]:
    """The versions of one file in the order in which they were kept."""
    return sorted(
        (p for p in place.glob(f"*{ENDING}") if _NAME.fullmatch(p.name)), key=lambda p: (_number_of(p), p.name)
    )


def _number_of(path: FilePath) -> int:
    found = _NAME.fullmatch(path.name)
    return int(found[1]) if found is not None and found[1] else 0
