"""The width map: how much is how wide, and where."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely import MultiPolygon, box

from tests.shapes import ring
from vivid_thimble.core.widths.widthmap import width_map


def test_a_bar_has_all_its_length_in_the_bin_of_its_width() -> None:
    lines = width_map(MultiPolygon([box(0, 0, 60, 1.1)]), 0.8, 0.5).lines
    assert lines.edges[4] == pytest.approx(0.8)
    full = np.flatnonzero(lines.lengths > 0.0)
    assert full.tolist() == [5]
    assert lines.lengths.sum() == pytest.approx(60.0, rel=0.05)


def test_gaps_between_rings_are_told_apart_and_walked_narrowest_first() -> None:
    shape = MultiPolygon([ring(20.0, 2.0), ring(17.6, 2.0), ring(14.9, 2.0)])
    gaps = width_map(shape, 0.8, 0.5).gaps
    spots = gaps.spots(0.0, 0.75)
    assert [spot.width for spot in spots] == pytest.approx([0.4, 0.7], abs=0.01)
    assert gaps.spots(0.45, 0.65) == []
    (ax, ay), (bx, by) = spots[0].ends
    assert np.hypot(ax - bx, ay - by) == pytest.approx(0.4, abs=0.01)
    assert np.hypot(*spots[0].at) == pytest.approx(17.8, abs=0.05)


def test_corners_have_no_width_and_nothing_has_none_at_all() -> None:
    assert width_map(MultiPolygon([box(0, 0, 50, 50)]), 0.8, 0.5).lines.lengths.sum() == 0.0
    empty = width_map(MultiPolygon(), 0.8, 0.5)
    assert empty.lines.lengths.sum() == empty.gaps.lengths.sum() == 0.0
    assert empty.lines.spots(0.0, 9.0) == []


def test_film_and_waste_trade_places_when_the_shape_is_cut_out_of_a_sheet() -> None:
    bars = shapely.union_all([box(0, 0, 30, 1.3), box(0, 3, 30, 4.5)])
    sheet = box(-20, -20, 50, 25).difference(bars)
    design, cut_out = width_map(MultiPolygon(bars.geoms), 0.8, 0.8), width_map(MultiPolygon([sheet]), 0.8, 0.8)
    assert design.lines.lengths == pytest.approx(cut_out.gaps.lengths, abs=0.5)
