"""A job is a recipe: welds repeat themselves, sizes keep every step, failures stay where they happened."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.evaluate.recipe import evaluate, sized_design
from vivid_thimble.core.evaluate.results import ItemResult, cut_of
from vivid_thimble.core.geometry.parts import bounds_of
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.edits import free_id, moved_design, scaled_design, with_element, with_item, with_layer
from vivid_thimble.core.job.values import Element, Job, find_element, mirror_reason
from vivid_thimble.core.steps import Bridges, Thicken, Weld


@pytest.fixture(scope="module")
def cache() -> Cache:
    return Cache()


def words_only(text: str = "Wandering Heron", width: float = 300.0) -> Job:
    def changed(element: Element) -> Element:
        place = replace(element.placement, width=width, dx=0.0, dy=0.0)
        return replace(element, source=replace(element.source, text=text), placement=place)

    job = with_layer(demo_job(), lambda layer: replace(layer, elements=layer.elements[:1]))
    return with_element(job, "words-1", changed)


def kinds(result: ItemResult) -> set[str]:
    return {finding.kind for finding in result.findings}


def test_changed_words_are_welded_again(cache: Cache) -> None:
    for text in ("Wandering Heron", "Second Supper", "Moth & Ember"):
        result = evaluate(words_only(text), {}, cache)
        assert len(result.layers[0].parts) == 1
        assert "overlapping-cuts" not in kinds(result)


def test_without_the_weld_the_overlaps_are_reported(cache: Cache) -> None:
    job = with_element(words_only(), "words-1", lambda e: replace(e, steps=()))
    overlap = next(f for f in evaluate(job, {}, cache).findings if f.kind == "overlapping-cuts")
    assert overlap.severity == "stop"
    assert "weld" in overlap.remedies


def test_a_new_size_keeps_every_step_and_scales_what_was_measured(cache: Cache) -> None:
    large, small = evaluate(words_only(), {}, cache), evaluate(scaled_design(words_only(), 0.5), {}, cache)
    assert (
        find_element(scaled_design(words_only(), 0.5), "words-1").steps == find_element(words_only(), "words-1").steps
    )
    assert small.size[0] == pytest.approx(large.size[0] / 2, rel=0.01)


def test_the_typed_size_is_the_finished_size_even_when_steps_have_fixed_lengths(cache: Cache) -> None:
    job = with_element(words_only(), "words-1", lambda e: replace(e, steps=(*e.steps, Thicken(id="t", by=1.5))))
    result = evaluate(sized_design(job, {}, cache, 0, 123.4), {}, cache)
    assert result.size[0] == pytest.approx(123.4, abs=2e-3)


def test_only_what_an_edit_touches_is_computed_again() -> None:
    cache = Cache()
    evaluate(demo_job(), demo_assets(), cache)
    before = cache.misses
    evaluate(demo_job(), demo_assets(), cache)
    assert cache.misses == before
    moved = with_item(demo_job(), lambda item: replace(item, name="another name"))
    evaluate(moved, demo_assets(), cache)
    assert cache.misses == before


def test_a_failing_step_is_recorded_on_that_step_and_the_rest_stays(cache: Cache) -> None:
    job = with_element(demo_job(), "words-1", lambda e: replace(e, steps=(Thicken(id="thin", by=-50.0), Weld(id="w"))))
    result = evaluate(job, demo_assets(), cache)
    words, heron = result.layers[0].elements
    assert [p.step_id for p in words.problems] == ["thin"]
    assert len(words.parts) == 1
    assert heron.problems == ()
    assert "step-failed" in kinds(result)


def test_a_missing_drawing_is_told_and_the_words_stay() -> None:
    result = evaluate(demo_job(), {}, Cache())
    assert "missing from the project" in result.layers[0].elements[1].problems[0].sentence
    assert result.layers[0].elements[0].parts


def test_margins_are_those_of_the_item(cache: Cache) -> None:
    result = evaluate(words_only(width=300), {}, cache)
    left, right, top, bottom = result.margins
    assert left + right + result.size[0] == pytest.approx(620)
    assert top + bottom + result.size[1] == pytest.approx(140)


def test_a_design_over_the_edge_names_each_side(cache: Cache) -> None:
    finding = next(f for f in evaluate(words_only(width=700), {}, cache).findings if f.kind == "does-not-fit")
    assert "left" in finding.sentence
    assert "right" in finding.sentence


def test_a_stencil_is_a_sheet_with_the_design_cut_out_and_its_middles_fall_out(cache: Cache) -> None:
    job = with_item(words_only("QOB"), lambda item: replace(item, method="rigid-stencil", surround=20.0))
    result = evaluate(job, {}, cache)
    layer = result.layers[0]
    design, sheet = layer.design, layer.kept
    width, height = design.bounds[2] - design.bounds[0], design.bounds[3] - design.bounds[1]
    assert sheet.area == pytest.approx((width + 40) * (height + 40) - design.area, abs=0.1)
    assert len(layer.inspection.loose) == sum(len(p.interiors) for p in design.polygons.geoms)
    assert "loose-piece" in kinds(result)


@pytest.mark.parametrize(
    "method,side,mirrored",
    [
        ("decal", "front", False), ("decal", "behind", True), ("decal", "underside", True), ("heat-film", "front", True),
        ("screen-stencil", "front", True), ("film-stencil", "front", False), ("rigid-stencil", "front", False),
    ],
)  # fmt: skip
def test_the_method_and_side_decide_mirroring_and_say_why(cache: Cache, method: str, side: str, mirrored: bool) -> None:
    job = with_item(words_only("F", 60), lambda item: replace(item, method=method, side=side, surround=10.0))
    result = evaluate(job, {}, cache)
    cut = cut_of(result.layers[0], result.item, job.carrier)
    assert (mirror_reason(result.item) is not None) is mirrored
    assert cut.plan.mirrored is mirrored
    before, after = result.layers[0].kept.polygons, cut.paths[0]
    bounds = before.bounds
    heavy_left = before.centroid.x < (bounds[0] + bounds[2]) / 2
    cut_region = Region.from_path(after, "evenodd").polygons
    middle = (cut_region.bounds[0] + cut_region.bounds[2]) / 2
    assert (cut_region.centroid.x < middle) is (heavy_left != mirrored)
    assert cut_region.area == pytest.approx(before.area, abs=0.02)


def test_elements_far_apart_are_surveyed_on_their_own_and_tell_the_same(cache: Cache) -> None:
    job = demo_job()
    apart = evaluate(job, demo_assets(), cache)
    whole = evaluate(with_layer(job, lambda la: replace(la, steps=(Weld(id="all"),))), demo_assets(), cache)
    a, b = apart.layers[0].inspection, whole.layers[0].inspection
    assert a.thinnest_line == pytest.approx(b.thinnest_line, abs=0.01)
    assert a.thinnest_gap == pytest.approx(b.thinnest_gap, abs=0.01)
    assert a.smallest_clean_scale == pytest.approx(b.smallest_clean_scale, rel=0.02)
    assert [f.kind for f in a.findings] == [f.kind for f in b.findings]


def test_a_gap_between_two_elements_is_found_when_they_come_close(cache: Cache) -> None:
    job = demo_job()
    words = evaluate(job, demo_assets(), cache).layers[0].elements[0]
    heron = evaluate(job, demo_assets(), cache).layers[0].elements[1]
    right = max(part.region.bounds[2] for part in heron.parts)
    left = min(part.region.bounds[0] for part in words.parts)

    def closer(element: Element) -> Element:
        place = element.placement
        return replace(element, placement=replace(place, dx=place.dx + left - right - 0.2))

    result = evaluate(with_element(job, "drawing-1", closer), demo_assets(), cache)
    reeds = max(part.region.bounds[2] for part in result.layers[0].elements[1].parts)
    assert left - reeds == pytest.approx(0.2, abs=1e-6)
    inspection = result.layers[0].inspection
    assert inspection.thinnest_gap is not None
    assert inspection.thinnest_gap <= 3.0


def test_a_moved_design_keeps_its_figures_and_takes_its_places_along(cache: Cache) -> None:
    job = with_element(demo_job(), "words-1", lambda e: replace(e, placement=replace(e.placement, width=150.0)))
    before = evaluate(job, demo_assets(), cache)
    after = evaluate(moved_design(job, 3.0, -2.0), demo_assets(), cache)
    assert [f.width for f in before.findings] == [f.width for f in after.findings]
    for a, b in zip(before.findings, after.findings, strict=True):
        if a.at is not None:
            assert b.at == pytest.approx((a.at[0] + 3.0, a.at[1] - 2.0), abs=1e-6)
    assert after.margins[0] == pytest.approx(before.margins[0] + 3.0)


def test_places_are_told_by_the_letters_they_lie_at(cache: Cache) -> None:
    job = with_element(words_only("Heron", 20.0), "words-1", lambda e: replace(e, steps=(Weld(id="w"),)))
    thin = [f for f in evaluate(job, {}, cache).findings if f.kind in ("thin-line", "thin-neck", "thin-gap")]
    assert thin
    assert all(set(f.belongs_to.split(" and ")) <= set("Heron") for f in thin)
    assert any(f.belongs_to for f in thin)


def test_the_film_judges(cache: Cache) -> None:
    """Another film re-judges the same shape."""
    sturdy = with_layer(words_only(width=120.0), lambda la: replace(la, film=replace(la.film, thinnest_line=2.0)))
    tender = with_layer(words_only(width=120.0), lambda la: replace(la, film=replace(la.film, thinnest_line=0.1)))
    lines = ("thin-line", "thin-neck")
    assert any(f.kind in lines for f in evaluate(sturdy, {}, cache).findings)
    assert not any(f.kind in lines for f in evaluate(tender, {}, cache).findings)


@pytest.mark.parametrize("change", [{"width": 0.0}, {"width": -3.0}, {"width": None, "height": None}])
def test_an_impossible_size_is_told_on_the_source(cache: Cache, change: dict) -> None:
    job = with_element(words_only(), "words-1", lambda e: replace(e, placement=replace(e.placement, **change)))
    layer = evaluate(job, {}, cache).layers[0]
    assert [p.step_id for p in layer.problems] == ["source"]
    assert "more than zero" in layer.problems[0].sentence
    assert layer.inspection.thinnest_line is None


def test_a_switched_off_step_does_nothing(cache: Cache) -> None:
    off = with_element(words_only(), "words-1", lambda e: replace(e, steps=(Weld(id="w", enabled=False),)))
    without = with_element(words_only(), "words-1", lambda e: replace(e, steps=()))
    assert len(evaluate(off, {}, cache).layers[0].parts) == len(evaluate(without, {}, cache).layers[0].parts) > 1


def test_the_cache_forgets_the_oldest_and_survives_failures() -> None:
    small = Cache(most=2)
    made = []

    def make(name: str) -> str:
        made.append(name)
        return name

    for name in ("a", "b", "a", "c", "a", "b"):
        assert small.get(name, lambda n=name: make(n)) == name
    assert made == ["a", "b", "c", "b"]
    with pytest.raises(ZeroDivisionError):
        small.get("bad", lambda: 1 // 0)
    assert small.get("bad", lambda: 7) == 7


def test_ids_are_free_and_elements_are_found() -> None:
    job = demo_job()
    assert free_id("words", job) == "words-2"
    assert free_id("weld", job) == "weld-2"
    assert find_element(job, "drawing-1").name == "Heron and reeds"
    with pytest.raises(KeyError):
        find_element(job, "nobody")
    with pytest.raises(ValueError, match="cannot be scaled"):
        scaled_design(job, 0.0)


@pytest.mark.parametrize("left", [0, 1])
def test_elements_of_which_a_step_leaves_nothing_do_not_fail_the_others(cache: Cache, left: int) -> None:
    """Bridges as wide as the letters, on film instead of a stencil."""
    swallowed = Bridges(id="b", width=20.0)
    job = words_only("O", 8.0)
    first = job.items[0].layers[0].elements[0]
    second = replace(first, id="words-2", placement=replace(first.placement, dx=30.0))
    both = tuple(replace(one, steps=() if k < left else (swallowed,)) for k, one in enumerate((first, second)))
    layer = replace(job.items[0].layers[0], elements=both, steps=())
    result = evaluate(replace(job, items=(replace(job.items[0], layers=(layer,)),)), {}, cache)
    assert [bool(bounds_of(one.parts)) for one in result.layers[0].elements] == [left == 1, False]
    assert (result.layers[0].inspection.thinnest_line is not None) == (left == 1)
