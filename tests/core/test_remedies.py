"""Each remedy cures what it is offered for, by a change of the recipe."""

from __future__ import annotations

import pytest
import shapely
from msgspec.structs import replace
from shapely import Point, box

from tests.judging import drawn, inspected, of_kind
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.edits.remedies import other_film, remedied, remedies_for, thickened
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.edits import scaled_design
from vivid_thimble.core.job.values import Job, new_job
from vivid_thimble.core.materials.films import FINE_DECAL_FILM
from vivid_thimble.core.steps import RemoveSpecks

THIN = ("thin-line", "thin-neck")


def after(job: Job, assets: dict[str, bytes], finding: Finding, remedy: str) -> ItemResult:
    """The result once a remedy is applied, which must be one of those on offer."""
    result = inspected(job, assets)
    assert remedy in remedies_for(job, result, finding)
    changed = remedied(job, result, finding, remedy)
    assert changed is not None
    return inspected(changed, assets)


PLATES = shapely.union_all([box(0, 0, 30, 20), box(30, 9.8, 50, 10.2), box(50, 0, 80, 20)])
SLOTTED = shapely.union_all([box(0, 0, 30, 20), box(30.3, 0, 60, 20), box(0, 20, 60, 30)])


def test_thickening_where_thin_leaves_the_rest_as_it_was() -> None:
    job, assets = drawn(PLATES)
    thin = of_kind(inspected(job, assets), *THIN)[0]
    cured = after(job, assets, thin, "thicken-here")
    assert of_kind(cured, *THIN) == []
    assert cured.size == pytest.approx((80, 20), abs=0.01)
    assert cured.layers[0].kept.area == pytest.approx(PLATES.area + 20 * 0.4, rel=0.01)
    assert remedied(inspected_job(cured), cured, thin, "thicken-here") is None


def inspected_job(result: ItemResult) -> Job:
    return replace(new_job(), items=(result.item,))


def test_thickening_all_grows_every_edge() -> None:
    job, assets = drawn(PLATES)
    cured = after(job, assets, of_kind(inspected(job, assets), *THIN)[0], "thicken")
    assert of_kind(cured, *THIN) == []
    assert cured.size == pytest.approx((80.42, 20.42), abs=0.05)


def test_a_narrow_gap_is_opened_to_the_limit() -> None:
    job, assets = drawn(SLOTTED)
    gap = of_kind(inspected(job, assets), "thin-gap")[0]
    assert gap.width == pytest.approx(0.3, abs=0.001)
    cured = after(job, assets, gap, "open-gaps")
    assert of_kind(cured, "thin-gap") == []
    assert cured.layers[0].inspection.thinnest_gap == pytest.approx(0.51, abs=0.01)


def test_in_a_stencil_the_film_between_openings_gets_wider_by_the_openings_giving_way() -> None:
    openings = shapely.union_all([box(0, 0, 30, 20), box(31.0, 0, 60, 20)])
    job, assets = drawn(openings, "rigid-stencil")
    line = of_kind(inspected(job, assets), *THIN)[0]
    cured = after(job, assets, line, "thicken-here")
    assert of_kind(cured, *THIN) == []
    assert cured.layers[0].design.area < openings.area
    all_over = after(job, assets, line, "thicken")
    assert of_kind(all_over, *THIN) == []
    assert all_over.size == pytest.approx((59.5, 19.5), abs=0.05)


def test_a_narrow_opening_of_a_stencil_is_widened() -> None:
    job, assets = drawn(PLATES, "rigid-stencil")
    gap = of_kind(inspected(job, assets), "thin-gap")[0]
    assert of_kind(after(job, assets, gap, "open-gaps"), "thin-gap") == []


def test_specks_and_pinholes_go_and_larger_ones_stay() -> None:
    shape = box(0, 0, 40, 30).difference(Point(10, 10).buffer(0.3)).difference(Point(25, 10).buffer(3))
    shape = shapely.union_all([shape, Point(50, 5).buffer(0.5), Point(50, 20).buffer(4)])
    job, assets = drawn(shape)
    result = inspected(job, assets)
    cleared = after(job, assets, of_kind(result, "small-piece")[0], "remove-specks")
    assert len(cleared.layers[0].inspection.kept) == 2
    filled = after(job, assets, of_kind(result, "pinhole")[0], "fill-pinholes")
    assert of_kind(filled, "pinhole") == []
    assert len(filled.layers[0].inspection.waste) == len(result.layers[0].inspection.waste) - 1


def test_a_pinhole_of_a_stencil_is_a_speck_of_its_design() -> None:
    job, assets = drawn(shapely.union_all([box(0, 0, 30, 20), Point(40, 5).buffer(0.3)]), "rigid-stencil")
    result = inspected(job, assets)
    changed = remedied(job, result, of_kind(result, "pinhole")[0], "fill-pinholes")
    assert [type(step) for step in changed.item.layers[0].elements[0].steps] == [RemoveSpecks]
    assert of_kind(inspected(changed, assets), "pinhole") == []


def test_another_film_is_offered_only_when_it_bears_the_place() -> None:
    bearable, assets = drawn(shapely.union_all([box(0, 0, 30, 20), box(30, 9.7, 50, 10.3), box(50, 0, 80, 20)]))
    line = of_kind(inspected(bearable, assets), *THIN)[0]
    assert other_film(bearable, line) == FINE_DECAL_FILM
    assert of_kind(after(bearable, assets, line, "other-film"), *THIN) == []
    finer = replace(FINE_DECAL_FILM, name="Own fine film", thinnest_line=0.3)
    assert other_film(bearable, line, [finer, FINE_DECAL_FILM]) == finer, "the stock's own comes first"
    assert other_film(bearable, line, []) is None, "nothing is offered that is not at hand"
    hopeless, assets = drawn(PLATES)
    result = inspected(hopeless, assets)
    assert "other-film" not in remedies_for(hopeless, result, of_kind(result, *THIN)[0])


def test_enlarging_leaves_only_what_no_size_cures() -> None:
    small = scaled_design(demo_job(), 0.35)
    result = evaluate(small, demo_assets(), Cache())
    thin = of_kind(result, *THIN)[0]
    larger = after(small, demo_assets(), thin, "enlarge")
    assert not [f for f in larger.findings if f.severity == "stop" and f.cured_by_size]
    shape = shapely.union_all([box(0, 0, 10, 10), box(10, 10, 20, 20)])
    job, assets = drawn(shape)
    touching = inspected(job, assets)
    assert all(remedied(job, touching, f, "enlarge") is None for f in touching.findings)


def test_a_design_over_the_edge_is_shrunk_and_centred() -> None:
    large = scaled_design(demo_job(), 1.4)
    over = evaluate(large, demo_assets(), Cache())
    fitted = after(large, demo_assets(), of_kind(over, "does-not-fit")[0], "shrink-to-item")
    assert of_kind(fitted, "does-not-fit") == []
    assert fitted.margins is not None
    left, right, top, bottom = fitted.margins
    assert left == pytest.approx(right, abs=0.05)
    assert top == pytest.approx(bottom, abs=0.05)


def test_nothing_can_be_thickened_without_a_design() -> None:
    assert thickened(new_job(), 0.2) is None
