"""What holds for every kind of job: kept as it is, told alike wherever it lies, cut as it is shown."""

from __future__ import annotations

import math
from pathlib import Path as FilePath

import numpy as np
import pytest
import shapely
from msgspec.structs import replace

from tests.jobs import CUTTING, FILES, JOBS
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.sets import copied_item
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate, sized_design
from vivid_thimble.core.evaluate.results import ItemResult, cut_of
from vivid_thimble.core.formats.drawing_read import read_drawing_here
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.edits import scaled_design, with_item
from vivid_thimble.core.job.values import Job, all_elements
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.storage.kept_results import KeptResults
from vivid_thimble.core.storage.project import project_bytes, read_project

CACHE = Cache()
WIDE = Carrier(name="Wide roll", cuttable_width=2000.0, cuttable_height=None)


def evaluated(name: str) -> tuple[Job, ItemResult]:
    job = JOBS[name]()
    return job, evaluate(job, FILES, CACHE)


def figures(result: ItemResult) -> list[object]:
    told = [[layer.kept.area, len(layer.parts), layer.inspection.thinnest_line, layer.inspection.thinnest_gap]
            for layer in result.layers]  # fmt: skip
    return [*told, [(f.kind, f.severity, f.belongs_to) for f in result.findings], result.size]


@pytest.mark.parametrize("name", JOBS)
def test_saved_and_opened_it_is_the_same_job_with_the_same_figures(name: str) -> None:
    job, result = evaluated(name)
    again, files = read_project(project_bytes(job, FILES))
    assert again == job
    assert figures(evaluate(again, files, Cache())) == figures(result)


@pytest.mark.parametrize("name", JOBS)
def test_a_kept_result_is_the_result(name: str, tmp_path: FilePath) -> None:
    job, result = evaluated(name)
    kept = KeptResults(tmp_path / "kept")
    kept.keep(job, result)
    found = kept.find(job)
    assert found is not None and figures(found) == figures(result)
    assert [f.message for f in found.findings] == [f.message for f in result.findings]
    assert [[p.message for p in layer.problems] for layer in found.layers] == [
        [p.message for p in layer.problems] for layer in result.layers
    ]


@pytest.mark.parametrize("name", CUTTING)
def test_what_is_cut_has_the_area_of_what_is_shown(name: str) -> None:
    """The file is read again by another way than it was written."""
    _, result = evaluated(name)
    for layer in result.layers:
        cut = cut_of(layer, result.item, WIDE)
        drawing = read_drawing_here(cut.file("a.svg"), "a.svg", 0)
        back = film_region(drawing, Affine.scaling(drawing.mm_per_unit or 1.0), "a")
        shown = merged(layer.cut_parts).area
        if not layer.waste_cuts:
            assert back.area == pytest.approx(shown, rel=2e-4)
        assert cut.plan.mirrored == (result.item.method == "screen-stencil" or result.item.side == "behind")


@pytest.mark.parametrize("name", CUTTING)
def test_a_design_moved_as_a_whole_keeps_its_figures(name: str) -> None:
    job, result = evaluated(name)
    if result.item.blank is not None:
        pytest.skip("the girth of a tapered thing differs from place to place")
    moved = with_item(job, lambda item: replace(item, layers=tuple(
        replace(layer, elements=tuple(
            replace(e, placement=replace(e.placement, dx=e.placement.dx + 0.7, dy=e.placement.dy - 0.3))
            for e in layer.elements)) for layer in item.layers)))  # fmt: skip
    there = evaluate(moved, FILES, Cache())
    for before, after in zip(result.layers, there.layers, strict=True):
        assert after.kept.area == pytest.approx(before.kept.area, rel=1e-6)
        for figure in ("thinnest_line", "thinnest_gap"):
            was, now = getattr(before.inspection, figure), getattr(after.inspection, figure)
            assert (was is None) == (now is None)
            assert was is None or now == pytest.approx(was, abs=0.002)
    assert {f.kind for f in there.findings} == {f.kind for f in result.findings}


@pytest.mark.parametrize("name", CUTTING)
def test_a_typed_width_is_reached_whatever_keeps_its_lengths(name: str) -> None:
    job, result = evaluated(name)
    assert result.size is not None
    wanted = result.size[0] * 0.87
    there = evaluate(sized_design(job, FILES, CACHE, 0, wanted), FILES, CACHE)
    assert there.size is not None and there.size[0] == pytest.approx(wanted, abs=0.002)
    back = evaluate(scaled_design(scaled_design(job, 1.25), 0.8), FILES, CACHE)
    assert back.size == pytest.approx(result.size, abs=1e-6)


@pytest.mark.parametrize("name", JOBS)
def test_a_copied_item_names_its_own_elements_and_looks_alike(name: str) -> None:
    job, result = evaluated(name)
    copy, ids = copied_item(job.item, job)
    assert not {e.id for layer in copy.layers for e in layer.elements} & {e.id for e in all_elements(job)}
    named = {one for layer in copy.layers for e in layer.elements
             for one in (*e.source.elements, *(k for step in e.steps for k in step.elements))}  # fmt: skip
    assert named <= set(ids.values()) | {"gone"}
    both = replace(job, items=(*job.items, copy), at=len(job.items))
    assert figures(evaluate(both, FILES, CACHE)) == figures(result)


@pytest.mark.parametrize("name", CUTTING)
def test_the_picks_are_all_the_waste_and_the_sheet_tells_them(name: str) -> None:
    job, result = evaluated(name)
    for layer, plan in zip(result.layers, result.weedings, strict=True):
        waste = sum(piece.area for piece in layer.inspection.waste)
        assert sum(pick.area for pick in plan.picks) == pytest.approx(waste, rel=1e-6)
        assert [pick.number for pick in plan.picks] == list(range(1, len(plan.picks) + 1))
    text = job_sheet(job, result)
    assert all(layer.layer.film.name in text for layer in result.layers)


def test_the_empty_job_is_refused_where_it_cannot_be_cut_and_told_everywhere_else() -> None:
    _, result = evaluated("empty")
    assert (result.bounds, result.size, result.findings) == (None, None, ())
    with pytest.raises(ThimbleError, match="nothing to cut"):
        cut_of(result.layers[0], result.item, WIDE)


def test_what_fails_is_told_on_its_owner_and_the_rest_is_there() -> None:
    _, result = evaluated("failing")
    (layer,) = result.layers
    told = {e.element.id: [p.step_id for p in e.problems] for e in layer.elements}
    assert told == {"lost": ["source"], "share": ["source"], "thin": ["t"], "waits": ["s"]}
    assert layer.design.bounds is not None, "plates stay as they came to the step that failed"
    assert sum(f.kind == "step-failed" for f in result.findings) == 4
    assert math.isfinite(layer.design.area) and isinstance(layer.design, Region)
    assert shapely.is_valid(layer.design.polygons) and np.isfinite(layer.design.polygons.bounds).all()
