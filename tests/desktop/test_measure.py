"""Measure in full: kinds of things, margins in words, what fits, things that are kept; materials and machines."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QApplication, QComboBox, QDialog, QLabel, QLineEdit, QListWidget, QPushButton

from tests.desktop.conftest import Hand
from tests.desktop.looks import shown
from vivid_thimble.core.blanks.kinds import Ball, Cylinder, Tapered
from vivid_thimble.core.demo.jobs import floats_job
from vivid_thimble.core.storage.stock import Stock
from vivid_thimble.desktop.dialogs.photo_dialog import PhotoDialog
from vivid_thimble.desktop.dialogs.stock_dialog import StockDialog


@pytest.fixture
def floats(hand: Hand) -> Hand:
    hand.window.session.workshop.keep(Stock())
    hand.window.session.start(floats_job(), {})
    hand.settle()
    hand.go_to("measure")
    return hand


def dialog_of(kind: type[QDialog]) -> QDialog:
    return next(one for one in QApplication.topLevelWidgets() if isinstance(one, kind) and one.isVisible())


def inside(dialog: QDialog, kind: type, name: str) -> object:
    found = dialog.findChild(kind, name)
    assert found is not None, f"nothing is called {name}"
    return found


def test_a_cup_is_measured_by_its_girths_and_the_design_bends(floats: Hand) -> None:
    floats.choose("itemKind", "Tapered cup")
    floats.type_into("blank_upper", "42 cm")
    floats.type_into("blank_lower", "280")
    floats.type_into("blank_height", "120")
    floats.choose("itemShown", "seen part")
    item = floats.window.session.job.item
    assert isinstance(item.blank, Tapered) and (item.blank.upper, item.blank.lower) == (420.0, 280.0)
    assert "115" in floats.find("roomLine").text()
    table = floats.window.table
    result = floats.window.session.result
    assert result.layers[0].bend is not None
    middle, edge = table.place(item.width / 2.0, 0.0), table.place(0.0, 0.0)
    assert edge.y() > middle.y() + 5, "the upper edge is shown as an arc"
    assert table.level_at(table.place(20.0, 30.0)) == pytest.approx((20.0, 30.0))
    floats.type_into("blank_rim", "130")
    assert "No room is left" in floats.notice()
    assert item.blank == floats.window.session.job.item.blank


def test_rulers_and_pointer_begin_at_the_true_edge_of_the_thing(floats: Hand) -> None:
    floats.choose("itemKind", "Flat panel")
    floats.type_into("blank_edge", "25")
    table, item = floats.window.table, floats.window.session.job.item
    assert table.edges_corner == (-25.0, -25.0) and item.width == 250.0
    corner = table.to_widget(-25.0, -25.0).toPoint()
    table.tell_place(table.to_widget(-25.0, -25.0))
    assert floats.window.place_label.text().startswith("0 mm from the left, 0 mm from the top")
    assert "300 × 200" in floats.find("stripItemName").parentWidget().findChildren(QLabel)[1].text()
    picture = shown(floats)
    dark = [min(picture.pixelColor(corner.x() + dx, y).lightness() for dx in (-1, 0, 1)) for y in (16, 21)]
    assert max(dark) < 200, "a long mark stands at the edge"


def test_a_ball_follows_its_girth_or_its_front_and_tells_where_film_creases(floats: Hand) -> None:
    floats.choose("itemKind", "Ball")
    floats.type_into("blank_front", "110")
    blank = floats.window.session.job.item.blank
    assert isinstance(blank, Ball) and blank.girth == 220.0
    assert floats.find("blank_girth").text() == "220 mm"
    floats.click("measure_margins")
    assert "crease" in floats.find("fitLine").text() or "decides" in floats.find("fitLine").text()
    floats.type_into("fitRoom", "0")
    floats.click("makeFit")
    result = floats.window.session.result
    assert blank.surplus(*result.size) <= 0.0301
    floats.type_into("designWidth", "70")
    assert any("creases" in f.sentence for f in floats.window.session.result.findings)
    assert floats.window.session.result.snips


def test_the_thing_is_seen_wrapped_in_its_own_colour(floats: Hand) -> None:
    floats.choose("itemKind", "Bottle")
    assert isinstance(floats.window.session.job.item.blank, Cylinder)
    floats.window.trays.measure.item._change("Colour of the item", colour="#40a060")
    floats.settle()
    floats.click("look_item")
    floats.settle()
    picture = shown(floats)
    table, item = floats.window.table, floats.window.session.job.item
    top = table.to_widget(item.width / 2.0, 2.0).toPoint()
    green = picture.pixelColor(top)
    assert green.green() > green.red() + 40 and green.green() > green.blue() + 20
    film = QColor(item.layers[0].film.colour)
    letter = floats.window.session.result.layers[0].kept.polygons.representative_point()
    assert picture.pixelColor(table.to_widget(letter.x, letter.y).toPoint()).name() == film.name()
    floats.click("itemPlain")
    assert floats.window.session.job.item.colour == ""


def test_a_photo_lies_behind_the_design_where_the_room_was_marked(
    floats: Hand, tmp_path: FilePath, pick_file: Callable[[FilePath], None]
) -> None:
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(QColor("#884422"))
    image.save(str(tmp_path / "float.png"))
    pick_file(tmp_path / "float.png")
    floats.click("itemPhoto")
    dialog = dialog_of(PhotoDialog)
    assert isinstance(dialog, PhotoDialog)
    dialog.frame.setFocus()
    before = dialog.frame.room
    floats.bot.keyClick(dialog.frame, Qt.Key.Key_Left)
    assert dialog.frame.room[0] == pytest.approx(before[0] - 0.005)
    floats.bot.mouseClick(inside(dialog, QPushButton, "photoUse"), Qt.MouseButton.LeftButton)
    floats.settle()
    assert floats.window.session.job.item.photo is not None
    floats.bot.waitUntil(lambda: floats.window.table.on_item.photo is not None, timeout=10_000)
    floats.settle()
    assert shown(floats).pixelColor(floats.window.table.to_widget(3.0, 3.0).toPoint()).name() == "#884422"
    floats.window.session.undo()
    floats.settle()
    assert floats.window.table.on_item.photo is None


def test_margins_are_typed_or_said(floats: Hand) -> None:
    floats.click("measure_margins")
    floats.type_into("margin_left", "1/2 in")
    assert floats.window.session.result.margins[0] == pytest.approx(12.7)
    floats.type_into("margin_right", "5")
    assert floats.window.session.result.margins[1] == pytest.approx(5.0)
    floats.type_into("marginPhrase", "2 cm left and right, centred")
    left, right, top, bottom = floats.window.session.result.margins
    assert (left, right) == pytest.approx((20.0, 20.0), abs=0.02) and top == pytest.approx(bottom, abs=0.02)
    floats.type_into("marginPhrase", "somewhere nice")
    phrase = floats.find("marginPhrase")
    assert isinstance(phrase, QLineEdit) and phrase.text() == "somewhere nice", "wrong words stay to be mended"
    floats.type_into("fitRoom", "4")
    floats.click("makeFit")
    assert min(floats.window.session.result.margins) == pytest.approx(4.0, abs=0.05)


def test_a_thing_is_kept_taken_again_and_forgotten(floats: Hand) -> None:
    floats.choose("itemKind", "Bottle")
    floats.type_into("itemName", "Green bottle")
    floats.click("keepThing")
    box = floats.find("things")
    assert isinstance(box, QComboBox) and box.currentText() == "Green bottle"
    floats.choose("itemKind", "Plain rectangle")
    assert box.currentText() == "None of them"
    floats.choose("things", "Green bottle")
    assert isinstance(floats.window.session.job.item.blank, Cylinder)
    session = floats.window.session
    session.start(session.job, session.assets)  # as if it were saved
    menu = floats.window.menuBar().actions()[0].menu()
    entry = next(a.menu() for a in menu.actions() if a.menu() is not None and "from" in a.text().replace("&", ""))
    entry.aboutToShow.emit()
    next(a for a in entry.actions() if a.text() == "Green bottle").trigger()
    floats.settle()
    job = floats.window.session.job
    assert job.name == "Green bottle" and not job.item.layers[0].elements and isinstance(job.item.blank, Cylinder)
    floats.click("forgetThing")
    assert not floats.window.session.workshop.stock.things


def test_materials_are_changed_added_and_exchanged(
    floats: Hand, tmp_path: FilePath, pick_file: Callable[[FilePath], None]
) -> None:
    floats.click("measure_film")
    floats.click("openStock")
    dialog = dialog_of(StockDialog)
    assert isinstance(dialog, StockDialog)

    def press(name: str) -> None:
        floats.bot.mouseClick(inside(dialog, QPushButton, name), Qt.MouseButton.LeftButton)
        QApplication.processEvents()

    def type_in(name: str, text: str) -> None:
        edit = inside(dialog, QLineEdit, name)
        assert isinstance(edit, QLineEdit)
        edit.setFocus()
        floats.bot.keyClick(edit, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        floats.bot.keyClicks(edit, text)
        floats.bot.keyClick(edit, Qt.Key.Key_Return)
        QApplication.processEvents()

    type_in("stock_film_thinnest_line", "0,95")
    assert "· yours" in dialog.list.item(0).text()
    press("stockCopy")
    type_in("stock_film_name", "Silver film")
    methods = inside(dialog, QListWidget, "stock_methods")
    assert isinstance(methods, QListWidget)
    methods.item(1).setCheckState(Qt.CheckState.Checked)
    film = floats.window.session.workshop.stock.entry("films", "Silver film")
    assert film.film.thinnest_line == 0.95 and film.methods == ("decal", "film-stencil")
    type_in("stock_film_name", "Heat film")
    assert "already an entry" in dialog.told.text()
    pick_file(tmp_path / "mine.json")
    press("stockExport")
    press("stockRemove")
    assert floats.window.session.workshop.stock.entry("films", "Silver film") is None
    press("stockImport")
    assert floats.window.session.workshop.stock.entry("films", "Silver film") == film
    (tmp_path / "mine.json").write_text("{}")
    press("stockImport")
    assert "no list of materials" in dialog.told.text()
    dialog.turn_to("films")
    dialog.list.setCurrentRow(0)
    press("stockBack")
    assert dialog.workshop.stock.films[0].film.thinnest_line == 0.8
    for shelf in ("carriers", "machines", "inks", "things"):
        press(f"shelf_{shelf}")
        assert dialog.list.count() or shelf == "things"
    dialog.close()
    floats.choose("film", "Silver film")
    assert floats.window.session.job.item.layers[0].film == film.film
    floats.go_to("cut")
    floats.choose("carrier", "Long mat")
    assert floats.window.session.job.carrier.cuttable_height == 597.0
    own = floats.window.session.workshop.own
    priced = replace(film, film=replace(film.film, price=20.0, stock_width=300.0, stock_length=1000.0))
    floats.window.session.workshop.keep(own.with_entry("films", priced))
    floats.choose("film", "Silver film")
    floats.go_to("cut")
    told = floats.find("costLine").text()
    area = float(told.split(" cm²")[0].split()[-1])
    assert float(told.rstrip(".").split()[-1]) == pytest.approx(20.0 * area * 100.0 / 300_000.0, abs=0.02)
