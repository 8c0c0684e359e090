"""Kept and waste pieces against counting connected pixels."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import label
from shapely import MultiPolygon, Point, box

from tests.raster import mask
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.inspect.pieces import Piece, clean_scale, is_small, kept_pieces, waste_pieces

SIDE, ROOM = 30, 2
SHAPES = st.lists(
    st.tuples(st.integers(0, 24), st.integers(0, 24), st.integers(1, 12), st.integers(1, 12), st.booleans()),
    min_size=1,
    max_size=12,
)


def shape_of(strokes: list) -> MultiPolygon:
    """Boxes added and taken away in turn, kept apart in corners by a hair so that pixels can tell."""
    shape: shapely.Geometry = shapely.Polygon()
    for x, y, width, height, adds in strokes:
        one = box(x + 0.01, y + 0.01, min(x + width, SIDE) - 0.01, min(y + height, SIDE) - 0.01)
        shape = shapely.union(shape, one) if adds else shapely.difference(shape, one)
    return polygons_of(shapely.make_valid(shape))


@given(SHAPES)
@settings(max_examples=40, deadline=None)
def test_pieces_are_the_connected_areas_of_film_and_of_waste(strokes: list) -> None:
    shape = shape_of(strokes)
    if shape.is_empty:
        return
    frame = (-ROOM, -ROOM, SIDE + ROOM, SIDE + ROOM)
    waste = waste_pieces(shape, frame, 0.0)
    kept = kept_pieces(shape, 0.0)
    outside = polygons_of(shapely.difference(box(*frame), shape))
    assert len(waste) == len(outside.geoms)
    assert sum(p.area for p in kept) == pytest.approx(shape.area)
    assert sum(p.area for p in waste) == pytest.approx(outside.area)
    assert sum(p.is_surround for p in waste) == 1
    assert all(shapely.contains_properly(p.polygon, Point(p.at)) for p in [*kept, *waste])
    px = 50
    film = mask(shape, px, (SIDE * px, SIDE * px)) > 0
    assert label(film)[1] == len(kept)


@pytest.mark.parametrize("radius", [0.3, 0.61, 2.0])
def test_the_circle_inside_is_the_widest_that_fits(radius: float) -> None:
    disc = MultiPolygon([Point(3, 4).buffer(radius, quad_segs=64)])
    (piece,) = kept_pieces(disc, 10.0)
    assert piece.circle == pytest.approx(2 * radius, abs=0.02)
    (bar,) = kept_pieces(MultiPolygon([box(0, 0, 20, 2 * radius)]), 10.0)
    assert bar.circle == pytest.approx(2 * radius, abs=0.02)


@given(st.floats(0.05, 6.0), st.floats(0.05, 6.0))
@settings(max_examples=50, deadline=None)
def test_at_its_clean_scale_a_piece_is_just_no_longer_small(width: float, height: float) -> None:
    def piece(scale: float) -> Piece:
        return kept_pieces(MultiPolygon([box(0, 0, width * scale, height * scale)]), 1e9)[0]

    scale = clean_scale(piece(1.0), 2.0, 1.2)
    assert not is_small(piece(scale * 1.03), 2.0, 1.2)
    assert is_small(piece(scale * 0.97), 2.0, 1.2)


def test_deep_nests_are_taken_apart_ring_by_ring() -> None:
    rings = [
        Point(0, 0).buffer(r, quad_segs=16).difference(Point(0, 0).buffer(r - 1, quad_segs=16)) for r in range(2, 40, 2)
    ]
    shape = MultiPolygon(rings)
    waste = waste_pieces(shape, (-45, -45, 45, 45), 0.0)
    assert len(waste) == len(rings) + 1
    assert np.isclose(sum(p.area for p in waste) + shape.area, 90 * 90)


def test_film_that_reaches_the_rim_or_touches_itself_still_adds_up() -> None:
    for shape in (
        MultiPolygon([box(0, 0, 10, 10)]),
        MultiPolygon([box(0, 4, 10, 6)]),
        MultiPolygon([box(0, 0, 5, 5), box(5, 5, 10, 10)]),
        MultiPolygon([box(2, 2, 8, 8).difference(box(2, 4, 5, 6))]),
    ):
        waste = waste_pieces(shape, (0, 0, 10, 10), 0.0)
        assert sum(p.area for p in waste) + shape.area == pytest.approx(100)
