"""Sets of names, monograms, letter grids, ties and single letters, by hand."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath

import pytest
import shapely
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QListWidget, QPlainTextEdit, QPushButton, QWidget

from tests.desktop.conftest import Hand
from tests.desktop.looks import lettered
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Item, replace
from vivid_thimble.core.sources.letter_grid import fill_grid
from vivid_thimble.core.steps import Tie
from vivid_thimble.desktop.dialogs.set_dialog import SetDialog

CREW = "Bramble\nWren\nOtterly\nMoss\nJuniper\nHeron\nTansy\nGulliver"


class OpenSet:
    """The set's window as a user finds it."""

    def __init__(self, hand: Hand) -> None:
        hand.go_to("gather")
        hand.click("openSet")
        self.hand = hand
        self.dialog = hand.window.findChildren(SetDialog)[-1]

    def part(self, kind: type[QWidget], name: str) -> QWidget:
        found = self.dialog.findChild(kind, name)
        assert found is not None
        return found

    def click(self, name: str) -> None:
        self.hand.bot.mouseClick(self.part(QPushButton, name), Qt.MouseButton.LeftButton)
        self.wait()

    def wait(self) -> None:
        self.hand.settle()
        self.hand.bot.waitUntil(lambda: not self.dialog.is_reckoning, timeout=60_000)
        QApplication.processEvents()

    def type_names(self, text: str) -> None:
        edit = self.part(QPlainTextEdit, "setNames")
        edit.setFocus()
        self.hand.bot.keyClick(edit, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        edit.insertPlainText(text)  # as pasted

    def rows(self) -> list[str]:
        listed = self.part(QListWidget, "setMembers")
        assert isinstance(listed, QListWidget)
        return [listed.item(k).text() for k in range(listed.count())]

    def summary(self) -> str:
        label = self.part(QLabel, "setSummary")
        assert isinstance(label, QLabel)
        return label.text()


def on_a_float(hand: Hand) -> None:
    lettered(hand)
    session = hand.window.session

    def floated(item: Item) -> Item:
        return replace(item, width=120.0, height=60.0, name="Glass float")

    session.change("Item", with_item(session.job, floated))
    hand.settle()


def test_eight_names_on_glass_floats_share_size_then_width(hand: Hand) -> None:
    on_a_float(hand)
    opened = OpenSet(hand)
    assert "No set yet" in opened.summary()
    opened.type_names(CREW)
    opened.click("makeSet")
    assert hand.window.session.undo_name() == "A set of names"
    assert "8 words with capitals" in opened.summary()
    assert "decides" in opened.summary()
    rows = opened.rows()
    assert len(rows) == 8
    assert sum("◂ decides" in row for row in rows) == 1
    assert all("…" not in row for row in rows), "every item was inspected"
    listed = opened.part(QListWidget, "setMembers")
    listed.setCurrentRow(4)
    opened.wait()
    assert hand.window.strip.item_name.text() == "Juniper"
    assert hand.find("itemCount").text() == "5 of 8"
    size = hand.window.session.result.size
    assert rows[4].split(":  ")[1].startswith(f"{size[0]:.2f}".rstrip("0").rstrip("."))
    match = opened.part(QComboBox, "setMatch")
    match.setCurrentIndex(match.findData("width"))
    opened.click("makeSet")
    widths = {row.split(":  ")[1].split(" ×")[0] for row in opened.rows()}
    assert len(widths) == 1
    assert f"8 words {next(iter(widths))}" in opened.summary()
    hand.click("nextItem")
    assert hand.find("itemCount").text() == "6 of 8"
    assert hand.window.session.undo_name() == "A set of names", "walking through the items is no edit"
    hand.window.session.undo()
    hand.window.session.undo()
    opened.wait()
    assert len(hand.window.session.job.items) == 1


def test_names_come_from_a_table_and_a_bad_file_is_told(
    hand: Hand, tmp_path: FilePath, pick_file: Callable[[FilePath], None]
) -> None:
    on_a_float(hand)
    opened = OpenSet(hand)
    crew = tmp_path / "crew.csv"
    crew.write_text("boat,name\n1,Teal\n2,Sedge\n")
    pick_file(crew)
    opened.click("setNamesFile")
    names = opened.part(QPlainTextEdit, "setNames").toPlainText().splitlines()
    assert names[1:] == ["Teal", "Sedge"]
    (tmp_path / "none.csv").write_text("")
    pick_file(tmp_path / "none.csv")
    opened.click("setNamesFile")
    assert "holds no names" in opened.dialog.trouble.text()
    opened.type_names("")
    opened.click("makeSet")
    assert "needs names" in opened.dialog.trouble.text()


def test_escape_ends_a_set_that_is_still_worked_out_and_the_window_goes_on(hand: Hand) -> None:
    on_a_float(hand)
    opened = OpenSet(hand)
    opened.type_names(CREW)
    hand.bot.mouseClick(opened.part(QPushButton, "makeSet"), Qt.MouseButton.LeftButton)
    reckoner = opened.dialog._reckoner
    hand.bot.keyClick(opened.dialog, Qt.Key.Key_Escape)
    assert reckoner is not None
    hand.bot.waitUntil(lambda: not reckoner.isRunning(), timeout=20_000)
    hand.settle()
    hand.click("nextItem")
    assert hand.find("itemCount").text() == "2 of 8"


def test_a_word_that_gets_a_size_of_its_own_leaves_its_set(hand: Hand) -> None:
    on_a_float(hand)
    opened = OpenSet(hand)
    opened.type_names("Wren\nMoss")
    opened.click("makeSet")
    opened.click("closeSet")
    hand.go_to("shape")
    hand.type_into("elementWidth", "30")
    assert hand.window.session.result.size[0] == pytest.approx(30.0, abs=0.5)
    hand.go_to("gather")
    assert hand.find("openSet").text() == "A set of names…"
    hand.click("nextItem")
    assert hand.window.session.chosen != ""
    assert hand.find("openSet").text() == "The set of 1 names…"


def test_a_monogram_is_composed_by_hand(hand: Hand) -> None:
    hand.go_to("gather")
    hand.click("addMonogram")
    assert hand.window.session.result.size is not None
    hand.type_into("initials", "MOB")
    assert "Upright strokes" in hand.window.trays.gather.in_hand.strokes.text()
    pieces = len(hand.window.session.result.layers[0].inspection.kept)
    assert pieces == 4
    hand.choose("monogramFrame", "shield")
    hand.choose("monogramBorder", "band")
    hand.click("monogramWelded")
    assert len(hand.window.session.result.layers[0].inspection.kept) == 1
    hand.choose("face", "Courier Prime")
    assert hand.window.session.job.item.layers[0].elements[0].source.face == "bundled:Courier Prime"
    hand.type_into("initials", "MOBX")
    assert "two or three initials" in hand.window.trays.gather.trouble.text()
    assert hand.window.session.result.bounds is None


def test_a_letter_grid_hides_names_and_its_answers_are_cut_from_a_second_film(
    hand: Hand, tmp_path: FilePath, pick_file: Callable[[FilePath], None]
) -> None:
    hand.go_to("gather")
    hand.click("addGrid")
    hand.type_into("gridColumns", "15")
    hand.click("grid_diagonal")
    names = hand.find("gridNames")
    names.setFocus()
    hand.bot.keyClick(names, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    hand.bot.keyClicks(names, "Moth and Ember")
    hand.settle()
    before = hand.window.session.job.item.layers[0].elements[0].source
    hand.click("gridShuffle")
    after = hand.window.session.job.item.layers[0].elements[0].source
    assert fill_grid(before).rows != fill_grid(after).rows
    hand.click("gridBands")
    result = hand.window.session.result
    assert [layer.layer.elements[0].name for layer in result.layers] == ["Letter grid", "Answers"]
    assert len(result.layers[1].design.polygons.geoms) == 1
    hand.go_to("measure")
    colours = [layer.film.colour for layer in hand.window.session.job.item.layers]
    hand.choose("film", "glitter")
    hand.choose("method", "Heat film")
    films = [layer.film for layer in hand.window.session.job.item.layers]
    assert films[1].colour == colours[1] != films[0].colour
    hand.go_to("cut")
    hand.choose("cutFilm", "(2)")
    path = tmp_path / "answers.svg"
    pick_file(path)
    hand.click("saveCut")
    assert path.read_text().count("<path") == 1
    hand.go_to("gather")
    hand.type_into("gridColumns", "4")
    assert "12 letters and the grid room for" in hand.window.trays.gather.trouble.text()
    hand.type_into("gridColumns", "14")
    hand.click("removeElement")
    assert len(hand.window.session.job.item.layers) == 1


def test_loose_dots_and_open_pairs_are_tied_in_the_window(hand: Hand) -> None:
    lettered(hand)
    hand.add_step("Join")
    rows = hand.find("joins")
    assert rows.item(0).text() == "i:  its dot is a piece of its own"
    pieces = len(hand.window.session.result.layers[0].design.polygons.geoms)
    rows.setCurrentRow(0)
    hand.settle()
    hand.click("tieThis")
    assert len(hand.window.session.result.layers[0].design.polygons.geoms) == pieces - 1
    assert not any("piece of its own" in rows.item(k).text() for k in range(rows.count()))
    assert not hand.find("tieAll").isEnabled()
    steps = hand.window.session.job.item.layers[0].elements[0].steps
    assert isinstance(steps[-1], Tie)
    hand.window.session.undo()
    hand.settle()
    assert hand.find("tieAll").isEnabled()


def test_one_letter_takes_another_form_and_words_fit_a_strip(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("gather")
    hand.choose("face", "League Spartan")
    words = hand.window.session.job.item.layers[0].elements[0].source.text
    at = words.index("a")
    hand.choose("letter", f"a  ({len([c for c in words[:at] if not c.isspace()]) + 1})")
    usual = hand.window.session.result.layers[0].design.polygons
    form = hand.find("letterForm")
    assert isinstance(form, QComboBox)
    assert form.count() > 1
    hand.choose("letterForm", form.itemText(1))
    other = hand.window.session.result.layers[0].design.polygons
    assert shapely.symmetric_difference(usual, other).area > 1.0
    assert hand.window.session.undo_name() == "Form of a"
    hand.go_to("shape")
    hand.type_into("stripHeight", "30")
    heights = hand.window.session.result.layers[0].elements[0].heights
    assert heights.strip == pytest.approx(30.0)
    assert "Small letters" in hand.window.trays["shape"].place.heights_line.text()


def test_items_are_added_and_taken_out(hand: Hand) -> None:
    on_a_float(hand)
    hand.go_to("measure")
    assert not hand.find("removeItem").isEnabled()
    hand.click("anotherItem")
    hand.type_into("itemWidth", "200")
    assert hand.find("itemCount").text() == "2 of 2"
    assert [item.width for item in hand.window.session.job.items] == [120.0, 200.0]
    ids = [e.id for item in hand.window.session.job.items for layer in item.layers for e in layer.elements]
    assert len(set(ids)) == 2
    hand.click("removeItem")
    assert len(hand.window.session.job.items) == 1
    hand.window.session.undo()
    hand.settle()
    assert hand.find("itemCount").text() == "2 of 2"
