"""Bridges: no middle falls out, widths hold by erosion, nothing else changes; by hand, at other sizes, with other words."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from vivid_thimble.core.bridging.by_hand import from_island, placed_at
from vivid_thimble.core.bridging.plan import BridgeRules, plan_bridges, strip_of
from vivid_thimble.core.bridging.walls import walls_of
from vivid_thimble.core.edits.bridges import automatic, locked, with_bridge, without_bridge, without_unfit
from vivid_thimble.core.evaluate.recipe import stencil_sheet
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Job, new_job
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.steps import Bridges
from vivid_thimble.core.steps.bridges import FoundBridges
from vivid_thimble.core.steps.step import Around


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


@pytest.mark.parametrize(("style", "feet"), [("curved", False), ("straight", True), ("curved", True)])
def test_bent_bridges_and_wide_feet_hold_as_well_and_keep_to_their_opening(style: str, feet: bool) -> None:
    openings = lettered("QB8&e", "League Spartan", 70.0)
    step = Bridges(id="b", width=2.0, style=style, feet=feet)  # type: ignore[arg-type]
    plain = Bridges(id="b", width=2.0).planned((Part("", openings),)).plan.bridges
    bridges = step.planned((Part("", openings),)).plan.bridges
    after = bridged(openings, step)
    assert islands(after) == 0
    assert [one.middle for one in bridges] == [one.middle for one in plain]
    assert sum(one.patch is not None for one in bridges) >= 0.8 * len(bridges)
    eroded = shapely.buffer(stencil_sheet(after, 20.0).polygons, -(2.0 - 0.02) / 2.0)
    assert len([part for part in shapely.get_parts(eroded) if part.area > 0.5]) == 1  # all hangs together by 2 mm
    for one in bridges:
        assert sum(shapely.intersection(strip_of(one), p).area > 1e-6 for p in openings.polygons.geoms) == 1
    if feet:
        wider = [strip_of(one).area > strip_of(other).area for one, other in zip(bridges, plain, strict=True)]
        assert sum(wider) >= 0.8 * len(wider)


def found_in(region: Region, step: Bridges) -> FoundBridges:
    return FoundBridges(step, step.planned((Part("", region),)))


def edited(region: Region, job: Job) -> FoundBridges:
    (step,) = job.item.layers[0].steps
    assert isinstance(step, Bridges)
    return found_in(region, step)


def test_edits_by_hand_pin_the_middle_that_is_touched_and_leave_the_others() -> None:
    pair = of_polygons(ring(0, 0, 30, 18), ring(80, 0, 30, 18))
    step = Bridges(id="b", width=2.0)
    job = with_layer(new_job(), lambda layer: replace(layer, steps=(step,)))
    owner, own = job.item.layers[0].id, found_in(pair, step)
    number = next(k for k, one in enumerate(own.found.plan.bridges) if one.middle[0] < 40)
    slid = from_island(own.walls, _island_of(own, number), (12.0, 12.0), 2.0)
    assert slid is not None
    moved = edited(pair, with_bridge(job, owner, own, slid, number))
    left = [one for one in moved.found.plan.bridges if one.middle[0] < 40]
    assert len(moved.found.by_hand) == len(left) == 2  # the other one of this middle stays where it was
    assert any(np.hypot(*(np.array(one.middle) - slid.middle)) < 0.05 for one in left)
    assert len(moved.found.plan.bridges) == 4
    added = with_bridge(job, owner, own, slid)
    assert len(edited(pair, added).found.plan.bridges) == 5
    fewer = edited(pair, without_bridge(job, owner, own, number))
    assert len(fewer.found.plan.bridges) == 3  # one of the pair is enough
    fixed = edited(pair, locked(job, owner, own, range(4)))
    assert len(fixed.found.by_hand) == 4
    assert edited(pair, automatic(added, owner, edited(pair, added))).found.by_hand == ()
    small = of_polygons(ring(0, 0, 30, 18))
    unfit = edited(small, locked(job, owner, own, range(4)))
    assert len(unfit.found.unfit) >= 2
    assert edited(small, without_unfit(locked(job, owner, own, range(4)), owner, unfit)).found.unfit == ()


def _island_of(own: FoundBridges, number: int) -> int:
    first, last = own.found.plan.bridges[number].rings
    return last if own.walls.is_outer[first] else first


def test_a_bridge_from_an_island_stands_square_turns_and_is_refused_where_none_fits() -> None:
    walls = walls_of(of_polygons(ring(0, 0, 30, 18)).polygons)
    island = int(np.flatnonzero(~walls.is_outer)[0])
    square = from_island(walls, island, (20.0, 20.0), 2.0)
    assert square is not None
    way = np.array(square.end) - np.array(square.start)
    assert abs(way @ np.array([1.0, -1.0])) < 0.05 * np.hypot(*way)
    level = from_island(walls, island, (17.0, 1.0), 2.0)
    assert level is not None
    assert level.start[1] == pytest.approx(level.end[1], abs=1e-9)  # nearly level becomes level
    turned = from_island(walls, island, (0.0, 18.0), 2.0, (0.5, 1.0))
    assert turned is not None
    assert (turned.end[0] - turned.start[0]) / (turned.end[1] - turned.start[1]) == pytest.approx(0.5, abs=1e-6)
    assert from_island(walls, island, (0.0, 18.0), 2.0, (1.0, 0.01)) is None  # it would run along the wall
    assert from_island(walls, island, (0.0, 18.0), 40.0) is None


@pytest.mark.parametrize("face", ["League Spartan", "Courier Prime"])
def test_widths_and_what_was_placed_by_hand_stay_at_other_sizes_words_and_faces(face: str) -> None:
    first = lettered("BOAT 8", face, 60.0)
    step = Bridges(id="b", width=1.5)
    job = with_layer(new_job(), lambda layer: replace(layer, steps=(step,)))
    owner, own = job.item.layers[0].id, found_in(first, step)
    (held,) = locked(job, owner, own, range(2)).item.layers[0].steps
    assert isinstance(held, Bridges)
    for text, other, factor in (
        ("BOAT 8", face, 0.6),
        ("BOAT 8", face, 1.4),
        ("GOAT 86", face, 1.0),
        ("BOAT 8", "Pacifico", 1.0),
    ):
        openings = lettered(text, other, 60.0 * factor)
        after = bridged(openings, held)
        assert islands(after) == 0
        found = found_in(openings, held).found
        assert len(found.by_hand) + len(found.unfit) == 2
        if (text, other) == ("BOAT 8", face):
            assert len(found.by_hand) == 2
        strong = [one for one in found.plan.bridges if not one.weak]
        assert {one.width for one in strong} == {1.5}
        near = shapely.buffer(stencil_sheet(after, 20.0).polygons, -(1.5 - 0.02) / 2.0)
        assert all(near.buffer(0.75).intersects(shapely.Point(one.middle)) for one in strong)


def test_what_bridges_cannot_do_is_remarked() -> None:
    box = (-12.0, -12.0, 12.0, 12.0)
    ways = ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0))
    hand = tuple(placed_at((9.0 * x, 9.0 * y), (12.0 * x, 12.0 * y), box) for x, y in ways)
    step = Bridges(id="b", width=10.0, placed=hand)
    parts = (Part("", of_polygons(ring(0, 0, 12.0, 9.0))),)
    sentences = [one.sentence for one in step.run(parts, Around()).remarks]
    assert any("take more than half of this opening" in one for one in sentences)
    touching = of_polygons(shapely.box(0, 0, 60, 40).difference(shapely.box(10, 10, 50, 10.3)))
    weak = (Part("", touching),)
    plain = Bridges(id="b")
    assert any("short tie" in one.sentence for one in plain.run(weak, Around()).remarks)


OVAL = ring(0, 0, 60, 36).union(ring(150, 0, 50, 34))


@pytest.mark.parametrize(
    "shape",
    [
        OVAL,
        shapely.box(0, 0, 140, 80).difference(shapely.box(10, 10, 60, 70)).difference(shapely.box(80, 10, 130, 70)),
        lettered("BOAT 8", "League Spartan", 70.0).polygons,
    ],
    ids=["ovals", "two windows", "letters"],
)
def test_bridges_stand_in_the_same_places_wherever_the_design_lies(shape: shapely.Geometry) -> None:
    def places(dx: float, dy: float) -> list[list[float]]:
        moved = of_polygons(shapely.transform(shape, lambda at: at + np.array([dx, dy])))
        found = Bridges(id="b", width=2.0).planned((Part("", moved),)).plan.bridges
        return sorted(
            [*np.round(np.subtract(one.start, (dx, dy)), 3), *np.round(np.subtract(one.end, (dx, dy)), 3)]
            for one in found
        )

    there = places(0.0, 0.0)
    for away in ((133.713, -41.9), (-212.6871, 487.0013), (0.1, 0.3), (24400.634, 31316.374)):
        assert np.array(places(*away)) == pytest.approx(np.array(there), abs=0.01)
