"""Designs whose lines and gaps are surveyed."""

from __future__ import annotations

from functools import cache
from pathlib import Path as FilePath

import shapely
from shapely import MultiPolygon
from shapely.affinity import scale

from tests.letters import word
from tests.shapes import turned
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.widths.field import BEYOND_LIMIT, SAMPLES_PER_LIMIT, width_fields
from vivid_thimble.core.widths.places import ThinPlace, thin_places
from vivid_thimble.core.widths.walls import rings_of, sample_walls

LIMIT = 0.8


def places(
    shape: shapely.Geometry, angle: float = 0.0, limit: float = LIMIT
) -> tuple[list[ThinPlace], list[ThinPlace]]:
    """Thin places of kept film and of waste."""
    rings = rings_of(turned(shape, angle, 31.7, -12.9))
    samples = sample_walls(rings, limit / SAMPLES_PER_LIMIT)
    kept, waste = width_fields(samples, BEYOND_LIMIT * limit)
    return thin_places(rings, samples, kept, limit, "kept"), thin_places(rings, samples, waste, limit, "waste")


DRAWINGS = sorted((FilePath(__file__).parents[2] / "data" / "drawings").glob("*.svg"))


LINE, GAP = 0.8, 0.5


@cache
def drawing(name: str, width: float = 90.0) -> MultiPolygon:
    read = read_svg(next(p for p in DRAWINGS if p.stem == name).read_bytes(), name)
    bounds = film_region(read, Affine()).bounds
    assert bounds is not None
    return film_region(read, Affine.scaling(width / (bounds[2] - bounds[0]))).polygons


@cache
def words(text: str, face: str, size: float = 0.3) -> MultiPolygon:
    return turned(scale(merged(word(text, face)).polygons, size, size), 0.0)
