"""Any run of edits: no exception, figures that depend on the recipe alone, a file that reads back."""

from __future__ import annotations

import os

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.edits.arrange import aligned, boxes_of, in_rows, stretched
from vivid_thimble.core.edits.drawings import without_element
from vivid_thimble.core.edits.linked import unlinked, with_copies
from vivid_thimble.core.evaluate.recipe import evaluate, sized_design
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import free_id, moved_design, scaled_design, with_element, with_item, with_layer
from vivid_thimble.core.job.values import Element, Item, Job, all_elements
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Band, Bridges, Join, Mirror, RoundCorners, Slice, Step, Thicken, Weld
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.steps.register import RegisterMarks
from vivid_thimble.core.storage.project import project_bytes, read_project

CACHE = Cache()
"""Shared by all runs: a result must not depend on what was computed before."""
MOST, STEPS = (int(n) for n in os.environ.get("THIMBLE_EDITS", "4 8").split())
"""Runs and edits of each; many more by hand, such as THIMBLE_EDITS="60 30"."""
TEXTS = ("Heron", "Moth & Ember", "ol", "", "  ", "漢", "i")


def figures(result: ItemResult) -> tuple:
    """What a user reads off."""
    inspection = result.layers[0].inspection
    return (
        result.size,
        inspection.thinnest_line,
        inspection.thinnest_gap,
        [(f.kind, f.severity, f.width, f.area) for f in result.findings],
        len(inspection.kept),
        len(inspection.waste),
    )


class Bench(RuleBasedStateMachine):
    """A short job under random hands."""

    def __init__(self) -> None:
        super().__init__()
        self.assets = demo_assets()
        self.job: Job = with_element(
            demo_job(),
            "words-1",
            lambda e: replace(e, source=replace(e.source, text="Heron"), placement=replace(e.placement, width=120.0)),
        )
        self.history = [self.job]

    def become(self, job: Job) -> None:
        self.history.append(job)
        self.job = job

    def chosen(self, index: int) -> str:
        elements = all_elements(self.job)
        return elements[index % len(elements)].id

    def with_step(self, element: Element, step: Step) -> Element:
        return replace(element, steps=(*element.steps, step)[-3:])

    @rule(text=st.sampled_from(TEXTS), face=st.sampled_from(sorted(BUNDLED)))
    def retype(self, text: str, face: str) -> None:
        def changed(element: Element) -> Element:
            return (
                replace(element, source=Words(text=text, face=f"bundled:{face}"))
                if isinstance(element.source, Words)
                else element
            )

        for element in all_elements(self.job):
            self.become(with_element(self.job, element.id, changed))

    @precondition(lambda self: all_elements(self.job))
    @rule(index=st.integers(0, 5), by=st.sampled_from([-9.0, -0.2, 0.15, 1.0]))
    def thicken(self, index: int, by: float) -> None:
        step = Thicken(id=free_id("thicken", self.job), by=by)
        self.become(with_element(self.job, self.chosen(index), lambda e: self.with_step(e, step)))

    @precondition(lambda self: all_elements(self.job))
    @rule(index=st.integers(0, 5), join=st.booleans())
    def join_or_weld(self, index: int, join: bool) -> None:
        step = Join(id=free_id("join", self.job)) if join else Weld(id=free_id("weld", self.job))
        self.become(with_element(self.job, self.chosen(index), lambda e: self.with_step(e, step)))

    @rule(factor=st.sampled_from([0.5, 0.9, 1.3]))
    def scale(self, factor: float) -> None:
        box = evaluate(self.job, self.assets, CACHE).size
        if box is None or 5.0 < box[0] * factor < 800.0:
            self.become(scaled_design(self.job, factor))

    @rule(width=st.sampled_from([40.0, 150.0, 333.3]))
    def type_a_width(self, width: float) -> None:
        job = sized_design(self.job, self.assets, CACHE, 0, width)
        size = evaluate(job, self.assets, CACHE).size
        steps = [step for element in all_elements(job) for step in element.steps]
        if size is not None and all(
            isinstance(s, Join | Weld) or (isinstance(s, Thicken) and s.to is None and s.by > -1) for s in steps
        ):
            assert size[0] == pytest.approx(width, abs=0.05)
        self.become(job)

    @rule(dx=st.floats(-300, 300), dy=st.floats(-80, 80))
    def move(self, dx: float, dy: float) -> None:
        self.become(moved_design(self.job, dx, dy))

    @rule(method=st.sampled_from(["decal", "film-stencil", "rigid-stencil", "heat-film"]), weld_all=st.booleans())
    def another_method(self, method: str, weld_all: bool) -> None:
        def item_changed(item: Item) -> Item:
            return replace(item, method=method)

        job = with_item(self.job, item_changed)
        steps = (Weld(id="all"),) if weld_all else ()
        self.become(with_layer(job, lambda layer: replace(layer, steps=steps)))

    @precondition(lambda self: len(all_elements(self.job)) > 1)
    @rule()
    def remove_the_last(self) -> None:
        self.become(with_layer(self.job, lambda layer: replace(layer, elements=layer.elements[:-1])))

    @precondition(lambda self: 0 < len(all_elements(self.job)) < 5)
    @rule(index=st.integers(0, 5), mirrored=st.booleans())
    def copy(self, index: int, mirrored: bool) -> None:
        self.become(with_copies(self.job, self.boxes(), [self.chosen(index)], mirrored=mirrored)[0])

    @precondition(lambda self: all_elements(self.job))
    @rule(index=st.integers(0, 5), away=st.booleans())
    def stand_alone_or_go(self, index: int, away: bool) -> None:
        chosen = self.chosen(index)
        job = without_element(self.job, chosen) if away else unlinked(self.job, chosen)
        self.become(job)

    @precondition(lambda self: all_elements(self.job))
    @rule(first=st.integers(0, 5), second=st.integers(0, 5), keep=st.sampled_from(["outside", "overlap", "divide"]))
    def slice(self, first: int, second: int, keep: str) -> None:
        step = Slice(id=free_id("slice", self.job), by=(self.chosen(second),), keep=keep, halo=0.7)
        self.become(with_element(self.job, self.chosen(first), lambda e: self.with_step(e, step)))

    @precondition(lambda self: all_elements(self.job))
    @rule(index=st.integers(0, 5), kind=st.sampled_from(["bridges", "bent", "band", "mirror", "round", "just"]))
    def another_step(self, index: int, kind: str) -> None:
        name = free_id(kind, self.job)
        step = {
            "bridges": Bridges(id=name),
            "bent": Bridges(id=name, style="curved", feet=True, width=1.0),
            "band": Band(id=name, width=1.0),
            "mirror": Mirror(id=name),
            "round": RoundCorners(id=name, by=0.3),
            "just": Thicken(id=name, to=1.0),
        }[kind]
        self.become(with_element(self.job, self.chosen(index), lambda e: self.with_step(e, step)))

    @precondition(lambda self: all_elements(self.job))
    @rule(index=st.integers(0, 5), across=st.sampled_from([0.5, 1.0, 1.7]), down=st.sampled_from([0.6, 1.0]))
    def stretch(self, index: int, across: float, down: float) -> None:
        self.become(stretched(self.job, [self.chosen(index)], across, down, (50.0, 40.0)))

    @precondition(lambda self: len(all_elements(self.job)) > 1)
    @rule(line=st.sampled_from(["left", "centre", "bottom"]), rows=st.booleans())
    def line_up(self, line: str, rows: bool) -> None:
        ids = [element.id for element in all_elements(self.job)]
        boxes = self.boxes()
        self.become(in_rows(self.job, boxes, ids, 2, 5.0) if rows else aligned(self.job, boxes, ids, line))

    @rule(
        frame=st.sampled_from([Frame(), Frame(fit="item", radius=9.0), Frame(fit="sheet", holes=4), Frame(tab="left")]),
        marks=st.sampled_from([None, RegisterMarks(), RegisterMarks(shape="angles", sticker=True)]),
        box=st.sampled_from([None, 6.0]),
    )
    def sheet(self, frame: Frame, marks: RegisterMarks | None, box: float | None) -> None:
        self.become(
            with_item(
                self.job,
                lambda item: replace(item, frame=frame, register=marks, weeding_box=box, relief=box is not None),
            )
        )

    def boxes(self) -> dict[str, Box]:
        return boxes_of(evaluate(self.job, self.assets, CACHE), self.job)

    @precondition(lambda self: len(self.history) > 1)
    @rule()
    def undo(self) -> None:
        self.history.pop()
        self.job = self.history[-1]

    @invariant()
    def it_is_evaluated_alike_with_any_cache(self) -> None:
        warm = evaluate(self.job, self.assets, CACHE)
        for layer in warm.layers:
            assert layer.kept.polygons.is_valid
        if len(self.history) % 4 == 0:
            assert figures(evaluate(self.job, self.assets, Cache())) == figures(warm)

    @invariant()
    def it_is_saved_and_read_back(self) -> None:
        job, assets = read_project(project_bytes(self.job, self.assets))
        assert job == self.job
        assert figures(evaluate(job, assets, CACHE)) == figures(evaluate(self.job, self.assets, CACHE))


Bench.TestCase.settings = settings(
    max_examples=MOST, stateful_step_count=STEPS, deadline=None, suppress_health_check=list(HealthCheck)
)
TestBench = Bench.TestCase
