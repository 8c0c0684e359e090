"""Shapes whose thinnest places are known by construction, at random angles and places."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from scipy.ndimage import distance_transform_edt, label, maximum_filter
from shapely import LineString, MultiPolygon, Point, Polygon, box
from shapely.affinity import rotate, translate

from tests.core.widths.test_places import places
from tests.raster import mask
from tests.shapes import ring
from vivid_thimble.core.widths.places import ThinPlace

STRAIGHT_MM, CURVED_MM = 0.005, 0.01


def thinnest(found: list[ThinPlace]) -> list[float]:
    return [p.thinnest for p in found if not p.is_needle]


def spiral(turns: float, pitch: float, width: float, start: float = 2.0) -> tuple[Polygon, LineString]:
    """A spiral ribbon and its middle line; the gap between turns is about the pitch less the width."""
    t = np.linspace(0.0, 2 * np.pi * turns, int(240 * turns))
    radius = start + pitch * t / (2 * np.pi)
    line = LineString(np.c_[radius * np.cos(t), radius * np.sin(t)])
    return line.buffer(width / 2, cap_style="flat", quad_segs=60), line


@pytest.mark.parametrize("seed", range(4))
def test_a_spiral_is_one_line_and_its_turns_leave_one_gap(seed: int) -> None:
    rng = np.random.default_rng(seed)
    width = rng.uniform(0.4, 0.7)
    pitch = width + rng.uniform(0.5, 0.7)
    shape, line = spiral(5.0, pitch, width)
    lines, gaps = places(shape, rng.uniform(0, 360))
    assert thinnest(lines) == pytest.approx([width], abs=CURVED_MM)
    assert lines[0].length == pytest.approx(line.length, rel=0.05)
    points = shapely.get_coordinates(line)
    angle = np.linspace(0.0, 10 * np.pi, len(points))
    across = min(
        LineString(points[angle > angle[k] + np.pi]).distance(Point(points[k]))
        for k in range(0, len(points), 3)
        if (angle > angle[k] + np.pi).sum() > 2
    )
    assert thinnest(gaps) == pytest.approx([across - width], abs=CURVED_MM)
    assert len(gaps) == 1


@pytest.mark.parametrize("seed", range(4))
def test_nested_rings_are_lines_and_gaps_of_their_own(seed: int) -> None:
    rng = np.random.default_rng(seed)
    widths, gaps_between = rng.uniform(0.3, 0.75, 4), rng.uniform(0.3, 0.75, 3)
    shapes, radius = [], 12.0
    for width, gap in zip(widths, [*gaps_between, 9.0], strict=True):
        shapes.append(ring(radius, width))
        radius -= width + gap
    lines, gaps = places(MultiPolygon(shapes), rng.uniform(0, 360))
    assert sorted(thinnest(lines)) == pytest.approx(sorted(widths), abs=CURVED_MM)
    assert sorted(thinnest(gaps)) == pytest.approx(sorted(gaps_between), abs=CURVED_MM)


@pytest.mark.parametrize("seed", range(4))
def test_a_wedge_is_as_long_and_as_thin_as_it_was_drawn(seed: int) -> None:
    """A bar that widens: thinnest at its blunt small end, thin up to where it reaches the limit."""
    rng = np.random.default_rng(seed)
    small, large, length = rng.uniform(0.25, 0.5), rng.uniform(2.0, 3.0), rng.uniform(60.0, 90.0)
    shape = Polygon([(0, -small / 2), (length, -large / 2), (length, large / 2), (0, small / 2)])
    lines, gaps = places(shape, rng.uniform(0, 360))
    assert gaps == []
    assert len(lines) == 1
    assert lines[0].thinnest == pytest.approx(small, abs=STRAIGHT_MM)
    assert lines[0].length == pytest.approx((0.8 - small) / (large - small) * length, rel=0.05)


@pytest.mark.parametrize("seed", range(4))
def test_stems_between_serifs_are_found_and_the_serifs_are_not(seed: int) -> None:
    rng = np.random.default_rng(seed)
    stems = rng.uniform(0.3, 0.7, 3)
    shapes = []
    for k, stem in enumerate(stems):
        x = 12.0 * k
        feet = [Polygon([(x - 3, y), (x + 3, y), (x + stem / 2, y + s * 2), (x - stem / 2, y + s * 2)])
                for y, s in ((0.0, 1.0), (15.0, -1.0))]  # fmt: skip
        shapes.append(shapely.union_all([box(x - stem / 2, 0.5, x + stem / 2, 14.5), *feet]))
    lines, gaps = places(MultiPolygon(shapes), rng.uniform(0, 360))
    assert gaps == []
    assert sorted(thinnest(lines)) == pytest.approx(sorted(stems), abs=STRAIGHT_MM)
    assert all(10.0 < p.length < 12.5 and p.open_ends == 2 for p in lines)


@pytest.mark.parametrize("gap", [0.002, 0.02, 0.2])
def test_nearly_coincident_edges_are_one_gap_of_their_width(gap: float) -> None:
    shape = MultiPolygon([box(0, 0, 20, 5), box(3, 5 + gap, 17, 10)])
    lines, gaps = places(shape, 31.0)
    assert lines == []
    assert thinnest(gaps) == pytest.approx([gap], abs=STRAIGHT_MM / 5)
    assert gaps[0].length == pytest.approx(14.0, rel=0.05)
    assert gaps[0].is_touching == (gap <= 0.01)


def random_design(seed: int) -> tuple[MultiPolygon, list[float]]:
    """Sturdy discs in a row, tied by thin bars of random widths."""
    rng = np.random.default_rng(seed)
    widths = rng.uniform(0.15, 0.75, 5).tolist()
    shapes: list[shapely.Geometry] = [Point(12.0 * k, 0).buffer(4.0, quad_segs=90) for k in range(6)]
    for k, width in enumerate(widths):
        tie = box(12.0 * k, -width / 2, 12.0 * (k + 1), width / 2)
        shapes.append(translate(rotate(tie, rng.uniform(-12, 12), origin="centroid"), 0, rng.uniform(-1, 1)))
    whole = shapely.union_all(shapes)
    assert isinstance(whole, Polygon)
    return MultiPolygon([whole]), widths


@pytest.mark.parametrize("seed", range(6))
def test_pixels_find_the_same_places_and_no_others(seed: int) -> None:
    """Film thinner than the limit by the distance transform at 50 px/mm, ridge by ridge."""
    shape, widths = random_design(seed)
    lines, _ = places(shape, 0.0)
    assert sorted(thinnest(lines)) == pytest.approx(sorted(widths), abs=STRAIGHT_MM)
    px = 50
    left, top, right, bottom = shape.bounds
    size = (int((bottom - top + 2) * px), int((right - left + 2) * px))
    film = mask(shapely.transform(shape, lambda p: p - [left - 1, top - 1]), px, size) > 0
    half = distance_transform_edt(film) / px
    opened = distance_transform_edt(half < 0.4) / px < 0.4 + 2 / px  # what a disc of the limit reaches into
    remnants, count = label(film & ~opened)
    places_found = [k for k in range(1, count + 1) if (remnants == k).sum() > 0.5 * px * px]
    assert len(places_found) == len(lines)
    ridge = half == maximum_filter(half, size=5)
    measured = sorted(float(2 * np.median(half[(remnants == k) & ridge])) for k in places_found)
    assert measured == pytest.approx(sorted(widths), abs=2 / px)
