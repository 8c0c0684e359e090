"""Zips of drawings and fonts."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path as FilePath

from tests.letters import FONTS


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


FONT = (FONTS / "CourierPrime-Bold.otf").read_bytes()


def bundle(folder: FilePath, entries: dict[str, bytes]) -> FilePath:
    path = folder / "download.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            archive.writestr(name, data)
    return path
