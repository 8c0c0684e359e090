"""The window shows nothing that is not so: figures of an earlier state say so, work is left at once, keys hit what is in
hand, films lie as they are cut, everything fits."""

from __future__ import annotations

import gc
import time
import weakref
from collections.abc import Callable, Iterator
from pathlib import Path as FilePath

import pytest
import shapely
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QScrollArea, QWidget
from pytestqt.qtbot import QtBot

from tests.desktop.conftest import Hand
from vivid_thimble.core.blanks.kinds import Tapered
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, floats_job, hull_job, pennant_job, portrait_job
from vivid_thimble.core.evaluate import recipe
from vivid_thimble.core.job.edits import scaled_design, with_item
from vivid_thimble.core.job.values import Job, elements_of, new_job
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.storage.stock import Stock, StockFilm
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.application.application import Workroom, use_palette
from vivid_thimble.desktop.dialogs.preferences_dialog import PreferencesDialog
from vivid_thimble.desktop.look import preferences
from vivid_thimble.desktop.look.preferences import Preferences, keep_preferences, read_preferences
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.translation import use_language
from vivid_thimble.desktop.session.derived import CUT
from vivid_thimble.desktop.stations.gather import station as gather
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog
from vivid_thimble.desktop.window.dialogs import Dialogs
from vivid_thimble.desktop.window.window import MainWindow

RETURN = Qt.Key.Key_Return


@pytest.fixture
def held(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[Hand, dict[str, bool]]]:
    """The transom, shown; from now on an evaluation goes on until ``gate["open"]``."""
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    gate, real = {"open": False}, recipe.evaluate

    def evaluate(*given: object) -> object:
        while not gate["open"]:
            pause("Waiting")
            time.sleep(0.005)
        return real(*given)

    monkeypatch.setattr(recipe, "evaluate", evaluate)
    yield hand, gate
    gate["open"] = True
    hand.settle()


def name_of(hand: Hand, widget: str) -> str:
    return hand.find(widget).accessibleName()


def test_figures_of_an_earlier_state_say_was_until_the_new_ones_stand(held: tuple[Hand, dict[str, bool]]) -> None:
    hand, gate = held
    hand.go_to("cut")
    assert hand.find("saveCut").isEnabled()
    hand.window.session.change("Smaller", scaled_design(hand.window.session.job, 0.5))
    hand.bot.waitUntil(lambda: "was" in name_of(hand, "gaugeLine"), timeout=5_000)
    assert "was" in name_of(hand, "station_inspect") and "was" in name_of(hand, "station_cut")
    assert "was" not in name_of(hand, "station_measure"), "what is measured is so at once"
    assert not hand.find("saveCut").isEnabled()
    assert hand.find("sheetLine").text().startswith("Was: ")
    assert hand.find("designWidth").property("was")
    gate["open"] = True
    hand.settle()
    assert "was" not in name_of(hand, "gaugeLine") and "was" not in name_of(hand, "station_cut")
    assert hand.find("saveCut").isEnabled() and not hand.find("designWidth").property("was")


def test_nothing_is_said_of_a_drawing_before_it_was_looked_at(held: tuple[Hand, dict[str, bool]]) -> None:
    hand, gate = held
    hand.go_to("gather")
    hand.window.session.choose("drawing-1")
    hand.window.trays.gather.drawing.turn_to("cleaning")
    hand.window.session.start(replace(demo_job(), name="again"), demo_assets())
    hand.window.session.choose("drawing-1")
    verdict = hand.window.trays.gather.drawing.cleaning.verdict
    assert "being read" in verdict.text()
    gate["open"] = True
    hand.settle()
    assert "being read" not in verdict.text()


def test_reading_is_stopped_at_once(hand: Hand, monkeypatch: pytest.MonkeyPatch, tmp_path: FilePath) -> None:
    begun: list[float] = []
    left: list[float] = []

    def endless(*_: object) -> object:
        begun.append(time.monotonic())
        try:
            while True:
                pause()
                time.sleep(0.005)
        finally:
            left.append(time.monotonic())

    monkeypatch.setattr(gather, "open_file", endless)
    hand.go_to("gather")
    hand.window.trays.gather.add_drawing_file(tmp_path / "endless.svg")
    stop = hand.find("stopWork")
    hand.bot.waitUntil(lambda: stop.isVisible() and bool(begun), timeout=5_000)
    pressed = time.monotonic()
    hand.bot.mouseClick(stop, Qt.MouseButton.LeftButton)
    assert not hand.window.session.is_reading and "endless.svg was stopped" in hand.notice()
    hand.bot.waitUntil(lambda: bool(left), timeout=5_000)
    assert left[0] - pressed < 1.0, "the work itself ends, too"
    assert not elements_of(hand.window.session.job.item)


def test_the_outlines_of_a_drawing_are_seen_while_it_is_worked_on(hand: Hand, monkeypatch: pytest.MonkeyPatch, tmp_path: FilePath) -> None:  # fmt: skip
    art = tmp_path / "blocks.svg"
    art.write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="4" height="4"/></svg>')
    shown: list[object] = []
    hand.go_to("gather")
    hand.window.trays.gather.sketch_wanted.connect(shown.append)
    hand.window.trays.gather.add_drawing_file(art)
    hand.settle()
    assert len(shown) == 2 and shown[1] is None, "and gone when the result is there"
    (sketch,) = shown[0]
    assert shapely.area(sketch) > 100.0


@pytest.mark.parametrize("change", [{"text_scale": 1.25}, {"language": "de"}])
def test_after_a_change_of_language_or_text_every_station_takes_edits(workroom: Workroom, qtbot: QtBot, change: dict[str, object]) -> None:  # fmt: skip
    """An error in a connection that outlived its widget fails the test by itself; a window that is gone leaves nothing."""
    gone: list[weakref.ref[MainWindow]] = []
    try:
        for station in list(workroom.windows[0].trays):
            window = workroom.windows[0]
            window.go_to(station)
            window.dialogs.open_preferences("work")
            keep_preferences(Preferences(**change) if read_preferences() == Preferences() else Preferences())
            workroom.use_preferences(read_preferences())
            QApplication.processEvents()
            made = workroom.windows[0]
            assert made is not window
            again = made.findChild(PreferencesDialog)
            assert again is not None and again.isVisible() and again.page == "work", "preferences stay open"
            again.close()
            named = replace(made.session.job.item, name=f"{station} {len(change)} {time.monotonic()}")
            made.session.change("Name", replace(made.session.job, items=(named,)))
            qtbot.waitUntil(lambda m=made: not m.session.is_busy, timeout=30_000)
            QApplication.processEvents()
            gone.append(weakref.ref(window))
        del window, made, named, again
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        gc.collect()
        assert not any(window() for window in gone[1:]), (
            "a job that lives on holds no window of before (the fixture holds the first)"
        )
    finally:
        keep_preferences(Preferences())
        workroom.use_preferences(read_preferences())


def test_no_arrow_moves_the_words_while_a_bridge_is_in_hand(hand: Hand) -> None:
    hand.window.session.start(hull_job(), {})
    hand.settle()
    hand.go_to("shape")
    hand.click("shape_steps")
    table, session = hand.window.table, hand.window.session
    first = session.result.layers[0].elements[0]
    table.show_bridges(first.element.id, first.shown[0])
    places = [e.placement for e in elements_of(session.job.item)]
    table.setFocus()
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right):
        for modifier in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier):  # fmt: skip
            table.bridges.held = 0
            QTest.keyClick(table, key, modifier)
    hand.settle()
    assert [e.placement for e in elements_of(session.job.item)] == places


def test_a_click_on_the_row_in_hand_takes_it_again(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("inspect")
    findings = hand.window.trays.inspect.list
    row = next(k for k in range(findings.count()) if findings.item(k).flags())
    at = findings.visualItemRect(findings.item(row)).center()
    hand.bot.mouseClick(findings.viewport(), Qt.MouseButton.LeftButton, pos=at)
    near = hand.window.table.px_per_mm
    hand.click("zoomFit")
    assert hand.window.table.px_per_mm != pytest.approx(near)
    hand.bot.mouseClick(findings.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert hand.window.table.px_per_mm == pytest.approx(near), "it goes there once more"


def test_enter_in_a_dialog_opens_no_file_chooser(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("PySide6.QtWidgets.QFileDialog.getOpenFileName", lambda *_, **__: pytest.fail("a file chooser"))
    hand.window.session.start(floats_job(), {})
    hand.settle()
    openings: tuple[Callable[[Dialogs], None], ...] = (Dialogs.open_set, Dialogs.open_guides, Dialogs.open_stock, Dialogs.open_preferences)  # fmt: skip
    for opening in openings:
        opening(hand.window.dialogs)
        dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QuietDialog) and w.isVisible())
        for field in [f for f in dialog.findChildren(QLineEdit) if f.isVisible() and f.isEnabled()][:4]:
            field.setFocus()
            QTest.keyClick(field, RETURN)
            assert dialog.isVisible(), f"Enter in {field.objectName()} closed {type(dialog).__name__}"
        dialog.close()


def test_the_film_is_shown_as_it_is_cut_and_nothing_else(hand: Hand) -> None:
    hand.window.session.start(pennant_job(), demo_assets())
    hand.settle()
    hand.go_to("cut")
    table, session = hand.window.table, hand.window.session
    assert table.shows_sheet and len(table.result.layers) == 1
    design, lies = session.result.layers[0].design, table.result.layers[0].design
    plan = session.insights.of(CUT)[0].plan
    assert plan.mirrored and plan.turned
    mapped = shapely.transform(design.polygons, plan.affine.apply)
    assert shapely.symmetric_difference(mapped, lies.polygons).area < 1e-6
    wide = lies.polygons.bounds[2] - lies.polygons.bounds[0]
    assert wide == pytest.approx(design.polygons.bounds[3] - design.polygons.bounds[1]), "turned by a quarter"
    hand.choose("cutFilm", "(2)")
    assert table.result.layers[0].layer.id == session.job.item.layers[1].id
    before = session.job
    table.setFocus()
    QTest.keyClick(table, Qt.Key.Key_Right)
    hand.bot.mousePress(table, Qt.MouseButton.LeftButton, pos=QPoint(400, 300))
    hand.bot.mouseMove(table, QPoint(470, 300))
    hand.bot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=QPoint(470, 300))
    assert session.job == before, "what follows from the design is not moved there"
    hand.click("cutLie_on")
    assert not table.shows_sheet and table.result is session.result
    hand.go_to("weed")
    assert not table.shows_sheet, "the switch holds for both"
    hand.click("weedLie_cut")
    hand.go_to("shape")
    assert not table.shows_sheet and table.result is session.result


def test_picks_light_up_and_dashed_lines_say_whether_they_are_cut(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("weed")
    station = hand.window.trays.weed
    hand.select_row("picks", 2)
    assert hand.window.table.lit_pick == 3
    assert "but not cut" in station.relief.text()
    hand.click("cutRelief")
    item = hand.window.session.job.item
    assert item.relief and item.weeding_box is not None and "cut with the film" in station.relief.text()
    assert len(hand.window.session.result.layers[0].waste_cuts) > 1
    hand.click("cutRelief")
    assert not hand.window.session.result.layers[0].waste_cuts
    hand.window.session.start(with_item(portrait_job(), lambda one: replace(one, relief=True)), demo_assets())
    hand.settle()
    assert not hand.window.session.result.layers[0].waste_cuts, "never through the strip of a spiral"
    assert "outer end of the strip" in station.list.item(0).text()
    care = {}
    for method in ("rigid-stencil", "heat-film", "film-stencil"):
        hand.window.session.change("Method", with_item(hand.window.session.job, lambda one, m=method: replace(one, method=m)))  # fmt: skip
        hand.settle()
        care[method] = station.care.text()
    assert "Nothing is peeled" in care["rigid-stencil"] and "tape" in care["film-stencil"]
    assert "Heat" in care["heat-film"] and "press" not in care["film-stencil"].lower()


def is_cut_off(window: MainWindow) -> list[str]:
    """What of the open tray is wider than its room."""
    rooms = [one for one in window.trays.findChildren(QScrollArea) if one.isVisible()]
    return [one.widget().objectName() for one in rooms if one.horizontalScrollBar().maximum() > 0]


@pytest.mark.parametrize(("language", "scale", "size"), [("en", 1.0, (1024, 700)), ("de", 1.0, (1024, 700)), ("en", 1.5, (1280, 800)), ("de", 1.5, (1280, 800))])  # fmt: skip
def test_the_window_fits_small_screens(qtbot: QtBot, language: str, scale: float, size: tuple[int, int]) -> None:
    keep_preferences(Preferences(language=language, text_scale=scale))
    app, _ = prepare_application([])
    use_language(app, language)
    try:
        window = MainWindow(PALETTES["day"])
        qtbot.addWidget(window, before_close_func=lambda w: w.session.start(w.session.job, w.session.assets))
        window.resize(*size)
        window.show()
        cup = with_item(floats_job(), lambda item: with_blank(item, Tapered(upper=380.0, lower=280.0, height=110.0)))
        for job in (demo_job(), cup, pennant_job()):
            window.session.start(job, demo_assets())
            qtbot.waitUntil(lambda: not window.session.is_busy, timeout=60_000)
            for station in window.trays:
                window.go_to(station)
                QApplication.processEvents()
                assert (window.width(), window.height()) == size, f"{station}: {window.minimumSizeHint()}"
                assert is_cut_off(window) == [], station
                for name in ("gaugeClean", "look_item", "zoomTrue", "designWidth"):
                    widget = window.findChild(QWidget, name)
                    assert widget.isVisible() and widget.height() > 15
                    assert window.rect().contains(widget.mapTo(window, widget.rect().bottomRight())), name
        window.show_start()
        QApplication.processEvents()
        assert (window.width(), window.height()) == size
        window.session.stop()
        window.table.stop()
    finally:
        keep_preferences(Preferences())
        use_language(app, "")
        use_palette(app, read_preferences())


def test_notices_names_and_prices_belong_to_the_job_that_is_open(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.window.tell("Something about the transom.")
    hand.window.session.start(new_job(), {})
    assert hand.notice() == "", "it was about another job"
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("cut")
    proposed: list[str] = []
    monkeypatch.setattr("PySide6.QtWidgets.QFileDialog.getSaveFileName", lambda *given, **_: (proposed.append(given[2]), ("", ""))[1])  # fmt: skip
    hand.click("saveCut")
    assert proposed == ["Transom of the Wandering Heron - Decal film, teal.svg"]
    cost = hand.window.trays[("cut")].cost_line
    assert "of the roll" in cost.text() and "costing" not in cost.text()
    dear = replace(DECAL_FILM, price=20.0, stock_width=300.0, stock_length=10_000.0)
    hand.window.session.workshop.keep(Stock(films=(StockFilm(film=dear),)))
    hand.settle()
    long = hand.window.session.insights.of(CUT)[0].plan
    assert f"costing {20.0 * long.width * long.height / 3e6:.2f}" in cost.text()


def test_the_window_comes_back_as_large_as_it_was(workroom: Workroom) -> None:
    window = workroom.windows[0]
    window.resize(1111, 733)
    QApplication.processEvents()
    window.session.start(new_job(), {})
    window.close()
    again = Workroom(QApplication.instance())
    made = again.open_window()
    try:
        assert (made.width(), made.height()) == (1111, 733)
        assert preferences.kept_window_place() is not None
    finally:
        made.session.start(Job(name="x", items=new_job().items), {})
        made.close()
        again.stop()
