"""Pictures of film."""

from __future__ import annotations

import io

import shapely
from PIL import Image

from vivid_thimble.core.formats.picture import png_of
from vivid_thimble.core.geometry.region import Region


def test_what_lies_in_a_hole_is_seen_whatever_the_areas() -> None:
    """A large piece inside a thin ring: painting the ring's hole must not wipe it out."""
    ring = shapely.difference(shapely.box(0, 0, 40, 40), shapely.box(1, 1, 39, 39))
    shape = Region.from_polygons(shapely.MultiPolygon([ring, shapely.box(5, 5, 35, 35)]))
    picture = Image.open(io.BytesIO(png_of([(shape, "#204060")], (0.0, 0.0, 40.0, 40.0), 4.0, "#ffffff")))
    assert picture.size == (160, 160)
    assert picture.getpixel((80, 80)) == (0x20, 0x40, 0x60)
    assert picture.getpixel((2, 80)) == (0x20, 0x40, 0x60)
    assert picture.getpixel((12, 80)) == (255, 255, 255)
