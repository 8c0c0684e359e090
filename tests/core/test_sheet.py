"""The sheet round a stencil, register marks in every film, weeding boxes and relief cuts."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, pennant_job
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import cut_of
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.job.edits import with_item, with_layer
from vivid_thimble.core.job.values import Element, Item, Job, Placement, new_job
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.steps.register import RegisterMarks


def stencil(frame: Frame, **values: object) -> Job:
    """A sheet with one opening of 60 x 30 mm in the middle of an item of 200 x 120."""
    plate = Element(id="p", name="p", source=Plain(ratio=0.5), placement=Placement(width=60.0))
    job = with_layer(new_job("Sheet", 200.0, 120.0), lambda layer: replace(layer, elements=(plate,)))
    return with_item(job, lambda item: replace(item, **{"method": "rigid-stencil", "frame": frame, **values}))


def kept(job: Job) -> shapely.MultiPolygon:
    return evaluate(job, {}, Cache()).layers[0].kept.polygons


def told(job: Job) -> list[str]:
    return [finding.sentence for finding in evaluate(job, {}, Cache()).findings]


def test_the_sheet_has_its_margins_corners_holes_and_tab() -> None:
    plain = kept(stencil(Frame()))
    assert plain.bounds == pytest.approx((50.0, 25.0, 150.0, 95.0))
    assert plain.area == pytest.approx(100 * 70 - 60 * 30, abs=0.01)
    sides = kept(stencil(Frame(left=5.0, right=15.0, top=40.0, bottom=0.5)))
    assert sides.bounds == pytest.approx((65.0, 5.0, 145.0, 75.5))
    soft = kept(stencil(Frame(radius=10.0)))
    assert plain.area - soft.area == pytest.approx((4.0 - np.pi) * 100.0, rel=2e-3)
    holes = kept(stencil(Frame(holes=4, hole=6.0)))
    assert len(holes.geoms[0].interiors) == 5
    assert plain.area - holes.area == pytest.approx(4 * np.pi * 9.0, rel=2e-3)
    tabbed = kept(stencil(Frame(tab="right")))
    assert tabbed.bounds[2] == pytest.approx(164.0)
    assert len(tabbed.geoms) == 1
    assert kept(stencil(Frame(fit="item"))).bounds == pytest.approx((0.0, 0.0, 200.0, 120.0))
    assert kept(stencil(Frame(fit="sheet", width=90.0, height=50.0))).bounds == pytest.approx((55.0, 35.0, 145.0, 85.0))


def test_a_sheet_that_is_too_small_or_hangs_over_is_told() -> None:
    assert told(stencil(Frame())) == []
    assert any("runs 5.0 mm over" in one for one in told(stencil(Frame(fit="sheet", width=50.0, height=100.0))))
    near = told(stencil(Frame(fit="sheet", width=90.0, height=70.0), paint="sprayed"))
    assert any("leaves 15.0 mm at the left edge; 40 mm is usual" in one for one in near)
    screen = told(stencil(Frame(left=100.0), method="screen-stencil"))
    assert any("over the left edge of the screen" in one for one in screen)
    assert any(
        "does not go into the screen" in one for one in told(stencil(Frame(), method="screen-stencil", squeegee=300.0))
    )
    (failed,) = told(stencil(Frame(left=-40.0, right=-40.0)))
    assert "leave nothing of the sheet" in failed


def test_the_marks_of_all_films_coincide_on_the_sheets_that_are_cut() -> None:
    job, assets = pennant_job(), demo_assets()
    result = evaluate(job, assets, Cache())
    cuts = [cut_of(layer, result.item, job.carrier) for layer in result.layers]
    assert all(cut.mirror_reason for cut in cuts)
    assert len({(round(cut.plan.width, 3), round(cut.plan.height, 3)) for cut in cuts}) == 1
    corners = [_mark_contours(cut.paths) for cut in cuts]
    assert len(corners[0]) == len(corners[1]) == 3
    for one, other in zip(*corners, strict=True):
        assert np.abs(one - other).max() < 0.001
    middles = [mark.region.polygons.centroid for mark in result.layers[0].marks]
    assert middles[2].x == pytest.approx(
        (middles[0].x + middles[1].x) / 2.0, abs=1e-4
    )  # the round one shows the centre
    assert middles[2].y < middles[0].y


def _mark_contours(paths: tuple[Path, ...]) -> list[np.ndarray]:
    """The corners of contours that are 6 mm across, sorted by place."""
    found = []
    for path in paths:
        for contour in path.contours:
            points = contour.segments.reshape(-1, 2)
            if np.allclose(np.ptp(points, axis=0), 6.0, atol=0.01):
                found.append(np.array(sorted(contour.segments[:, 0].tolist())))
    return sorted(found, key=lambda points: points.mean(axis=0).tolist())


def test_marks_lie_outside_the_design_inside_the_sheet_and_are_kept_pieces_of_decals() -> None:
    job = stencil(Frame(), register=RegisterMarks(sticker=True))
    result = evaluate(job, {}, Cache())
    layer = result.layers[0]
    assert len(layer.marks) == 3
    assert result.size == pytest.approx((60.0, 30.0))  # marks are no part of the design
    for mark in layer.marks:
        assert not mark.region.polygons.intersects(layer.design.polygons)
        assert not mark.region.polygons.buffer(-0.01).intersects(layer.kept.polygons)
        assert shapely.box(*layer.kept.bounds).contains(mark.region.polygons)
    (sticker,) = layer.beside
    assert sticker.region.area == pytest.approx(np.pi * 9.0, rel=1e-3)
    assert not sticker.region.polygons.intersects(layer.kept.polygons)
    assert len(layer.cut_paths) == 2
    assert any("register mark" in one for one in told(stencil(Frame(bottom=2.0, left=9.0), register=RegisterMarks())))
    decal = with_item(job, lambda item: replace(item, method="decal"))
    shown = evaluate(decal, {}, Cache()).layers[0]
    assert len(shown.kept.polygons.geoms) == 4
    assert len(shown.cut_paths) == 4


def decal(**values: object) -> tuple[Job, Item]:
    job = with_item(demo_job(), lambda item: replace(item, **values))  # type: ignore[arg-type]
    return job, job.item


def test_cuts_through_the_waste_part_it_and_never_touch_film_that_stays() -> None:
    job, item = decal(weeding_box=6.0, relief=True)
    layer = evaluate(job, demo_assets(), Cache()).layers[0]
    box, *lines = layer.waste_cuts
    left, top, right, bottom = layer.kept.bounds
    assert box.bounds == pytest.approx((left - 6.0, top - 6.0, right + 6.0, bottom + 6.0), abs=0.005)
    cuts = [shapely.LineString(path.contours[0].segments[:, 0]) for path in lines]
    assert len(cuts) >= 2
    assert min(shapely.distance(cuts, layer.kept.polygons)) >= 0.55
    frame = shapely.box(*box.bounds)
    room = shapely.difference(frame, shapely.buffer(layer.kept.polygons, 0.6, quad_segs=4))
    pieces = shapely.get_parts(shapely.difference(room, shapely.buffer(shapely.union_all(cuts), 0.05)))
    surround = [piece for piece in pieces if piece.intersects(frame.exterior)]
    assert len(surround) >= 4
    assert not any(len(piece.interiors) for piece in surround)  # nothing wraps the design
    assert max(np.ptp(shapely.get_coordinates(piece), axis=0).max() for piece in surround) < 210.0
    assert evaluate(decal()[0], demo_assets(), Cache()).layers[0].waste_cuts == ()
    cut = cut_of(layer, item, job.carrier)
    assert all(contour.closed for path in cut.paths for contour in path.contours)
