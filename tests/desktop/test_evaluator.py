"""Computations that nobody wants any more are left at their next pause."""

from __future__ import annotations

import time

import pytest
from pytestqt.qtbot import QtBot

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import hull_job
from vivid_thimble.core.evaluate import recipe
from vivid_thimble.core.job.values import Job, new_job
from vivid_thimble.core.pauses import Stopped, pause
from vivid_thimble.desktop.session.evaluator import Answer, Evaluator


class Bench:
    """An evaluator whose work never ends for jobs called "endless"; what it answered, told, and left."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.answers: list[Answer] = []
        self.told: list[str] = []
        self.left: list[float] = []
        real = recipe.evaluate

        def evaluate(job: Job, assets: dict[str, bytes], cache: Cache) -> object:
            if job.name != "endless":
                return real(job, assets, cache)
            try:
                while True:
                    pause("Working without an end")
                    time.sleep(0.005)
            except Stopped:
                self.left.append(time.monotonic())
                raise

        monkeypatch.setattr(recipe, "evaluate", evaluate)
        self.evaluator = Evaluator(Cache())
        self.evaluator.answered.connect(self.answers.append)
        self.evaluator.doing.connect(self.told.append)


@pytest.fixture
def bench(monkeypatch: pytest.MonkeyPatch, qtbot: QtBot) -> Bench:
    return Bench(monkeypatch)


def test_a_newer_request_makes_a_running_one_leave(bench: Bench, qtbot: QtBot) -> None:
    bench.evaluator.ask(new_job("endless"), {})
    qtbot.waitUntil(lambda: bool(bench.told))
    wanted = bench.evaluator.ask(hull_job(), {})
    qtbot.waitUntil(lambda: bool(bench.answers), timeout=20_000)
    assert [answer.id for answer in bench.answers] == [wanted]
    assert len(bench.left) == 1
    assert bench.answers[0].result is not None
    assert len(bench.answers[0].result.layers[0].kept.polygons.geoms) == 1
    assert set(bench.told) >= {"Working without an end", "Placing bridges", "Measuring lines and gaps"}
    bench.evaluator.stop()


def test_what_is_stopped_answers_nothing_and_the_next_request_is_served(bench: Bench, qtbot: QtBot) -> None:
    bench.evaluator.ask(new_job("endless"), {})
    qtbot.waitUntil(lambda: bool(bench.told))
    bench.evaluator.leave()
    qtbot.waitUntil(lambda: not bench.evaluator.is_busy)
    assert bench.answers == []
    bench.evaluator.ask(new_job("short"), {})
    qtbot.waitUntil(lambda: bool(bench.answers))
    assert bench.answers[0].failure == ""
    bench.evaluator.stop()


def test_closing_does_not_wait_for_the_end(bench: Bench, qtbot: QtBot) -> None:
    bench.evaluator.ask(new_job("endless"), {})
    qtbot.waitUntil(lambda: bool(bench.told))
    bench.evaluator.stop()
    qtbot.waitUntil(lambda: len(bench.left) == 1)
