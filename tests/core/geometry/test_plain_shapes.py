"""Plain outlines against their formulas, and vertices near edges however they are looked for."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.booleans import shared_vertices
from vivid_thimble.core.geometry.booleans.shared_vertices import _near_edges
from vivid_thimble.core.geometry.plain_shapes import disc, ellipse, rectangle
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.sources.plain import Plain, compose_plain

ARC_ERROR = 2.73e-4
"""How far four cubics stray from a circle at most, in radii."""


def within(shape: Region, radius: float) -> float:
    """What flattening may take from an area, and what arcs of a radius may add."""
    return (FLATTEN_MM + ARC_ERROR * radius) * float(shape.polygons.length) + 1e-6


@settings(max_examples=40)
@given(st.floats(1, 90), st.floats(1, 90), st.floats(-5, 60))
def test_round_rectangles_lack_what_their_corners_take(wide: float, high: float, radius: float) -> None:
    shape = rectangle((-3.0, 2.0, wide - 3.0, high + 2.0), radius)
    r = min(max(radius, 0.0), wide / 2.0, high / 2.0)
    assert shape.bounds == pytest.approx((-3.0, 2.0, wide - 3.0, high + 2.0), abs=1e-6)
    assert shape.area == pytest.approx(wide * high - (4.0 - math.pi) * r * r, abs=within(shape, r))
    assert shape.polygons.is_valid


@settings(max_examples=40)
@given(st.floats(0.5, 80), st.floats(0.5, 80))
def test_ellipses_keep_to_their_box_and_curve(rx: float, ry: float) -> None:
    shape = ellipse((0.0, 0.0, 2.0 * rx, 2.0 * ry))
    assert shape.area == pytest.approx(math.pi * rx * ry, abs=within(shape, max(rx, ry)))
    points = shapely.get_coordinates(shape.polygons)
    off = np.abs(np.hypot((points[:, 0] - rx) / rx, (points[:, 1] - ry) / ry) - 1.0)
    assert off.max() < 1e-3
    full = disc((1.0, 2.0), rx)
    assert full.area == pytest.approx(math.pi * rx * rx, abs=within(full, rx))


def test_a_drawing_reads_the_very_same_shapes() -> None:
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
    drawing = read_svg(
        f'{head}<rect x="5" y="6" width="30" height="20" rx="4"/><circle cx="45" cy="20" r="9"/></svg>'.encode(),
        "a.svg",
    )
    shapes = [Region.from_path(part.path, part.rule) for part in drawing.parts]
    for found, own in zip(shapes, (rectangle((5, 6, 35, 26), 4.0), disc((45, 20), 9.0)), strict=True):
        scale = math.sqrt(found.area / own.area)
        box = np.array(own.bounds) * scale
        assert found.bounds == pytest.approx(box, rel=1e-6)


@pytest.mark.parametrize(
    ("plain", "area"),
    [
        (Plain(ratio=0.5), 5000.0),
        (Plain(form="ellipse", ratio=0.5), math.pi * 50.0 * 25.0),
        (Plain(form="pennant", ratio=0.4), 2000.0),
        (Plain(form="diamond", ratio=0.6), 3000.0),
        (Plain(ratio=0.5, band=0.1), 5000.0 - 80.0 * 30.0),
        (Plain(form="ellipse", ratio=1.0, band=0.2), math.pi * (50.0**2 - 30.0**2)),
        (Plain(ratio=1.0, corner=1.0), math.pi * 50.0**2),
    ],
)
def test_plain_sources_have_their_area_and_the_box_they_are_sized_by(plain: Plain, area: float) -> None:
    composed = compose_plain(plain)
    (part,) = composed.parts
    assert part.region.area == pytest.approx(area, rel=3e-3)
    assert composed.frame == (0.0, 0.0, 100.0, pytest.approx(100.0 * plain.ratio))
    assert part.region.bounds == pytest.approx(composed.frame, abs=0.01)


@settings(max_examples=60)
@given(st.integers(0, 10_000), st.integers(1, 60), st.floats(0.5, 40.0))
def test_vertices_near_edges_are_the_same_by_sorting_and_by_a_tree(seed: int, edges: int, steps: float) -> None:
    chance = np.random.default_rng(seed)
    vertices = np.unique(chance.integers(-80, 80, (200, 2)).astype(float), axis=0)
    a, b = (chance.integers(-80, 80, (edges, 2)).astype(float) for _ in range(2))
    by_order = {tuple(pair) for pair in zip(*_near_edges(vertices, a, b, steps), strict=True)}
    most = shared_vertices.MOST_PAIRS
    shared_vertices.MOST_PAIRS = -1
    try:
        by_tree = {tuple(pair) for pair in zip(*_near_edges(vertices, a, b, steps), strict=True)}
    finally:
        shared_vertices.MOST_PAIRS = most
    assert by_order == by_tree
