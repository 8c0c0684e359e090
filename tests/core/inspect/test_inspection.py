"""Pieces, outlines, and the verdict as a whole."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from shapely import MultiPolygon, Point, box
from shapely.affinity import translate

from tests.inspecting import LIMITS, inspected
from tests.shapes import bar, circle, comb, dumbbell, square
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.inspect.contours import doubled_outlines, open_outlines
from vivid_thimble.core.inspect.inspection import Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import islands, waste_pieces


def test_nested_pieces_are_counted_on_both_sides() -> None:
    target = shapely.union_all(
        [Point(0, 0).buffer(r, quad_segs=32).difference(Point(0, 0).buffer(r - 2)) for r in (20, 14, 8)]
    )
    found = inspected(target)
    assert len(found.kept) == 3
    assert len(found.waste) == 4
    frame = box(-25, -25, 25, 25)
    assert sum(p.area for p in found.waste) == pytest.approx(frame.area - target.area, rel=1e-9)
    assert [p.is_surround for p in found.waste] == [True, False, False, False]


def test_a_design_that_reaches_round_its_box_splits_the_surround() -> None:
    cross = MultiPolygon([box(0, 4, 10, 6)])
    assert len(waste_pieces(cross, (0, 0, 10, 10), 1.0)) == 2


def test_specks_and_slender_scraps_are_small_and_sturdy_pieces_are_not() -> None:
    shapes = [box(0, 0, 10, 10), Point(20, 0).buffer(0.7), box(30, 0, 33, 1.1), box(40, 0, 41.5, 1.5), bar(0.9, 30)]
    shapes[4] = translate(shapes[4], 0, 20)
    small = [f for f in inspected(MultiPolygon(shapes)).findings if f.kind == "small-piece"]
    assert sorted(round(f.area, 2) for f in small) == [1.54, 3.3]


def test_middles_of_a_sheet_are_islands_even_inside_each_other() -> None:
    sheet = box(0, 0, 60, 60)
    letter = (
        box(10, 10, 50, 50).difference(box(20, 20, 40, 40)).union(box(25, 25, 35, 35).difference(box(28, 28, 32, 32)))
    )
    kept = MultiPolygon(list(shapely.get_parts(sheet.difference(letter))))
    assert len(islands(kept)) == 2
    found = inspected(kept, is_sheet=True)
    assert [f.kind for f in found.findings].count("loose-piece") == 2
    assert len(found.incurable) == 2


def test_the_gauges_show_the_thinnest_even_when_all_is_well() -> None:
    found = inspected(dumbbell(3.0, gap=8.0))
    assert found.findings == ()
    assert found.thinnest_line == pytest.approx(3.0, abs=0.01)
    assert found.smallest_clean_scale == pytest.approx(0.8 / 3.0, rel=0.01)
    gap = inspected(MultiPolygon([box(0, 0, 10, 10), box(12.5, 0, 20, 10)]))
    assert gap.thinnest_gap == pytest.approx(2.5, abs=0.01)


def test_the_scale_that_cures_a_thin_comb() -> None:
    found = inspected(comb(5, 0.5))
    assert found.smallest_clean_scale == pytest.approx(1.6, rel=0.01)
    assert {f.kind for f in found.findings} == {"thin-line"}


def test_nothing_gives_no_figures_at_all() -> None:
    found = inspect_shape(MultiPolygon(), LIMITS, is_sheet=False, weeding_box=(0, 0, 0, 0))
    assert (found.thinnest_line, found.thinnest_gap, found.smallest_clean_scale) == (None, None, None)
    assert found.findings == ()


def test_outlines_drawn_twice_are_found_whatever_their_direction_and_start() -> None:
    base = square(0, 0, 10)
    again = Contour(np.roll(base.segments, 2, axis=0), base.is_line, True)
    near = Path((circle(30, 0, 5),)).transformed(Affine.translation(0.02, 0)).contours[0].reversed()
    path = Path((base, again, circle(30, 0, 5), near, circle(60, 0, 5), circle(60, 0.5, 5), square(80, 0, 10)))
    assert [round(d.at[0]) for d in doubled_outlines(path)] == [10, 35]


def test_open_outlines_are_found_with_their_gap_and_closed_ones_without_a_closing_command_are_not() -> None:
    opened = Contour.from_points(np.array([[0, 0], [10, 0], [10, 10], [0, 3.0]]), closed=False)
    joined = Contour.from_points(np.array([[0, 0], [10, 0], [10, 10], [0, 0.001]]), closed=False)
    assert [round(o.gap, 6) for o in open_outlines(Path((opened, joined, square(0, 0, 5))))] == [3.0]


def test_a_piece_that_gets_lost_is_told_once_and_not_for_the_gaps_round_it() -> None:
    speck = shapely.box(20.3, 5, 20.9, 5.6)
    found = inspected(shapely.union(shapely.box(0, 0, 20, 20), speck))
    assert [f.kind for f in found.findings] == ["small-piece"]
    assert found.thinnest_gap == pytest.approx(0.3, abs=0.001)
    assert found.smallest_clean_scale == pytest.approx(math.sqrt(2.0) / 0.6, rel=0.01)


def test_dust_is_cured_by_leaving_it_out_and_by_no_size() -> None:
    found = inspected(shapely.union(box(0, 0, 200, 200), box(210, 5, 210.02, 5.02)))
    (speck,) = found.findings
    assert (speck.kind, speck.severity, speck.cured_by_size) == ("small-piece", "stop", False)
    assert "dust" in speck.sentence
    assert found.smallest_clean_scale is not None
    assert found.smallest_clean_scale < 0.1


@pytest.mark.parametrize(("tie", "told"), [(0.08, 1), (0.5, 1), (1.2, 0)])
def test_a_middle_that_hangs_by_less_than_the_limit_is_loose_in_a_rigid_stencil(tie: float, told: int) -> None:
    """A plate with a ring cut out of it but for one tie: held means held by the film's limit."""
    ring = box(20, 20, 40, 40).difference(box(23, 23, 37, 37)).difference(box(30 - tie / 2, 19, 30 + tie / 2, 24))
    sheet = MultiPolygon([box(0, 0, 60, 60).difference(ring)])
    limits = Limits(line=0.8, gap=0.5, area=2.0, circle=1.2)
    found = inspect_shape(sheet, limits, is_sheet=True, weeding_box=(0, 0, 60, 60))
    assert len(found.loose) == told
    assert [round(piece.area / 196.0, 1) for piece in found.loose] == [1.0] * told
    carried = inspect_shape(sheet, limits, is_sheet=True, weeding_box=(0, 0, 60, 60), carried=True)
    assert carried.loose == ()
