"""Writing files so that nothing is lost (temporary name, sync, replace), and names that are safe to take from zips."""

from __future__ import annotations

import contextlib
import os
import re
import tempfile
from pathlib import Path as FilePath
from pathlib import PurePosixPath
from zipfile import ZipInfo

from vivid_thimble.core.errors import InputRefused

LONGEST_STEM = 120


def make_folder(folder: FilePath, instead: str) -> None:
    """A folder with all above it; ``instead``: what the sentence says when it cannot be made (raises InputRefused)."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputRefused(f"{folder} cannot be made ({_reason(error)}): {instead}.") from error


def write_atomically(path: str | os.PathLike[str], data: bytes, *, keep_previous: bool = False) -> None:
    """Write ``data`` under ``path``; the old content stays until the new one is safely on disk.

    With ``keep_previous`` the old version remains beside it as ``NAME~``. Raises
    InputRefused with one sentence when the place cannot be written.
    """
    target = FilePath(path)
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{target.name}.", dir=target.parent)
    except OSError as error:
        raise InputRefused(f"{target} cannot be written ({_reason(error)}): choose another folder.") from error
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.chmod(temporary, 0o644 & ~_umask())
        if keep_previous and target.exists():
            _keep(target)
        os.replace(temporary, target)
        _sync_folder(target.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise InputRefused(
            f"{target} could not be written ({_reason(error)}): the previous version is untouched; free space or "
            "choose another folder."
        ) from error


def plain_name(inside: str) -> str:
    """The last part of a path inside a zip, which cannot lead elsewhere."""
    return PurePosixPath(inside.replace("\\", "/")).name


def name_in_zip(entry: ZipInfo) -> str:
    """The plain name of a file in a zip; empty for folders and the shadow files that some systems add."""
    name = plain_name(entry.filename)
    return "" if entry.is_dir() or name.startswith(".") or "__MACOSX" in entry.filename else name


def _keep(target: FilePath) -> None:
    backup = target.with_name(f"{target.name}~")
    with contextlib.suppress(FileNotFoundError):
        os.unlink(backup)
    try:
        os.link(target, backup)
    except OSError:  # file systems without hard links
        backup.write_bytes(target.read_bytes())


def _sync_folder(folder: FilePath) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _reason(error: OSError) -> str:
    return (error.strerror or str(error)).lower()


def file_stem(*names: str) -> str:
    """A name for a new file out of what it holds: no folders, nothing that file systems refuse."""
    told = " - ".join(" ".join(name.split()) for name in names if name.strip())
    return re.sub(r'[/\\:*?"<>|\x00-\x1f]', "-", told).strip(". ")[:LONGEST_STEM] or "cut"
