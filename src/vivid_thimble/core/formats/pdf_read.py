"""The vector shapes of a PDF page.

The page is taken apart by PDFium in a process of its own, with bounds on memory and time: a file that breaks
it cannot take the application along. Paths come with fill, stroke, clip and opacity; pictures of pixels, shadings
and text are counted in ``Drawing.not_understood``. Coordinates come out with y pointing down.
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections import Counter
from pathlib import Path as FilePath
from typing import Any

import msgspec
import numpy as np

import vivid_thimble
from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.limits import refuse_too_large
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_pen import PathPen
from vivid_thimble.core.geometry.stroke import StrokeStyle
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.drawing import Clip, Colour, Drawing, DrawingPart

LONGEST_S = 30.0
MM_PER_POINT = 25.4 / 72.0
LOOKS_UP_S = 0.1
"""So often it is looked whether the answer is still wanted."""
_REFUSALS = {
    "password": "{name} is locked by a password: save a copy without it.",
    "page": "{name} has no page {page}: choose another.",
    "many": "{name} draws more than {limit} line segments: simplify it before opening.",
}


def read_pdf(data: bytes, name: str = "the drawing", page: int = 0) -> Drawing:
    """The shapes of one page (counted from 0); raises DrawingNotReadable with one sentence."""
    refuse_too_large(data, name, "save the one page that you need")
    found = _taken_apart(data, name, page)
    if "refused" in found:
        sentence = _REFUSALS.get(found["refused"], "{name} is not a readable PDF: save it again.")
        raise DrawingNotReadable(sentence.format(name=name, page=page + 1, limit=f"{found.get('limit', 0):,}"))
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


def _taken_apart(data: bytes, name: str, page: int) -> dict[str, Any]:
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONSTARTUP"}
    roots = [str(FilePath(vivid_thimble.__file__).parents[1]), *filter(None, [environment.get("PYTHONPATH")])]
    environment["PYTHONPATH"] = os.pathsep.join(roots)
    command = [sys.executable, "-m", "vivid_thimble.core.formats.pdf_worker", str(page)]
    try:
        status, answer = _answered(command, data, environment)
    except subprocess.TimeoutExpired as error:
        raise DrawingNotReadable(f"{name} takes too long to read: save the one page that you need.") from error
    except OSError as error:
        raise DrawingNotReadable(f"{name} cannot be read on this machine: save it as SVG.") from error
    try:
        found = msgspec.msgpack.decode(answer)
    except (msgspec.DecodeError, ValueError) as error:
        raise DrawingNotReadable(f"{name} is not a readable PDF: save it again.") from error
    if status != 0 or not isinstance(found, dict):
        raise DrawingNotReadable(f"{name} is not a readable PDF: save it again.")
    return found


def _answered(command: list[str], data: bytes, environment: dict[str, str]) -> tuple[int, bytes]:
    """Exit status and output of a process that is given ``data``; it is ended when its answer is not wanted any more.

    Raises OSError, or TimeoutExpired after LONGEST_S.
    """
    pipe = subprocess.PIPE
    with subprocess.Popen(command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL, env=environment) as process:
        waited, given = 0.0, data
        try:
            while True:
                try:
                    answer, _ = process.communicate(given, timeout=LOOKS_UP_S)
                    return process.returncode, answer
                except subprocess.TimeoutExpired:
                    waited, given = waited + LOOKS_UP_S, b""  # what was not taken yet is kept by the process object
                    if waited > LONGEST_S:
                        raise
                pause()
        except BaseException:
            process.kill()
            raise


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
