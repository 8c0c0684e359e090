"""Shapes whose thinnest places are known by construction, at random angles and places."""

from __future__ import annotations

from typing import Literal

import numpy as np
import pytest
import shapely
from scipy.ndimage import distance_transform_edt, label, maximum_filter
from shapely import LineString, MultiPolygon, Point, Polygon, box
from shapely.affinity import rotate, scale, translate

from tests.core.widths.surveying import places
from tests.raster import mask
from tests.shapes import ring, turned
from vivid_thimble.core.widths.places import ThinPlace
from vivid_thimble.core.widths.survey import survey_widths

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


def sector(radius: float, width: float, cut_deg: float) -> Polygon:
    """A stroke along an arc of 240 degrees; its far end is cut so many degrees off square."""
    inner, outer = radius - width / 2, radius + width / 2
    inside = np.radians(np.linspace(0.0, 240.0, 300))
    outside = inside * (1.0 + np.tan(np.radians(cut_deg)) * width / radius / inside[-1])
    arcs = [radius * np.c_[np.cos(a), np.sin(a)] for radius, a in ((outer, outside), (inner, inside))]
    return Polygon(np.r_[arcs[0], arcs[1][::-1]])


def disc(x: float, radius: float, y: float = 0.0) -> Polygon:
    return Point(x, y).buffer(radius, quad_segs=180)


def wave(cap: Literal["flat", "round", "square"]) -> Polygon:
    x = np.linspace(0.0, 27.0, 500)
    return LineString(np.c_[x, 2.0 * np.sin(2 * np.pi * x / 9.0)]).buffer(0.35, cap_style=cap, quad_segs=90)


def combed(tooth: float, gap: float) -> shapely.Geometry:
    teeth = [box(k * (tooth + gap), -1.0, k * (tooth + gap) + tooth, 7.0) for k in range(6)]
    return shapely.union_all([box(0.0, -4.0, 6 * tooth + 5 * gap, 0.0), *teeth])


LINES: dict[str, tuple[shapely.Geometry, float]] = {
    **{f"arc {r} cut {c}": (sector(r, 0.9, c), 0.9) for r, c in ((2.0, 0.0), (3.0, 20.0), (5.0, 1.0), (20.0, 35.0))},
    **{f"wave {cap}": (wave(cap), 0.7) for cap in ("flat", "round", "square")},
    "round bar": (LineString([(0, 0), (15, 0)]).buffer(0.43, quad_segs=60), 0.86),
    "spiral": (spiral(4.0, 1.9, 0.84)[0], 0.84),
    "comb": (combed(0.6, 1.1), 0.6),
    "hole near the rim": (disc(0, 6).difference(disc(1.3, 4.5)), 0.2),
    **{f"blunt taper {x}": (Polygon([(0, -0.3), (x, -1.5), (x, 1.5), (0, 0.3)]), 0.6) for x in (40, 80)},
}
GAPS: dict[str, tuple[shapely.Geometry, float]] = {
    "comb": (combed(1.3, 0.45), 0.45),
    "discs nearly touching": (shapely.union(disc(0, 5), disc(10.03, 5)), 0.03),
    "disc near a wall": (shapely.union(box(-8, -6, 8, 0), disc(1, 4, 4.2)), 0.2),
    "corner near a wall": (shapely.union(box(-8, -6, 8, 0), Polygon([(0, 0.7), (4, 6), (-4, 6)])), 0.7),
}


@pytest.mark.parametrize("limit", [0.5, 0.8, 1.6])
@pytest.mark.parametrize("name", list(LINES))
def test_free_ends_and_curves_read_as_wide_as_they_were_drawn_at_every_size(name: str, limit: float) -> None:
    shape, width = LINES[name]
    for factor in (0.25, 0.6, 1.0, 2.3, 6.0):
        lines, _ = survey_widths(turned(scale(shape, factor, factor, origin=(0, 0)), 23.0), limit, 0.7 * limit)
        assert lines.thinnest is not None
        assert lines.thinnest.thinnest == pytest.approx(width * factor, abs=CURVED_MM)
        assert any(not place.is_needle for place in lines.places) == (width * factor < limit)


@pytest.mark.parametrize("limit", [0.5, 0.8, 1.6])
@pytest.mark.parametrize("name", list(GAPS))
def test_gaps_between_nearly_touching_shapes_are_told_at_every_size(name: str, limit: float) -> None:
    shape, width = GAPS[name]
    for factor in (0.25, 0.6, 1.0, 2.3, 6.0):
        _, gaps = survey_widths(turned(scale(shape, factor, factor, origin=(0, 0)), 23.0), limit, limit)
        assert gaps.thinnest is not None
        assert gaps.thinnest.thinnest == pytest.approx(width * factor, abs=CURVED_MM)
        assert any(not place.is_needle for place in gaps.places) == (width * factor < limit)


def test_discs_that_touch_in_a_point_are_told_and_are_no_gap() -> None:
    _, gaps = survey_widths(MultiPolygon([box(0, 0, 5, 5), box(5, 5, 9, 9)]), 0.8, 0.5)
    assert [place.is_touching for place in gaps.places] == [True]
    assert gaps.thinnest is None or gaps.thinnest.thinnest > 0.5


def test_a_far_gap_among_many_is_the_one_that_the_polygons_have() -> None:
    """Wavy discs a hand's breadth apart, against the distances of the polygons."""
    rng = np.random.default_rng(4)
    t = np.linspace(0.0, 2 * np.pi, 300, endpoint=False)
    shapes = []
    for k in range(25):
        wave_of = sum(0.05 * rng.normal() * np.cos(n * t + rng.uniform(0, 6)) for n in range(2, 6))
        points = np.c_[np.cos(t), np.sin(t)] * (9.0 * (1.0 + wave_of))[:, None]
        shapes.append(Polygon(points + np.array([30.0 * (k % 5), 30.0 * (k // 5)])))
    _, gaps = survey_widths(MultiPolygon(shapes), 0.8, 0.5)
    true = min(a.distance(b) for k, a in enumerate(shapes) for b in shapes[k + 1 :])
    assert true > 5.0
    assert gaps.thinnest is not None
    assert gaps.thinnest.thinnest == pytest.approx(true, abs=1e-6)
    assert gaps.critical == pytest.approx(true, abs=1e-6)
