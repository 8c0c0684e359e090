"""A monkey at the window: it opens, edits, undoes, scales, reorders, deletes, saves, reopens, in any order.

The suite lets it do a few dozen steps; ``bench/monkey.py`` some thousand, and watches the memory.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path as FilePath

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule
from msgspec.structs import replace
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication

from vivid_thimble.core.blanks.kinds import BLANKS
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import badge_job, floats_job, hull_job
from vivid_thimble.core.edits.drawings import without_element
from vivid_thimble.core.edits.remedies import remedied
from vivid_thimble.core.edits.sets import another_item, without_item
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.job.edits import free_id, with_element, with_item
from vivid_thimble.core.job.values import Item, Job, Layer, elements_of, new_job
from vivid_thimble.core.room.blank import as_kind
from vivid_thimble.core.steps import Thicken
from vivid_thimble.core.storage.project import ENDING
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.table.table import LOOKS
from vivid_thimble.desktop.window.window import MainWindow

STARTS: tuple[Callable[[], Job], ...] = (new_job, hull_job, badge_job, lambda: _first_of(floats_job()))
WORDS = ("Moth", "Ember", "8", "Bo", "", "Quillfen lantern", "i")
PATIENCE_S = 40.0


def _first_of(job: Job) -> Job:
    return replace(job, items=job.items[:2])


def figures(result: ItemResult) -> tuple[object, ...]:
    """What a person reads of a result."""
    bounds = None if result.bounds is None else tuple(round(v, 6) for v in result.bounds)
    return bounds, [(f.kind, f.severity, f.sentence) for f in result.findings], result.thinnest


class Monkey(RuleBasedStateMachine):
    """One window; every step is done as the window's controls do it."""

    def __init__(self) -> None:
        super().__init__()
        _, palette = prepare_application([])
        self.folder = tempfile.TemporaryDirectory(prefix="thimble-monkey-")
        self.window = MainWindow(palette)
        self.window.resize(1280, 800)
        self.window.show()
        self.session = self.window.session
        self.first: Job = self.session.job

    @initialize(start=st.integers(0, len(STARTS) - 1))
    def begin(self, start: int) -> None:
        self.open(STARTS[start]())

    def open(self, job: Job) -> None:
        self.session.start(job, {})
        self.first = job
        self.settle()

    def settle(self) -> None:
        until = time.monotonic() + PATIENCE_S
        QApplication.processEvents()
        while self.session.is_busy or self.session.insights.is_busy:
            assert time.monotonic() < until, "the window does not come to rest"
            QApplication.processEvents()
            time.sleep(0.002)
        assert not self.session.failure, self.session.failure

    def change(self, name: str, job: Job) -> None:
        self.session.change(name, job)
        self.settle()

    # -- edits ----------------------------------------------------------------------

    @precondition(lambda self: len(elements_of(self.session.job.item)) < 5)
    @rule(text=st.sampled_from([word for word in WORDS if word]))
    def add_words(self, text: str) -> None:
        self.window.trays.gather.add_words(text)
        self.settle()

    @precondition(lambda self: elements_of(self.session.job.item))
    @rule(dx=st.floats(-30, 30), dy=st.floats(-20, 20))
    def move(self, dx: float, dy: float) -> None:
        self.window.wishes.move(dx, dy)
        self.settle()

    @precondition(lambda self: elements_of(self.session.job.item))
    @rule(angle=st.sampled_from([-90.0, -3.0, 15.0, 180.0]))
    def turn(self, angle: float) -> None:
        self.window.wishes.turn(angle)
        self.settle()

    @precondition(lambda self: elements_of(self.session.job.item))
    @rule(by=st.sampled_from([-8.0, -1.0, 1.0, 10.0]))
    def grow(self, by: float) -> None:
        self.window.wishes.grow(by)
        self.settle()

    @precondition(lambda self: self.session.result is not None and self.session.result.bounds is not None)
    @rule(axis=st.sampled_from([0, 1]), size=st.floats(15.0, 260.0))
    def scale(self, axis: int, size: float) -> None:
        self.session.size_design(axis, size)
        self.settle()

    @precondition(lambda self: elements_of(self.session.job.item))
    @rule(by=st.sampled_from([-0.2, 0.15, 0.6]))
    def thicken(self, by: float) -> None:
        job = self.session.job
        step = Thicken(id=free_id("thicken", job), by=by)

        def stepped(element: object) -> object:
            return replace(element, steps=(*element.steps, step)[-3:])  # type: ignore[attr-defined]

        self.change("Thicken", with_element(job, self.session.chosen, stepped))  # type: ignore[arg-type]

    @precondition(lambda self: len(elements_of(self.session.job.item)) > 1)
    @rule()
    def reorder(self) -> None:
        def turned_round(layer: Layer) -> Layer:
            return replace(layer, elements=layer.elements[::-1])

        def changed(item: Item) -> Item:
            return replace(item, layers=tuple(turned_round(layer) for layer in item.layers))

        self.change("Reorder", with_item(self.session.job, changed))

    @precondition(lambda self: elements_of(self.session.job.item))
    @rule()
    def delete(self) -> None:
        self.change("Remove", without_element(self.session.job, self.session.chosen))

    @rule(kind=st.sampled_from([None, *BLANKS]))
    def measure(self, kind: type | None) -> None:
        self.change("Kind", with_item(self.session.job, lambda item: as_kind(item, kind)))

    @rule(method=st.sampled_from(["decal", "film-stencil", "rigid-stencil", "heat-film"]))
    def method(self, method: str) -> None:
        self.window.trays.measure.film._set_method(method)
        self.settle()

    @precondition(lambda self: self.session.result is not None and self.session.result.findings)
    @rule(number=st.integers(0, 30), which=st.integers(0, 3))
    def remedy(self, number: int, which: int) -> None:
        result = self.session.result
        assert result is not None
        finding = result.findings[number % len(result.findings)]
        if finding.remedies:
            job = remedied(self.session.job, result, finding, finding.remedies[which % len(finding.remedies)])
            if job is not None:
                self.change("Remedy", job)

    @precondition(lambda self: len(self.session.job.items) < 3)
    @rule()
    def another(self) -> None:
        self.change("Another item", another_item(self.session.job))

    @precondition(lambda self: len(self.session.job.items) > 1)
    @rule(take_out=st.booleans())
    def next_item(self, take_out: bool) -> None:
        if take_out:
            self.change("Take the item out", without_item(self.session.job))
        else:
            self.session.hold_item((self.session.job.at + 1) % len(self.session.job.items))
            self.settle()

    # -- going back and forth ------------------------------------------------------------

    @rule(times=st.integers(1, 4))
    def undo(self, times: int) -> None:
        for _ in range(times):
            self.session.undo()
        self.settle()

    @rule(times=st.integers(1, 3))
    def redo(self, times: int) -> None:
        for _ in range(times):
            self.session.redo()
        self.settle()

    @rule(share=st.floats(0.0, 1.0))
    def jump(self, share: float) -> None:
        versions, _ = self.session.history
        self.session.jump(round(share * (len(versions) - 1)))
        self.settle()

    @rule(reopen=st.booleans())
    def save(self, reopen: bool) -> None:
        path = FilePath(self.folder.name) / f"monkey{ENDING}"
        assert self.window.files.save_to(path, whatever=True)
        assert self.session.is_saved
        if reopen:
            job = self.session.job
            self.session.open(path)
            assert self.session.job == job
            self.first = job
            self.settle()

    # -- looking --------------------------------------------------------------------

    @rule(station=st.sampled_from(["measure", "gather", "shape", "inspect", "cut", "weed"]))
    def go(self, station: str) -> None:
        self.window.go_to(station)
        self.settle()

    @rule(look=st.sampled_from([key for key, _ in LOOKS]))
    def look(self, look: str) -> None:
        self.window.set_look(look)  # type: ignore[arg-type]
        self.settle()

    @rule(factor=st.sampled_from([0.5, 1.7, 6.0]))
    def zoom(self, factor: float) -> None:
        self.window.table.zoom_by(factor)
        QApplication.processEvents()

    # -- what must hold ---------------------------------------------------------------------

    @invariant()
    def what_is_shown_belongs_to_the_job(self) -> None:
        result = self.session.result
        if result is not None:
            assert result.item.id == self.session.job.item.id

    def teardown(self) -> None:
        try:
            while self.session.undo_name():
                self.session.undo()
            self.settle()
            assert replace(self.session.job, at=0) == replace(self.first, at=0), (
                "undo of everything is not the beginning"
            )
            result = self.session.result
            assert result is not None
            fresh = evaluate(self.session.job, self.session.assets, Cache())
            assert figures(result) == figures(fresh), "the figures are not those of the beginning"
        finally:
            self.session.start(self.session.job, self.session.assets)
            self.window.close()
            self.window.deleteLater()
            QApplication.processEvents()
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # no event loop of its own does it here
            self.folder.cleanup()
