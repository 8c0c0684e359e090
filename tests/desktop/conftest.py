"""A window on the test display, driven by what a user clicks and types."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path as FilePath

import pytest
from PySide6.QtCore import QEvent, QSettings, Qt, QTimer
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QPushButton,
    QWidget,
)
from pytestqt.qtbot import QtBot

from vivid_thimble.core.cache import Cache
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.application.application import Workroom
from vivid_thimble.desktop.session import clean_sizes
from vivid_thimble.desktop.session import stock as workshop
from vivid_thimble.desktop.session.recovery import Recovery
from vivid_thimble.desktop.window.window import MainWindow

RESULTS = Cache(most=20_000, room=2_000_000_000)
"""Results are named by their content, so all windows of a run may share them."""


NEVER_MS = 10_000_000
"""Sizes are searched for only where a test asks for it: they would slow all others."""


class Hand:
    """What a user does: clicks things by name, types into fields, waits for the figures."""

    def __init__(self, window: MainWindow, bot: QtBot) -> None:
        self.window, self.bot = window, bot

    def find(self, name: str) -> QWidget:
        widget = self.window.findChild(QWidget, name)
        assert widget is not None, f"nothing is called {name}"
        return widget

    def click(self, name: str) -> None:
        widget = self.find(name)
        assert widget.isVisible(), f"{name} is not shown"
        assert widget.isEnabled(), f"{name} cannot be clicked"
        self.bot.mouseClick(widget, Qt.MouseButton.LeftButton)
        self.settle()

    def add_step(self, title: str) -> None:
        """From the menu of steps in Shape."""
        self.go_to("shape")
        self.click("shape_steps")
        action = self.window.findChild(QAction, f"add{title}")
        assert action is not None and action.isVisible(), f"there is no step {title} to add"
        action.trigger()
        self.settle()

    def type_into(self, name: str, text: str) -> None:
        """Replace what is in a field and press Enter."""
        field = self.find(name)
        assert field.isVisible(), f"{name} is not shown"
        field.setFocus()
        self.bot.keyClick(field, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        self.bot.keyClicks(field, text)
        if isinstance(field, QLineEdit) or hasattr(field, "lineEdit"):
            self.bot.keyClick(field, Qt.Key.Key_Return)
        self.settle()

    def choose(self, name: str, words: str) -> None:
        """Pick an entry of a box by its words."""
        box = self.find(name)
        assert isinstance(box, QComboBox)
        index = box.findText(words, Qt.MatchFlag.MatchContains)
        assert index >= 0, f"{name} has no {words}"
        box.setFocus()
        box.setCurrentIndex(index)
        box.activated.emit(index)
        self.settle()

    def select_row(self, name: str, row: int) -> None:
        """Select an entry of a list."""
        entries = self.find(name)
        assert isinstance(entries, QListWidget)
        entries.setCurrentRow(row)
        self.settle()

    def keys(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.window, key, modifier)
        self.settle()

    def go_to(self, station: str) -> None:
        self.click(f"station_{station}")

    def settle(self) -> None:
        """Until the figures stand."""
        session = self.window.session
        self.bot.waitUntil(lambda: not (session.is_busy or session.insights.is_busy), timeout=90_000)
        QApplication.processEvents()

    def search_sizes(self) -> None:
        """Until the smallest clean size was searched for."""
        sizes = self.window.session.clean_sizes
        sizes.look_now()
        self.bot.waitUntil(lambda: sizes.is_there, timeout=90_000)
        QApplication.processEvents()

    def painted(self) -> None:
        """Until the table shows everything sharp."""
        table = self.window.table
        self.bot.waitUntil(lambda: table.is_sharp or not table.isVisible(), timeout=30_000)

    def gauge(self, name: str) -> tuple[str, str]:
        reading = self.window.strip.gauges[name].reading
        return reading.figure, reading.verdict

    def kinds(self) -> list[str]:
        assert self.window.session.result is not None
        return [f.kind for f in self.window.session.result.findings]

    def notice(self) -> str:
        return self.window.notice_text.text() if self.window.notice.isVisible() else ""


@pytest.fixture
def window(qtbot: QtBot, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> Iterator[MainWindow]:
    QSettings().clear()
    monkeypatch.setattr(workshop, "Cache", lambda: RESULTS)
    monkeypatch.setattr(clean_sizes, "WHEN_IDLE_MS", NEVER_MS)
    app, palette = prepare_application([])
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # the window of the test before
    sheet = app.styleSheet()
    app.setStyleSheet("")  # a window is built several times faster undressed
    made = MainWindow(palette, Recovery(tmp_path / "recovery"))
    app.setStyleSheet(sheet)
    made.resize(1280, 800)
    qtbot.addWidget(made, before_close_func=lambda w: w.session.start(w.session.job, w.session.assets))
    made.show()
    made.activateWindow()
    with qtbot.waitActive(made):
        pass
    yield made
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, QDialog) and widget.isVisible():
            widget.reject()
    made.session.stop()
    made.table.stop()


@pytest.fixture
def hand(window: MainWindow, qtbot: QtBot) -> Hand:
    made = Hand(window, qtbot)
    made.settle()
    return made


@pytest.fixture
def pick_file(monkeypatch: pytest.MonkeyPatch) -> Callable[[FilePath], None]:
    """The next file dialog is answered with this path (the dialog itself belongs to Qt)."""

    def answer(path: FilePath) -> None:
        for ask in ("getOpenFileName", "getSaveFileName"):
            monkeypatch.setattr(QFileDialog, ask, lambda *_, **__: (str(path), ""))
        monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_, **__: ([str(path)], ""))

    return answer


@pytest.fixture
def answer_box() -> Callable[[str], None]:
    """The next message box is answered by the button with these words."""

    def arm(words: str) -> None:
        def press() -> None:
            for widget in QApplication.topLevelWidgets():
                if isinstance(widget, QMessageBox) and widget.isVisible():
                    button = next(b for b in widget.findChildren(QPushButton) if words in b.text().replace("&", ""))
                    button.click()
                    return
            QTimer.singleShot(50, press)

        QTimer.singleShot(50, press)

    return arm


@pytest.fixture
def workroom(qtbot: QtBot) -> Iterator[Workroom]:
    app, _ = prepare_application([])
    made = Workroom(app)
    window = made.open_window()
    window.show()
    qtbot.waitUntil(lambda: not window.session.is_busy, timeout=20_000)
    yield made
    for one in list(made.windows):
        one.session.start(one.session.job, one.session.assets)
        one.close()
    made.stop()
