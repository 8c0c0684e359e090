"""A picture of regions as PNG, for looking at a cut without a window."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
import shapely

from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.region import Region

OVERSAMPLING = 3


def png_of(shapes: Sequence[tuple[Region, str]], box: Box, px_per_mm: float, ground: str = "#f4efe6") -> bytes:
    """Regions in their colours over a ground, seen through ``box`` (mm)."""
    from PIL import Image, ImageDraw  # here: only pictures need it

    width = max(1, round((box[2] - box[0]) * px_per_mm))
    height = max(1, round((box[3] - box[1]) * px_per_mm))
    scale = px_per_mm * OVERSAMPLING
    image = Image.new("RGB", (width * OVERSAMPLING, height * OVERSAMPLING), ground)
    for region, colour in shapes:
        mask = Image.new("1", image.size, 0)
        draw = ImageDraw.Draw(mask)
        nested = sorted(region.polygons.geoms, key=lambda p: -shapely.Polygon(p.exterior).area)
        for polygon in nested:
            for ring, fill in ((polygon.exterior, 1), *((hole, 0) for hole in polygon.interiors)):
                points = (np.asarray(ring.coords) - [box[0], box[1]]) * scale
                draw.polygon([tuple(p) for p in points.tolist()], fill=fill)
        image.paste(Image.new("RGB", image.size, colour), mask=mask)
    small = image.resize((width, height), Image.Resampling.BOX)
    out = io.BytesIO()
    small.save(out, "PNG")
    return out.getvalue()
