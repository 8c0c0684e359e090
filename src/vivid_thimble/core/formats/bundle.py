"""What is inside a downloaded zip, and which of its files is the best one to cut from.

Nothing is written to disk: entries are read into memory one at a time, within bounds, by a process with limits, and
known by their plain names only, so neither a path that leads elsewhere nor a bomb does any harm.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Literal

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.files import name_in_zip, plain_name
from vivid_thimble.core.formats.limits import LARGEST_FILE_BYTES
from vivid_thimble.core.sources.fonts import FONT_ENDINGS
from vivid_thimble.core.strangers.ask import read_within_limits

Kind = Literal["drawing", "picture", "font", "project", "notes", "other"]
DRAWING_ENDINGS = (".svg", ".svgz", ".pdf", ".dxf")
"""The best first: what keeps areas, colours and curves."""
PICTURE_ENDINGS = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".gif")
NOTE_ENDINGS = (".txt", ".md", ".rtf", ".html")
MOST_ENTRIES = 5_000
STEEPEST_PACKING = 400
"""An entry that unpacks to more than this many times its packed size, and to more than LARGE_BYTES, is a bomb."""
LARGE_BYTES = 8_000_000
LONGEST_NOTES = 4_000
"""Bytes of notes that are read."""


@dataclass(frozen=True)
class Entry:
    """One file of a zip: its full name inside, its plain name, kind and unpacked size."""

    inside: str
    name: str
    kind: Kind
    size: int


@dataclass(frozen=True)
class Bundle:
    name: str
    entries: tuple[Entry, ...]

    def of_kind(self, kind: Kind) -> tuple[Entry, ...]:
        return tuple(entry for entry in self.entries if entry.kind == kind)

    @property
    def best(self) -> Entry | None:
        """The drawing to start with: by format, then the largest."""
        drawings = self.of_kind("drawing")
        return min(drawings, key=lambda e: (DRAWING_ENDINGS.index(_ending(e.name)), -e.size), default=None)


def is_bundle(data: bytes) -> bool:
    return data[:4] in (b"PK\x03\x04", b"PK\x05\x06")


def contents(data: bytes, name: str = "The zip") -> Bundle:
    """The files of a zip in the order of their names; raises DrawingNotReadable with one sentence."""
    found: Bundle = read_within_limits("contents", data, name, refusal=DrawingNotReadable, name=name)
    return found


def unpacked(data: bytes, inside: str, name: str = "The zip") -> bytes:
    """The bytes of one entry; raises DrawingNotReadable when it is locked, damaged or a bomb."""
    found: bytes = read_within_limits("unpacked", data, inside, name, refusal=DrawingNotReadable, name=name)
    return found


def notes_in(data: bytes, bundle: Bundle) -> str:
    """The beginning of the first notes in a zip, such as its licence; empty when there are none that can be read."""
    inside = [entry.inside for entry in bundle.of_kind("notes") if entry.name.lower().endswith((".txt", ".md"))]
    if not inside:
        return ""
    name = bundle.name
    try:
        found: str = read_within_limits("notes", data, inside, name, refusal=DrawingNotReadable, name=name)
    except DrawingNotReadable:
        return ""
    return found


def contents_here(data: bytes, name: str) -> Bundle:
    """``contents`` in this process."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            listed = archive.infolist()
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError, EOFError) as error:
        raise DrawingNotReadable(f"{name} is a damaged zip: download it again.") from error
    if len(listed) > MOST_ENTRIES:
        raise DrawingNotReadable(f"{name} holds more than {MOST_ENTRIES:,} files: take out what you need by hand.")
    entries = []
    for info in listed:
        if plain := name_in_zip(info):
            entries.append(Entry(info.filename, plain, kind_of(plain), info.file_size))
    return Bundle(name, tuple(sorted(entries, key=lambda entry: entry.name.casefold())))


def unpacked_here(data: bytes, inside: str, name: str) -> bytes:
    """``unpacked`` in this process."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            info = archive.getinfo(inside)
            plain = plain_name(inside)
            if info.flag_bits & 1:
                raise DrawingNotReadable(f"{plain} in {name} is locked by a password: unpack it by hand.")
            steep = info.file_size > LARGE_BYTES and info.file_size > STEEPEST_PACKING * max(info.compress_size, 1)
            if info.file_size > LARGEST_FILE_BYTES or steep:
                raise DrawingNotReadable(f"{plain} in {name} unpacks to more than a drawing has: do not use it.")
            with archive.open(info) as entry:
                return entry.read(LARGEST_FILE_BYTES + 1)
    except (
        zipfile.BadZipFile, zlib.error, KeyError, ValueError, OSError, RuntimeError, NotImplementedError, EOFError
    ) as error:  # fmt: skip
        raise DrawingNotReadable(f"{name} is a damaged zip: download it again.") from error


def notes_here(data: bytes, inside: list[str], name: str) -> str:
    """The first of some entries that can be read, in this process."""
    for one in inside:
        try:
            return unpacked_here(data, one, name)[:LONGEST_NOTES].decode("utf-8", "replace").strip()
        except DrawingNotReadable:
            continue
    return ""


def kind_of(name: str) -> Kind:
    """What a file is by its name."""
    ending = _ending(name)
    kinds: tuple[tuple[tuple[str, ...], Kind], ...] = (
        (DRAWING_ENDINGS, "drawing"),
        (PICTURE_ENDINGS, "picture"),
        (FONT_ENDINGS, "font"),
        ((".thimble",), "project"),
        (NOTE_ENDINGS, "notes"),
    )
    return next((kind for endings, kind in kinds if ending in endings), "other")


def _ending(name: str) -> str:
    return PurePosixPath(name).suffix.lower()
