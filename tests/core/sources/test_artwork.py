"""What a drawing means in film, against painting it pixel by pixel."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.raster import mask
from vivid_thimble.core.errors import NothingToDraw
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.sources.artwork import colour_regions, film_region
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart

COLOURS: tuple[Colour, ...] = ((200, 30, 30), (30, 30, 200), (255, 255, 255))
SIDE = 24
BOXES = st.tuples(*(st.integers(0, SIDE - 2),) * 2, *(st.integers(1, SIDE),) * 2)
PAINTED = st.lists(st.tuples(BOXES, st.sampled_from(COLOURS)), min_size=1, max_size=7)


def part(box: tuple[int, int, int, int], colour: Colour) -> DrawingPart:
    x, y, width, height = box
    right, bottom = min(x + width, SIDE), min(y + height, SIDE)
    corners = np.array([[x, y], [right, y], [right, bottom], [x, bottom]], dtype=float)
    return DrawingPart("box", Path((Contour.from_points(corners),)), "nonzero", colour)


def painted(strokes: list) -> np.ndarray:
    """The picture as a painter makes it: -1 where nothing was painted."""
    canvas = np.full((SIDE, SIDE), -1)
    for (x, y, width, height), colour in strokes:
        canvas[y : y + height, x : x + width] = COLOURS.index(colour)
    return canvas


@given(PAINTED)
@settings(max_examples=60, deadline=None)
def test_film_is_what_the_painter_left_in_colour(strokes: list) -> None:
    canvas = painted(strokes)
    drawing = Drawing(tuple(part(box, colour) for box, colour in strokes))
    only_white = all(colour == COLOURS[2] for _, colour in strokes)
    wanted = canvas >= 0 if only_white else (canvas >= 0) & (canvas != 2)
    if not wanted.any():
        with pytest.raises(NothingToDraw):
            film_region(drawing, Affine())
        return
    region = film_region(drawing, Affine())
    assert region.area == pytest.approx(wanted.sum(), abs=1e-3)
    assert np.array_equal(mask(region.polygons, 1, (SIDE, SIDE)) > 0, wanted)


@given(PAINTED)
@settings(max_examples=60, deadline=None)
def test_colours_abut_and_never_overlap(strokes: list) -> None:
    canvas = painted(strokes)
    drawing = Drawing(tuple(part(box, colour) for box, colour in strokes))
    if all(colour == COLOURS[2] for _, colour in strokes) or not ((canvas == 0) | (canvas == 1)).any():
        return
    regions = colour_regions(drawing, Affine())
    for colour in COLOURS[:2]:
        area = regions[colour].area if colour in regions else 0.0
        assert area == pytest.approx((canvas == COLOURS.index(colour)).sum(), abs=1e-3)
    assert COLOURS[2] not in regions


@given(PAINTED, st.floats(-180, 180), st.floats(0.2, 5))
@settings(max_examples=25, deadline=None)
def test_a_turned_and_scaled_drawing_covers_the_scaled_area(strokes: list, angle: float, scale: float) -> None:
    drawing = Drawing(tuple(part(box, colour) for box, colour in strokes))
    try:
        plain = film_region(drawing, Affine())
    except NothingToDraw:
        return
    moved = film_region(drawing, Affine.turning(angle).then(Affine.scaling(scale)))
    assert moved.area == pytest.approx(plain.area * scale**2, rel=1e-4, abs=1e-3)
    assert len(moved.polygons.geoms) == len(plain.polygons.geoms)
