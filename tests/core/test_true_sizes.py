"""Sizes and places that hold when measured: what is typed is what comes out, and clean is clean where it is told."""

from __future__ import annotations

from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Ball, Panel
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, floats_job, hull_job, portrait_job
from vivid_thimble.core.edits.clean_size import clean_size, enlarged_within_room
from vivid_thimble.core.edits.fitting import fitted_by, fitted_design
from vivid_thimble.core.evaluate.recipe import evaluate, sized_design
from vivid_thimble.core.geometry.parts import bounds_of
from vivid_thimble.core.job.edits import scaled_design, with_element, with_item, with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, elements_of, new_job
from vivid_thimble.core.room.ball import on_ball
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Bridges, Join, Thicken, Weld
from vivid_thimble.core.steps.register import RegisterMarks

CACHE = Cache()
SCRIPT = "bundled:Pacifico"


def lettered(text: str, *steps: object, align: str = "left", **place: float) -> Job:
    """Words on a plain item of 600 x 300."""
    source = Words(text=text, face=SCRIPT, align=align)
    words = Element(id="w", name=text, source=source, placement=Placement(**place), steps=steps)
    return with_layer(new_job("Sizes", 600.0, 300.0), lambda layer: replace(layer, elements=(words,)))


def box(job: Job) -> tuple[float, float, float, float]:
    bounds = evaluate(job, demo_assets(), CACHE).bounds
    assert bounds is not None
    return bounds


@pytest.mark.parametrize("turn", [0.0, 90.0, -33.0])
@pytest.mark.parametrize("text", ["Vow of wool", "Heron", "Box over Oxbow"])
def test_a_join_keeps_the_middle_and_the_width_that_was_typed(text: str, turn: float) -> None:
    job = lettered(text, Join(id="j", neck=1.5), width=220.0, dx=30.0, dy=-20.0, turn_deg=turn)
    left, top, right, bottom = box(job)
    assert ((left + right) / 2.0, (top + bottom) / 2.0) == pytest.approx(
        (330.0, 130.0), abs=0.01 if turn % 90 == 0 else 8.0
    )
    along = {0.0: right - left, 90.0: bottom - top}.get(turn)
    assert along is None or along == pytest.approx(220.0, abs=1e-3)
    pieces = {t: len(evaluate(lettered(text, Join(id="j", neck=1.5), Weld(id="x"), width=220.0, turn_deg=t), {}, CACHE).layers[0].kept.polygons.geoms) for t in (0.0, turn)}  # fmt: skip
    assert pieces[0.0] == pieces[turn], "letters close up along their line, whichever way it runs"


@pytest.mark.parametrize(("align", "share"), [("left", 0.0), ("centre", 0.5), ("right", 1.0)])
def test_joined_lines_keep_what_they_are_aligned_by(align: str, share: float) -> None:
    job = lettered("Wool vow\nHeron over reeds", Join(id="j", neck=2.0), align=align, width=300.0)
    parts = evaluate(job, {}, CACHE).layers[0].parts
    lines = [bounds_of(p for p in parts if p.word is not None and (p.word < 2) == first) for first in (True, False)]
    apart = evaluate(lettered("Wool vow\nHeron over reeds", align=align, width=300.0), {}, CACHE).layers[0].parts
    loose = [bounds_of(p for p in apart if p.word is not None and (p.word < 2) == first) for first in (True, False)]
    ends = [[a[0] + share * (a[2] - a[0]) for a in pair if a] for pair in (lines, loose)]
    assert ends[0][1] - ends[0][0] == pytest.approx(ends[1][1] - ends[1][0], abs=0.6)


def test_every_word_of_a_set_has_the_room_that_was_asked_for() -> None:
    job = floats_job()
    job = replace(job, shared=tuple(replace(one, margin=8.0) for one in job.shared))
    least = []
    for at in range(len(job.items)):
        left, right, top, bottom = evaluate(replace(job, at=at), {}, CACHE).margins or (0.0,) * 4
        assert left == pytest.approx(right, abs=0.01) and top == pytest.approx(bottom, abs=0.01)
        least.append(min(left, top))
    assert min(least) == pytest.approx(8.0, abs=0.01)


def test_the_shipped_example_is_centred() -> None:
    left, right, top, bottom = evaluate(demo_job(), demo_assets(), CACHE).margins or (0.0,) * 4
    assert (left - right, top - bottom) == pytest.approx((0.0, 0.0), abs=0.01)


@pytest.mark.parametrize("size", [{"width": 190.0}, {"height": 143.7}])
@pytest.mark.parametrize("lines", ["spiral", "rings", "waves"])
def test_a_portrait_is_as_large_as_was_typed_and_lies_in_the_middle(lines: str, size: dict[str, float]) -> None:
    job = portrait_job()
    (portrait,) = elements_of(job.item)
    job = with_element(job, portrait.id, lambda e: replace(e, source=replace(e.source, lines=lines), placement=Placement(**size)))  # fmt: skip
    result = evaluate(job, demo_assets(), CACHE)
    axis = 0 if "width" in size else 1
    assert result.size is not None and result.size[axis] == pytest.approx(next(iter(size.values())), abs=1e-3)
    left, right, top, bottom = result.margins or (0.0,) * 4
    assert (left - right, top - bottom) == pytest.approx((0.0, 0.0), abs=1e-3)


def test_bridges_and_marks_do_not_change_the_size() -> None:
    job = hull_job()
    bare = with_item(job, lambda item: replace(item, layers=tuple(replace(la, steps=()) for la in item.layers)))
    for element in elements_of(bare.item):
        bare = with_element(bare, element.id, lambda e: replace(e, steps=tuple(s for s in e.steps if not isinstance(s, Bridges))))  # fmt: skip
    assert box(job) == pytest.approx(box(bare), abs=1e-9)
    marked = with_item(job, lambda item: replace(item, register=RegisterMarks()))
    assert box(marked) == pytest.approx(box(job), abs=1e-9)


def test_a_typed_width_holds_for_a_drawing_that_is_cleaned() -> None:
    """The speck at the far right is dropped at this size: what is left still gets the whole width."""
    from vivid_thimble.cli.parser import run  # the command line and the job take the same way

    art = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50"><rect x="2" y="5" width="80" height="40"/><rect x="99" y="20" width=".02" height=".02"/></svg>'
    import contextlib
    import io
    import json
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path = FilePath(folder) / "speck.svg"
        path.write_text(art)
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            assert run(["clean", str(path), "--width", "120", "--json"]) == 0
    assert json.loads(out.getvalue())["size_mm"] == pytest.approx([120.0, 60.0], abs=1e-3)


def test_clean_from_is_clean_there_and_not_below_although_bridges_keep_their_width() -> None:
    job = hull_job()
    result = evaluate(job, {}, CACHE)
    found = clean_size(job, {}, CACHE, result, with_other=True)
    assert found is not None and found.scale is not None and found.deciding is not None
    assert found.scale < 0.5 * (result.smallest_clean_scale or 0.0), "one inspection tells far too much"

    def stops(scale: float) -> list[str]:
        seen = evaluate(scaled_design(job, scale), {}, CACHE)
        return [f.sentence for f in seen.findings if f.severity == "stop" and f.cured_by_size]

    assert stops(found.scale) == []
    assert stops(found.scale * 0.98)
    assert found.without is None or found.without < found.scale


def test_enlarging_never_leaves_the_room() -> None:
    job = lettered("Heron", Join(id="j"), Weld(id="x"), Thicken(id="t", by=-0.3), width=40.0)
    grown, said = enlarged_within_room(job, {}, CACHE)
    assert said == "" and grown != job
    assert not [f for f in evaluate(grown, {}, CACHE).findings if f.severity == "stop" and f.cured_by_size]
    tight = with_item(job, lambda item: replace(item, width=45.0, height=30.0))
    same, said = enlarged_within_room(tight, {}, CACHE)
    assert same == tight and "leaves the room" in said


@pytest.mark.parametrize("margin", [0.0, 12.0])
def test_the_size_that_fits_a_ball_fits_it(margin: float) -> None:
    job = lettered("Juniper", Join(id="j"), Weld(id="x"), Thicken(id="t", by=0.8), width=50.0, dx=9.0)
    job = with_item(job, lambda item: with_blank(item, Ball(girth=250.0)))
    fitted = fitted_design(fitted_by(job, box(job), margin), {}, CACHE, margin)
    result = evaluate(fitted, {}, CACHE)
    told = on_ball(fitted.item, result.bounds)
    assert told is not None and not told.creases
    assert not [f for f in result.findings if f.kind == "does-not-fit" or "creases" in f.sentence]
    assert told.surplus > 0.028 or min(result.margins or ()) < margin + 0.02, "and it is the largest"


def test_the_size_that_fits_a_panel_is_measured_from_its_edges() -> None:
    job = lettered("Moss", Join(id="j"), Weld(id="x"), Thicken(id="t", by=1.0), width=50.0)
    job = with_item(job, lambda item: with_blank(item, Panel(width=320.0, height=400.0, edge=10.0)))
    left, right, _, _ = evaluate(fitted_design(job, {}, CACHE, 25.0), {}, CACHE).margins or (0.0,) * 4
    assert (left, right) == pytest.approx((25.0, 25.0), abs=2e-3)


def test_a_typed_size_is_exact_whatever_the_steps_keep() -> None:
    job = lettered("Otterly", Join(id="j"), Weld(id="x"), Thicken(id="t", by=1.7), width=120.0)
    for axis, size in ((0, 333.3), (1, 71.9)):
        left, top, right, bottom = box(sized_design(job, {}, CACHE, axis, size))
        assert (right - left, bottom - top)[axis] == pytest.approx(size, abs=1e-3)
