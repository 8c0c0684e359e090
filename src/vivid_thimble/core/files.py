"""Reading files that are files, writing them so that nothing is lost (temporary name, sync, replace), and names that
are safe to take from zips and to show."""

from __future__ import annotations

import contextlib
import errno
import os
import re
import stat
import tempfile
from pathlib import Path as FilePath
from pathlib import PurePosixPath
from zipfile import ZipInfo

from vivid_thimble.core.errors import InputRefused

LONGEST_STEM = 120
LONGEST_PREFIX = 60
PART = ".part"
"""Files that are being written end so, after the number of the process that writes them."""
OTHERS_WRITE = 0o022


def read_file(path: str | os.PathLike[str], most: int, *, private: bool = False) -> bytes:
    """The bytes of a regular file; raises OSError whose ``strerror`` says why not.

    Devices, pipes and folders are not read, nor files of more than ``most`` bytes. With ``private`` neither are links,
    nor files that belong to somebody else or that others may write.
    """
    flags = os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK | os.O_NOCTTY | (os.O_NOFOLLOW if private else 0)
    handle = os.open(path, flags)
    with os.fdopen(handle, "rb") as stream:
        facts = os.fstat(handle)
        if not stat.S_ISREG(facts.st_mode):
            raise OSError(errno.EINVAL, "not a file", os.fspath(path))
        if private and (facts.st_uid != os.geteuid() or facts.st_mode & OTHERS_WRITE):
            raise OSError(errno.EPERM, "others may write it", os.fspath(path))
        data = stream.read(most + 1) if facts.st_size <= most else b""
        if facts.st_size > most or len(data) > most:
            raise OSError(errno.EFBIG, f"larger than {most // 1_000_000} million bytes", os.fspath(path))
        return data


def private_folder(folder: FilePath) -> None:
    """Make a folder, with all above it, that nobody else may look into.

    Raises OSError, also when it is there and somebody else's.
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    facts = folder.stat()
    if facts.st_uid != os.geteuid():
        raise OSError(errno.EPERM, "somebody else's folder", os.fspath(folder))
    if stat.S_IMODE(facts.st_mode) != 0o700:
        folder.chmod(0o700)


def shown_name(path: FilePath) -> str:
    """The name of a file as text: bytes in it that are none in UTF-8 are shown as a sign of their own."""
    return clean_text(path.name)


def clean_text(text: str) -> str:
    """Text that can be written as UTF-8."""
    return text.encode("utf-8", "surrogateescape").decode("utf-8", "replace") if _has_surrogates(text) else text


def _has_surrogates(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return True
    return False


def make_folder(folder: FilePath, instead: str) -> None:
    """A folder with all above it; ``instead``: what the sentence says when it cannot be made (raises InputRefused)."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputRefused(f"{folder} cannot be made ({_reason(error)}): {instead}.") from error


def write_atomically(
    path: str | os.PathLike[str], data: bytes, *, keep_previous: bool = False, private: bool = False
) -> None:
    """Write ``data`` under ``path``; the old content stays until the new one is safely on disk.

    A link stays a link: the file that it leads to is written. Permissions stay; with ``private`` nobody else may read
    the file. With ``keep_previous`` the old version remains beside it as ``NAME~``. Raises InputRefused with one
    sentence when the place cannot be written.
    """
    target = FilePath(os.path.realpath(path))
    remove_leftovers_of(target)
    try:
        handle, temporary = tempfile.mkstemp(prefix=_part_of(target), suffix=f".{os.getpid()}{PART}", dir=target.parent)
    except OSError as error:
        raise InputRefused(f"{target} cannot be written ({_reason(error)}): choose another folder.") from error
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            _take_permissions(handle, target, private=private)
            os.fsync(stream.fileno())
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


def put_aside(path: FilePath) -> FilePath:
    """Give a file, or what lies in its place, another name that is free; raises OSError when it stays where it is."""
    k, aside = 1, path.with_name(f"set-aside-1-{path.name}")
    while os.path.lexists(aside):
        k += 1
        aside = path.with_name(f"set-aside-{k}-{path.name}")
    return path.rename(aside)


def _part_of(target: FilePath) -> str:
    """How the names begin under which a file is written until it is whole."""
    return f".{target.name[:LONGEST_PREFIX]}."


def remove_leftovers_of(path: FilePath) -> None:
    """Take away what killed runs left half written of one file."""
    remove_leftovers(path.parent, _part_of(path))


def remove_leftovers(folder: FilePath, prefix: str = ".") -> None:
    """Take away what killed runs left half written in a folder; trouble with that is nobody's concern."""
    with contextlib.suppress(OSError):
        for path in folder.iterdir():
            number = path.name.removesuffix(PART).rpartition(".")[2]
            is_part = path.name.startswith(prefix) and path.name.endswith(PART) and number.isdigit()
            if is_part and not is_running(number):
                with contextlib.suppress(OSError):
                    path.unlink()


def is_running(number: str) -> bool:
    """Whether there is a process of that number."""
    try:
        os.kill(int(number), 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        return True
    return True


def _take_permissions(handle: int, target: FilePath, *, private: bool) -> None:
    """Give an open file the permissions and the group of the one that it replaces; new ones get the usual ones."""
    mode = 0o600 if private else 0o644 & ~_umask()
    with contextlib.suppress(OSError):
        facts = target.stat()
        if not private and stat.S_ISREG(facts.st_mode):
            mode = stat.S_IMODE(facts.st_mode)
            os.fchown(handle, -1, facts.st_gid)
    os.fchmod(handle, mode)


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
