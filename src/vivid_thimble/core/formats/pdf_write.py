"""PDF for cutting: one page at true size, each film an optional layer of filled even-odd outlines.

Written by hand after the PDF 1.7 standard, since a page of paths is a page of text; readers that
keep coordinates in 32 bits have them to about 0.00002 mm.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.tolerances import FILE_PLACES
from vivid_thimble.core.sources.colours import from_hex

POINTS_PER_MM = 72.0 / 25.4


def pdf_bytes(layers: Sequence[CutLayer], width: float, height: float) -> bytes:
    """A complete PDF document with one page of ``width`` x ``height`` mm."""
    place = Affine(POINTS_PER_MM, 0.0, 0.0, -POINTS_PER_MM, 0.0, height * POINTS_PER_MM)
    content = "\n".join(_layer(number, layer, place) for number, layer in enumerate(layers)).encode("ascii")
    groups = [6 + k for k in range(len(layers))]
    listed = " ".join(f"{number} 0 R" for number in groups)
    names = " ".join(f"/F{k} {number} 0 R" for k, number in enumerate(groups))
    box = f"[0 0 {_number(width * POINTS_PER_MM)} {_number(height * POINTS_PER_MM)}]"
    objects = [
        f"<< /Type /Catalog /Pages 2 0 R /OCProperties << /OCGs [{listed}] /D << /Order [{listed}] >> >> >>".encode(),
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        f"<< /Type /Page /Parent 2 0 R /MediaBox {box} /Contents 4 0 R /Resources 5 0 R >>".encode(),
        b"<< /Length %d >>\nstream\n" % len(content) + content + b"\nendstream",
        f"<< /Properties << {names} >> >>".encode(),
        *(b"<< /Type /OCG /Name " + _text(layer.label) + b" >>" for layer in layers),
    ]
    return _file(objects)


def _layer(number: int, layer: CutLayer, place: Affine) -> str:
    red, green, blue = (value / 255.0 for value in from_hex(layer.colour))
    lines = [f"/OC /F{number} BDC", f"{red:.4f} {green:.4f} {blue:.4f} rg"]
    lines += [_path(path.transformed(place)) for path in layer.paths if not path.is_empty]
    return "\n".join([*lines, "EMC"])


def _path(path: Path) -> str:
    out: list[str] = []
    for contour in path.contours:
        points = np.round(contour.segments, FILE_PLACES)
        out.append(f"{_pair(points[0, 0])} m")
        last = len(contour) - 1
        for k, (segment, is_line) in enumerate(zip(points, contour.is_line, strict=True)):
            if not is_line:
                out.append(" ".join(_pair(point) for point in segment[1:]) + " c")
            elif k < last or not contour.closed:
                out.append(f"{_pair(segment[3])} l")
        out.append("h")
    return "\n".join([*out, "f*"])


def _pair(point: np.ndarray) -> str:
    return f"{_number(float(point[0]))} {_number(float(point[1]))}"


def _number(value: float) -> str:
    text = f"{value:.{FILE_PLACES}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _text(words: str) -> bytes:
    return b"<FEFF" + words.encode("utf-16-be").hex().upper().encode() + b">"


def _file(objects: Sequence[bytes]) -> bytes:
    out = bytearray(b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
    places = []
    for number, body in enumerate(objects, start=1):
        places.append(len(out))
        out += b"%d 0 obj\n" % number + body + b"\nendobj\n"
    start = len(out)
    out += b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1)
    for place in places:
        out += b"%010d 00000 n \n" % place
    out += b"trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % (len(objects) + 1, start)
    return bytes(out)
