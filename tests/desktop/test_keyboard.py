"""The regatta prepared by keyboard alone: nothing here moves or presses a pointer."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from importlib import resources
from pathlib import Path as FilePath

import ezdxf
import pytest
import shapely
from ezdxf.bbox import extents
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QWidget,
)

from tests.desktop.conftest import Hand
from vivid_thimble.core.blanks.kinds import Ball, Cylinder, Tapered
from vivid_thimble.core.demo.jobs import BOATS, CREW
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.steps import Bridges, Join, Weld
from vivid_thimble.desktop.dialogs.set_dialog import SetDialog

BUTTON_MS = 130
"""A button that is pressed by its keys stays down for a tenth of a second, so that it is seen."""
CONTROL = Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier
STATIONS = ("measure", "gather", "shape", "inspect", "cut", "weed")
DEMO = resources.files("vivid_thimble") / "data" / "demo"


class Keyboard:
    """Reaches everything with Tab, arrows, letters and Enter."""

    def __init__(self, hand: Hand) -> None:
        self.hand, self.window = hand, hand.window

    @property
    def focus(self) -> QWidget:
        return QApplication.focusWidget() or self.window

    def press(
        self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier, times: int = 1
    ) -> None:
        for _ in range(times):
            popup = QApplication.activePopupWidget()
            QTest.keyClick(popup if popup is not None else self.focus, key, modifier)
        if modifier != Qt.KeyboardModifier.NoModifier:
            self.hand.bot.wait(BUTTON_MS)
        self.hand.settle()

    def type(self, text: str) -> None:
        QTest.keyClicks(self.focus, text)

    def station(self, name: str) -> None:
        self.press(Qt.Key(Qt.Key.Key_1 + STATIONS.index(name)), ALT)
        assert self.window.station_in_hand == name

    def tab_to(self, name: str) -> QWidget:
        """Press Tab until the control of this name has the focus; among buttons that exclude each other, arrows."""
        wanted = self.window.findChild(QAbstractButton, name)
        group = wanted.group() if wanted is not None else None
        if wanted is not None and group is not None and group.exclusive() and not wanted.isChecked():
            self.tab_to(group.checkedButton().objectName())
            for arrow in (Qt.Key.Key_Right, Qt.Key.Key_Left):
                for _ in group.buttons():
                    if self.focus is not wanted:
                        QTest.keyClick(self.focus, arrow)
            assert self.focus is wanted, f"{name} is not reached by the arrow keys"
            return wanted
        for _ in range(250):
            if self.focus.objectName() == name:
                return self.focus
            QTest.keyClick(self.focus, Qt.Key.Key_Tab)
        raise AssertionError(f"{name} cannot be reached by Tab from {self.focus.objectName()}")

    def push(self, name: str) -> None:
        self.tab_to(name)
        self.press(Qt.Key.Key_Space)

    def fill(self, name: str, text: str) -> None:
        field = self.tab_to(name)
        QTest.keyClick(field, Qt.Key.Key_A, CONTROL)
        self.type(text)
        if isinstance(field, QLineEdit):
            self.press(Qt.Key.Key_Return)
        self.hand.settle()

    def pick(self, name: str, words: str) -> None:
        """Walk through the entries of a box with the arrow keys."""
        box = self.tab_to(name)
        assert isinstance(box, QComboBox)
        QTest.keyClick(box, Qt.Key.Key_Home)
        for _ in range(box.count()):
            if words in box.currentText():
                break
            QTest.keyClick(box, Qt.Key.Key_Down)
        assert words in box.currentText(), f"{name} has no {words}"
        self.hand.settle()

    def step(self, title: str) -> None:
        """From the menu of steps."""
        self.station("shape")
        self.push("shape_steps")
        self.tab_to("addStep")
        menu = self.window.findChild(QWidget, "addStep").menu()  # type: ignore[union-attr]
        assert isinstance(menu, QMenu)
        menu.popup(self.window.mapToGlobal(self.window.rect().center()))
        for _ in range(len(menu.actions()) + 1):
            QTest.keyClick(menu, Qt.Key.Key_Down)
            if menu.activeAction() is not None and menu.activeAction().text().startswith(title):
                break
        QTest.keyClick(menu, Qt.Key.Key_Return)
        self.hand.settle()

    def new(self) -> None:
        """A new job, the one in hand saved as nothing."""
        session = self.window.session
        session.start(session.job, session.assets)  # what was made before is not asked about
        self.press(Qt.Key.Key_N, CONTROL)


@pytest.fixture
def keyboard(hand: Hand) -> Keyboard:
    return Keyboard(hand)


def kinds(keyboard: Keyboard) -> set[str]:
    return {f.kind for f in keyboard.window.session.result.findings if f.severity == "stop"}


def test_the_transom_from_an_empty_window_to_the_cut_file(
    keyboard: Keyboard, pick_file: Callable[[FilePath], None], tmp_path: FilePath
) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.fill("itemName", "Transom")
    keyboard.fill("itemWidth", "62 cm")
    keyboard.fill("itemHeight", "140")
    keyboard.station("gather")
    keyboard.push("addWords")
    keyboard.fill("wordsText", "Wandering Heron")
    keyboard.pick("face", "Pacifico")
    keyboard.step("Join")
    keyboard.step("Weld")
    steps = session.job.item.layers[0].elements[0].steps
    assert [type(step) for step in steps] == [Join, Weld]
    keyboard.push("shape_place")
    keyboard.fill("elementWidth", "440")
    pick_file(FilePath(str(DEMO / "heron-and-reeds.svg")))
    keyboard.station("gather")
    keyboard.push("addDrawing")
    assert isinstance(session.job.item.layers[0].elements[1].source, Artwork)
    keyboard.station("shape")
    keyboard.push("shape_place")
    keyboard.fill("elementHeight", "116")
    keyboard.tab_to("table")
    keyboard.press(Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier, times=24)
    keyboard.station("shape")
    keyboard.pick("shapeElement", "Wandering")
    keyboard.tab_to("table")
    keyboard.press(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier, times=6)
    margins = session.result.margins
    assert min(margins) > 0.0, "all of it lies on the board"
    keyboard.station("inspect")
    keyboard.press(Qt.Key.Key_F8)
    assert keyboard.window.table.held_finding >= 0
    assert not kinds(keyboard)
    pick_file(tmp_path / "transom.thimble")
    keyboard.press(Qt.Key.Key_S, CONTROL)
    assert session.is_saved
    pick_file(tmp_path / "transom.svg")
    keyboard.station("cut")
    keyboard.push("saveCut")
    assert (tmp_path / "transom.svg").read_text().count("<path") >= 1


def test_hull_numbers_as_a_bridged_stencil(keyboard: Keyboard) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.fill("itemWidth", "330")
    keyboard.fill("itemHeight", "240")
    keyboard.push("measure_film")
    keyboard.pick("method", "Rigid stencil")
    keyboard.station("gather")
    keyboard.push("addWords")
    keyboard.fill("wordsText", "4689")
    keyboard.pick("face", "League Spartan")
    keyboard.fill("designWidth", "200")
    assert "loose-piece" in kinds(keyboard)
    keyboard.step("Bridges")
    assert isinstance(session.job.item.layers[0].elements[0].steps[-1], Bridges)
    assert not kinds(keyboard)


def test_glass_floats_as_a_set_on_balls(keyboard: Keyboard) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.pick("itemKind", "Ball")
    keyboard.fill("blank_girth", "380")
    keyboard.station("gather")
    keyboard.push("addWords")
    keyboard.fill("wordsText", CREW[0])
    keyboard.pick("face", "Pacifico")
    keyboard.step("Weld")
    keyboard.station("gather")
    keyboard.push("openSet")
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, SetDialog) and one.isVisible())
    dialog.activateWindow()
    keyboard.hand.bot.waitUntil(lambda: QApplication.activeWindow() is dialog, timeout=5_000)
    names = keyboard.tab_to("setNames")
    assert isinstance(names, QPlainTextEdit)
    QTest.keyClick(names, Qt.Key.Key_A, CONTROL)
    for name in CREW:
        keyboard.type(name)
        QTest.keyClick(names, Qt.Key.Key_Return)
    if names.tabChangesFocus():
        keyboard.push("makeSet")
    else:
        dialog.apply.setFocus(Qt.FocusReason.ShortcutFocusReason)
        keyboard.press(Qt.Key.Key_Space)
    keyboard.press(Qt.Key.Key_Escape)
    assert len(session.job.items) == len(CREW)
    assert all(isinstance(item.blank, Ball) for item in session.job.items)
    keyboard.window.activateWindow()
    keyboard.hand.bot.waitUntil(lambda: QApplication.activeWindow() is keyboard.window, timeout=5_000)
    keyboard.press(Qt.Key.Key_PageDown, CONTROL)
    assert session.job.item.name == CREW[1]


def test_a_tapered_lantern_with_the_regattas_initials(keyboard: Keyboard) -> None:
    keyboard.station("measure")
    keyboard.pick("itemKind", "Tapered")
    keyboard.fill("blank_upper", "330")
    keyboard.fill("blank_lower", "250")
    keyboard.station("gather")
    keyboard.push("addMonogram")
    keyboard.station("measure")
    keyboard.push("measure_margins")
    keyboard.fill("marginPhrase", "12 top and below, centred")
    session = keyboard.window.session
    assert isinstance(session.job.item.blank, Tapered)
    assert session.result.margins[2] == pytest.approx(12.0, abs=0.02)
    assert session.result.layers[0].bend is not None
    keyboard.tab_to("look_item")
    keyboard.press(Qt.Key.Key_Space)
    assert keyboard.window.table.on_item.shown is not None


def test_a_band_of_reeds_round_a_lantern_glass(keyboard: Keyboard, pick_file: Callable[[FilePath], None]) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.pick("itemKind", "cylinder")
    keyboard.fill("blank_girth", "26 cm")
    keyboard.fill("blank_height", "90")
    keyboard.fill("blank_handle", "20")
    keyboard.station("gather")
    pick_file(FilePath(str(DEMO / "heron-and-reeds.svg")))
    keyboard.push("addDrawing")
    keyboard.station("measure")
    keyboard.push("measure_margins")
    keyboard.fill("fitRoom", "4")
    keyboard.push("makeFit")
    blank = session.job.item.blank
    assert isinstance(blank, Cylinder) and blank.around == 240.0
    wide, high = session.result.size
    assert high == pytest.approx(session.job.item.height, abs=0.05) and wide < blank.around, (
        "4 mm are less than rim and foot"
    )
    left, right, top, bottom = session.result.margins
    assert (left, top, bottom) == (
        pytest.approx(right, abs=0.05),
        pytest.approx(15.0, abs=0.05),
        pytest.approx(5.0, abs=0.05),
    )


def test_a_letter_grid_behind_glass(keyboard: Keyboard) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.pick("itemKind", "Glass")
    keyboard.fill("blank_width", "260")
    assert session.job.item.side == "behind"
    keyboard.station("gather")
    keyboard.push("addGrid")
    names = keyboard.tab_to("gridNames")
    QTest.keyClick(names, Qt.Key.Key_A, CONTROL)
    for name in BOATS:
        keyboard.type(name)
        QTest.keyClick(names, Qt.Key.Key_Return)
    keyboard.fill("gridColumns", "15")
    assert not any(layer.problems for layer in session.result.layers)
    keyboard.push("gridBands")
    assert len(session.job.item.layers) == 2 and session.result.layers[1].kept.area > 0, "bands in a second film"
    keyboard.station("cut")
    assert "read from the other side" in keyboard.hand.find("mirrorLine").text()


def test_otter_and_download_are_brought_in(
    keyboard: Keyboard, pick_file: Callable[[FilePath], None], tmp_path: FilePath
) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.fill("itemWidth", "260")
    keyboard.fill("itemHeight", "240")
    pick_file(FilePath(str(DEMO / "bramble.jpg")))
    keyboard.press(Qt.Key.Key_O, CONTROL)
    keyboard.push("asPortrait")
    assert isinstance(session.job.item.layers[0].elements[0].source, LinePortrait)
    keyboard.new()
    pick_file(FilePath(str(DEMO / "lantern-heron.zip")))
    assert zipfile.is_zipfile(str(DEMO / "lantern-heron.zip"))
    keyboard.press(Qt.Key.Key_O, CONTROL)
    open_dialogs = [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]
    for dialog in open_dialogs:
        QTest.keyClick(dialog, Qt.Key.Key_Return)
    keyboard.hand.settle()
    assert isinstance(session.job.item.layers[0].elements[0].source, Artwork)
    keyboard.window.activateWindow()
    keyboard.hand.bot.waitUntil(lambda: QApplication.activeWindow() is keyboard.window, timeout=5_000)
    assert [version.name for version in session.history[0]] == ["Open", "Add a drawing"], "nothing is edited by looking"
    keyboard.press(Qt.Key.Key_Z, CONTROL)
    assert not session.job.item.layers[0].elements
    keyboard.press(Qt.Key.Key_Z, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    assert session.job.item.layers[0].elements


def test_pennants_as_a_screen_stencil_for_two_inks(keyboard: Keyboard, pick_file: Callable[[FilePath], None]) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.pick("itemKind", "Screen")
    keyboard.fill("blank_width", "400")
    keyboard.fill("blank_height", "300")
    assert session.job.item.method == "screen-stencil"
    keyboard.station("gather")
    pick_file(FilePath(str(DEMO / "heron-and-reeds.svg")))
    keyboard.push("addDrawing")
    keyboard.push("drawing_colours")
    keyboard.pick("filmCount", "2 films")
    keyboard.pick("film_#e8c95b", "Film 2")  # the moon
    for dark in ("#33465c", "#3f7046", "#2b6a80"):
        keyboard.pick(f"film_{dark}", "Film 1")
    keyboard.station("shape")
    keyboard.push("shape_place")
    keyboard.fill("elementHeight", "200")
    keyboard.push("shape_sheet")
    keyboard.pick("registerMarks", "Angles")
    layers = session.result.layers
    assert [layer.is_sheet for layer in layers] == [True, True]
    assert all(layer.marks for layer in layers)
    heron, moon = (layer.design.polygons for layer in layers)
    assert heron.area > 0 and moon.area > 0
    assert heron.intersection(moon).area < 1e-6 * moon.area
    assert layers[0].marks[0].region.bounds == layers[1].marks[0].region.bounds, "both inks meet at the same marks"


def test_a_screenshot_of_words_is_pasted_and_cut(
    keyboard: Keyboard, pick_file: Callable[[FilePath], None], tmp_path: FilePath
) -> None:
    session = keyboard.window.session
    image = QImage(str(DEMO / "regatta-words.jpg"))
    QGuiApplication.clipboard().setImage(image)
    keyboard.station("measure")
    keyboard.fill("itemWidth", "400")
    keyboard.fill("itemHeight", "200")
    keyboard.station("gather")
    keyboard.press(Qt.Key.Key_V, CONTROL)
    assert isinstance(session.job.item.layers[0].elements[0].source, Picture)
    keyboard.station("shape")
    keyboard.push("shape_place")
    keyboard.fill("elementWidth", "290")
    assert not kinds(keyboard)
    pick_file(tmp_path / "sign.dxf")
    keyboard.station("cut")
    keyboard.push("saveCut")
    outlines = [e for e in ezdxf.readfile(tmp_path / "sign.dxf").modelspace() if e.dxftype() != "POINT"]
    assert outlines
    box = extents(outlines)
    assert box.size.x == pytest.approx(290.0, abs=0.05)


def test_the_finish_line_board_is_wider_than_its_carrier(keyboard: Keyboard) -> None:
    session = keyboard.window.session
    keyboard.station("measure")
    keyboard.fill("itemName", "Finish line")
    keyboard.fill("itemWidth", "1.2 m")
    keyboard.fill("itemHeight", "40 cm")
    keyboard.station("gather")
    keyboard.push("addWords")
    words = keyboard.tab_to("wordsText")
    QTest.keyClick(words, Qt.Key.Key_A, CONTROL)
    keyboard.type("QUILLFEN")
    QTest.keyClick(words, Qt.Key.Key_Return)
    keyboard.type("FINISH LINE")
    keyboard.pick("face", "League Spartan")
    keyboard.pick("align", "both sides")
    keyboard.fill("designWidth", "1000")
    upper, lower = (
        max(p.bounds[2] for p in line) - min(p.bounds[0] for p in line)
        for line in lines_of(session.result.layers[0].kept.polygons)
    )
    assert upper == pytest.approx(lower, rel=0.02), "both lines are as wide"
    keyboard.station("cut")
    keyboard.pick("carrier", "mat")
    told = keyboard.hand.find("sheetLine").text()
    assert "does not fit" in told and not keyboard.hand.find("saveCut").isEnabled()
    keyboard.pick("carrier", "Roll")
    assert keyboard.hand.find("sheetLine").text() != told


def lines_of(film: shapely.MultiPolygon) -> tuple[list[shapely.Polygon], list[shapely.Polygon]]:
    """The shapes of the upper and of the lower line."""
    middle = (film.bounds[1] + film.bounds[3]) / 2.0
    upper = [p for p in film.geoms if p.centroid.y < middle]
    return upper, [p for p in film.geoms if p.centroid.y >= middle]
