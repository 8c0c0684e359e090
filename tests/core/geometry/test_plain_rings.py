"""Outlines taken as they are: only when no boolean would change them."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.shapes import circle, square
from vivid_thimble.core.geometry.booleans.plain_rings import plain_rings
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region, difference, union

TOLERANCE = 0.002


def plain(*contours: Contour, rule: str = "nonzero") -> tuple[shapely.MultiPolygon, Path] | None:
    return plain_rings(Path(contours), rule, TOLERANCE)  # type: ignore[arg-type]


def test_a_ring_with_its_hole_keeps_its_segments_bit_for_bit() -> None:
    outer, hole = circle(0, 0, 10), circle(0, 0, 6).reversed()
    found = plain(outer, hole)
    assert found is not None
    polygons, path = found
    assert polygons.area == pytest.approx(np.pi * (100 - 36), rel=1e-3)
    assert np.array_equal(path.contours[0].segments, outer.segments)
    assert np.array_equal(path.contours[1].segments, hole.segments)


def test_outer_rings_and_holes_are_turned_the_usual_way() -> None:
    for contours in ((square(0, 0, 9), square(2, 2, 3).reversed()), (square(0, 0, 9).reversed(), square(2, 2, 3))):
        found = plain(*contours)
        assert found is not None
        turns = [shapely.LinearRing(c.segments[:, 0]).is_ccw for c in found[1].contours]
        assert turns == [True, False]
        assert Region(*found).area == pytest.approx(72.0)


def test_islands_in_holes_are_pieces_of_their_own() -> None:
    found = plain(square(4, 4, 1), square(0, 0, 9), square(2, 2, 5).reversed())
    assert found is not None
    assert sorted(p.area for p in found[0].geoms) == pytest.approx([1.0, 56.0])


@pytest.mark.parametrize(
    ("contours", "why"),
    [
        ((square(0, 0, 9), square(2, 2, 3)), "the inner ring is no border by the non-zero rule"),
        ((square(0, 0, 9), square(5, 5, 9)), "the rings cross"),
        ((square(0, 0, 9), square(9, 0, 9)), "the rings share an edge"),
        ((Contour.from_points(np.array([[0, 0], [9, 9], [9, 0], [0, 9.0]])),), "the ring crosses itself"),
        ((Contour.from_points(np.array([[0, 0], [9, 0], [9, 9.0]]), closed=False),), "it is open"),
        ((Contour.from_points(np.array([[0, 0], [9, 0], [9, 0], [9, 9.0]])),), "a segment goes nowhere"),
    ],
)
def test_what_needs_a_boolean_gets_one(contours: tuple[Contour, ...], why: str) -> None:
    assert plain(*contours) is None, why


def test_the_even_odd_rule_does_not_ask_which_way_rings_turn() -> None:
    found = plain(square(0, 0, 9), square(2, 2, 3), rule="evenodd")
    assert found is not None
    assert found[0].area == pytest.approx(72.0)


@settings(max_examples=60, deadline=None)
@given(
    rings=st.lists(
        st.tuples(st.integers(0, 12), st.integers(0, 12), st.integers(1, 9), st.booleans(), st.booleans()),
        min_size=1,
        max_size=6,
    ),
    rule=st.sampled_from(["nonzero", "evenodd"]),
)
def test_it_agrees_with_the_boolean_wherever_it_answers(
    rings: list[tuple[int, int, int, bool, bool]], rule: str
) -> None:
    contours = []
    for x, y, size, is_round, is_turned in rings:
        contour = circle(x, y, size / 2.0) if is_round else square(x, y, float(size))
        contours.append(contour.reversed() if is_turned else contour)
    found = plain(*contours, rule=rule)
    if found is None:
        return
    shapes = [shapely.Polygon(Region.from_path(Path((c,)), "evenodd").polygons.geoms[0].exterior) for c in contours]
    probes = shapely.points(
        np.stack(np.meshgrid(np.arange(-5, 22, 0.73), np.arange(-5, 22, 0.71)), axis=-1).reshape(-1, 2)
    )
    signs = [1 if shapely.LinearRing(c.segments[:, 0]).is_ccw else -1 for c in contours]
    windings = sum(
        (shapely.contains(shape, probes).astype(int) * (sign if rule == "nonzero" else 1))
        for shape, sign in zip(shapes, signs, strict=True)
    )
    wanted = windings != 0 if rule == "nonzero" else windings % 2 == 1
    clear = shapely.distance(shapely.union_all([s.exterior for s in shapes]), probes) > 0.01
    assert (shapely.contains(found[0], probes) == wanted)[clear].all()


def leaf(x: float, y: float, turn: float) -> Contour:
    """Two cubics between two points, turned."""
    base = np.array([[[-10, 0], [-4, 9], [5, 7], [10, 0]], [[10, 0], [6, -5], [-3, -8], [-10, 0]]], dtype=float)
    c, s = np.cos(turn), np.sin(turn)
    return Contour(base @ np.array([[c, s], [-s, c]]) + np.array([x, y]), np.zeros(2, dtype=bool), True)


def nearest(contour: Contour, point: np.ndarray) -> float:
    """Distance of a point from a contour's curves, to about 1e-9 mm."""
    best = np.inf
    for a, b, c, d in contour.segments:

        def at(t: np.ndarray, p: tuple = (a, b, c, d)) -> np.ndarray:
            w = t[:, None]
            return (1 - w) ** 3 * p[0] + 3 * (1 - w) ** 2 * w * p[1] + 3 * (1 - w) * w * w * p[2] + w**3 * p[3]

        low, high = 0.0, 1.0
        for _ in range(9):
            t = np.linspace(low, high, 101)
            distances = np.hypot(*(at(t) - point).T)
            k = int(distances.argmin())
            low, high = t[max(k - 1, 0)], t[min(k + 1, 100)]
        best = min(best, float(distances[k]))
    return best


@pytest.mark.parametrize("turn", [0.4, 0.9, 1.3, 2.2])
@pytest.mark.parametrize("operation", ["union", "difference"])
def test_welded_curves_cross_where_the_curves_cross(turn: float, operation: str) -> None:
    one, other = leaf(0, 0, 0), leaf(1.3, 0.7, turn)
    first, second = (Region.from_path(Path((c,))) for c in (one, other))
    region = union([first, second]) if operation == "union" else difference(first, [second])
    known = np.concatenate([one.segments[:, 0], other.segments[:, 0]])
    nodes = np.concatenate([c.segments[:, 0] for c in region.outline.contours])
    new = [node for node in nodes if np.hypot(*(known - node).T).min() > 1e-6]
    assert len(new) >= 2
    for node in new:
        assert nearest(one, node) < 1e-6
        assert nearest(other, node) < 1e-6
