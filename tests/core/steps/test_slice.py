"""Slice, trim, mirror, copies and thickening in the recipe: nothing is consumed, everything follows."""

from __future__ import annotations

import pytest
import shapely
from msgspec.structs import replace

from tests.letters import box_part
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, pennant_job
from vivid_thimble.core.edits.drawings import without_element
from vivid_thimble.core.edits.linked import unlinked, with_copies
from vivid_thimble.core.edits.sets import another_item
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.geometry.parts import merged
from vivid_thimble.core.job.edits import with_element, with_item, with_layer
from vivid_thimble.core.job.values import Element, Job, Layer, Placement, new_job
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps import Mirror, Slice, Thicken, Trim, Weld


def plate(name: str, wide: float, high: float, dx: float = 0.0, dy: float = 0.0, **more: object) -> Element:
    source = Plain(ratio=high / wide)
    return Element(id=name, name=name, source=source, placement=Placement(width=wide, dx=dx, dy=dy), **more)  # type: ignore[arg-type]


def job_of(*elements: Element) -> Job:
    return with_layer(new_job("Slices", 200.0, 100.0), lambda layer: replace(layer, elements=elements))


def area(job: Job, element: str) -> float:
    return shape(evaluate(job, {}, Cache()), element).area


def shape(result: ItemResult, element: str) -> shapely.MultiPolygon:
    found = [e for layer in result.layers for e in layer.elements if e.element.id == element]
    return merged(found[0].parts).polygons


def sliced(**values: object) -> Slice:
    return Slice(id="slice", **values)  # type: ignore[arg-type]


def test_what_lies_under_others_is_cut_away_with_a_gap_or_kept() -> None:
    below, above = plate("below", 60, 40), plate("above", 20, 20, dx=20)
    for step, left in (
        (sliced(by=("above",)), 60 * 40 - 20 * 20),
        (sliced(by=("above",), keep="overlap"), 20 * 20),
        (sliced(by=("above",), halo=-2.0), 60 * 40 - 16 * 16),
        (sliced(by=("above",), enabled=False), 60 * 40),
        (sliced(by=()), 60 * 40),
    ):
        job = job_of(replace(below, steps=(step,)), above)
        assert area(job, "below") == pytest.approx(left, abs=0.02)
        assert area(job, "above") == pytest.approx(400, abs=0.01)  # nothing is consumed
    round_gap = area(job_of(replace(below, steps=(sliced(by=("above",), halo=3.0),)), above), "below")
    grown = shapely.box(40, 0, 60, 20).buffer(3.0, quad_segs=64).intersection(shapely.box(20, -20, 60, 40))
    assert round_gap == pytest.approx(60 * 40 - grown.area, rel=1e-3)


def test_a_slice_follows_its_cutter_and_its_own_place() -> None:
    job = job_of(plate("below", 60, 40, steps=(sliced(by=("above",)),)), plate("above", 20, 20, dx=20))
    away = with_element(job, "above", lambda e: replace(e, placement=replace(e.placement, dx=90.0)))
    assert area(away, "below") == pytest.approx(2400, abs=0.01)
    half = with_element(job, "below", lambda e: replace(e, placement=replace(e.placement, dx=-20.0)))
    assert area(half, "below") == pytest.approx(2400, abs=0.01)  # they only touch now
    wider = with_element(job, "above", lambda e: replace(e, placement=e.placement.sized(width=30.0)))
    assert area(wider, "below") == pytest.approx(2400 - 25 * 30, abs=0.02)  # cut by the edge of the plate


def test_several_cutters_divide_into_pieces_that_can_be_left_out() -> None:
    cutters = plate("one", 20, 60), plate("two", 80, 10)
    job = job_of(plate("below", 60, 40, steps=(sliced(by=("one", "two"), keep="divide"),)), *cutters)
    result = evaluate(job, {}, Cache())
    (found,) = [e for e in result.layers[0].elements if e.element.id == "below"]
    assert len(found.shown) == 9
    assert sum(piece.area for piece in found.shown) == pytest.approx(2400, abs=0.05)
    corner = min(found.shown, key=lambda piece: piece.at[0] + piece.at[1])
    middle = min(found.shown, key=lambda piece: abs(piece.place[0] - 0.5) + abs(piece.place[1] - 0.5))
    out = replace(found.element.steps[0], left_out=(corner.place, middle.place))
    less = with_element(job, "below", lambda e: replace(e, steps=(out,)))
    assert area(less, "below") == pytest.approx(2400 - 20 * 15 - 20 * 10, abs=0.05)
    grown = with_element(less, "below", lambda e: replace(e, placement=e.placement.sized(width=66.0)))
    pieces = next(e for e in evaluate(grown, {}, Cache()).layers[0].elements if e.element.id == "below").shown
    assert sum(piece.left_out for piece in pieces) == 2  # found again at another size


def test_elements_that_need_each_other_or_a_gone_one_say_so() -> None:
    first, second = plate("a", 60, 40, steps=(sliced(by=("b",)),)), plate("b", 20, 20, steps=(sliced(by=("a",)),))
    problems = [problem.sentence for problem in evaluate(job_of(first, second), {}, Cache()).layers[0].problems]
    assert any("need each other" in one for one in problems)
    lonely = job_of(plate("a", 60, 40, steps=(sliced(by=("gone",)),)))
    assert "is gone" in evaluate(lonely, {}, Cache()).layers[0].problems[0].sentence
    assert area(lonely, "a") == pytest.approx(2400, abs=0.01)
    left = without_element(job_of(first, plate("b", 20, 20)), "b")
    assert evaluate(left, {}, Cache()).layers[0].problems == ()


def test_what_only_helps_is_not_cut() -> None:
    job = job_of(plate("below", 60, 40, steps=(sliced(by=("above",)),)), plate("above", 20, 20, helps_only=True))
    result = evaluate(job, {}, Cache())
    assert result.layers[0].kept.area == pytest.approx(2400 - 400, abs=0.02)
    assert len(result.layers[0].cut_paths) == 1
    assert result.size == pytest.approx((60.0, 40.0))


def test_lower_films_are_trimmed_under_upper_ones_but_for_the_trap() -> None:
    upper, lower = plate("upper", 40, 40), plate("lower", 80, 20)
    base = job_of(upper)
    film = base.item.layers[0].film
    below = Layer(id="below", film=film, elements=(lower,), steps=(Trim(id="t", trap=1.5),))
    job = with_item(base, lambda item: replace(item, layers=(item.layers[0], below)))
    layer = evaluate(job, {}, Cache()).layers[1]
    assert layer.kept.area == pytest.approx(80 * 20 - 37 * 20, abs=0.02)
    assert evaluate(base, {}, Cache()).layers[0].kept.area == pytest.approx(1600, abs=0.01)


def test_only_the_chosen_elements_of_a_film_are_welded() -> None:
    trio = [plate(name, 20, 10, dx=15.0 * k) for k, name in enumerate("abc")]
    job = with_layer(job_of(*trio), lambda layer: replace(layer, steps=(Weld(id="w", only=("a", "b")),)))
    parts = evaluate(job, {}, Cache()).layers[0].parts
    assert sorted(round(part.region.area) for part in parts) == [200, 350]


def test_linked_copies_follow_and_stand_on_their_own_when_asked() -> None:
    words = Element(
        id="w", name="W", source=Words(text="Moth", face="bundled:Pacifico"), placement=Placement(width=60.0)
    )
    job = job_of(words)
    box = evaluate(job, {}, Cache()).bounds
    assert box is not None
    job, (copy,) = with_copies(job, {"w": box}, ["w"], mirrored=True)
    first, second = (shape(evaluate(job, {}, Cache()), one) for one in ("w", copy))
    flipped = shapely.transform(second, lambda p: p * (-1.0, 1.0) + (second.bounds[0] + second.bounds[2], 0.0))
    shift = first.bounds[0] - flipped.bounds[0], first.bounds[1] - flipped.bounds[1]
    moved = shapely.transform(flipped, lambda p: p + shift)
    assert shapely.symmetric_difference(moved, first).area < 1e-3 * first.area
    longer = with_element(job, "w", lambda e: replace(e, source=replace(e.source, text="Moths"), steps=(Weld(id="x"),)))
    assert area(longer, copy) == pytest.approx(area(longer, "w"), rel=1e-5)
    alone = unlinked(longer, copy)
    assert area(alone, copy) == pytest.approx(area(longer, copy), rel=1e-6)
    changed = with_element(alone, "w", lambda e: replace(e, source=replace(e.source, text="Heron")))
    assert area(changed, copy) == pytest.approx(area(longer, copy), rel=1e-6)
    rest = without_element(longer, "w")
    assert area(rest, copy) == pytest.approx(area(longer, copy), rel=1e-6)


def test_a_mirror_turns_over_in_place() -> None:
    (turned,) = Mirror(id="m").apply((box_part("a", 0, 0, 10, 2),))
    assert turned.region.bounds == pytest.approx((0, 0, 10, 2))
    triangle = Plain(form="pennant")
    job = job_of(Element(id="p", name="p", source=triangle, placement=Placement(width=50.0)))
    left = shape(evaluate(job, {}, Cache()), "p").centroid.x
    over = with_element(job, "p", lambda e: replace(e, steps=(Mirror(id="m"),)))
    assert shape(evaluate(over, {}, Cache()), "p").centroid.x - 100.0 == pytest.approx(100.0 - left, abs=1e-6)


def test_corners_are_rounded_or_stay_as_they_were_drawn() -> None:
    plain = box_part("a", 0, 0, 10, 10)
    rounded, drawn = (
        Thicken(id="t", by=1.0, corners=corners).apply((plain,))[0].region.area
        for corners in ("round", "drawn")  # type: ignore[arg-type]
    )
    assert drawn == pytest.approx(144.0, abs=0.01)
    assert rounded == pytest.approx(144.0 - (4.0 - 3.14159), abs=0.05)
    needle = Plain(form="pennant", ratio=0.1)
    job = job_of(Element(id="p", name="p", source=needle, placement=Placement(width=50.0)))
    reach = {}
    for corners in ("drawn", "sharp"):
        step = Thicken(id="t", by=1.0, corners=corners)  # type: ignore[arg-type]
        thick = with_element(job, "p", lambda e, s=step: replace(e, steps=(s,)))  # type: ignore[misc]
        reach[corners] = shape(evaluate(thick, {}, Cache()), "p").bounds[2]
    assert reach["sharp"] > reach["drawn"] + 5.0  # a very pointed tip would run far out


def test_thickened_just_enough_at_every_size_and_what_closes_is_told() -> None:
    comb = (box_part("bar", 0, 0, 20, 2), box_part("thin", 0, 4, 20, 4.5))
    step = Thicken(id="t", to=1.2)
    heights = [part.region.bounds[3] - part.region.bounds[1] for part in step.apply(comb)]
    assert heights[1] == pytest.approx(1.2, abs=0.02)
    assert heights[0] == pytest.approx(2.7, abs=0.02)
    assert step.remarks(comb, step.apply(comb)) == ()
    tight = (box_part("bar", 0, 0, 20, 2), box_part("thin", 0, 2.3, 20, 2.8))
    (remark,) = step.remarks(tight, step.apply(tight))
    assert "closes gaps" in remark.sentence
    sheet = Thicken(id="t", to=1.2, openings=True)
    gap = (box_part("a", 0, 0, 20, 5), box_part("b", 0, 5.4, 20, 9))
    narrow = sheet.apply(gap)
    assert narrow[1].region.bounds[1] - narrow[0].region.bounds[3] == pytest.approx(1.2, abs=0.02)


def test_another_item_like_it_names_its_own_elements() -> None:
    job = job_of(plate("below", 60, 40, steps=(sliced(by=("above",)),)), plate("above", 20, 20))
    job, _ = with_copies(job, {}, ["below"], mirrored=False)
    job = with_layer(job, lambda layer: replace(layer, steps=(Weld(id="w", only=("below",)),)))
    job = another_item(job)
    assert job.at == 1
    own = {element.id for element in job.item.layers[0].elements}
    below, _, copy = job.item.layers[0].elements
    assert set(below.steps[0].by) | {copy.source.of} | set(job.item.layers[0].steps[0].only) <= own
    assert evaluate(job, {}, Cache()).layers[0].problems == ()
    pennants = another_item(pennant_job())
    result = evaluate(pennants, demo_assets(), Cache())
    assert all(layer.problems == () and layer.parts for layer in result.layers)
    assert "lay scraps of 26 mm" in job_sheet(pennants, result)
