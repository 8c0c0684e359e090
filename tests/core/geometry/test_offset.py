"""Offsets against the exact parallel, both ways; booleans however a design lies."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.shapes import blobs
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.sources.lettering import Words, shape_words

ALLOWED_MM = 0.02


def lettered(text: str, face: str = "Pacifico", high: float = 40.0) -> Region:
    letters = shape_words(Words(text=text, face=f"bundled:{face}")).letters
    return Region.from_path(Path.joined(one.path.transformed(Affine.scaling(high)) for one in letters))


def farthest(one: shapely.Geometry, other: shapely.Geometry) -> float:
    """The largest distance from the edge of one area to that of another."""
    points = shapely.points(shapely.get_coordinates(shapely.segmentize(one.boundary, 0.1)))
    edge = other.boundary
    shapely.prepare(edge)
    return float(shapely.distance(points, edge).max())


@pytest.mark.parametrize("text", ["Heron", "Moth", "8@g"])
@pytest.mark.parametrize("by", [0.4, 1.5, -0.3])
def test_an_offset_is_the_parallel_both_ways_with_a_fifth_of_its_nodes(text: str, by: float) -> None:
    region = lettered(text)
    exact = shapely.buffer(region.polygons, by, quad_segs=64)
    grown = offset(region, by)
    assert grown.polygons.is_valid
    assert farthest(grown.polygons, exact) < ALLOWED_MM
    assert farthest(exact, grown.polygons) < ALLOWED_MM
    points = shapely.get_num_coordinates(shapely.buffer(region.polygons, by, quad_segs=9))
    assert grown.outline.node_count <= points / 5


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.2, 3.0))
def test_blobs_grow_and_shrink_as_far_as_asked(seed: int, by: float) -> None:
    region = Region.from_polygons(blobs(6, 60, seed))
    for way in (by, -by):
        exact = shapely.buffer(region.polygons, way, quad_segs=64)
        moved = offset(region, way)
        if exact.area < 1.0:
            assert moved.area < 1.5
            continue
        assert moved.area == pytest.approx(exact.area, abs=ALLOWED_MM * exact.length)
        assert moved.polygons.is_valid


def test_corners_stay_sharp_when_that_is_wanted_and_curves_stay_curves() -> None:
    region = lettered("H", "League Spartan")
    sharp, soft = offset(region, 1.0, corners="drawn"), offset(region, 1.0)
    exact = shapely.buffer(region.polygons, 1.0, join_style="mitre", mitre_limit=2.5)
    assert shapely.symmetric_difference(sharp.polygons, exact).area < ALLOWED_MM * exact.length
    assert sharp.area > soft.area
    bowl = lettered("O", "League Spartan")
    one, other = offset(bowl, 1.0, corners="drawn"), offset(bowl, 1.0)
    assert one.area == pytest.approx(other.area, rel=1e-3)
    assert one.outline.node_count < 60


@pytest.mark.parametrize("turn", [0.0, 90.0, 37.0])
def test_a_weld_is_the_same_however_the_words_lie(turn: float) -> None:
    letters = [Region.from_path(one.path.transformed(Affine.scaling(30.0))) for one in shape_words(
        Words(text="Wandering Heron", face="bundled:Pacifico")).letters]  # fmt: skip
    level = union(letters)
    turned = union([letter.transformed(Affine.turning(turn)) for letter in letters])
    back = turned.transformed(Affine.turning(-turn))
    assert shapely.symmetric_difference(level.polygons, back.polygons).area < 1e-3 * level.area
    assert turned.outline.node_count == pytest.approx(level.outline.node_count, abs=2)
    hole = difference(turned, [letters[0].transformed(Affine.turning(turn))])
    assert hole.area == pytest.approx(level.area - letters[0].area, rel=1e-3)
    assert np.isfinite(hole.area)
