"""Bridges by balance, on plain middles: measured along the rim, with code that shares nothing with the planner."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
import shapely
from shapely import LineString, MultiPolygon, Point, Polygon, box
from shapely.affinity import scale

from vivid_thimble.core.bridging.plan import Bridge, BridgeRules, plan_bridges, strips_of

T = np.linspace(0.0, 2.0 * np.pi, 400, endpoint=False)
WIDTH = 1.5


def regular(corners: int, radius: float) -> Polygon:
    turn = np.pi / 2 + 2 * np.pi * np.arange(corners) / corners
    return Polygon(np.c_[radius * np.cos(turn), -radius * np.sin(turn)])


def heart(width: float) -> Polygon:
    x, y = 16 * np.sin(T) ** 3, -(13 * np.cos(T) - 5 * np.cos(2 * T) - 2 * np.cos(3 * T) - np.cos(4 * T))
    return scale(Polygon(np.c_[x, y]), width / 32, width / 32, origin=(0, 0))


def crescent(radius: float) -> Polygon:
    moon = Point(0, 0).buffer(radius, quad_segs=90).difference(Point(0.45 * radius, 0).buffer(0.82 * radius))
    return moon.buffer(-0.02 * radius).buffer(0.02 * radius)


def star(radius: float) -> Polygon:
    turn, far = np.pi / 2 + np.pi * np.arange(10) / 5, np.where(np.arange(10) % 2, 0.5 * radius, radius)
    return Polygon(np.c_[far * np.cos(turn), -far * np.sin(turn)])


MIDDLES: dict[str, tuple[Polygon, bool]] = {
    "ring of 110 mm": (Point(0, 0).buffer(55, quad_segs=90), True),
    "ring of 50 mm": (Point(0, 0).buffer(25, quad_segs=90), True),
    "square": (box(-55, -55, 55, 55), True),
    "board": (box(-60, -20, 60, 20), True),
    "triangle": (regular(3, 60), True),
    "hexagon": (regular(6, 60), True),
    "heart": (heart(110), True),
    "oval": (scale(Point(0, 0).buffer(1, quad_segs=90), 55, 35), True),
    "house": (Polygon([(-40, 40), (-40, -10), (0, -50), (40, -10), (40, 40)]), True),
    "star": (star(50), True),
    "pill": (LineString([(-40, 0), (40, 0)]).buffer(18, quad_segs=60), True),
    "crescent": (crescent(55), False),
    "arrow": (Polygon([(-50, -12), (10, -12), (10, -35), (55, 0), (10, 35), (10, 12), (-50, 12)]), False),
}


def planned(middle: Polygon) -> tuple[Bridge, ...]:
    opening = middle.buffer(6, quad_segs=60).difference(middle)
    return plan_bridges(MultiPolygon([opening]), BridgeRules(WIDTH)).bridges


@pytest.mark.parametrize("name", list(MIDDLES))
def test_no_stretch_of_a_rim_is_much_longer_than_it_has_to_be(name: str) -> None:
    middle, is_alike = MIDDLES[name]
    bridges = planned(middle)
    assert 3 <= len(bridges) <= 6
    rim = middle.exterior
    at = sorted(rim.project(Point(one.start)) for one in bridges)
    free = max(b - a for a, b in pairwise([*at, at[0] + rim.length]))
    assert free <= 1.15 * rim.length / len(bridges)
    if is_alike:
        feet = np.array([one.start for one in bridges])
        mirrored = feet * (-1.0, 1.0)
        assert np.hypot(*(feet[:, None] - mirrored[None]).transpose(2, 0, 1)).min(axis=0).max() < 2.0


@pytest.mark.parametrize("name", ["square", "house", "star", "triangle"])
def test_feet_keep_away_from_corners(name: str) -> None:
    middle, _ = MIDDLES[name]
    corners = shapely.multipoints(shapely.get_coordinates(middle.exterior))
    assert min(corners.distance(Point(one.start)) for one in planned(middle)) > WIDTH


def test_a_number_has_its_bridges_in_one_direction() -> None:
    """Two loops one above the other, and a long one beside them: all upright, or all level."""
    loops = [
        shapely.union_all([Point(0, y).buffer(r + 7) for y, r in ((0, 6), (24, 8))])
        .difference(Point(0, 0).buffer(6))
        .difference(Point(0, 24).buffer(8)),
        scale(Point(50, 12).buffer(1), 17, 26).difference(scale(Point(50, 12).buffer(1), 8, 17)),
    ]
    bridges = plan_bridges(MultiPolygon(loops), BridgeRules(WIDTH)).bridges
    assert len(bridges) >= 5
    ways = np.abs([(one.end[0] - one.start[0], one.end[1] - one.start[1]) for one in bridges])
    assert (ways < 0.05 * ways.max(axis=1, keepdims=True)).all(axis=0).any()


def test_a_weak_bridge_ends_where_its_opening_does() -> None:
    """Two slits 0.6 mm apart enclose a sliver: what ties it leaves a third slit beside it alone."""
    ring = box(0, 0, 30, 8).difference(box(0.6, 0.6, 29.4, 7.4))
    inner = box(1.0, 1.0, 29.0, 7.0).difference(box(1.3, 1.3, 28.7, 6.7))
    openings = MultiPolygon([ring, inner])
    bridges = plan_bridges(openings, BridgeRules(WIDTH)).bridges
    assert any(one.weak for one in bridges)
    for strip in strips_of(bridges):
        assert sum(strip.intersection(opening).area > 1e-6 for opening in openings.geoms) == 1
        assert shapely.length(shapely.oriented_envelope(strip)) / 2.0 - WIDTH < 1.5
