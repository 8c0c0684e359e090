"""Places of edges, corners and junctions against shapes of which they are known; crossings mended once."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.trace_truth import colour_picture, compressed, coverage
from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import GRID_MM
from vivid_thimble.core.tracing.corners import Lines, corners_of, lines_from
from vivid_thimble.core.tracing.cracks import followed
from vivid_thimble.core.tracing.curves import FittedLines, in_order, usable
from vivid_thimble.core.tracing.label_map import traced_map
from vivid_thimble.core.tracing.separate import flat_colours, flat_labels
from vivid_thimble.core.tracing.subpixel import Coverage, EdgePoints, edge_points, ground_noise
from vivid_thimble.core.tracing.traced import Traced
from vivid_thimble.core.tracing.two_tone import split_field, traced

SIZE = 60


def drawn(shape: shapely.Geometry) -> np.ndarray:
    return coverage(Region.from_polygons(shape).outline, (SIZE, SIZE)).astype(np.float32)


def looked_up(picture: np.ndarray) -> Coverage:
    def covered(_: IntArray, row: IntArray, column: IntArray) -> FloatArray:
        there = (row >= 0) & (row < SIZE) & (column >= 0) & (column < SIZE)
        return np.where(there, picture[np.clip(row, 0, SIZE - 1), np.clip(column, 0, SIZE - 1)], 0.0).astype(float)

    return covered


def edges(picture: np.ndarray) -> tuple[EdgePoints, Lines]:
    cracks = followed(split_field(picture))
    found = edge_points(cracks, looked_up(picture))
    return found, in_order(usable(lines_from(found.points, cracks.start, cracks.closed), found.sure, found.square))


def turned(shape: shapely.Geometry, angle: float, at: tuple[float, float]) -> shapely.Geometry:
    map_ = Affine.turning(angle).then(Affine.translation(*at))
    return shapely.transform(shape, map_.apply)


def wedge(opening: float, length: float = 26.0) -> shapely.Polygon:
    """Two sides from the origin, ``opening`` degrees apart."""
    half = np.radians(opening / 2.0)
    side = length * np.array([np.cos(half), np.sin(half)])
    return shapely.Polygon([(0.0, 0.0), tuple(side), (side[0], -side[1])])


@settings(max_examples=14, deadline=None, derandomize=True)
@given(st.floats(0.0, 360.0), st.floats(-0.5, 0.5))
def test_a_straight_edge_is_placed_to_two_hundredths_of_a_pixel(angle: float, offset: float) -> None:
    shape = turned(shapely.box(0.0 + offset, -80.0, 80.0, 80.0), angle, (30.0, 30.0))
    found, _ = edges(drawn(shape))
    normal = np.array([np.cos(np.radians(angle)), -np.sin(np.radians(angle))])
    inner = (np.abs(found.points - 30.0) < 24.0).all(axis=1) & found.sure & found.square
    away = (found.points[inner] - 30.0) @ normal - offset
    assert inner.sum() > 30
    assert np.abs(away).max() < 0.02


@settings(max_examples=14, deadline=None, derandomize=True)
@given(st.floats(45.0, 130.0), st.floats(0.0, 360.0), st.floats(0.0, 1.0), st.floats(0.0, 1.0))
def test_the_tip_of_a_wedge_is_found_where_its_sides_meet(opening: float, angle: float, dx: float, dy: float) -> None:
    at = (30.0 + dx, 30.0 + dy)
    picture = drawn(turned(wedge(opening), angle, at))
    found = corners_of(edges(picture)[1], looked_up(picture), 1, 0.0)
    away = np.hypot(*(found.tip - at).T)
    assert away.min() < 0.2
    assert (away < 5.0).sum() == 1


@pytest.mark.parametrize("radius", [3.0, 5.0, 9.0])
def test_a_round_is_no_corner(radius: float) -> None:
    square = shapely.box(15.3, 15.6, 45.2, 44.7).buffer(-radius).buffer(radius, quad_segs=64)
    picture = drawn(square)
    assert len(corners_of(edges(picture)[1], looked_up(picture), 1, 0.0).at) == 0


def test_pixels_that_touch_at_a_corner_hang_together_by_their_strength() -> None:
    picture = np.full((6, 6), -1.0, np.float32)
    picture[1:3, 1:3] = picture[3:5, 3:5] = 2.0
    assert len(followed(picture)) == 1
    picture[picture > 0.0] = 0.5
    assert len(followed(picture)) == 2


def test_lines_keep_the_ink_on_their_right() -> None:
    picture = np.full((8, 9), -1.0, np.float32)
    picture[2:5, 3:7] = 1.0
    cracks = followed(picture)
    middles = cracks.inner[:, ::-1] + 0.5 + 0.5 * cracks.step[:, ::-1]
    x, y = middles.T
    assert float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) > 0.0  # round from x to y
    assert len(cracks.inner) == 14


@pytest.mark.parametrize("grain", [0.005, 0.02, 0.05])
def test_the_noise_of_the_ground_is_measured(grain: float) -> None:
    picture = drawn(shapely.Point(30, 30).buffer(18.0))
    picture = picture + np.random.default_rng(4).normal(0.0, grain, picture.shape).astype(np.float32)
    cracks = followed(split_field(picture))
    assert ground_noise(cracks, looked_up(picture)) == pytest.approx(grain, rel=0.2)


def test_three_colours_meet_near_the_point_where_they_were_drawn() -> None:
    at = np.array([30.4, 29.7])
    palette = np.array([[230.0, 220, 200], [180, 40, 50], [40, 80, 150]])
    whole = shapely.box(0, 0, SIZE, SIZE)
    sectors = [shapely.intersection(turned(wedge(120.0, 200.0), 120.0 * k + 20.0, tuple(at)), whole) for k in range(3)]
    mixed = sum(drawn(sector)[:, :, None] * colour for sector, colour in zip(sectors, palette, strict=True))
    picture = np.clip(np.rint(mixed), 0, 255).astype(np.uint8)
    found = traced_map(flat_labels(picture, palette), picture, palette)
    ends = np.concatenate([arc.segments[[0, -1], [0, 3]] for arc in found.arcs if not arc.closed])
    inside = ends[(np.abs(ends - 30.0) < 20.0).all(axis=1)]
    assert len(np.unique(inside, axis=0)) == 1
    assert np.hypot(*(inside[0] - at)) < 0.35


def noisy_colours() -> Traced:
    _, _, picture = colour_picture(200)
    held = compressed(picture, noise=9.0, quality=30).astype(np.uint8)
    palette = flat_colours(held)
    assert palette is not None
    return traced_map(flat_labels(held, palette), held, palette)


def test_films_of_a_noisy_picture_neither_overlap_nor_gape_at_any_size() -> None:
    found = noisy_colours().sound()
    for scale in (0.05, 0.8):
        regions = found.regions(scale)
        union = shapely.union_all([region.polygons for region in regions]).area
        assert sum(region.area for region in regions) - union < 200 * scale * GRID_MM  # edges rounded to the grid
        assert union == pytest.approx((200 * scale) ** 2, rel=1e-6)


def test_crossings_are_mended_once_for_all_sizes(monkeypatch: pytest.MonkeyPatch) -> None:
    picture = np.clip(np.random.default_rng(8).normal(0.5, 0.4, (70, 70)), 0, 1).astype(np.float32)
    calls: list[float] = []
    whole = FittedLines.closer
    monkeypatch.setattr(
        FittedLines, "closer", lambda self, which, share: (calls.append(share), whole(self, which, share))[1]
    )
    found = traced(picture).sound()
    assert calls
    before = len(calls)
    sizes = [found.regions(scale)[0] for scale in (0.1, 0.3)]
    assert set(calls[before:]) <= {-1.0}
    assert sizes[1].area == pytest.approx(9.0 * sizes[0].area, rel=1e-3)
    assert found.sound() is found
