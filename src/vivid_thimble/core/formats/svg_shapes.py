"""The basic shapes, lengths and transforms of SVG as paths and affine maps."""

from __future__ import annotations

import math
import re

import numpy as np

from vivid_thimble.core.formats.svg_document import Node
from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.path import Path, contour_from_segments, line_segments
from vivid_thimble.core.geometry.path_text import PathData, read_path
from vivid_thimble.core.geometry.plain_shapes import ellipse_path, rectangle_path

MM_PER_UNIT = {
    "": 25.4 / 96, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "q": 0.25
}  # fmt: skip
"""What a unit is in mm; a bare number counts 96 to the inch, as in browsers."""
SHAPES = ("path", "rect", "circle", "ellipse", "polygon", "polyline", "line")
NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
NUMBERS = re.compile(NUMBER)
_LENGTH = re.compile(rf"^\s*({NUMBER})\s*(px|mm|cm|in|pt|pc|q|em|ex|rem|%)?\s*;?\s*$", re.IGNORECASE)
_TRANSFORM = re.compile(r"(matrix|translateX|translateY|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")


class NotALength(ValueError):
    """Text where a length should be."""


def length(text: str, whole: float = 0.0, font_size: float = 16.0) -> float:
    """A length in user units; ``whole`` is what 100 % means. Raises NotALength."""
    match = _LENGTH.match(text)
    if match is None or not math.isfinite(value := float(match.group(1))):
        raise NotALength(text)
    unit = (match.group(2) or "").lower()
    if unit == "%":
        return value / 100.0 * whole
    if unit in ("em", "rem"):
        return value * font_size
    if unit == "ex":
        return value * font_size / 2.0
    return value * MM_PER_UNIT[unit] / MM_PER_UNIT[""]


def physical_length(text: str | None) -> float | None:
    """Millimetres, when a unit of length is written; None for bare numbers, pixels and shares."""
    match = _LENGTH.match(text or "")
    unit = (match.group(2) or "").lower() if match else ""
    if match is None or unit in ("", "px", "%", "em", "ex", "rem") or not float(match.group(1)) > 0.0:
        return None
    return float(match.group(1)) * MM_PER_UNIT[unit]


def transform(text: str) -> Affine | None:
    """The map of a transform attribute; None when it is not understood."""
    total = Affine()
    found = list(_TRANSFORM.finditer(text))
    if not found and text.strip() and text.strip() != "none":
        return None
    for match in reversed(found):
        one = _one_transform(match.group(1), [float(n) for n in NUMBERS.findall(match.group(2))])
        if one is None or not all(math.isfinite(n) for n in one):
            return None
        total = total.then(one)
    return total


def _one_transform(kind: str, v: list[float]) -> Affine | None:
    if kind == "matrix":
        return Affine(*v) if len(v) == 6 else None
    if kind == "translate" and v:
        return Affine.translation(v[0], v[1] if len(v) > 1 else 0.0)
    if kind in ("translateX", "translateY") and v:
        return Affine.translation(v[0], 0.0) if kind == "translateX" else Affine.translation(0.0, v[0])
    if kind == "scale" and v:
        return Affine.scaling(v[0], v[1] if len(v) > 1 else None)
    if kind == "rotate" and v:
        x, y = (v[1], v[2]) if len(v) >= 3 else (0.0, 0.0)
        return Affine.translation(-x, -y).then(Affine.turning(-v[0])).then(Affine.translation(x, y))
    if kind in ("skewX", "skewY") and v:
        slope = math.tan(math.radians(v[0]))
        return Affine(c=slope) if kind == "skewX" else Affine(b=slope)
    return None


def is_usable(affine: Affine) -> bool:
    """Whether a map leaves something to see."""
    return all(math.isfinite(n) for n in affine) and abs(affine.determinant) > 1e-14


def view_map(box: list[float], ratio: str, width: float, height: float) -> Affine:
    """From a viewBox to a viewport at the origin, as preserveAspectRatio asks."""
    x, y, w, h = box
    sx, sy = width / w, height / h
    words = ratio.split()
    align = next((word for word in words if word != "defer"), "xMidYMid")
    if align == "none":
        return Affine.translation(-x, -y).then(Affine.scaling(sx, sy))
    scale = max(sx, sy) if "slice" in words else min(sx, sy)
    share_x = 0.0 if "xMin" in align else 1.0 if "xMax" in align else 0.5
    share_y = 0.0 if "YMin" in align else 1.0 if "YMax" in align else 0.5
    move = Affine.translation((width - w * scale) * share_x, (height - h * scale) * share_y)
    return Affine.translation(-x, -y).then(Affine.scaling(scale)).then(move)


def view_box(element: Node) -> list[float] | None:
    """The four numbers of a viewBox, when they span an area."""
    box = [float(n) for n in NUMBERS.findall(element.get("viewBox") or "")]
    return box if len(box) == 4 and box[2] > 0.0 and box[3] > 0.0 and all(map(math.isfinite, box)) else None


def shape_of(
    element: Node, tag: str, viewport: tuple[float, float], font_size: float = 16.0, most: int | None = None
) -> PathData:
    """The outline of a basic shape in its own units; lengths that are none raise NotALength, more than ``most``
    segments PathTooLong."""

    def given(key: str) -> float | None:
        text = element.get(key)
        if text is None or text.strip() in ("", "auto"):
            return None
        along_y, along_x = key in ("y", "cy", "height", "ry", "y1", "y2"), key in ("x", "cx", "width", "rx", "x1", "x2")
        w, h = viewport
        whole = h if along_y else w if along_x else math.sqrt((w * w + h * h) / 2.0)
        return length(text, whole, font_size)

    if tag == "path":
        return read_path(element.get("d") or "", most)
    if tag in ("polygon", "polyline"):
        numbers = [float(n) for n in NUMBERS.findall(element.get("points") or "")]
        points = np.array(numbers[: len(numbers) // 2 * 2], dtype=np.float64).reshape(-1, 2)
        if not np.isfinite(points).all() or np.abs(points).max(initial=0.0) > 1e12:
            raise NotALength("points")
        return _whole(polygon(points, closed=tag == "polygon"))
    if tag == "line":
        ends = np.array([[given("x1") or 0.0, given("y1") or 0.0], [given("x2") or 0.0, given("y2") or 0.0]])
        if np.array_equal(ends[0], ends[1]):
            return PathData(Path(), True, ends[:1], 0)
        return _whole(polygon(ends, closed=False))
    if tag == "rect":
        x, y, wide, high, rx, ry = (given(key) for key in ("x", "y", "width", "height", "rx", "ry"))
        rx, ry = (rx if rx is not None else ry or 0.0), (ry if ry is not None else rx or 0.0)
        return _whole(rectangle_path(x or 0.0, y or 0.0, wide or 0.0, high or 0.0, rx, ry))
    rx, ry = (given("r"), given("r")) if tag == "circle" else (given("rx"), given("ry"))
    rx, ry = (rx if rx is not None else ry or 0.0), (ry if ry is not None else rx or 0.0)
    return _whole(ellipse_path(given("cx") or 0.0, given("cy") or 0.0, rx, ry))


def _whole(path: Path) -> PathData:
    return PathData(path, True, np.zeros((0, 2)), 0)


def polygon(points: FloatArray, *, closed: bool) -> Path:
    if len(points) < 2:
        return Path()
    starts, ends = (points, np.roll(points, -1, axis=0)) if closed else (points[:-1], points[1:])
    contour = contour_from_segments(line_segments(starts, ends), [True] * len(starts), closed=closed)
    return Path((contour,)) if contour else Path()
