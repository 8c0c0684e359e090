"""The vector shapes of a PDF page.

The page is taken apart by PDFium, in the process with limits in which all strangers' files are read. Paths come with
fill, stroke, clip and opacity; pictures of pixels, shadings and text are counted in ``Drawing.not_understood``.
Coordinates come out with y pointing down.
"""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.limits import MOST_SEGMENTS, refuse_too_large
from vivid_thimble.core.formats.pdf_page import Refused, page_of
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_pen import PathPen
from vivid_thimble.core.geometry.stroke import StrokeStyle
from vivid_thimble.core.sources.drawing import Clip, Colour, Drawing, DrawingPart

MM_PER_POINT = 25.4 / 72.0
_REFUSALS = {
    "password": "{name} is locked by a password: save a copy without it.",
    "page": "{name} has no page {page}: choose another.",
    "many": "{name} draws more than {limit} line segments: simplify it before opening.",
}


def read_pdf(data: bytes, name: str = "the drawing", page: int = 0) -> Drawing:
    """The shapes of one page (counted from 0); raises DrawingNotReadable with one sentence."""
    refuse_too_large(data, name, "save the one page that you need")
    try:
        found = page_of(data, page)
    except Refused as error:
        sentence = _REFUSALS.get(str(error), "{name} is not a readable PDF: save it again.")
        raise DrawingNotReadable(sentence.format(name=name, page=page + 1, limit=f"{MOST_SEGMENTS:,}")) from error
    width, height = found["size"]
    flip = Affine(1.0, 0.0, 0.0, -1.0, -found["origin"][0], found["origin"][1] + height)
    strangers: Counter[str] = Counter(found["strangers"])
    if found["pages"] > 1:
        strangers["other page"] += found["pages"] - 1
    clips: dict[bytes, Clip] = {}
    parts = [part for one in found["objects"] for part in _parts(one, flip, clips)]
    return Drawing(
        tuple(parts),
        MM_PER_POINT * found.get("unit", 1.0),
        dict(sorted(strangers.items())),
        dict(sorted(found["simplified"].items())),
        (0.0, 0.0, width, height),
    )


def _parts(one: dict[str, Any], flip: Affine, known: dict[bytes, Clip]) -> list[DrawingPart]:
    """Fill, then stroke, of one painted path."""
    path = path_of(one["path"])
    own = Affine(*one["matrix"]).then(flip)
    clips = tuple(_clip(raw, flip, known) for raw in one["clips"])
    parts = []
    if one["fill"] is not None and not path.is_empty:
        *rgb, alpha = one["fill"]
        rule = "evenodd" if one["evenodd"] else "nonzero"
        parts.append(DrawingPart("shape", path.transformed(own), rule, _rgb(rgb), alpha / 255.0, clips=clips))  # type: ignore[arg-type]
    if one["stroke"] is not None and not path.is_empty:
        *rgb, alpha = one["stroke"]
        style = StrokeStyle(
            one["width"], one["cap"], one["join"], one["miter_limit"], tuple(one["dashes"]), one["phase"]
        )
        parts.append(DrawingPart("line", path, "nonzero", _rgb(rgb), alpha / 255.0, style, own=own, clips=clips))
    return parts


def _rgb(values: list[int]) -> Colour:
    return values[0], values[1], values[2]


def _clip(raw: bytes, flip: Affine, known: dict[bytes, Clip]) -> Clip:
    if raw not in known:
        path = path_of(raw).transformed(flip)
        known[raw] = Clip(((DrawingPart("clip", path, "nonzero", (0, 0, 0)), True),))
    return known[raw]


def path_of(raw: bytes) -> Path:
    """Contours from rows of (kind, x1, y1, x2, y2, x3, y3): 0 move, 1 line, 2 curve, 3 close."""
    pen = PathPen()
    for kind, *numbers in np.frombuffer(raw, dtype=np.float64).reshape(-1, 7).tolist():
        if kind == 0:
            pen.move(*numbers[4:])
        elif kind == 1:
            pen.line(*numbers[4:])
        elif kind == 2:
            pen.cubic(*numbers)
        else:
            pen.close()
    pen.finish()
    return pen.path
