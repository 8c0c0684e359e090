"""Any drawing by what is in it, whatever its name says."""

from __future__ import annotations

import re

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.bundle import contents_here, is_bundle, unpacked_here
from vivid_thimble.core.formats.dxf_read import BINARY_MARK, read_dxf
from vivid_thimble.core.formats.pdf_read import read_pdf
from vivid_thimble.core.formats.raster_read import is_picture
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.strangers.ask import read_within_limits

_DXF = re.compile(rb"^\s*(?:999\s*\r?\n[^\n]*\n\s*)*0\s*\r?\n\s*SECTION", re.IGNORECASE)
_FONTS = (b"\x00\x01\x00\x00", b"OTTO", b"ttcf", b"wOFF", b"wOF2")


def read_drawing(data: bytes, name: str = "the drawing", page: int = 0) -> Drawing:
    """A drawing of any format, or the best one inside a zip; ``page`` counts from 0 and matters for PDF.

    It is read by a process with limits. Raises DrawingNotReadable with one sentence that says what the file is instead.
    """
    found: Drawing = read_within_limits("drawing", data, name, page, refusal=DrawingNotReadable, name=name)
    return found


def read_drawing_here(data: bytes, name: str, page: int) -> Drawing:
    """The same in this process."""
    if is_bundle(data):
        best = contents_here(data, name).best
        if best is None:
            raise DrawingNotReadable(f"{name} holds no drawing: unpack it and choose a file.")
        return read_drawing_here(unpacked_here(data, best.inside, name), best.name, page)
    if data[:1024].find(b"%PDF-") >= 0:
        return read_pdf(data, name, page)
    if _DXF.match(data[:4096].removeprefix(b"\xef\xbb\xbf")) or data[18:22] == BINARY_MARK:
        return read_dxf(data, name)
    if is_picture(data):
        raise DrawingNotReadable(f"{name} is a picture of pixels, not a drawing: choose an SVG, DXF or PDF.")
    if data.startswith(_FONTS):
        raise DrawingNotReadable(f"{name} is a font: choose it as the face of words.")
    if data.startswith((b"%!PS", b"\xc5\xd0\xd3\xc6")):
        raise DrawingNotReadable(f"{name} is PostScript: save it as SVG or PDF and open that.")
    if name.lower().endswith(".dxf") and b"<" not in data[:200]:
        return read_dxf(data, name)
    return read_svg(data, name)
