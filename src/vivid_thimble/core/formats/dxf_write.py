"""DXF for cutting: millimetres, one layer a film, closed polylines only.

Curves are written as polylines, which every cutting program reads, and as fine as they are inspected: whoever reads
the file has the outline that was judged. y points up, as the format has it.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence

import numpy as np

from vivid_thimble.core.formats.svg_write import CutLayer, not_taken
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.tolerances import FILE_PLACES, FLATTEN_MM
from vivid_thimble.core.sources.colours import from_hex, nearest
from vivid_thimble.core.sources.drawing import Colour


def dxf_text(layers: Sequence[CutLayer], height: float) -> str:
    """A complete DXF document; ``height`` mm is what y counts down from."""
    import ezdxf  # here: only saving as DXF needs it, and it is large

    document = ezdxf.new("R2004")  # type: ignore[attr-defined]  # the first that knows colours beyond its 255
    document.header["$INSUNITS"] = 4
    document.header["$MEASUREMENT"] = 1
    space = document.modelspace()
    used: set[str] = set()
    for layer in layers:
        name = _layer_name(layer.label, used)
        red, green, blue = from_hex(layer.colour)
        number = _nearest_number((red, green, blue))
        document.layers.add(name, color=number, true_color=red << 16 | green << 8 | blue)
        for path in layer.paths:
            for ring in flatten(path, FLATTEN_MM).rings():
                points = np.round(np.column_stack([ring[:, 0], height - ring[:, 1]]), FILE_PLACES)
                space.add_lwpolyline(points.tolist(), close=True, dxfattribs={"layer": name})
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _nearest_number(colour: Colour) -> int:
    """The colour number that comes closest, for readers that know no others; 7 changes with the background."""
    from ezdxf.colors import aci2rgb

    numbers = [number for number in range(1, 256) if number != 7]
    colours = [(rgb.r, rgb.g, rgb.b) for rgb in map(aci2rgb, numbers)]
    return numbers[colours.index(nearest(colour, colours))]


def _layer_name(label: str, used: set[str]) -> str:
    """A name that the format allows, unique in the document."""
    stem = re.sub(r"[<>/\\\":;?*|=`,]+", "-", label).strip() or "film"
    return not_taken(stem, used)
