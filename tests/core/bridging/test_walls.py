"""Rays through walls, against shapely's own intersections."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon

from vivid_thimble.core.bridging.walls import crossings, walls_of

PLATE = shapely.box(0, 0, 60, 40).difference(shapely.Point(20, 20).buffer(9)).difference(shapely.box(40, 8, 52, 30))
OPENINGS = MultiPolygon([PLATE, shapely.box(70, 5, 90, 35)])


def test_rings_are_told_by_opening_and_kind_and_go_round_alike() -> None:
    walls = walls_of(OPENINGS)
    assert walls.opening_of.tolist() == [0, 0, 0, 1]
    assert walls.is_outer.tolist() == [True, False, False, True]
    assert all(shapely.LinearRing(ring).is_ccw for ring in walls.rings)
    assert len(walls.starts) == sum(map(len, walls.rings))
    corners, of = walls.corners
    assert sorted(of.tolist()) == [0] * 4 + [2] * 4 + [3] * 4
    assert len(corners) == 12


def test_nothing_has_no_walls() -> None:
    walls = walls_of(MultiPolygon())
    assert len(walls.rings) == len(walls.starts) == 0


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.integers(-9, 129), st.integers(-9, 60), st.integers(0, 90), st.integers(1, 80), st.integers(1, 80))
def test_crossings_lie_where_shapely_finds_them(i: int, j: int, turn: int, far: int, on: int) -> None:
    """From places and in directions that graze no wall and meet no vertex."""
    x, y, angle, back, ahead = 0.7313 * i + 0.0131, 0.7391 * j + 0.0173, 0.0697 * turn + 0.0113, 0.83 * far, 0.87 * on
    walls = walls_of(OPENINGS)
    at, way = np.array([[x, y]]), np.array([[np.cos(angle), np.sin(angle)]])
    met = crossings(walls, at, way, np.array([back]), np.array([ahead]))
    line = shapely.LineString([at[0] - back * way[0], at[0] + ahead * way[0]])
    rings = shapely.union_all([shapely.LinearRing(ring) for ring in walls.rings])
    points = shapely.get_coordinates(line.intersection(rings))
    wanted = np.sort((points - at[0]) @ way[0])
    assert np.sort(met.t) == pytest.approx(wanted, abs=1e-6)
    if len(wanted):
        beyond = wanted[wanted > 0.0]
        first, segment = met.first_after(np.zeros(1))
        assert first[0] == pytest.approx(beyond[0] if len(beyond) else np.inf, abs=1e-6)
        assert (segment[0] >= 0) == bool(len(beyond))
        before = wanted[wanted < 0.0]
        last, _ = met.last_before(np.zeros(1))
        assert last[0] == pytest.approx(before[-1] if len(before) else -np.inf, abs=1e-6)
