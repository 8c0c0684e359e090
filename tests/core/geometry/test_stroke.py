"""Strokes as areas, against buffers of finely divided lines and against geometry."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.path_text import read_path_data
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.stroke import Stroke, StrokeStyle, dashed, stroke_outlines

WITHIN_MM = 0.012


def region(data: str, style: StrokeStyle) -> Region:
    path, complete = read_path_data(data)
    assert complete
    return Region.from_path(stroke_outlines([Stroke(path, style)])[0], "nonzero")


def buffered(data: str, width: float, cap: str = "round") -> shapely.Geometry:
    path, _ = read_path_data(data)
    lines = []
    for contour, points in zip(path.contours, flatten(path, 2e-4).rings(), strict=True):
        lines.append(shapely.LineString(np.concatenate([points, points[:1]]) if contour.closed else points))
    return shapely.union_all([shapely.buffer(line, width / 2, quad_segs=90, cap_style=cap) for line in lines])


def deviation(one: shapely.Geometry, other: shapely.Geometry) -> float:
    """How far the two may be apart on average along their edges, in mm."""
    return shapely.symmetric_difference(one, other).area / max(other.length, 1e-9)


@pytest.mark.parametrize("seed", range(12))
def test_round_strokes_of_any_curve_are_buffers(seed: int) -> None:
    random = np.random.default_rng(seed)
    width = (0.3, 2.0, 9.0)[seed % 3]
    data = "M30 30" + "".join(f"C{' '.join(map(str, one))}" for one in random.uniform(0, 60, (3, 6)).round(2))
    found = region(data, StrokeStyle(width, "round", "round")).polygons
    truth = buffered(data, width)
    assert deviation(found, truth) < 0.004
    assert shapely.difference(truth, shapely.buffer(found, WITHIN_MM)).area < 1e-3
    assert shapely.difference(found, shapely.buffer(truth, WITHIN_MM)).area < 1e-3


@pytest.mark.parametrize(
    "data,style,area",
    [
        ("M0 0H30", StrokeStyle(4), 120),
        ("M0 0H30", StrokeStyle(4, "square"), 136),
        ("M0 0H30", StrokeStyle(4, "round"), 120 + math.pi * 4),
        ("M0 0H30V30", StrokeStyle(4), 30 * 4 + 30 * 4),
        ("M0 0H30V30", StrokeStyle(4, join="bevel"), 240 - 2),
        ("M0 0H30V30", StrokeStyle(4, join="round"), 240 - 4 + math.pi),
        ("M0 0H30V30H0Z", StrokeStyle(4), 34 * 34 - 26 * 26),
        ("M0 0H30V30", StrokeStyle(4, miter_limit=1.2), 240 - 2),
        ("M0 0H30H0", StrokeStyle(4, join="round"), 30 * 4 + math.pi * 2),
        ("M10 0A10 10 0 0 1 -10 0A10 10 0 0 1 10 0Z", StrokeStyle(4), math.pi * (144 - 64)),
        ("M1 0A1 1 0 0 1 -1 0A1 1 0 0 1 1 0Z", StrokeStyle(6), math.pi * 16),
        ("M0 0H30", StrokeStyle(4, dashes=(5, 5)), 60),
        ("M0 0H30", StrokeStyle(4, dashes=(5, 5), dash_offset=7), 4 * (5 + 5 + 5 - 3 + 5 - 3 - 2 + 1)),
        ("M0 0H30", StrokeStyle(0), 0),
    ],
)  # fmt: skip
def test_joins_caps_and_dashes_cover_what_geometry_says(data: str, style: StrokeStyle, area: float) -> None:
    if style.dash_offset:
        area = 4 * sum(max(0, min(b, 30) - max(a, 0)) for a, b in ((-7, -2), (3, 8), (13, 18), (23, 28)))
    assert region(data, style).area == pytest.approx(area, rel=2e-3, abs=1e-9)


def test_dots_show_by_their_caps_alone() -> None:
    dots = np.array([[5.0, 5.0]])
    for cap, area in (("butt", 0.0), ("square", 16.0), ("round", math.pi * 4)):
        outline = stroke_outlines([Stroke(Path(), StrokeStyle(4, cap), dots)])[0]
        assert Region.from_path(outline).area == pytest.approx(area, rel=1e-3)


def test_dashes_have_their_length_along_a_curve() -> None:
    angles = np.linspace(0, math.pi, 9)
    kappa = 4 / 3 * math.tan(math.pi / 32)
    segments = []
    for a, b in zip(angles[:-1], angles[1:], strict=True):
        p, q = np.array([math.cos(a), math.sin(a)]), np.array([math.cos(b), math.sin(b)])
        segments.append([p, p + kappa * np.array([-p[1], p[0]]), q - kappa * np.array([-q[1], q[0]]), q])
    arc = Contour(np.array(segments) * 20, np.zeros(8, dtype=bool), False)
    pieces = dashed(Path((arc,)), (3.0, 2.0)).contours
    lengths = [shapely.LineString(flatten(Path((piece,)), 1e-4).points).length for piece in pieces]
    assert len(pieces) == 13
    assert lengths[:-1] == pytest.approx([3.0] * 12, abs=0.01)


def test_a_smooth_curve_gets_few_nodes() -> None:
    outline = region("M10 80C40 10 65 10 95 80S150 150 180 80", StrokeStyle(8, "round")).outline
    assert outline.node_count < 34


PENS = st.builds(
    StrokeStyle,
    st.floats(0.2, 12),
    st.sampled_from(["butt", "round", "square"]),
    st.sampled_from(["miter", "round", "bevel"]),
    st.floats(1, 8),
    st.sampled_from([(), (4.0, 2.0), (1.0, 3.0, 2.0)]),
)
LINES = st.sampled_from(
    ["M0 0C10 30 30 -30 40 0", "M0 0L20 5L5 12Z", "M0 0Q30 1 0 2", "M3 3h0M9 9L20 9", "M0 0L9 0L0 .1"]
)


@given(st.lists(st.tuples(LINES, PENS, st.floats(0.001, 0.05)), min_size=2, max_size=6))
@settings(max_examples=40, deadline=None)
def test_strokes_drawn_together_are_those_drawn_alone(drawn: list) -> None:
    strokes = [Stroke(read_path_data(line)[0], pen, None, tolerance) for line, pen, tolerance in drawn]
    together = stroke_outlines([*strokes, Stroke(read_path_data("M0 0H9")[0], StrokeStyle(0.0))])
    assert together.pop().is_empty
    for stroke, outline in zip(strokes, together, strict=True):
        (alone,) = stroke_outlines([stroke])
        assert len(alone.contours) == len(outline.contours)
        for one, other in zip(alone.contours, outline.contours, strict=True):
            assert np.allclose(one.segments, other.segments, rtol=0, atol=1e-9)
