"""Cut files by the ending of their name."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import PurePath

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.formats.dxf_write import dxf_text
from vivid_thimble.core.formats.pdf_write import pdf_bytes
from vivid_thimble.core.formats.svg_write import CutLayer, svg_text

ENDINGS = (".svg", ".dxf", ".pdf")


def cut_file(name: str, layers: Sequence[CutLayer], width: float, height: float) -> bytes:
    """The bytes of a cut file of ``width`` x ``height`` mm; raises InputRefused for an ending that is not written."""
    ending = PurePath(name).suffix.lower()
    if ending == ".svg":
        return svg_text(layers, width, height).encode()
    if ending == ".dxf":
        return dxf_text(layers, height).encode()
    if ending == ".pdf":
        return pdf_bytes(layers, width, height)
    raise InputRefused(f"{PurePath(name).name} cannot be written: end its name with .svg, .dxf or .pdf.")
