"""Letters of the bundled faces as parts."""

from __future__ import annotations

from importlib import resources

import shapely

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.lettering import Words, shape_words

FONTS = resources.files("vivid_thimble") / "data" / "fonts"


def word(text: str, face: str = "Pacifico", spacing: float = 0.0) -> tuple[Part, ...]:
    shaped = shape_words(Words(text=text, face=f"bundled:{face}", spacing=spacing))
    scale = Affine.scaling(100)
    return tuple(Part(o.label, Region.from_path(o.path.transformed(scale)), o.word) for o in shaped.letters)


def box_part(label: str, *box: float, word_number: int | None = 0) -> Part:
    return Part(label, Region.from_polygons(shapely.box(*box)), word_number)
