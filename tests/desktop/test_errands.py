"""Work beside the window: one piece after the other, answers in the window's thread, failures kept apart."""

from __future__ import annotations

import threading

import pytest
from PySide6.QtCore import QThread
from pytestqt.qtbot import QtBot

from vivid_thimble.desktop.errands import Errands, Failed


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


def test_stopping_waits_for_what_runs_and_answers_nothing_more(desk: Desk) -> None:
    begun, done = threading.Event(), []

    def work() -> None:
        begun.set()
        QThread.msleep(200)
        done.append(True)

    desk.errands.run(work, desk.take)
    assert begun.wait(10.0)
    desk.errands.stop()
    assert done == [True]
    desk.bot.wait(50)
    assert desk.answers == []
