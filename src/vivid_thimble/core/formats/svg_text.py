"""Text of SVG set in fonts at hand.

Each run of text gets the first family of its list that is bundled or installed; generic names get a bundled
face. Runs whose font is missing are reported by its name and left out: another face would be another design.
Positions by x, y, dx, dy on text and tspan, anchors and letter spacing are followed; text on a
path, rotation by letter and vertical text are not.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.formats.svg_document import Node, local_name
from vivid_thimble.core.formats.svg_shapes import NUMBERS, NotALength, length
from vivid_thimble.core.formats.svg_styles import Styles, inherited
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.sources.fonts import BUNDLED, installed_families, load_face
from vivid_thimble.core.sources.lettering import line_outline

GENERIC = {
    "sans-serif": "League Spartan",
    "sans": "League Spartan",
    "system-ui": "League Spartan",
    "monospace": "Courier Prime",
    "cursive": "Pacifico",
}
_SPACES = re.compile(r"\s+")


@dataclass(frozen=True, eq=False)
class Letters:
    """The outlines of a run of text in the units of its text element, with its style."""

    text: str
    path: Path
    style: dict[str, str]
    opacity: str


@dataclass
class _Run:
    text: str
    style: dict[str, str]
    size: float
    opacity: str
    x: float | None = None
    y: float | None = None
    dx: float = 0.0
    dy: float = 0.0


def letters_of(element: Node, style: dict[str, str], size: float, styles: Styles) -> Iterator[Letters | str]:
    """The runs of a text element as outlines, or what is missing in words."""
    runs = list(_runs(element, style, size, styles, "1"))
    if runs:
        runs[0].text = runs[0].text.lstrip()
        runs[-1].text = runs[-1].text.rstrip()
    x = y = 0.0
    for chunk in _chunks(runs):
        x, y = (chunk[0].x if chunk[0].x is not None else x), (chunk[0].y if chunk[0].y is not None else y)
        placed: list[tuple[_Run, Path, float]] = []
        along = 0.0
        for run in chunk:
            along += run.dx
            y += run.dy
            found = _set(run)
            if isinstance(found, str):
                yield found
                continue
            path, advance = found
            placed.append((run, path.transformed(Affine.translation(along, y)), advance))
            along += advance
        anchor = chunk[0].style["text-anchor"]
        shift = x - (along if anchor == "end" else along / 2.0 if anchor == "middle" else 0.0)
        for run, path, _ in placed:
            if not path.is_empty:
                yield Letters(
                    run.text.strip(), path.transformed(Affine.translation(shift, 0.0)), run.style, run.opacity
                )
        x = shift + along


def _runs(element: Node, style: dict[str, str], size: float, styles: Styles, opacity: str) -> Iterator[_Run]:
    place: dict[str, float | None] = {key: _first_number(element.get(key), size) for key in ("x", "y", "dx", "dy")}
    preserve = element.get("{http://www.w3.org/XML/1998/namespace}space") == "preserve"

    def run(text: str | None) -> Iterator[_Run]:
        shown = text or ""
        shown = shown.replace("\n", " ") if preserve else _SPACES.sub(" ", shown)
        if shown:
            x, y, dx, dy = place["x"], place["y"], place["dx"] or 0.0, place["dy"] or 0.0
            place.update(dict.fromkeys(place))
            yield _Run(shown, style, size, opacity, x, y, dx, dy)

    yield from run(element.text)
    for child in element:
        tag = local_name(child)
        if tag in ("tspan", "a", "tref", "flowPara", "flowSpan"):
            own = styles.of(child)
            if own.get("display") != "none" and own.get("visibility", style["visibility"]) == "visible":
                inner = inherited(style, own)
                deeper = _size(own.get("font-size"), size)
                for one in _runs(child, inner, deeper, styles, own.get("opacity", opacity)):
                    if place["x"] is not None and one.x is None:
                        one.x = place["x"]
                    if place["y"] is not None and one.y is None:
                        one.y = place["y"]
                    place.update(dict.fromkeys(place))
                    yield one
        yield from run(child.tail)


def _chunks(runs: list[_Run]) -> Iterator[list[_Run]]:
    """Runs that share one anchor: a new x or y begins the next."""
    chunk: list[_Run] = []
    for run in runs:
        if chunk and (run.x is not None or run.y is not None):
            yield chunk
            chunk = []
        chunk.append(run)
    if chunk:
        yield chunk


def _set(run: _Run) -> tuple[Path, float] | str:
    """The outlines of a run from the origin and its advance; or what is missing."""
    if not run.text.strip():
        return Path(), 0.25 * run.size * len(run.text)
    families = [one.strip().strip("'\"") for one in run.style["font-family"].split(",") if one.strip()]
    reference = _face_of(families, run.style)
    if reference is None:
        missing = f"the font {families[0]} is not on this machine" if families else "it names no font"
        return f'text "{run.text.strip()[:30]}" ({missing})'
    try:
        face = load_face(reference)
        spacing = _size(run.style["letter-spacing"], run.size, otherwise=0.0)
        path, advance = line_outline(face, run.text, spacing / run.size if run.size > 0.0 else 0.0)
    except ThimbleError:
        return f'text "{run.text.strip()[:30]}" (the font cannot be read)'
    return path.transformed(Affine.scaling(run.size)), advance * run.size + spacing


def _face_of(families: list[str], style: dict[str, str]) -> str | None:
    """A reference to the first family at hand, in its weight and slope if there is such a face."""
    weight, slope = style["font-weight"], style["font-style"]
    heavy = weight in ("bold", "bolder") or (weight.isdigit() and int(weight) >= 600)
    manner = " ".join(word for word, wanted in (("bold", heavy), ("italic", slope in ("italic", "oblique"))) if wanted)
    installed = installed_families()
    for family in families:
        for bundled in BUNDLED:
            if bundled.casefold() == family.casefold():
                return f"bundled:{bundled}"
        for name in (f"{family} {manner}", f"{family} {manner.replace('italic', 'oblique')}", family):
            if (manner or name == family) and name.strip().casefold() in installed:
                return f"family:{name.strip()}"
        if family.casefold() in GENERIC:
            return f"bundled:{GENERIC[family.casefold()]}"
    return None


def _first_number(text: str | None, size: float) -> float | None:
    words = (text or "").replace(",", " ").split()
    if not words:
        return None
    try:
        return length(words[0], 0.0, size)
    except NotALength:
        match = NUMBERS.match(words[0])
        value = float(match.group(0)) if match else 0.0
        return value if np.isfinite(value) else None


def _size(text: str | None, outer: float, otherwise: float | None = None) -> float:
    try:
        return length(text or "", outer, outer)
    except NotALength:
        return outer if otherwise is None else otherwise
