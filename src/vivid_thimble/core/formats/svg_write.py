"""SVG for cutting: true size, one group a layer, nothing but closed filled even-odd paths."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_text import write_path_data
from vivid_thimble.core.geometry.tolerances import FILE_PLACES


@dataclass(frozen=True, eq=False)
class CutLayer:
    """One film: its label, colour (#rrggbb) and paths in mm from the sheet's top-left.

    Each path is written as one element of its own, so shapes that still overlap
    (not welded yet) stay whole instead of cancelling each other.
    """

    label: str
    colour: str
    paths: tuple[Path, ...]


def svg_text(layers: Sequence[CutLayer], width: float, height: float) -> str:
    """A complete SVG document of ``width`` x ``height`` mm with one unit a millimetre."""
    w, h = _size(width), _size(height)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}">',
    ]
    used: set[str] = set()
    for layer in layers:
        lines.append(f"<g id={_quoted(_identifier(layer.label, used))} aria-label={_quoted(layer.label)}>")
        for path in layer.paths:
            if not path.is_empty:
                data = write_path_data(path, FILE_PLACES)
                lines.append(f'<path fill={_quoted(layer.colour)} fill-rule="evenodd" d="{data}"/>')
        lines.append("</g>")
    lines.append("</svg>\n")
    return "\n".join(lines)


def _size(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") or "0"


def _identifier(label: str, used: set[str]) -> str:
    """An id made of the label that is unique in the document and a valid XML name."""
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", label).strip("-").lower() or "layer"
    return not_taken(stem if stem[0].isalpha() else f"layer-{stem}", used)


def not_taken(stem: str, used: set[str]) -> str:
    """The stem, numbered if it is in use whatever its case; it is in use from then on."""
    name, count = stem, 2
    while name.casefold() in used:
        name, count = f"{stem}-{count}", count + 1
    used.add(name.casefold())
    return name


def _quoted(text: str) -> str:
    """An attribute's value. The library function for it loads a web client along, which delays the first paint."""
    return '"' + escape(text).replace("\n", "&#10;").replace("\r", "&#13;").replace("\t", "&#9;") + '"'
