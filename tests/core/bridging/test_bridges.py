"""Bridges: no middle falls out, widths hold by erosion, nothing else changes; by hand, at other sizes, with other words."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.bridging.by_hand import placed_at
from vivid_thimble.core.bridging.plan import BridgeRules, plan_bridges, strip_of
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.recipe import stencil_sheet
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.steps import Bridges


def lettered(text: str, face: str, high: float) -> Region:
    letters = shape_words(Words(text=text, face=f"bundled:{face}")).letters
    whole = union([Region.from_path(one.path.transformed(Affine.scaling(100.0))) for one in letters])
    assert whole.bounds is not None
    return whole.transformed(Affine.scaling(high / (whole.bounds[3] - whole.bounds[1])))


def of_polygons(*polygons: shapely.Geometry) -> Region:
    return Region.from_polygons(shapely.union_all(polygons))


def ring(x: float, y: float, outer: float, inner: float) -> shapely.Geometry:
    at = shapely.Point(x, y)
    return at.buffer(outer, quad_segs=48).difference(at.buffer(inner, quad_segs=48))


def bridged(region: Region, step: Bridges) -> Region:
    return step.apply((Part("", region),))[0].region


def islands(openings: Region) -> int:
    return len(stencil_sheet(openings, 20.0).polygons.geoms) - 1


@pytest.mark.parametrize("face", ["Pacifico", "League Spartan", "Courier Prime"])
@pytest.mark.parametrize("text", ["0123456789", "QUILLFEN", "BOAT@8g", "Second Supper"])
def test_every_middle_is_held_by_bridges_of_the_asked_width(text: str, face: str) -> None:
    openings, step = lettered(text, face, 55.0), Bridges(id="b", width=1.5)
    after = bridged(openings, step)
    bridges = step.planned((Part("", openings),)).plan.bridges
    assert islands(openings) > 0
    assert islands(after) == 0
    sheet = stencil_sheet(after, 20.0).polygons
    for one in bridges:
        start, end = np.array(one.start), np.array(one.end)
        way = (end - start) / one.length
        line = shapely.LineString([start + 0.02 * way, end - 0.02 * way])
        near = shapely.intersection(sheet, shapely.buffer(line, 3.0))
        assert shapely.covers(shapely.buffer(near, -(1.5 - 0.02) / 2.0), line)  # by erosion
        assert sum(shapely.intersection(strip_of(one), p).area > 1e-6 for p in openings.polygons.geoms) == 1
    strips = shapely.union_all([strip_of(one) for one in bridges])
    changed = shapely.symmetric_difference(openings.polygons, after.polygons)
    assert shapely.difference(changed, shapely.buffer(strips, 0.001)).area < 0.003


def test_a_round_counter_gets_two_on_one_line_through_its_middle() -> None:
    plan = plan_bridges(of_polygons(ring(0, 0, 30, 18)).polygons, BridgeRules(1.5))
    one, two = plan.bridges
    assert one.length == pytest.approx(12.0, abs=0.1)
    ends = np.array([one.start, one.end, two.start, two.end])
    on_axis = np.abs(ends).min(axis=1)
    assert on_axis.max() < 0.05
    assert np.dot(one.middle, two.middle) < 0


def test_one_angle_for_all() -> None:
    plan = plan_bridges(of_polygons(ring(0, 0, 30, 18)).polygons, BridgeRules(1.5, angle_deg=30.0))
    for one in plan.bridges:
        way = np.array(one.end) - np.array(one.start)
        assert np.degrees(np.arctan2(-way[1], way[0])) % 180.0 == pytest.approx(30.0, abs=0.5)


def test_islands_in_islands_hang_on_chains_and_small_ones_on_one() -> None:
    nest = of_polygons(ring(0, 0, 40, 30), ring(0, 0, 20, 12), ring(70, 0, 12, 2.5))
    step = Bridges(id="b", width=1.5)
    assert islands(nest) == 3
    assert islands(bridged(nest, step)) == 0
    plan = step.planned((Part("", nest),)).plan
    assert sum(one.middle[0] > 50 for one in plan.bridges) == 1


def test_a_long_middle_gets_more() -> None:
    track = shapely.LineString([(0, 0), (260, 0)])
    track_ring = track.buffer(22, quad_segs=32).difference(track.buffer(12, quad_segs=32))
    plan = plan_bridges(of_polygons(track_ring).polygons, BridgeRules(1.5))
    assert len(plan.bridges) >= 6
    assert len(plan.bridges) % 2 == 0
    assert len({(one.middle[1] > 0) for one in plan.bridges}) == 2


def test_middles_that_touch_or_are_too_slim_are_tied_weakly() -> None:
    plate = shapely.box(0, 0, 60, 40)
    slim = shapely.box(10, 10, 50, 10.3)
    touching = shapely.Polygon([(20, 20), (40, 20), (30, 40)])
    for hole in (slim, touching):
        openings = of_polygons(plate.difference(hole))
        plan = plan_bridges(openings.polygons, BridgeRules(1.5))
        assert plan.bridges
        assert all(one.weak for one in plan.bridges) or hole is touching
        assert islands(bridged(openings, Bridges(id="b"))) == 0


def test_tiny_middles_may_drop_and_are_told() -> None:
    openings = of_polygons(ring(0, 0, 20, 8), ring(60, 0, 9, 1.0))
    plan = plan_bridges(openings.polygons, BridgeRules(1.5, dropped_area=5.0))
    assert len(plan.dropped) == 1
    assert plan.dropped[0] == pytest.approx((60.0, 0.0), abs=0.5)
    assert all(one.middle[0] < 30 for one in plan.bridges)


@settings(max_examples=25, deadline=None, derandomize=True)
@given(st.lists(st.tuples(st.floats(-60, 60), st.floats(-60, 60), st.floats(3, 14)), min_size=1, max_size=8))
def test_whatever_holes_a_plate_has_none_falls_out(holes: list[tuple[float, float, float]]) -> None:
    discs = shapely.union_all([shapely.Point(x, y).buffer(r, quad_segs=16) for x, y, r in holes])
    openings = of_polygons(shapely.box(-80, -80, 80, 80).difference(discs))
    assert islands(bridged(openings, Bridges(id="b"))) == 0


HAND = placed_at((0.0, -30.0), (0.0, -18.0), (-30.0, -30.0, 30.0, 30.0))


def test_bridges_by_hand_stay_at_other_sizes_and_the_rest_is_made_anew() -> None:
    hand = placed_at((0.0, -30.0), (0.0, -18.0), (-30.0, -30.0, 130.0, 30.0))
    step = Bridges(id="b", width=2.0, placed=(hand,))
    for factor in (0.6, 1.0, 1.4):
        openings = of_polygons(ring(0, 0, 30 * factor, 18 * factor), ring(100 * factor, 0, 30 * factor, 18 * factor))
        found = step.planned((Part("", openings),))
        assert found.by_hand == (0,)
        assert found.unfit == ()
        first, *rest = found.plan.bridges
        assert first.middle == pytest.approx((0.0, -24.0 * factor), abs=0.05)
        assert first.width == 2.0
        assert len(rest) == 2  # of the other ring: what has bridges by hand gets no more
        assert all(one.middle[0] > 50.0 * factor for one in rest)
        assert islands(bridged(openings, step)) == 0


def test_a_bridge_by_hand_without_its_opening_is_told_not_dropped_in_silence() -> None:
    pair = of_polygons(ring(-40, 0, 15, 8), ring(40, 0, 15, 8))
    found = Bridges(id="b", placed=(HAND,)).planned((Part("", pair),))
    assert found.unfit == (0,)
    assert found.plan.bridges


def test_no_bridge_where_none_is_wanted() -> None:
    openings = of_polygons(ring(0, 0, 30, 18))
    plain = Bridges(id="b").planned((Part("", openings),)).plan.bridges[0].middle
    avoided = ((plain[0] + 30.0) / 60.0, (plain[1] + 30.0) / 60.0)
    for one in Bridges(id="b", avoided=(avoided,)).planned((Part("", openings),)).plan.bridges:
        assert np.hypot(one.middle[0] - plain[0], one.middle[1] - plain[1]) > 2.9


def test_nothing_has_no_bridges() -> None:
    step = Bridges(id="b")
    assert step.apply(()) == ()
    assert bridged(Region(), step).is_empty
    solid = of_polygons(shapely.box(0, 0, 9, 9))
    assert step.planned((Part("", solid),)).plan.bridges == ()
