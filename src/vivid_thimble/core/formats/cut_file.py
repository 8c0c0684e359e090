"""Cut files by the ending of their name."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import PurePath
from typing import NamedTuple

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.formats.dxf_write import dxf_text
from vivid_thimble.core.formats.pdf_write import pdf_bytes
from vivid_thimble.core.formats.svg_write import CutLayer, svg_text


class Writer(NamedTuple):
    """A kind of file that holds cut paths: its name for a person, and the bytes of it for layers on so many mm."""

    title: str
    write: Callable[[Sequence[CutLayer], float, float], bytes]


WRITERS: dict[str, Writer] = {
    ".svg": Writer("SVG", lambda layers, width, height: svg_text(layers, width, height).encode()),
    ".dxf": Writer("DXF", lambda layers, width, height: dxf_text(layers, height).encode()),
    ".pdf": Writer("PDF", pdf_bytes),
}


def cut_file(name: str, layers: Sequence[CutLayer], width: float, height: float) -> bytes:
    """The bytes of a cut file of ``width`` x ``height`` mm; raises InputRefused for an ending that is not written."""
    writer = WRITERS.get(PurePath(name).suffix.lower())
    if writer is None:
        raise InputRefused(f"{PurePath(name).name} cannot be written: end its name with one of {', '.join(WRITERS)}.")
    return writer.write(layers, width, height)
