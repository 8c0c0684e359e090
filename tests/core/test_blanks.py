"""Things and the room on them: known geometry of cones and balls, what fits, snips, how it is seen."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.blanks.kinds import BLANKS, Ball, Cloth, Cylinder, Glass, Panel, Screen, Tapered, measured
from vivid_thimble.core.demo.jobs import floats_job
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.plain_shapes import disc, rectangle
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.room.ball import on_ball, snips
from vivid_thimble.core.room.blank import as_kind, with_blank
from vivid_thimble.core.room.fit import what_fits
from vivid_thimble.core.room.front_view import seen_from_front
from vivid_thimble.core.room.thing import bend_of, outline_of

ITEM = new_job("Thing", 100.0, 60.0).item


def mm(value: float) -> str:
    return f"{value:.1f} mm"


def test_every_kind_has_room_a_tape_for_each_length_and_something_to_say() -> None:
    for kind in BLANKS:
        blank = kind()
        assert min(blank.usable) > 0.0
        assert len({m.field for m in kind.MEASURES}) == len(kind.MEASURES)
        for measure in kind.MEASURES:
            assert getattr(blank, measure.field) >= 0.0
            assert measure.tape
        assert "mm" in blank.tell(mm) or kind is Glass


def test_room_is_what_is_left_of_the_measures() -> None:
    assert Panel(width=300.0, height=200.0, edge=12.5).usable == (275.0, 175.0)
    cloth = Cloth(width=460.0, height=560.0, collar=60.0, seam=50.0, hem=100.0)
    assert cloth.usable == (360.0, 400.0)
    mug = Cylinder(girth=251.3, height=95.0, rim=15.0, foot=5.0, handle=60.0, shown="all")
    assert mug.usable == pytest.approx((191.3, 75.0))
    assert replace(mug, shown="third").usable[0] == pytest.approx(251.3 / 3)
    assert Ball(girth=300.0).front == 150.0


def test_a_measure_that_leaves_no_room_or_cannot_be_is_refused_in_words() -> None:
    with pytest.raises(InputRefused, match="No room is left"):
        measured(Panel(width=30.0), "edge", 15.0)
    with pytest.raises(InputRefused, match="once round"):
        measured(Cylinder(), "girth", 0.0)
    with pytest.raises(InputRefused, match="cannot slope"):
        measured(Tapered(height=60.0, rim=5.0, foot=5.0), "upper", 900.0)
    assert measured(Ball(), "front", 200.0) == Ball(girth=400.0)
    assert measured(Ball(), "across", 100.0).girth == pytest.approx(314.159265)
    assert measured(Cylinder(), "across", 80.0).girth == pytest.approx(251.327412)
    cup = measured(measured(Tapered(), "across_above", 90.0), "across_below", 60.0)
    assert (cup.upper, cup.lower) == pytest.approx((282.743339, 188.495559))


def test_a_tapered_side_unrolls_to_the_fan_of_its_cone() -> None:
    """The arcs of the fan at both edges are as long as the girths, and lie the height apart."""
    cup = Tapered(upper=300.0, lower=210.0, height=110.0, rim=0.0, foot=0.0, shown="all")
    item = with_blank(ITEM, cup)
    bend = bend_of(item)
    assert bend is not None and item.width == pytest.approx(255.0)
    for down, girth in ((0.0, 300.0), (110.0, 210.0), (55.0, 255.0)):
        points = bend.apply(np.column_stack([np.linspace(0.0, item.width, 4001), np.full(4001, down)]))
        assert np.hypot(*np.diff(points, axis=0).T).sum() == pytest.approx(girth, rel=1e-5)
    side = bend.apply(np.array([[0.0, 0.0], [0.0, 110.0]]))
    assert math.dist(*side) == pytest.approx(110.0)
    assert outline_of(item).area == pytest.approx((300.0 + 210.0) / 2.0 * 110.0, rel=1e-3)


@given(
    radius=st.sampled_from([-900.0, -160.0, 150.0, 333.3, 4000.0]),
    points=st.lists(st.tuples(st.floats(-120.0, 220.0), st.floats(-60.0, 120.0)), min_size=1, max_size=20),
)
def test_bending_and_laying_level_are_each_others_inverse(radius: float, points: list[tuple[float, float]]) -> None:
    bend = Bend(radius, (50.0, 30.0))
    there = np.array(points)
    assert bend.undone(bend.apply(there)) == pytest.approx(there, abs=1e-9)


@pytest.mark.parametrize("radius", [-180.0, 140.0, 900.0])
def test_bent_outlines_stay_near_the_true_ones_with_few_nodes(radius: float) -> None:
    bend = Bend(radius, (50.0, 30.0))
    shape = rectangle((0.0, 0.0, 100.0, 60.0))
    hole = disc((50.0, 30.0), 17.0)
    for region in (shape, hole):
        bent = bend.region(region)
        edge = shapely.segmentize(region.polygons, 0.02)
        true = shapely.transform(edge, bend.apply)
        assert shapely.hausdorff_distance(bent.polygons.boundary, true.boundary, densify=0.05) < 0.012
        assert bent.outline.node_count <= 8 * region.outline.node_count


def test_a_level_design_is_bent_for_the_film_but_measured_as_it_looks() -> None:
    job = with_item(floats_job(), lambda item: with_blank(item, Tapered(upper=420.0, lower=280.0, height=120.0)))
    result = evaluate(job, {})
    flat = evaluate(with_item(job, lambda item: replace(item, blank=None)), {})
    assert result.size == pytest.approx(flat.size)
    layer = result.layers[0]
    assert layer.bend is not None
    again = shapely.transform(layer.kept.polygons, layer.bend.undone)
    assert shapely.symmetric_difference(again, flat.layers[0].kept.polygons).area < 0.01 * again.area
    ends = [layer.bend.undone(np.array(f.at)) for f in result.findings if f.at]
    assert all(0.0 <= x <= job.item.width for x, _ in ends)


def test_a_disc_on_a_ball_is_too_long_at_its_edge_as_geometry_says() -> None:
    ball = Ball(girth=math.tau * 50.0)
    reach = 20.0
    wide = reach * math.sqrt(2.0)
    true = 1.0 - 50.0 * math.sin(reach / 50.0) / reach
    assert ball.surplus(wide, wide) == pytest.approx(true)
    assert ball.surplus(400.0, 10.0) == pytest.approx(1.0 - math.cos(0.1))
    assert ball.is_band(400.0, 10.0) and not ball.is_band(wide, wide)
    for shape in ((1.0, 1.0), (8.0, 1.0)):
        high = ball.largest(*shape)
        assert ball.surplus(high * shape[0] / shape[1], high) == pytest.approx(ball.bears / 100.0, rel=1e-6)


def test_snips_come_from_the_edge_pass_through_gaps_and_never_touch_the_design() -> None:
    item = with_blank(ITEM, Ball(girth=240.0))
    letters = [shapely.box(x, 22.0, x + 9.0, 38.0) for x in (8.0, 20.0, 32.0, 44.0, 56.0, 68.0)]
    pieces = shapely.MultiPolygon(letters)
    film = (0.0, 8.0, 84.0, 52.0)
    told = on_ball(item, film)
    assert told is not None and told.creases and told.is_band
    found = snips(item, pieces, film)
    assert len(found) >= 4
    for outer, inner in found:
        cut = shapely.LineString([outer, inner])
        assert shapely.distance(cut, pieces) >= 1.0 - 1e-9
        assert outer[1] in (8.0, 52.0)
    assert any(abs(inner[1] - 30.0) < 1e-9 for _, inner in found), "one runs through a gap to the middle"
    assert snips(with_blank(ITEM, Ball(girth=4000.0)), pieces, film) == []


def test_what_fits_names_what_decides() -> None:
    item = with_blank(ITEM, Panel(width=320.0, height=120.0, edge=10.0))
    fit = what_fits(item, (50.0, 10.0), 5.0)
    assert fit is not None and (fit.width, fit.height) == pytest.approx((300.0, 60.0)) and "width" in fit.reason
    fit = what_fits(item, (50.0, 40.0), 15.0)  # from the true edges: 15 leave 120 - 30
    assert fit is not None and fit.height == pytest.approx(90.0) and "height" in fit.reason
    assert what_fits(item, (50.0, 40.0), 60.0) is None
    ball = with_blank(ITEM, Ball(girth=300.0))
    fit = what_fits(ball, (10.0, 10.0), 0.0)
    assert fit is not None and "crease" in fit.reason
    assert ball.blank.surplus(fit.width, fit.height) <= 0.03 + 1e-9


def test_a_kind_brings_what_goes_with_it() -> None:
    assert as_kind(ITEM, Glass).side == "behind"
    screen = as_kind(ITEM, Screen)
    assert screen.method == "screen-stencil" and screen.frame.fit == "item"
    assert as_kind(ITEM, Cloth).surface == "fine-cloth"
    assert as_kind(as_kind(ITEM, Glass), Panel).side == "front"
    assert as_kind(screen, None).blank is None
    glass = as_kind(screen, Glass)
    assert (glass.method, glass.side, glass.frame) == ("decal", "behind", ITEM.frame), (
        "walking past a screen leaves nothing"
    )


def test_a_wrapped_design_is_seen_foreshortened_and_inside_the_thing() -> None:
    cylinder = with_blank(ITEM, Cylinder(girth=math.tau * 40.0, height=100.0, rim=10.0, foot=10.0, shown="half"))
    stripes = shapely.MultiPolygon([shapely.box(x, 10.0, x + 4.0, 60.0) for x in (2.0, cylinder.width / 2.0 - 2.0)])
    seen = seen_from_front(cylinder, (stripes,))
    side, middle = (one.bounds for one in seen.films[0].geoms)
    assert middle[2] - middle[0] == pytest.approx(4.0, abs=0.01)
    assert side[2] - side[0] < 0.4
    assert seen.silhouette.buffer(1e-6).contains(seen.films[0])
    ball = with_blank(ITEM, Ball(girth=math.tau * 40.0))
    ring = shapely.MultiPolygon([shapely.Point(ball.width / 2.0, ball.height / 2.0).buffer(30.0)])
    disc_seen = seen_from_front(ball, (ring,)).films[0]
    assert disc_seen.bounds[2] == pytest.approx(40.0 * math.sin(30.0 / 40.0), rel=1e-3)
    around = shapely.MultiPolygon([shapely.box(-500.0, 10.0, 600.0, 20.0)])
    assert seen_from_front(cylinder, (around,)).films[0].bounds[2] == pytest.approx(40.0, rel=1e-3)
