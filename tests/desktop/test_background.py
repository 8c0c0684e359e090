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
from vivid_thimble.desktop.session.background import Background, Failed, Worker


class Desk:
    """A background with a list of what came back."""

    def __init__(self, bot: QtBot) -> None:
        self.bot, self.background = bot, Background()
        self.answers: list[object] = []
        self.threads: set[QThread] = set()
        self.busy: list[bool] = []
        self.background.busy_changed.connect(lambda: self.busy.append(self.background.is_busy))

    def take(self, answer: object) -> None:
        self.threads.add(QThread.currentThread())
        self.answers.append(answer)

    def settle(self) -> None:
        self.bot.waitUntil(lambda: not self.background.is_busy, timeout=10_000)


@pytest.fixture
def desk(qtbot: QtBot) -> Desk:
    made = Desk(qtbot)
    yield made
    made.background.stop()


def test_answers_come_in_the_order_asked_and_in_the_windows_thread(desk: Desk) -> None:
    worked_in = []
    for number in range(20):
        desk.background.run(lambda n=number: (worked_in.append(QThread.currentThread()), n)[1], desk.take)
    desk.settle()
    assert desk.answers == list(range(20))
    assert desk.threads == {QThread.currentThread()}
    assert QThread.currentThread() not in worked_in
    assert len(set(worked_in)) == 1
    assert desk.busy == [True, False]


def test_a_failure_is_an_answer_and_the_next_is_done(desk: Desk) -> None:
    def fails() -> object:
        raise ValueError("no such hue")

    desk.background.run(fails, desk.take)
    desk.background.run(lambda: "fine", desk.take)
    desk.settle()
    failed, fine = desk.answers
    assert isinstance(failed, Failed)
    assert str(failed.error) == "no such hue"
    assert fine == "fine"


def test_what_is_dropped_is_not_answered_but_what_comes_later_is(desk: Desk) -> None:
    go_on = threading.Event()
    desk.background.run(lambda: go_on.wait(10.0), desk.take)
    desk.background.run(lambda: "old", desk.take)
    desk.background.drop()
    assert not desk.background.is_busy
    desk.background.run(lambda: "new", desk.take)
    go_on.set()
    desk.settle()
    assert desk.answers == ["new"]
    assert desk.busy == [True, False, True, False]


def test_of_five_that_supersede_each_other_one_runs(desk: Desk) -> None:
    """The first was begun: it leaves at its next pause; the three between never begin."""
    begun, ran, told = threading.Event(), [], []

    def work(number: int) -> int:
        begun.set()
        for _ in range(400 if number == 0 else 1):
            time.sleep(0.005)
            pause(f"number {number}")
        ran.append(number)
        return number

    first = desk.background.run(lambda: work(0), desk.take, newest_only=True)
    assert begun.wait(5.0)
    for number in range(1, 5):
        desk.background.run(lambda n=number: work(n), desk.take, newest_only=True, progress=told.append)
    desk.settle()
    assert desk.answers == ran == [4] and told == ["number 4"] and not first.is_wanted


def test_one_piece_of_work_may_be_dropped_alone(desk: Desk) -> None:
    go_on = threading.Event()
    desk.background.run(lambda: go_on.wait(10.0), desk.take)
    desk.background.drop(desk.background.run(lambda: "not this", desk.take))
    desk.background.run(lambda: "this", desk.take)
    go_on.set()
    desk.settle()
    assert desk.answers == [True, "this"]


def test_work_may_ask_for_another(desk: Desk) -> None:
    desk.background.run(lambda: 1, lambda one: desk.background.run(lambda: one + 1, desk.take))
    desk.bot.waitUntil(lambda: desk.answers == [2], timeout=10_000)
    desk.settle()


def test_what_ends_a_program_ends_no_window(desk: Desk) -> None:
    desk.background.run(lambda: sys.exit(3), desk.take)
    desk.background.run(lambda: "fine", desk.take)
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
    desk.background.run(lambda: long(0), desk.take)
    for number in range(5):
        desk.background.run(lambda n=number: numbers.append(n), desk.take)
    assert begun.wait(5.0)
    desk.background.drop()
    assert left.wait(2.0)
    desk.background.run(lambda: "new", desk.take)
    desk.settle()
    assert desk.answers == ["new"] and numbers == []


def test_stopping_waits_for_nothing_and_the_work_goes_quietly(qtbot: QtBot) -> None:
    """Even when it cannot pause: its window, and the background, are gone long before."""
    begun, go_on, ended = threading.Event(), threading.Event(), threading.Event()

    def stubborn() -> str:
        begun.set()
        go_on.wait(10.0)
        ended.set()
        return "late"

    desk = Desk(qtbot)
    desk.background.run(stubborn, desk.take)
    assert begun.wait(5.0)
    before = time.monotonic()
    desk.background.stop()
    desk.background.deleteLater()
    assert time.monotonic() - before < 0.3
    answers = desk.answers
    del desk
    gc.collect()
    qtbot.wait(50)
    go_on.set()
    assert ended.wait(5.0)
    qtbot.waitUntil(lambda: not [one for one in Worker._at_work if one.is_stopped], timeout=5000)
    assert answers == []
