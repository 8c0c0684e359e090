"""Work beside the window: one piece after the other, answers in the window's thread, failures kept apart."""

from __future__ import annotations

import gc
import sys
import threading
import time

import pytest
from PySide6.QtCore import QThread
from pytestqt.qtbot import QtBot

from vivid_thimble.core.pauses import pause
from vivid_thimble.desktop.session.background import Errands, Failed, Worker


class Desk:
    """Errands with a list of what came back."""

    def __init__(self, bot: QtBot) -> None:
        self.bot, self.errands = bot, Errands()
        self.answers: list[object] = []
        self.threads: set[QThread] = set()
        self.busy: list[bool] = []
        self.errands.busy_changed.connect(lambda: self.busy.append(self.errands.is_busy))

    def take(self, answer: object) -> None:
        self.threads.add(QThread.currentThread())
        self.answers.append(answer)

    def settle(self) -> None:
        self.bot.waitUntil(lambda: not self.errands.is_busy, timeout=10_000)


@pytest.fixture
def desk(qtbot: QtBot) -> Desk:
    made = Desk(qtbot)
    yield made
    made.errands.stop()


def test_answers_come_in_the_order_asked_and_in_the_windows_thread(desk: Desk) -> None:
    worked_in = []
    for number in range(20):
        desk.errands.run(lambda n=number: (worked_in.append(QThread.currentThread()), n)[1], desk.take)
    desk.settle()
    assert desk.answers == list(range(20))
    assert desk.threads == {QThread.currentThread()}
    assert QThread.currentThread() not in worked_in
    assert len(set(worked_in)) == 1
    assert desk.busy == [True, False]


def test_a_failure_is_an_answer_and_the_next_errand_is_done(desk: Desk) -> None:
    def fails() -> object:
        raise ValueError("no such hue")

    desk.errands.run(fails, desk.take)
    desk.errands.run(lambda: "fine", desk.take)
    desk.settle()
    failed, fine = desk.answers
    assert isinstance(failed, Failed)
    assert str(failed.error) == "no such hue"
    assert fine == "fine"


def test_what_is_forgotten_is_not_answered_but_later_errands_are(desk: Desk) -> None:
    go_on = threading.Event()
    desk.errands.run(lambda: go_on.wait(10.0), desk.take)
    desk.errands.run(lambda: "old", desk.take)
    desk.errands.forget()
    assert not desk.errands.is_busy
    desk.errands.run(lambda: "new", desk.take)
    go_on.set()
    desk.settle()
    assert desk.answers == ["new"]
    assert desk.busy == [True, False, True, False]


def test_an_errand_may_ask_for_another(desk: Desk) -> None:
    desk.errands.run(lambda: 1, lambda one: desk.errands.run(lambda: one + 1, desk.take))
    desk.bot.waitUntil(lambda: desk.answers == [2], timeout=10_000)
    desk.settle()


def test_what_ends_a_program_ends_no_window(desk: Desk) -> None:
    desk.errands.run(lambda: sys.exit(3), desk.take)
    desk.errands.run(lambda: "fine", desk.take)
    desk.settle()
    failed, fine = desk.answers
    assert isinstance(failed, Failed) and "SystemExit" in str(failed.error)
    assert fine == "fine"


def test_what_is_not_wanted_is_not_begun_and_what_runs_leaves_at_its_next_pause(desk: Desk) -> None:
    begun, left = threading.Event(), threading.Event()

    def long(number: int) -> None:
        begun.set()
        try:
            for _ in range(2000):
                time.sleep(0.005)
                pause()
        finally:
            left.set()

    numbers: list[int] = []
    desk.errands.run(lambda: long(0), desk.take)
    for number in range(5):
        desk.errands.run(lambda n=number: numbers.append(n), desk.take)
    assert begun.wait(5.0)
    desk.errands.forget()
    assert left.wait(2.0)
    desk.errands.run(lambda: "new", desk.take)
    desk.settle()
    assert desk.answers == ["new"] and numbers == []


def test_stopping_waits_for_nothing_and_the_work_goes_quietly(qtbot: QtBot) -> None:
    """Even when it cannot pause: its window, and the errands, are gone long before."""
    begun, go_on, ended = threading.Event(), threading.Event(), threading.Event()

    def stubborn() -> str:
        begun.set()
        go_on.wait(10.0)
        ended.set()
        return "late"

    desk = Desk(qtbot)
    desk.errands.run(stubborn, desk.take)
    assert begun.wait(5.0)
    before = time.monotonic()
    desk.errands.stop()
    desk.errands.deleteLater()
    assert time.monotonic() - before < 0.3
    answers = desk.answers
    del desk
    gc.collect()
    qtbot.wait(50)
    go_on.set()
    assert ended.wait(5.0)
    qtbot.waitUntil(lambda: not [one for one in Worker._at_work if one.is_stopped], timeout=5000)
    assert answers == []
