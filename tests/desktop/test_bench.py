"""The table, the fields, the strip, remedies and the thread behind them."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QColor, QDropEvent
from pytestqt.qtbot import QtBot

from tests.desktop.conftest import Hand
from tests.desktop.looks import HERON, colour_at, lettered
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.edits.remedies import REMEDY_WORDS
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.inspect.findings import MATTERS
from vivid_thimble.core.job.edits import scaled_design, with_element, with_item
from vivid_thimble.core.steps import Thicken
from vivid_thimble.desktop.look.marks import KIND_SHAPES
from vivid_thimble.desktop.session.background import Worker
from vivid_thimble.desktop.session.evaluator import Evaluator
from vivid_thimble.desktop.widgets.number_field import FigureField, NumberField
from vivid_thimble.desktop.widgets.size_strip import readings


@pytest.fixture
def demo(hand: Hand) -> Hand:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    return hand


def test_the_three_looks_show_film_lines_and_waste(demo: Hand) -> None:
    result = demo.window.session.result
    moon = next(p for p in result.layers[0].inspection.kept if p.area > 2000)
    film = QColor(result.layers[0].layer.film.colour).name()
    demo.click("look_finished")
    assert colour_at(demo, *moon.at) == film
    corner = (result.bounds[0] - 3.0, result.bounds[1] + 20.0)
    bare = colour_at(demo, *corner)
    demo.click("look_cut")
    assert colour_at(demo, *moon.at) != film
    demo.click("look_waste")
    assert colour_at(demo, *moon.at) not in (film, bare)
    assert colour_at(demo, *corner) != bare


def test_zooming_keeps_the_point_under_the_pointer(demo: Hand) -> None:
    table = demo.window.table
    pointer = QPointF(300, 250)
    before = table.to_item(pointer)
    for factor in (2.0, 1.7, 0.3):
        table.zoom_by(factor, pointer)
        assert table.to_item(pointer) == pytest.approx(before)
    for _ in range(60):
        table.zoom_by(10.0)
    assert table.px_per_mm <= 400
    for _ in range(60):
        table.zoom_by(0.1)
    assert table.px_per_mm > 0.01
    demo.click("zoomFit")
    for x, y in ((0, 0), (620, 140)):
        assert table.rect().contains(table.to_widget(x, y).toPoint())
    demo.click("zoomTrue")
    assert table.px_per_mm == pytest.approx(table.screen().physicalDotsPerInch() / 25.4)


def test_the_whole_item_stays_in_view_when_the_window_is_resized(demo: Hand) -> None:
    demo.window.resize(1500, 900)
    demo.settle()
    table = demo.window.table
    for x, y in ((0, 0), (620, 140)):
        assert table.rect().contains(table.to_widget(x, y).toPoint())


def test_space_and_drag_pans_and_moves_nothing(demo: Hand) -> None:
    table, job = demo.window.table, demo.window.session.job
    before = table.to_widget(0, 0)
    table.setFocus()
    demo.bot.keyPress(table, Qt.Key.Key_Space)
    demo.bot.mousePress(table, Qt.MouseButton.LeftButton, pos=QPoint(400, 300))
    demo.bot.mouseMove(table, QPoint(440, 330))
    demo.bot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=QPoint(440, 330))
    demo.bot.keyRelease(table, Qt.Key.Key_Space)
    demo.settle()
    assert (table.to_widget(0, 0) - before).x() == pytest.approx(40, abs=1)
    assert demo.window.session.job is job


def test_a_tag_on_the_table_opens_its_finding(demo: Hand) -> None:
    table = demo.window.table
    place = table.marks.place(1).toPoint()
    demo.bot.mouseClick(table, Qt.MouseButton.LeftButton, pos=place)
    demo.settle()
    assert demo.window.work_path.buttons["inspect"].isChecked()
    held = demo.window.session.result.findings[demo.window.trays.inspect.findings.current]
    assert held == table.findings[1]


def test_next_and_previous_walk_round(demo: Hand) -> None:
    demo.go_to("inspect")
    count = demo.window.trays.inspect.list.count()
    assert count == len(demo.window.session.result.findings)
    for _ in range(count + 1):
        demo.keys(Qt.Key.Key_F8)
    assert demo.window.trays.inspect.list.currentRow() == 0
    demo.keys(Qt.Key.Key_F8, Qt.KeyboardModifier.ShiftModifier)
    assert demo.window.trays.inspect.list.currentRow() == count - 1


def test_a_fine_gauge_shows_where_its_figure_was_measured(demo: Hand) -> None:
    demo.window.session.change("small", with_item(demo.window.session.job, lambda item: item))
    job = with_element(
        demo_job(), "words-1", lambda e: replace(e, source=replace(e.source, face="bundled:League Spartan"))
    )
    demo.window.session.start(
        replace(
            job,
            items=(replace(job.item, layers=(replace(job.item.layers[0], elements=job.item.layers[0].elements[:1]),)),),
        ),
        {},
    )
    demo.settle()
    assert demo.gauge("line")[1] == "fine"
    demo.click("gaugeLine")
    spot = demo.window.table._spot
    assert spot is not None
    assert spot.width == pytest.approx(demo.window.session.result.layers[0].inspection.thinnest_line)


def test_dropped_files_join_the_design(hand: Hand) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(HERON))])
    event = QDropEvent(
        QPointF(10, 10), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    hand.window.dropEvent(event)
    hand.settle()
    assert [e.name for e in hand.window.session.job.item.layers[0].elements] == [HERON.name]


def test_shape_fields_size_and_place_an_element(demo: Hand) -> None:
    demo.go_to("shape")
    demo.type_into("elementWidth", "300")
    result = demo.window.session.result
    boxes = [p.region.bounds for p in result.layers[0].elements[0].parts]
    assert max(b[2] for b in boxes) - min(b[0] for b in boxes) == pytest.approx(300, abs=1.5)
    demo.type_into("marginLeft", "2 in")
    assert demo.window.session.result.margins[0] == pytest.approx(50.8, abs=0.01)
    demo.click("centreAcross")
    left, right, _, _ = demo.window.session.result.margins
    assert left == pytest.approx(right, abs=0.01)
    demo.type_into("turn", "15")
    assert demo.window.session.job.item.layers[0].elements[0].placement.turn_deg == 15
    demo.type_into("spacing", "2,5")
    assert demo.window.session.job.item.layers[0].elements[0].source.spacing == pytest.approx(0.025)
    demo.type_into("spacing", "900")
    assert demo.find("spacing").property("wrong")


def test_steps_are_switched_changed_and_removed(demo: Hand) -> None:
    demo.add_step("Thicken")
    demo.type_into("by_thicken-1", "0.5")
    element = demo.window.session.job.item.layers[0].elements[0]
    assert element.steps[-1] == Thicken(id="thicken-1", by=0.5)
    demo.click("step_thicken-1")
    assert not demo.window.session.job.item.layers[0].elements[0].steps[-1].enabled
    demo.click("remove_thicken-1")
    assert [s.id for s in demo.window.session.job.item.layers[0].elements[0].steps] == ["join-1", "weld-1"]


def test_a_number_field_keeps_its_length_through_units(qtbot: QtBot) -> None:
    field = NumberField("Width", "w")
    qtbot.addWidget(field)
    field.set_value(114.3)
    texts = []
    for unit in ("mm", "cm", "in", "in/16"):
        field.set_unit(unit)
        texts.append(field.edit.text())
    assert texts == ["114.3 mm", "11.43 cm", "4.5 in", "4 1/2 in"]
    heard = []
    field.committed.connect(heard.append)
    field.edit.setText("4 1/2")
    field.edit.setModified(True)
    field.commit()
    assert heard == []
    field.edit.setText("5 in")
    field.edit.setModified(True)
    field.commit()
    assert heard == [pytest.approx(127.0)]


def test_a_figure_field_takes_its_word_and_refuses_the_rest(qtbot: QtBot) -> None:
    field = FigureField("Turn", "t", "°", -360, 360)
    qtbot.addWidget(field)
    field.set_value(0.0)
    heard = []
    field.committed.connect(heard.append)
    for text, wrong in (("12,5°", False), ("-30", False), ("361", True), ("x", True), ("", True)):
        field.edit.setText(text)
        field.edit.setModified(True)
        field.commit()
        assert field.is_wrong() is wrong
    assert heard == [12.5, -30.0]


def test_every_kind_of_finding_has_its_shape_word_and_known_remedies() -> None:
    assert set(KIND_SHAPES) <= set(MATTERS)
    assert {kind for kind, matter in MATTERS.items() if not matter.is_note} - set(KIND_SHAPES) <= {
        "does-not-fit",
        "beyond-carrier",
    }, "all others are known by their outline"
    assert {name for matter in MATTERS.values() for name in matter.remedies} <= set(REMEDY_WORDS)


def test_gauges_speak_in_the_users_unit_and_are_silent_without_a_design() -> None:
    result = evaluate(demo_job(), demo_assets(), Cache())
    mm, inches = readings(result, "mm"), readings(result, "in")
    assert mm["line"].figure.endswith(" mm")
    assert inches["line"].figure.endswith(" in")
    assert float(inches["line"].figure.split()[0]) * 25.4 == pytest.approx(
        float(mm["line"].figure.split()[0]), abs=0.02
    )
    empty = evaluate(
        replace(
            demo_job(), items=(replace(demo_job().item, layers=(replace(demo_job().item.layers[0], elements=()),)),)
        ),
        {},
        Cache(),
    )
    assert {reading.verdict for reading in readings(empty, "mm").values()} == {"none"}


def test_a_computation_that_fails_leaves_the_window_alive(
    hand: Hand, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    import vivid_thimble.core.evaluate.recipe as recipe

    lettered(hand)
    result = hand.window.session.result
    with monkeypatch.context() as broken, caplog.at_level(logging.CRITICAL):
        broken.setattr(recipe, "evaluate", lambda *_: 1 // 0)
        hand.window.session.change("Size", scaled_design(hand.window.session.job, 0.9))
        hand.settle()
        caplog.clear()
    assert "could not be computed" in hand.notice()
    assert hand.window.session.result is result
    hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.type_into("designWidth", "300")
    assert hand.window.session.result.size[0] == pytest.approx(300, abs=0.01)


def test_the_thread_ends_even_with_work_waiting(qtbot: QtBot) -> None:
    """By itself, at its next pause; nothing waits for it, and nothing that waits is begun."""
    before = set(Worker._at_work)
    evaluator = Evaluator(Cache())
    answers: list[object] = []
    evaluator.answered.connect(answers.append)
    for k in range(5):
        evaluator.ask(scaled_design(demo_job(), 1 + k / 50), demo_assets())
    (thread,) = Worker._at_work - before
    assert thread.isRunning()
    evaluator.stop()
    qtbot.waitUntil(lambda: not thread.isRunning(), timeout=10_000)
    qtbot.waitUntil(lambda: thread not in Worker._at_work, timeout=10_000)
    assert answers == []


def test_a_loose_font_changes_the_face(hand: Hand, pick_file: Callable[[FilePath], None]) -> None:
    from tests.letters import FONTS

    lettered(hand)
    hand.go_to("gather")
    pick_file(FilePath(str(FONTS / "CourierPrime-Bold.otf")))
    hand.choose("face", "A font file")
    assert hand.window.session.job.item.layers[0].elements[0].source.face.endswith("CourierPrime-Bold.otf")
    assert hand.window.session.result.size[0] == pytest.approx(560, abs=0.01)


def test_full_screen_table_hides_the_rest_and_brings_it_back(demo: Hand) -> None:
    demo.keys(Qt.Key.Key_F11)
    assert not demo.window.trays.isVisible()
    assert not demo.window.work_path.isVisible()
    demo.keys(Qt.Key.Key_F11)
    assert demo.window.trays.isVisible()


def test_a_typed_size_survives_a_newer_edit_and_is_one_step_of_undo(demo: Hand) -> None:
    session = demo.window.session
    first = session.job
    session.size_design(0, 300.0)
    session.change("Item name", with_item(session.job, lambda item: replace(item, name="Bow")))
    demo.settle()
    assert session.result.size[0] == pytest.approx(300, abs=0.01)
    assert session.job.item.name == "Bow"
    assert session.undo_name() == "Item name", "edits stand in the order in which they were made"
    session.undo()
    assert session.undo_name() == "Size of the design"
    session.undo()
    demo.settle()
    assert session.job == first
    assert session.result.size[0] == pytest.approx(581.5, abs=0.1)


def test_edits_hold_in_the_order_in_which_they_were_made(demo: Hand) -> None:
    """A width of 500, and at once capitals of 20 mm: the capitals are 20 and the width follows."""
    session = demo.window.session
    words = session.chosen
    session.size_design(0, 500.0)
    session.change("Capitals", with_element(session.job, words, lambda e: replace(e, placement=e.placement.sized(capital=20.0))))  # fmt: skip
    demo.settle()
    assert session.result.element(words).heights.capital == pytest.approx(20.0)
    session.size_design(0, 500.0)
    demo.settle()
    assert session.result.size[0] == pytest.approx(500.0, abs=0.002), "and the other way round"


def test_an_undo_takes_back_a_size_that_is_still_being_worked_out(demo: Hand) -> None:
    session = demo.window.session
    session.change("Item name", with_item(session.job, lambda item: replace(item, name="Bow")))
    demo.settle()
    named = session.job
    session.size_design(1, 60.0)
    session.undo()
    demo.settle()
    assert session.job == named
    assert session.result.size[1] == pytest.approx(116, abs=0.01)
