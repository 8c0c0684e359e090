"""SVG drawings: everything that has to do with visible filled area.

Understood: all basic shapes, nested groups, transforms and viewports, units, style sheets, use and
symbol, switch, strokes with their joins, caps and dashes, markers, clip paths, text in fonts at hand.
Simplified, and counted in ``Drawing.simplified``: gradients and patterns (one colour by their outline), masks (a
hard edge), filters (left out). Everything else that would paint is counted in ``Drawing.not_understood``
under its own name. Nothing is fetched, no reference leaves the document.

Painting follows SVG 2; sections are named where a rule is not obvious.
"""

from __future__ import annotations

import base64
import binascii
import math
import re
from collections import Counter
from dataclasses import dataclass, replace
from urllib.parse import unquote_to_bytes

import numpy as np

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.limits import MOST_SEGMENTS
from vivid_thimble.core.formats.svg_document import DEEPEST_NESTING, Node, local_name, parse_document
from vivid_thimble.core.formats.svg_markers import Vertex, vertices_of
from vivid_thimble.core.formats.svg_shapes import (
    MM_PER_UNIT,
    NUMBERS,
    SHAPES,
    NotALength,
    is_usable,
    length,
    physical_length,
    shape_of,
    transform,
    view_box,
    view_map,
)
from vivid_thimble.core.formats.svg_styles import INHERITED, Ink, Styles, inherited, ink_of
from vivid_thimble.core.formats.svg_text import Letters, letters_of
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.kernels import FillRule
from vivid_thimble.core.geometry.path import Box, Path, segment_bounds
from vivid_thimble.core.geometry.path_text import PathData, PathTooLong
from vivid_thimble.core.geometry.plain_shapes import rectangle_path
from vivid_thimble.core.geometry.stroke import StrokeStyle
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.drawing import Clip, Drawing, DrawingPart, EmbeddedPicture, Veil

MOST_PARTS = 20_000
MOST_COPIES = 5_000
"""Repetitions by use stop here: more is a mistake or malice."""
LEAST_OPACITY = 0.004
"""Below one step of 255 nothing is seen."""
SEEN_FROM = 0.25
"""A mask shows what it covers with at least this much light."""
_SILENT = frozenset(
    """defs title desc metadata namedview symbol clipPath mask linearGradient radialGradient pattern marker filter
    script style RDF view font font-face glyph missing-glyph hkern animate animateTransform animateMotion
    animateColor set stop cursor color-profile solidcolor pgf extraneous page guide grid perspective path-effect
    i""".split()  # noqa: SIM905 - a list of forty strings reads worse
)
_URL = re.compile(r"url\(\s*['\"]?\s*#([^'\")]+?)\s*['\"]?\s*\)\s*(.*)$", re.IGNORECASE | re.DOTALL)
_HREF = "{http://www.w3.org/1999/xlink}href"
IDENTITY = Affine()


@dataclass(frozen=True)
class _State:
    """What an element inherits from those round it."""

    style: dict[str, str]
    viewport: tuple[float, float]
    affine: Affine = IDENTITY
    opacity: float = 1.0
    veils: tuple[Veil, ...] = ()
    groups: tuple[str, ...] = ()
    within: frozenset[Node] = frozenset()
    """The referenced elements that are being drawn, so that none draws itself."""
    context: tuple[Ink | None, Ink | None] | None = None
    """Fill and stroke that a marker takes over from its line."""
    font_size: float = 16.0


def read_svg(data: bytes, name: str = "the drawing") -> Drawing:
    """The painted parts of an SVG document; raises DrawingNotReadable with one sentence."""
    root = parse_document(data, name)
    reader = _Reader(root, name)
    reader.read()
    return Drawing(
        tuple(reader.parts),
        _physical_scale(root),
        dict(sorted(reader.strangers.items())),
        dict(sorted(reader.simplified.items())),
        _page(root),
        tuple(reader.pictures),
        reader.hidden,
        reader.stray,
    )


def _physical_scale(root: Node) -> float | None:
    """Millimetres per user unit, when width or height carry a physical unit."""
    box = view_box(root)
    sizes = physical_length(root.get("width")), physical_length(root.get("height"))
    units = (box[2], box[3] * _stretch(root)) if box else (0.0, 0.0)
    stated = [size / unit if box else MM_PER_UNIT[""] for size, unit in zip(sizes, units, strict=True) if size]
    return min(stated) if stated else None


def _stated_pixels(root: Node) -> tuple[float, float]:
    """Width and height in pixels, 0 where the file does not say."""
    sizes = []
    for key in ("width", "height"):
        try:
            text = root.get(key) or ""
            sizes.append(length(text) if "%" not in text else 0.0)
        except NotALength:
            sizes.append(0.0)
    return sizes[0], sizes[1]


def _stretch(root: Node) -> float:
    """How much more a viewer scales y than x; the drawing's unit is that of x."""
    box, (width, height) = view_box(root), _stated_pixels(root)
    is_free = (root.get("preserveAspectRatio") or "").split()[:1] == ["none"]
    return height / box[3] / (width / box[2]) if is_free and box and width > 0.0 and height > 0.0 else 1.0


def _page(root: Node) -> Box | None:
    """What a viewer shows, in the root's user units; None when the file does not say."""
    box, (width, height) = view_box(root), _stated_pixels(root)
    if box is None:
        return (0.0, 0.0, width, height) if width > 0.0 and height > 0.0 else None
    x, y, w, h = box
    if not (width > 0.0 and height > 0.0):
        return x, y, x + w, y + h
    to_view = view_map(box, root.get("preserveAspectRatio") or "", width, height)
    left, top = -to_view.e / to_view.a, -to_view.f / to_view.a
    return left, top, left + width / to_view.a, top + height / to_view.a


class _Reader:
    """Walks the document in painting order."""

    def __init__(self, root: Node, name: str) -> None:
        self.root, self.name = root, name
        self.styles = Styles(root)
        self.parts: list[DrawingPart] = []
        self.pictures: list[EmbeddedPicture] = []
        self.strangers: Counter[str] = Counter()
        self.simplified: Counter[str] = Counter()
        self.hidden = self.stray = self.segments = 0
        self.marks = self.copies = self.veils = 0
        self._by_id: dict[str, Node] | None = None
        self._inks: dict[str, Ink | None] = {}
        self._clips: dict[tuple[Node, ...], Clip | None] = {}
        if self.styles.rules_left_out:
            self.strangers["style rule"] += self.styles.rules_left_out

    def read(self) -> None:
        page = _page(self.root) or (0.0, 0.0, 100.0, 100.0)
        stretch = _stretch(self.root)
        state = _State(dict(INHERITED), (page[2] - page[0], (page[3] - page[1]) / stretch))
        state = replace(state, affine=Affine(1.0, 0.0, 0.0, stretch))
        self._children(self.root, self._enter(self.root, self.styles.of(self.root), state), 1)

    # -- the tree

    def walk(self, element: Node, state: _State, depth: int) -> None:
        tag = local_name(element)
        if not tag or tag in _SILENT:
            return
        if depth > DEEPEST_NESTING:
            raise DrawingNotReadable(f"{self.name} nests groups more than {DEEPEST_NESTING} deep: ungroup it first.")
        if tag in SHAPES or tag in ("g", "a", "svg", "use", "switch", "text", "image"):
            self._draw(element, tag, state, depth)
        else:
            self.strangers[tag] += 1

    def _draw(self, element: Node, tag: str, outer: _State, depth: int) -> None:
        own = self.styles.of(element)
        if own.get("display") == "none":
            self.hidden += 1
            return
        state = self._enter(element, own, outer)
        if state.opacity < LEAST_OPACITY or not is_usable(state.affine):
            self.hidden += state.opacity < LEAST_OPACITY
            return
        first = len(self.parts)
        if tag in SHAPES:
            self._shape(element, tag, own, state)
        elif tag == "text":
            self._text(element, state)
        elif tag == "image":
            self._image(element, state)
        elif tag == "use":
            self._use(element, state, depth)
        elif tag == "svg":
            self._viewport(element, state, depth)
        elif tag == "switch":
            chosen = next((child for child in element if _is_supported(child)), None)
            if chosen is not None:
                self.walk(chosen, state, depth + 1)
        else:
            self._children(element, state, depth + 1)
        self._effects(own, state, first, depth)
        if len(self.parts) > MOST_PARTS or self.segments > MOST_SEGMENTS:
            many = len(self.parts) > MOST_PARTS
            raise self._too_much(f"{MOST_PARTS:,} shapes" if many else f"{MOST_SEGMENTS:,} line segments")

    def _too_much(self, limit: str) -> DrawingNotReadable:
        return DrawingNotReadable(f"{self.name} draws more than {limit}: simplify it before opening.")

    def _children(self, element: Node, state: _State, depth: int) -> None:
        for child in element:
            pause()
            self.walk(child, state, depth)

    def _enter(self, element: Node, own: dict[str, str], outer: _State) -> _State:
        affine = outer.affine
        text = own.get("transform") or element.get("transform")
        if text:
            given = transform(text)
            if given is None:
                self.strangers["transform"] += 1
            else:
                affine = given.then(affine)
        groups = outer.groups
        if local_name(element) in ("g", "svg", "a", "switch", "use"):
            label = _label(element) or element.get("id")
            groups = (*groups, label or local_name(element)) if label else groups
        share, veils = _share(own.get("opacity", "1")), outer.veils
        if LEAST_OPACITY <= share < 1.0:
            self.veils += 1
            veils = (*veils, Veil(self.veils, share))
        return replace(
            outer,
            style=inherited(outer.style, own),
            affine=affine,
            opacity=outer.opacity * share,
            veils=veils,
            groups=groups,
            font_size=self._font_size(own, outer),
        )

    def _font_size(self, own: dict[str, str], outer: _State) -> float:
        text = own.get("font-size")
        if not text or text == "inherit":
            return outer.font_size
        try:
            return length(text, outer.font_size, outer.font_size)
        except NotALength:
            steps = {"small": 13.0, "medium": 16.0, "large": 18.0, "x-large": 24.0, "xx-large": 32.0, "x-small": 10.0}
            return steps.get(text, outer.font_size)

    def _found(self, reference: str | None) -> Node:
        """The element with an id, by ``#id`` or ``url(#id)``; None when it is not in the document."""
        if not reference:
            return None
        match = _URL.match(reference.strip())
        key = match.group(1) if match else reference.strip().removeprefix("#")
        if self._by_id is None:
            self._by_id = {}
            for element in self.root.iter():
                if element.get("id"):
                    self._by_id.setdefault(element.get("id"), element)
        return self._by_id.get(key)

    def _use(self, element: Node, state: _State, depth: int) -> None:
        reference = element_reference(element) or ""
        target = self._found(reference) if reference.strip().startswith("#") else None
        if target is None or target in state.within:
            what = "use of a missing part" if target is None else "use of itself"
            if reference and not reference.strip().startswith("#"):
                what = "use of another file"
            self.strangers[what] += 1
            return
        self.copies += 1
        if self.copies > MOST_COPIES:
            raise self._too_much(f"{MOST_COPIES:,} copies of its parts")
        move = Affine.translation(self._length(element, "x", 0.0, state), self._length(element, "y", 0.0, state))
        inner = replace(state, affine=move.then(state.affine), within=state.within | {target})
        if local_name(target) not in ("symbol", "svg"):
            self.walk(target, inner, depth + 1)
            return
        own = self.styles.of(target)
        if own.get("display") == "none":
            return
        size = [element.get(key) or target.get(key) for key in ("width", "height")]
        self._viewport(target, self._enter(target, own, inner), depth + 1, size)

    def _viewport(self, element: Node, state: _State, depth: int, size: list[str | None] | None = None) -> None:
        """The content of a nested svg or symbol, mapped and clipped to its place."""
        x, y = ((self._length(element, key, 0.0, state) if size is None else 0.0) for key in ("x", "y"))
        texts = size or [element.get("width"), element.get("height")]
        width, height = (
            self._as_length(text, whole, whole, state) for text, whole in zip(texts, state.viewport, strict=True)
        )
        if width <= 0.0 or height <= 0.0:
            return
        box = view_box(element)
        inner = view_map(box, element.get("preserveAspectRatio") or "", width, height) if box else IDENTITY
        place = Affine.translation(x, y).then(state.affine)
        first = len(self.parts)
        viewport = (box[2], box[3]) if box else (width, height)
        self._children(element, replace(state, affine=inner.then(place), viewport=viewport), depth + 1)
        clipped = self.styles.of(element).get("overflow", "hidden") not in ("visible", "auto")
        if clipped and (box is not None or size is None):
            self._clip_from(first, _box_clip((0.0, 0.0, width, height), place))

    # -- clips and masks

    def _effects(self, own: dict[str, str], state: _State, first: int, depth: int) -> None:
        if own.get("filter", "none") != "none" and len(self.parts) > first:
            self.simplified["filter (left out)"] += 1
        for key in ("clip-path", "mask"):
            reference = own.get(key, "none")
            if reference == "none" or len(self.parts) == first:
                continue
            element = self._found(reference) if _URL.match(reference) else None
            if element is None or element in state.within or local_name(element) not in ("clipPath", "mask"):
                self.strangers[f"{key} without its shape"] += 1
                continue
            clip = self._clip(element, key, state, first, depth)
            if clip is not None:
                self._clip_from(first, clip)

    def _clip(self, element: Node, key: str, state: _State, first: int, depth: int) -> Clip | None:
        units = element.get("clipPathUnits" if key == "clip-path" else "maskContentUnits")
        affine = state.affine
        if units == "objectBoundingBox":
            box = _box_in(self.parts[first:], affine)
            if box is None:
                return None
            affine = Affine(box[2] - box[0], 0.0, 0.0, box[3] - box[1], box[0], box[1]).then(affine)
        cache_key = (element, affine)
        if cache_key not in self._clips:
            self._clips[cache_key] = self._read_clip(element, key, replace(state, affine=affine), depth)
        if key == "mask":
            self.simplified["mask (taken with a hard edge)"] += 1
        return self._clips[cache_key]

    def _read_clip(self, element: Node, key: str, state: _State, depth: int) -> Clip:
        """The shapes of a clip path or mask, read as if they were painted there."""
        own = self.styles.of(element)
        inner = replace(
            state,
            style=inherited(dict(INHERITED), own),
            opacity=1.0,
            veils=(),
            groups=(),
            within=state.within | {element},
        )
        text = own.get("transform") or element.get("transform")
        if text and key == "clip-path" and (given := transform(text)) is not None:
            inner = replace(inner, affine=given.then(inner.affine))
        kept, pictures = self.parts, self.pictures
        self.parts, self.pictures = [], []
        try:
            if key == "clip-path":
                self._clip_shapes(element, inner, depth)
            else:
                self._children(element, inner, depth + 1)
            found = self.parts
        finally:
            self.parts, self.pictures = kept, pictures
        within: list[Clip] = []
        outer = self._found(own["clip-path"]) if own.get("clip-path", "none") != "none" else None
        if outer is not None and outer not in inner.within and local_name(outer) == "clipPath":
            within.append(self._read_clip(outer, "clip-path", replace(state, within=inner.within), depth))
        if key == "clip-path":
            return Clip(tuple((part, True) for part in found), tuple(within))
        alpha = own.get("mask-type") == "alpha"
        return Clip(tuple((part, _light(part, alpha) >= SEEN_FROM) for part in found), tuple(within))

    def _clip_shapes(self, element: Node, state: _State, depth: int) -> None:
        """What a clip path shows is the fill of its shapes alone, by ``clip-rule``."""
        for child in element:
            tag = local_name(child)
            if tag in SHAPES or tag in ("use", "text"):
                self._clip_shape(child, tag, state, depth)

    def _clip_shape(self, child: Node, tag: str, state: _State, depth: int) -> None:
        own = self.styles.of(child)
        if own.get("display") == "none":
            return
        first = len(self.parts)
        inner = self._enter(child, own, replace(state, opacity=1.0, veils=()))
        style = inner.style | {"fill": "black", "stroke": "none", "fill-opacity": "1"}
        inner = replace(inner, style=style | {"fill-rule": inner.style["clip-rule"]}, opacity=1.0, veils=())
        if tag == "use":
            target = self._found(element_reference(child))
            if target is not None and target not in inner.within and local_name(target) in (*SHAPES, "text"):
                move = Affine.translation(self._length(child, "x", 0.0, inner), self._length(child, "y", 0.0, inner))
                deeper = replace(inner, affine=move.then(inner.affine), within=inner.within | {target})
                self._clip_shape(target, local_name(target), deeper, depth + 1)
        elif tag == "text":
            self._text(child, inner)
        elif is_usable(inner.affine):
            self._shape(child, tag, {}, inner)
        self._effects({"clip-path": own.get("clip-path", "none")}, inner, first, depth)

    def _clip_from(self, first: int, clip: Clip) -> None:
        self.parts[first:] = [replace(part, clips=(*part.clips, clip)) for part in self.parts[first:]]

    # -- paint

    def _shape(self, element: Node, tag: str, own: dict[str, str], state: _State) -> None:
        if state.style["visibility"] in ("hidden", "collapse"):
            self.hidden += 1
            return
        try:
            data = shape_of(element, tag, state.viewport, state.font_size, MOST_SEGMENTS)
        except PathTooLong as error:
            raise self._too_much(f"{MOST_SEGMENTS:,} line segments") from error
        except NotALength as error:
            self.strangers[f"length {str(error)[:20]}"] += 1
            return
        if not data.complete:
            self.strangers["path data (drawn up to the error)"] += 1
        self.stray += data.stray
        name = element.get("id") or tag
        self._paint(name, data, state, filled=tag != "line", fixed_pen=own.get("vector-effect") == "non-scaling-stroke")
        if tag in ("path", "line", "polyline", "polygon"):
            self._markers(data.path, state)

    def _paint(self, name: str, data: PathData, state: _State, *, filled: bool = True, fixed_pen: bool = False) -> None:
        self.segments += sum(len(contour) for contour in data.path.contours)
        parts = []
        fill = self._ink("fill", state) if filled and not data.path.is_empty else None
        if fill is not None and fill.opacity >= LEAST_OPACITY:
            rule: FillRule = "evenodd" if state.style["fill-rule"] == "evenodd" else "nonzero"
            path = data.path.transformed(state.affine)
            area = DrawingPart(name, path, rule, fill.colour, fill.opacity, groups=state.groups, veils=state.veils)
            parts.append(area)
        pen = self._pen(state)
        ink = self._ink("stroke", state) if pen is not None else None
        if ink is not None and pen is not None and ink.opacity >= LEAST_OPACITY:
            dots = data.dots if len(data.dots) and pen.cap != "butt" else None
            if not data.path.is_empty or dots is not None:
                path, own = (data.path.transformed(state.affine), IDENTITY) if fixed_pen else (data.path, state.affine)
                line = DrawingPart(
                    name,
                    path,
                    "nonzero",
                    ink.colour,
                    ink.opacity,
                    pen,
                    dots,
                    own,
                    groups=state.groups,
                    veils=state.veils,
                )
                parts.append(line)
        if len(parts) == 2 and state.style["paint-order"].split()[:1] == ["stroke"]:
            parts.reverse()
        self.stray += len(data.dots) if not parts else 0
        self.parts += parts

    def _pen(self, state: _State) -> StrokeStyle | None:
        style = state.style
        if style["stroke"] == "none":
            return None
        w, h = state.viewport
        whole = math.sqrt((w * w + h * h) / 2.0)
        width = self._as_length(style["stroke-width"], whole, 1.0, state)
        if not width > 0.0:
            return None
        dashes = [
            self._as_length(text, whole, 0.0, state)
            for text in re.split(r"[\s,]+", style["stroke-dasharray"].strip())
            if text and text != "none"
        ]
        cap, join = style["stroke-linecap"], style["stroke-linejoin"]
        return StrokeStyle(
            width,
            cap if cap in ("round", "square") else "butt",  # type: ignore[arg-type]
            join if join in ("round", "bevel") else "miter",  # type: ignore[arg-type]
            max(_number(style["stroke-miterlimit"], 4.0), 1.0),
            tuple(dashes),
            self._as_length(style["stroke-dashoffset"], whole, 0.0, state) if dashes else 0.0,
        )

    def _ink(self, key: str, state: _State) -> Ink | None:
        """The colour and opacity of fill or stroke; None for none."""
        text = state.style[key]
        opacity = state.opacity * _share(state.style[f"{key}-opacity"])
        lower = text.lower()
        if lower == "currentcolor":
            found = ink_of(state.style["color"]) or Ink((0, 0, 0), 1.0)
        elif lower == "none":
            return None
        elif lower in ("context-fill", "context-stroke"):
            fill, stroke = state.context or (None, None)
            found_or_none = fill if lower == "context-fill" else stroke
            if found_or_none is None:
                return None
            found = found_or_none
        elif match := _URL.match(text):
            served = self._served(match.group(1), match.group(2), state)
            if served is None:
                return None
            found = served
        else:
            found = ink_of(text) or Ink((0, 0, 0), 1.0)
        return Ink(found.colour, found.opacity * opacity)

    def _served(self, key: str, fallback: str, state: _State) -> Ink | None:
        """The one colour that stands for a gradient or pattern; the fallback when there is none."""
        element = self._found(key)
        tag = local_name(element) if element is not None else ""
        if tag in ("linearGradient", "radialGradient", "pattern", "solidcolor", "solidColor", "meshgradient"):
            if key not in self._inks:
                self._inks[key] = self._mean_of_stops(element) if tag != "pattern" else self._first_of_pattern(element)
            what = "pattern" if tag == "pattern" else "gradient"
            if "olid" not in tag:
                self.simplified[f"{what} (one colour by its outline)"] += 1
            return self._inks[key]
        if fallback.strip().lower() in ("none", "") and tag == "":
            return None
        if fallback.strip().lower() == "currentcolor":
            return ink_of(state.style["color"])
        return ink_of(fallback)

    def _mean_of_stops(self, element: Node) -> Ink | None:
        """The mean along a gradient, each stop weighted by the stretch it rules."""
        seen: set[Node] = set()
        stops: list[Node] = []
        while element is not None and element not in seen and not stops:
            seen.add(element)
            stops = [child for child in element if local_name(child) == "stop"]
            if not stops:
                element = self._found(element_reference(element))
        places: list[float] = []
        inks: list[Ink] = []
        for stop in stops:
            own = self.styles.of(stop)
            colour = own.get("stop-color", "black")
            ink = ink_of(own.get("color", "black") if colour.lower() == "currentcolor" else colour)
            ink = ink or Ink((0, 0, 0), 1.0)
            offset = (stop.get("offset") or "0").strip()
            share = _number(offset.rstrip("%"), 0.0) / (100.0 if offset.endswith("%") else 1.0)
            places.append(max(min(max(share, 0.0), 1.0), places[-1] if places else 0.0))
            inks.append(Ink(ink.colour, ink.opacity * _share(own.get("stop-opacity", "1"))))
        if not inks:
            return None
        edges = np.r_[0.0, (np.array(places[1:]) + places[:-1]) / 2.0, 1.0]
        weights = np.maximum(np.diff(edges), 1e-9)
        opacities = np.array([ink.opacity for ink in inks])
        seen_weights = weights * opacities if (weights * opacities).sum() > 0.0 else weights
        r, g, b = (np.array([ink.colour for ink in inks]) * (seen_weights / seen_weights.sum())[:, None]).sum(axis=0)
        return Ink((round(r), round(g), round(b)), float((weights * opacities).sum() / weights.sum()))

    def _first_of_pattern(self, element: Node) -> Ink | None:
        """The first colour in a pattern."""
        for child in element.iter():
            if local_name(child) in SHAPES:
                fill = self.styles.of(child).get("fill", "black")
                if (ink := ink_of(fill)) is not None:
                    return ink
        return Ink((128, 128, 128), 1.0)

    # -- markers

    def _markers(self, path: Path, state: _State) -> None:
        wanted = {at: state.style[f"marker-{at}"] for at in ("start", "mid", "end")}
        if all(value == "none" for value in wanted.values()):
            return
        context = (self._ink("fill", state), self._ink("stroke", state))
        for vertex in vertices_of(path):
            element = self._found(wanted[vertex.role]) if _URL.match(wanted[vertex.role]) else None
            if element is None or local_name(element) != "marker" or element in state.within:
                continue
            self.marks += 1
            if self.marks > MOST_PARTS:
                raise DrawingNotReadable(f"{self.name} draws more than {MOST_PARTS:,} markers: remove them first.")
            self._marker(element, vertex, replace(state, context=context))

    def _marker(self, element: Node, vertex: Vertex, state: _State) -> None:
        width, height = (self._length(element, key, 3.0, state) for key in ("markerWidth", "markerHeight"))
        if width <= 0.0 or height <= 0.0:
            return
        box = view_box(element)
        view = view_map(box, element.get("preserveAspectRatio") or "", width, height) if box else IDENTITY
        anchor = view.apply(np.array([self._length(element, key, 0.0, state) for key in ("refX", "refY")]))
        orient = (element.get("orient") or "0").strip()
        turn_deg = vertex.direction_deg if orient.startswith("auto") else _number(orient.removesuffix("deg"), 0.0)
        if orient == "auto-start-reverse" and vertex.role == "start":
            turn_deg += 180.0
        pen = self._pen(state)
        scale = 1.0 if element.get("markerUnits") == "userSpaceOnUse" else (pen.width if pen else 0.0)
        place = (
            Affine.translation(-float(anchor[0]), -float(anchor[1]))
            .then(Affine.scaling(scale))
            .then(Affine.turning(-turn_deg))
            .then(Affine.translation(*vertex.at))
            .then(state.affine)
        )
        if not is_usable(place):
            return
        first = len(self.parts)
        own = self.styles.of(element)
        style = inherited(dict(INHERITED), own)
        inner = replace(
            state, style=style, affine=view.then(place), opacity=state.opacity, within=state.within | {element}
        )
        self._children(element, inner, 3)
        if own.get("overflow", "hidden") not in ("visible", "auto"):
            self._clip_from(first, _box_clip((0.0, 0.0, width, height), place))

    # -- text and pictures

    def _text(self, element: Node, state: _State) -> None:
        if state.style["visibility"] in ("hidden", "collapse"):
            self.hidden += 1
            return
        for run in letters_of(element, state.style, state.font_size, self.styles):
            if isinstance(run, Letters):
                inner = replace(state, style=run.style, opacity=state.opacity * _share(run.opacity))
                self._paint(run.text, PathData(run.path, True, np.zeros((0, 2)), 0), inner)
            else:
                self.strangers[run] += 1

    def _image(self, element: Node, state: _State) -> None:
        reference = (element_reference(element) or "").strip()
        if not reference.startswith("data:"):
            self.strangers["picture in another file"] += 1
            return
        head, _, body = reference.partition(",")
        try:
            data = base64.b64decode(body, validate=False) if "base64" in head else unquote_to_bytes(body)
        except (binascii.Error, ValueError):
            self.strangers["picture that is damaged"] += 1
            return
        self.strangers["picture of pixels (to be traced)"] += 1
        x, y, wide, high = (self._length(element, key, 0.0, state) for key in ("x", "y", "width", "height"))
        own = Affine.scaling(wide or high or 1.0, high or wide or 1.0).then(Affine.translation(x, y)).then(state.affine)
        self.pictures.append(EmbeddedPicture(element.get("id") or "picture", data, own))

    # -- lengths

    def _length(self, element: Node, key: str, otherwise: float, state: _State) -> float:
        whole = state.viewport[1] if key in ("y", "height", "refY", "markerHeight") else state.viewport[0]
        return self._as_length(element.get(key), whole, otherwise, state)

    def _as_length(self, text: str | None, whole: float, otherwise: float, state: _State) -> float:
        if text is None or text.strip() in ("", "auto"):
            return otherwise
        try:
            return length(text, whole, state.font_size)
        except NotALength:
            self.strangers[f"length {text[:20]}"] += 1
            return otherwise


def element_reference(element: Node) -> str | None:
    """The href of an element, in whatever namespace it stands."""
    stray = (value for key, value in element.attrib.items() if str(key).endswith("href"))
    return element.get("href") or element.get(_HREF) or next(stray, None)


def _label(element: Node) -> str | None:
    """The name that a drawing program gave a layer, in whatever namespace."""
    return next((value for key, value in element.attrib.items() if str(key).endswith("}label")), None)


def _share(text: str) -> float:
    """An opacity: a number or a percentage, kept between 0 and 1."""
    value = _number(text.rstrip("%"), 1.0) / (100.0 if text.endswith("%") else 1.0)
    return min(max(value, 0.0), 1.0)


def _number(text: str, otherwise: float) -> float:
    match = NUMBERS.match(text.strip())
    value = float(match.group(0)) if match else otherwise
    return value if math.isfinite(value) else otherwise


def _is_supported(element: Node) -> bool:
    """Whether a switch takes this child: nothing special required, a language that somebody reads."""
    if not local_name(element) or element.get("requiredExtensions"):
        return False
    languages = element.get("systemLanguage")
    return languages is None or any(one.strip().lower().startswith("en") for one in languages.split(","))


def _light(part: DrawingPart, alpha: bool) -> float:
    """How much of what lies below a mask's part is seen: by its luminance, or by its opacity alone."""
    r, g, b = (value / 255.0 for value in part.colour)
    return part.opacity * (1.0 if alpha else 0.2126 * r + 0.7152 * g + 0.0722 * b)


def _box_clip(box: Box, affine: Affine) -> Clip:
    left, top, right, bottom = box
    path = rectangle_path(left, top, right - left, bottom - top).transformed(affine)
    return Clip(((DrawingPart("page", path, "nonzero", (0, 0, 0)), True),))


def _box_in(parts: list[DrawingPart], affine: Affine) -> Box | None:
    """The box round the outlines of parts, without their strokes, in the units of ``affine``."""
    segments = [contour.segments for part in parts for contour in part.lines.contours if len(contour)]
    if not segments:
        return None
    matrix = np.array([[affine.a, affine.b], [affine.c, affine.d]])
    back = (np.concatenate(segments) - [affine.e, affine.f]) @ np.linalg.inv(matrix)
    box = segment_bounds(back)
    return box if box[2] > box[0] and box[3] > box[1] else None
