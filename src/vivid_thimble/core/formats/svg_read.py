"""SVG drawings: the filled, basic part of the standard.

Understood: path, rect, circle, ellipse, polygon, polyline, line, g, a, nested
transforms, viewBox, fill and fill-rule (attributes and style attributes, inherited),
display and visibility. Everything else that would paint is counted in
``Drawing.not_understood`` under its own name. Nothing is fetched: entities are not
expanded, no reference leaves the document.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from lxml import etree

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.clip import FillRule
from vivid_thimble.core.geometry.path import Contour, Path, contour_from_segments, line_segments
from vivid_thimble.core.geometry.path_text import arc_cubics, read_path_data
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart

LARGEST_FILE_BYTES = 64_000_000
DEEPEST_NESTING = 200
MM_PER_UNIT = {"": 25.4 / 96, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}
_LENGTH = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(px|mm|cm|in|pt|pc|%)?\s*$")
_TRANSFORM = re.compile(r"(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^)]*)\)")
_NUMBERS = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_SHAPES = ("path", "rect", "circle", "ellipse", "polygon", "polyline", "line")
_CONTAINERS = ("svg", "g", "a")
_SILENT = (
    "defs",
    "title",
    "desc",
    "metadata",
    "namedview",
    "symbol",
    "clipPath",
    "mask",
    "linearGradient",
    "radialGradient",
    "pattern",
    "marker",
    "filter",
    "script",
    "sodipodi:namedview",
    "RDF",
    "view",
)


IDENTITY = Affine()


@dataclass(frozen=True)
class _State:
    """What an element inherits."""

    affine: Affine = IDENTITY
    fill: str = "black"
    rule: FillRule = "nonzero"
    stroke: str = "none"
    visible: bool = True
    colour: str = "black"


def read_svg(data: bytes, name: str = "the drawing") -> Drawing:
    """The painted parts of an SVG document; raises DrawingNotReadable with one sentence."""
    if not data.strip():
        raise DrawingNotReadable(f"{name} is empty: save or download it again.")
    if len(data) > LARGEST_FILE_BYTES:
        raise DrawingNotReadable(f"{name} is larger than 64 MB: simplify it before opening.")
    root = _parse(data, name)
    reader = _Reader(name)
    reader.walk(root, _State(), 0)
    return Drawing(tuple(reader.parts), _physical_scale(root), dict(sorted(reader.strangers.items())))


def _parse(data: bytes, name: str) -> Any:
    try:
        root = etree.fromstring(data, _parser(recover=False))
    except (etree.XMLSyntaxError, ValueError) as first:
        root = _parse_broken(data)
        if root is None:
            line = getattr(first, "lineno", None)
            where = f" (line {line})" if line else ""
            raise DrawingNotReadable(f"{name} is not a readable SVG drawing{where}: save it again as SVG.") from first
    if _local(root) != "svg":
        raise DrawingNotReadable(f"{name} holds <{_local(root)}> instead of an SVG drawing: choose an SVG file.")
    return root


def _parser(*, recover: bool) -> Any:
    return etree.XMLParser(recover=recover, resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)


def _parse_broken(data: bytes) -> Any:
    """What can be saved of a damaged document, if it is recognisably a drawing."""
    if b"<svg" not in data and b":svg" not in data:
        return None
    try:
        root = etree.fromstring(data, _parser(recover=True))
    except (etree.XMLSyntaxError, ValueError):
        return None
    return root if root is not None and _local(root) == "svg" and len(root) else None


def _local(element: Any) -> str:
    tag = element.tag
    if not isinstance(tag, str):
        return ""
    return tag.rsplit("}", 1)[-1].rsplit(":", 1)[-1]


def _physical_scale(root: Any) -> float | None:
    """Millimetres per user unit, when width or height carry a physical unit."""
    box = [float(n) for n in _NUMBERS.findall(root.get("viewBox") or "")]
    for key, at in (("width", 2), ("height", 3)):
        match = _LENGTH.match(root.get(key) or "")
        if match and match.group(2) not in (None, "px", "%") and float(match.group(1)) > 0:
            size = float(match.group(1)) * MM_PER_UNIT[match.group(2)]
            if len(box) == 4 and box[at] > 0:
                return size / box[at]
            return MM_PER_UNIT[""]
    return None


class _Reader:
    """Walks the document in painting order."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.parts: list[DrawingPart] = []
        self.strangers: Counter[str] = Counter()

    def walk(self, element: Any, inherited: _State, depth: int) -> None:
        tag = _local(element)
        if not tag or tag in _SILENT:
            return
        if depth > DEEPEST_NESTING:
            raise DrawingNotReadable(f"{self.name} nests groups more than {DEEPEST_NESTING} deep: ungroup it first.")
        properties = _properties(element)
        if properties.get("display") == "none":
            return
        state = self._state(element, properties, inherited)
        if tag == "style":
            self.strangers["style element"] += 1
        elif tag in _SHAPES:
            self._shape(element, tag, properties, state)
        elif tag in _CONTAINERS:
            if tag == "svg" and depth > 0:
                self.strangers["nested svg"] += 1
                return
            self._note_effects(properties)
            for child in element:
                self.walk(child, state, depth + 1)
        else:
            self.strangers[tag] += 1

    def _state(self, element: Any, properties: dict[str, str], inherited: _State) -> _State:
        state = inherited
        transform = element.get("transform")
        if transform:
            state = replace(state, affine=self._transform(transform).then(state.affine))
        given = {key: value for key, value in properties.items() if value != "inherit"}
        state = replace(
            state,
            fill=given.get("fill", state.fill),
            stroke=given.get("stroke", state.stroke),
            colour=given.get("color", state.colour),
        )
        rule = properties.get("fill-rule")
        if rule in ("nonzero", "evenodd"):
            state = replace(state, rule="evenodd" if rule == "evenodd" else "nonzero")
        if "visibility" in properties:
            state = replace(state, visible=properties["visibility"] == "visible")
        return state

    def _transform(self, text: str) -> Affine:
        total = Affine()
        found = list(_TRANSFORM.finditer(text))
        if not found and text.strip():
            self.strangers["transform"] += 1
        for match in reversed(found):
            one = _one_transform(match.group(1), [float(n) for n in _NUMBERS.findall(match.group(2))])
            if one is None:
                self.strangers["transform"] += 1
                return Affine()
            total = total.then(one)
        return total

    def _note_effects(self, properties: dict[str, str]) -> None:
        for key in ("clip-path", "mask", "filter"):
            if properties.get(key, "none") != "none":
                self.strangers[key] += 1

    def _shape(self, element: Any, tag: str, properties: dict[str, str], state: _State) -> None:
        self._note_effects(properties)
        if not state.visible or properties.get("opacity") in ("0", "0.0"):
            return
        if state.stroke not in ("none", "transparent") and properties.get("stroke-width") not in ("0", "0px"):
            self.strangers["stroke"] += 1
        fill = state.colour if state.fill.lower() == "currentcolor" else state.fill
        if fill in ("none", "transparent") or properties.get("fill-opacity") in ("0", "0.0") or tag == "line":
            return
        path = self._geometry(element, tag)
        if path.is_empty or not _is_usable(state.affine):
            return
        name = element.get("id") or tag
        self.parts.append(DrawingPart(name, path.transformed(state.affine), state.rule, self._colour(fill)))

    def _colour(self, fill: str) -> Colour:
        if fill.startswith("url("):
            self.strangers["gradient or pattern fill"] += 1
            return (0, 0, 0)
        from PIL import ImageColor  # here: only drawings need it, and it delays the first paint

        try:
            return ImageColor.getrgb(re.sub(r"\s+", "", fill))[:3]
        except ValueError:
            self.strangers[f"colour {fill[:20]}"] += 1
            return (0, 0, 0)

    def _geometry(self, element: Any, tag: str) -> Path:
        if tag == "path":
            path, complete = read_path_data(element.get("d") or "")
            if not complete:
                self.strangers["path data (drawn up to the error)"] += 1
            return path
        if tag in ("polygon", "polyline"):
            numbers = [float(n) for n in _NUMBERS.findall(element.get("points") or "")]
            points = np.array(numbers[: len(numbers) // 2 * 2]).reshape(-1, 2)
            return _polygon(points)
        if tag == "rect":
            return _rectangle(*(self._length(element, key) for key in ("x", "y", "width", "height", "rx", "ry")))
        rx, ry = ("r", "r") if tag == "circle" else ("rx", "ry")
        return _ellipse(*(self._length(element, key) or 0.0 for key in ("cx", "cy", rx, ry)))

    def _length(self, element: Any, key: str) -> float | None:
        text = element.get(key)
        if text is None or text == "auto":
            return None
        match = _LENGTH.match(text)
        if match is None or match.group(2) == "%":
            self.strangers[f"length {text[:20]}"] += 1
            return None
        unit = match.group(2) or ""
        return float(match.group(1)) * MM_PER_UNIT[unit] / MM_PER_UNIT[""]


def _properties(element: Any) -> dict[str, str]:
    """Presentation attributes, overruled by the style attribute."""
    keys = (
        "fill",
        "fill-rule",
        "stroke",
        "stroke-width",
        "display",
        "visibility",
        "opacity",
        "fill-opacity",
        "clip-path",
        "mask",
        "filter",
        "color",
    )
    found = {key: element.get(key).strip() for key in keys if element.get(key)}
    for declaration in (element.get("style") or "").split(";"):
        key, _, value = declaration.partition(":")
        if key.strip() in keys and value.strip():
            found[key.strip()] = value.replace("!important", "").strip()
    return found


def _one_transform(kind: str, v: list[float]) -> Affine | None:
    if kind == "matrix":
        return Affine(*v) if len(v) == 6 else None
    if kind == "translate" and v:
        return Affine.translation(v[0], v[1] if len(v) > 1 else 0.0)
    if kind == "scale" and v:
        return Affine.scaling(v[0], v[1] if len(v) > 1 else None)
    if kind == "rotate" and v:
        x, y = (v[1], v[2]) if len(v) >= 3 else (0.0, 0.0)
        return Affine.translation(-x, -y).then(Affine.turning(-v[0])).then(Affine.translation(x, y))
    if kind in ("skewX", "skewY") and v:
        slope = math.tan(math.radians(v[0]))
        return Affine(c=slope) if kind == "skewX" else Affine(b=slope)
    return None


def _is_usable(affine: Affine) -> bool:
    return all(math.isfinite(n) for n in affine) and abs(affine.determinant) > 1e-12


def _polygon(points: Any) -> Path:
    if len(points) < 2:
        return Path()
    ends = np.roll(points, -1, axis=0)
    contour = contour_from_segments(list(line_segments(points, ends)), [True] * len(points), closed=True)
    return Path((contour,)) if contour else Path()


def _ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    if rx <= 0.0 or ry <= 0.0:
        return Path()
    arcs = np.array(arc_cubics(0.0, 2 * math.pi)) * [rx, ry] + [cx, cy]
    contour = contour_from_segments(list(arcs), [False] * len(arcs), closed=True)
    return Path((contour,)) if contour else Path()


def _rectangle(
    x: float | None, y: float | None, width: float | None, height: float | None, rx: float | None, ry: float | None
) -> Path:
    x, y, width, height = x or 0.0, y or 0.0, width or 0.0, height or 0.0
    if width <= 0.0 or height <= 0.0:
        return Path()
    rx, ry = (rx if rx is not None else ry or 0.0), (ry if ry is not None else rx or 0.0)
    rx, ry = min(max(rx, 0.0), width / 2), min(max(ry, 0.0), height / 2)
    if rx == 0.0 or ry == 0.0:
        return Path(
            (Contour.from_points(np.array([[x, y], [x + width, y], [x + width, y + height], [x, y + height]])),)
        )
    centres = [
        (x + width - rx, y + ry, -90),
        (x + width - rx, y + height - ry, 0),
        (x + rx, y + height - ry, 90),
        (x + rx, y + ry, 180),
    ]
    segments: list[Any] = []
    lines: list[bool] = []
    for cx, cy, angle in centres:
        arc = arc_cubics(math.radians(angle), math.pi / 2)[0] * [rx, ry] + [cx, cy]
        if segments:
            segments.append(line_segments(segments[-1][3][None], arc[0][None])[0])
            lines.append(True)
        segments.append(arc)
        lines.append(False)
    contour = contour_from_segments(segments, lines, closed=True)
    return Path((contour,)) if contour else Path()
