"""Strengthen and clean: only what is too thin, too small or a pinhole changes."""

from __future__ import annotations

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, box
from shapely.affinity import rotate

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.seams import close_seams, drop_hairs, seams_between
from vivid_thimble.core.steps import FillPinholes, RemoveSpecks, Strengthen
from vivid_thimble.core.widths.survey import survey_widths


def parts_of(*shapes: shapely.Geometry) -> Parts:
    return tuple(Part(f"part {k}", region(shape), None) for k, shape in enumerate(shapes))


def region(shape: shapely.Geometry) -> Region:
    return Region.from_polygons(MultiPolygon([p for p in shapely.get_parts(shape) if p.geom_type == "Polygon"]))


@settings(max_examples=15, deadline=None)
@given(st.floats(0.1, 0.75), st.floats(2.0, 20.0), st.floats(0.0, 180.0))
def test_a_thin_tie_gets_the_asked_width_and_nothing_else_changes(width: float, length: float, angle: float) -> None:
    plates = [box(-12, -5, 0, 5), box(length, -5, length + 12, 5)]
    shape = rotate(shapely.union_all([*plates, box(-1, -width / 2, length + 1, width / 2)]), angle, origin=(0, 0))
    stronger = merged(Strengthen(id="s", to=0.8).apply(parts_of(shape)))
    lines, _ = survey_widths(stronger.polygons, 0.8, 0.5)
    assert [p for p in lines.places if not p.is_needle] == []
    added = shapely.difference(stronger.polygons, shape)
    allowed = rotate(box(-1.2, -0.45, length + 1.2, 0.45), angle, origin=(0, 0))
    assert shapely.difference(added, allowed).area < 0.02
    assert shapely.difference(shape, stronger.polygons).area < 0.02


def test_openings_give_way_to_the_film_between_them() -> None:
    left, right = box(0, 0, 20, 10), box(20.4, 0, 40, 10)
    wider = Strengthen(id="s", to=1.5, openings=True).apply(parts_of(left, right))
    assert [part.label for part in wider] == ["part 0", "part 1"]
    gap = wider[0].region.polygons.distance(wider[1].region.polygons)
    assert gap == pytest.approx(1.5, abs=0.1)
    assert gap >= 1.5


def test_what_is_sturdy_comes_back_untouched() -> None:
    sturdy = parts_of(box(0, 0, 10, 10), Point(30, 5).buffer(4))
    assert Strengthen(id="s", to=0.8).apply(sturdy) is sturdy


def test_specks_go_by_the_size_of_the_whole_piece_they_belong_to() -> None:
    halves = parts_of(box(0, 0, 1, 1), box(0.9, 0, 12, 9), Point(30, 4).buffer(0.6))
    kept = RemoveSpecks(id="r", area=2.0).apply(halves)
    assert [part.label for part in kept] == ["part 0", "part 1"]
    with pytest.raises(InputRefused, match="smaller area"):
        RemoveSpecks(id="r", area=500.0).apply(halves)


def test_pinholes_are_filled_and_counters_stay() -> None:
    plate = box(0, 0, 30, 20).difference(shapely.union_all([Point(8, 8).buffer(0.4), Point(20, 8).buffer(3)]))
    (filled,) = FillPinholes(id="f", area=1.0).apply(parts_of(plate))
    assert len(filled.region.polygons.geoms[0].interiors) == 1
    assert filled.region.area == pytest.approx(plate.area + Point(0, 0).buffer(0.4).area, rel=1e-4)


@pytest.mark.parametrize("gap", [0.004, 0.015])
@pytest.mark.parametrize("angle", [0.0, 33.0])
def test_hairlines_between_parts_are_patched_and_real_gaps_are_not(gap: float, angle: float) -> None:
    def turned(*boxes: shapely.Polygon) -> list[Region]:
        return [region(rotate(one, angle, origin=(0, 0))) for one in boxes]

    left, right = turned(box(0, 0, 10, 10), box(10 + gap, 2, 20, 8))
    patches = seams_between([left, right])
    assert len(patches) == 1
    assert patches[0].area == pytest.approx(6 * gap, rel=0.1)
    assert len(merged(tuple(Part("", one) for one in (left, right, *patches))).polygons.geoms) == 1
    assert seams_between(turned(box(0, 0, 10, 10), box(10.1, 2, 20, 8))) == []
    assert seams_between([left]) == []


def test_hairs_of_film_are_dropped_and_thin_lines_are_not() -> None:
    hairy = region(shapely.union_all([box(0, 0, 10, 10), box(10, 4, 16, 4.01), box(16, 0, 26, 10)]))
    assert drop_hairs(hairy).area == pytest.approx(200.0, abs=0.02)
    thin = region(shapely.union_all([box(0, 0, 10, 10), box(10, 4, 16, 4.1)]))
    assert drop_hairs(thin).area == pytest.approx(thin.area)
    assert close_seams(thin).area == pytest.approx(thin.area)
