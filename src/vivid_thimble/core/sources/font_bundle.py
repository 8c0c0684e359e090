"""Fonts inside a zip, as they are downloaded: taken out safely and kept in the user's own folder.

Only font files are looked at, under their plain names, so that no entry can be written anywhere else;
bundles that unpack to more than a sane size are refused before they are unpacked.
"""

from __future__ import annotations

import contextlib
import os
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path as FilePath

from vivid_thimble.core.errors import FontNotUsable
from vivid_thimble.core.files import name_in_zip, read_file, write_atomically
from vivid_thimble.core.sources.fonts import FONT_ENDINGS, forget_installed, load_face

MOST_FONTS = 300
LARGEST_BUNDLE_BYTES = 400_000_000
DAMAGED = (zipfile.BadZipFile, zlib.error, RuntimeError, NotImplementedError, EOFError, ValueError)
"""What a damaged, locked or unusual zip raises when an entry is unpacked."""


def unpack_fonts(bundle: FilePath, into: FilePath) -> tuple[list[str], list[str]]:
    """References of the usable fonts of a zip, kept in a folder, and sentences about the others.

    Raises FontNotUsable when it is no zip, is too large, or holds no usable font.
    """
    kept, refused = [], []
    try:
        with zipfile.ZipFile(bundle) as archive:
            for entry in _font_entries(archive, bundle.name):
                try:
                    data = archive.read(entry)
                except DAMAGED:
                    refused.append(f"{name_in_zip(entry)} in {bundle.name} is damaged: download it again.")
                    continue
                path, is_new = _place_for(into, name_in_zip(entry), data)
                if is_new:
                    into.mkdir(parents=True, exist_ok=True)
                    write_atomically(path, data)
                reference = f"file:{path}"
                try:
                    load_face(reference)
                except FontNotUsable as error:
                    if is_new:
                        path.unlink()
                    refused.append(str(error))
                else:
                    kept.append(reference)
    except (*DAMAGED, OSError) as error:
        raise FontNotUsable(f"{bundle.name} cannot be unpacked: download it again.") from error
    if not kept:
        raise FontNotUsable(f"{bundle.name} holds no font that can be used: choose another.")
    forget_installed()
    return kept, refused


def _place_for(into: FilePath, name: str, data: bytes) -> tuple[FilePath, bool]:
    """Where a font goes, and whether it is not there yet: no font of that name is ever written over."""
    path, k = into / name, 1
    while os.path.lexists(path):
        with contextlib.suppress(OSError):
            if read_file(path, len(data)) == data:
                return path, False
        k += 1
        path = into / f"{FilePath(name).stem} {k}{FilePath(name).suffix}"
    return path, True


def _font_entries(archive: zipfile.ZipFile, name: str) -> Iterator[zipfile.ZipInfo]:
    """The entries that are fonts by their name."""
    entries = [entry for entry in archive.infolist() if name_in_zip(entry).lower().endswith(FONT_ENDINGS)]
    if len(entries) > MOST_FONTS or sum(entry.file_size for entry in entries) > LARGEST_BUNDLE_BYTES:
        raise FontNotUsable(f"{name} unpacks to too many or too large fonts: take out what you need by hand.")
    yield from sorted(entries, key=lambda entry: entry.filename.casefold())
