"""From a measured transom to a cut file, by clicking and typing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QListWidget, QPlainTextEdit, QWidget

from tests.desktop.conftest import Hand
from tests.desktop.looks import HERON, lettered
from vivid_thimble.core.demo.jobs import DRAWING
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.desktop.table.arranging import SNAP_PX


def test_the_whole_way_to_the_cut_file(hand: Hand, pick_file: Callable[[FilePath], None], tmp_path: FilePath) -> None:
    lettered(hand)
    session = hand.window.session
    assert (session.job.item.width, session.job.item.height) == (620, 140)
    assert session.result.size[0] == pytest.approx(560, abs=0.01)
    assert session.result.margins[0] == pytest.approx(30, abs=0.01)
    line, gap = hand.gauge("line"), hand.gauge("gap")
    assert line[1] == "fine"
    assert hand.gauge("loose")[1] == "stop"
    assert "overlapping-cuts" in hand.kinds()

    hand.add_step("Weld")
    assert "overlapping-cuts" not in hand.kinds()
    assert hand.gauge("loose")[1] == "fine"
    assert hand.gauge("line") == line
    assert hand.gauge("gap") == gap

    for width in (280, 140, 70):
        assert hand.gauge("line")[1] != "stop"
        hand.type_into("designWidth", str(width))
        assert session.result.size[0] == pytest.approx(width, abs=0.01)
    assert hand.gauge("line")[1] == "stop"
    assert "thin-line" in hand.kinds() or "thin-neck" in hand.kinds()
    for _ in range(3):
        hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.gauge("line") == line
    assert session.redo_name() == "Size of the design"

    hand.go_to("cut")
    hand.choose("carrier", "Roll")
    pick_file(tmp_path / "transom.svg")
    hand.click("saveCut")
    written = film_region(read_svg((tmp_path / "transom.svg").read_bytes()), Affine())
    assert written.area == pytest.approx(session.result.layers[0].kept.area, abs=1.0)

    pick_file(tmp_path / "transom.thimble")
    hand.keys(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert session.is_saved
    before = {name: hand.gauge(name) for name in hand.window.strip.gauges}
    findings = session.result.findings
    hand.keys(Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    assert session.result.bounds is None
    pick_file(tmp_path / "transom.thimble")
    hand.keys(Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    assert {name: hand.gauge(name) for name in hand.window.strip.gauges} == before
    assert session.result.findings == findings


def test_changing_the_words_after_the_weld_welds_again(hand: Hand) -> None:
    lettered(hand)
    hand.add_step("Weld")
    hand.go_to("gather")
    hand.type_into("wordsText", "Second Supper")
    assert len(hand.window.session.result.layers[0].parts) == 1
    assert "overlapping-cuts" not in hand.kinds()
    hand.type_into("designWidth", "280")
    assert [s.TITLE for s in hand.window.session.job.item.layers[0].elements[0].steps] == ["Weld"]


def test_a_gauge_walks_through_its_places_on_the_table(hand: Hand) -> None:
    lettered(hand)
    hand.type_into("designWidth", "40")
    wanted = [f for f in hand.window.session.result.findings if f.kind == "thin-gap"]
    assert len(wanted) >= 2
    seen = []
    for _ in wanted:
        hand.click("gaugeGap")
        held = hand.window.table.findings[hand.window.table.held_finding]
        seen.append(held)
        centre = hand.window.table.to_widget(*held.at)
        assert abs(centre.x() - hand.window.table.width() / 2) < 20
        assert abs(centre.y() - hand.window.table.height() / 2) < 20
    assert seen == wanted


def test_a_remedy_is_applied_and_undone(hand: Hand) -> None:
    lettered(hand)
    hand.type_into("designWidth", "60")
    stops = [f for f in hand.window.session.result.findings if f.severity == "stop" and f.kind != "overlapping-cuts"]
    assert stops
    hand.go_to("inspect")
    hand.select_row("findings", hand.window.session.result.findings.index(stops[0]))
    hand.click("remedy_enlarge")
    assert [f.kind for f in hand.window.session.result.findings if f.severity == "stop"] == ["overlapping-cuts"]
    hand.select_row("findings", 0)
    hand.click("remedy_weld")
    assert [f for f in hand.window.session.result.findings if f.severity == "stop"] == []
    hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.window.session.result.size[0] == pytest.approx(60, abs=0.01)


def test_a_drawing_joins_the_words_and_is_dragged_and_nudged(hand: Hand) -> None:
    lettered(hand)
    hand.window.files.open_file(HERON)
    hand.settle()
    session, table = hand.window.session, hand.window.table
    assert [e.name for e in session.job.item.layers[0].elements] == ["Wandering Heron", DRAWING]
    box = session.result.layers[0].elements[1].parts[0].region.bounds
    places = [table.to_widget(box[0] + s * (box[2] - box[0]), box[1] + t * (box[3] - box[1])) for s in (0.5, 0.2, 0.8) for t in (0.5, 0.1, 0.9)]  # fmt: skip
    start = next(at for at in places if table.tag_at(at) < 0).toPoint()
    hand.bot.mousePress(table, Qt.MouseButton.LeftButton, pos=start)
    hand.bot.mouseMove(table, start + QPoint(-20, 0))
    hand.bot.mouseMove(table, start + QPoint(-60, 0))
    hand.bot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=start + QPoint(-60, 0))
    hand.settle()
    moved = session.result.layers[0].elements[1].parts[0].region.bounds
    assert moved[0] - box[0] == pytest.approx(-60 / table.px_per_mm, abs=SNAP_PX / table.px_per_mm)
    table.setFocus()
    hand.bot.keyClick(table, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.settle()
    assert session.result.layers[0].elements[1].parts[0].region.bounds[0] - moved[0] == pytest.approx(10, abs=1e-6)


def test_units_change_the_words_and_never_the_size(hand: Hand) -> None:
    lettered(hand)
    size = hand.window.session.result.size
    hand.go_to("measure")
    hand.choose("unit", "inches and fractions")
    assert hand.window.session.result.size == size
    assert hand.find("itemWidth").text() == "~24 7/16 in"
    hand.type_into("itemWidth", "32in - 2*5in")
    assert hand.window.session.job.item.width == pytest.approx(558.8)
    assert hand.find("itemWidth").text() == "22 in"


def test_the_wrong_side_is_mirrored_with_its_reason_and_too_large_is_refused(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("measure")
    hand.choose("side", "Behind glass")
    hand.go_to("cut")
    assert "behind the glass" in hand.find("mirrorLine").text()
    hand.choose("carrier", "Mat")
    assert "mm too" in hand.find("sheetLine").text()
    assert not hand.find("saveCut").isEnabled()


def test_the_picks_are_numbered_on_the_list_and_the_film_to_pull_is_shown(hand: Hand) -> None:
    lettered(hand)
    hand.add_step("Weld")
    hand.go_to("weed")
    picks = hand.find("picks")
    assert isinstance(picks, QListWidget)
    assert str(picks.count()) == hand.gauge("picks")[0]
    assert picks.item(0).text().startswith("1 ")
    assert hand.window.table.look == "waste"


@pytest.mark.parametrize("text", ["0", "-5", "abc", "3mm*2mm"])
def test_wrong_numbers_stay_in_the_field_and_are_explained(hand: Hand, text: str) -> None:
    lettered(hand)
    job = hand.window.session.job
    hand.type_into("designWidth", text)
    field = hand.find("designWidth")
    assert field.text() == text
    assert field.property("wrong")
    hint = hand.find("designWidthHint")
    assert hint.isVisible()
    assert hint.text().endswith(".")
    assert hand.window.session.job is job
    hand.bot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "560 mm"


def test_bad_files_are_told_in_one_sentence_and_nothing_is_lost(hand: Hand, tmp_path: FilePath) -> None:
    lettered(hand)
    job = hand.window.session.job
    contents = {
        "empty.svg": b"", "broken.svg": b"<svg><pa", "no-font.ttf": b"hello", "damaged.thimble": b"PK nothing",
        "nothing.svg": b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0H9" fill="none"/></svg>',
    }  # fmt: skip
    for name, data in contents.items():
        (tmp_path / name).write_bytes(data)
        hand.window.session._saved = hand.window.session.job
        hand.window.files.open_file(tmp_path / name)
        hand.settle()
        assert name.split(".")[0] in hand.notice(), name
        assert hand.window.session.job == job, name
        hand.click("closeNotice")


def test_words_without_shapes_say_so_and_keep_the_rest(hand: Hand) -> None:
    lettered(hand)
    hand.window.files.open_file(HERON)
    hand.settle()
    hand.go_to("gather")
    hand.select_row("elements", 0)
    text = hand.find("wordsText")
    assert isinstance(text, QPlainTextEdit)
    text.setPlainText("漢字")
    hand.settle()
    assert "step-failed" in hand.kinds()
    assert "漢字" in hand.window.trays.gather.trouble.text()
    assert len(hand.window.session.result.layers[0].parts) == 1


def test_what_a_drawing_holds_that_is_not_understood_is_listed(hand: Hand, tmp_path: FilePath) -> None:
    art = tmp_path / "art.svg"
    art.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9" stroke="red"/><text>a</text></svg>'
    )
    hand.window.files.open_file(art)
    hand.settle()
    shown = hand.window.trays.gather.notes
    assert shown.isVisible()
    assert 'text "a"' in shown.text()
    assert "text" in shown.text()


def test_leaving_unsaved_work_asks_first(hand: Hand, answer_box: Callable[[str], None]) -> None:
    lettered(hand)
    job = hand.window.session.job
    answer_box("Stay")
    hand.window.files.new()
    assert hand.window.session.job is job
    answer_box("Leave without saving")
    hand.window.files.new()
    hand.settle()
    assert hand.window.session.result.bounds is None


def test_undo_of_everything_returns_the_first_recipe(hand: Hand) -> None:
    first = hand.window.session.job
    lettered(hand)
    for title in ("Join", "Weld", "Thicken"):
        hand.add_step(title)
    hand.click("weldAll")
    hand.click("shape_place")
    hand.click("centreDown")
    last = hand.window.session.job
    while hand.window.session.undo_name():
        hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.window.session.job == first
    while hand.window.session.redo_name():
        hand.window.session.redo()
    assert hand.window.session.job == last


def test_words_are_set_in_lines_on_an_arc_and_by_their_capitals(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("gather")
    hand.type_into("wordsText", "Second")
    hand.bot.keyClick(hand.find("wordsText"), Qt.Key.Key_Return)
    hand.bot.keyClicks(hand.find("wordsText"), "Supper")
    hand.settle()
    words = hand.window.session.job.item.layers[0].elements[0].source
    assert words.text == "Second\nSupper"
    hand.choose("align", "Centred")
    hand.type_into("lineSpacing", "100")
    boxes = [part.region.bounds for part in hand.window.session.result.layers[0].elements[0].letters]
    hand.choose("bend", "Over a hill")
    hand.type_into("arcAngle", "160")
    source = hand.window.session.job.item.layers[0].elements[0].source
    assert (source.align, source.line_spacing, source.arc.angle_deg) == ("centre", 1.0, 160.0)
    bent = [part.region.bounds for part in hand.window.session.result.layers[0].elements[0].letters]
    assert bent[0][1] - bent[3][1] > boxes[0][1] - boxes[3][1] + 20
    hand.choose("bend", "Straight")
    hand.type_into("features", "-kern, zzz")
    assert "no font feature" in hand.notice()
    hand.type_into("features", "-kern")
    assert hand.window.session.job.item.layers[0].elements[0].source.features == ("-kern",)
    hand.go_to("shape")
    hand.type_into("capitalHeight", "30mm")
    first = hand.window.session.result.layers[0].elements[0]
    assert first.heights.capital == pytest.approx(30.0)
    hand.go_to("gather")
    hand.type_into("wordsText", "Moth")
    assert hand.window.session.result.layers[0].elements[0].heights.capital == pytest.approx(30.0)
    hand.type_into("designWidth", "200")
    assert hand.window.session.result.size[0] == pytest.approx(200.0, abs=0.01)


def test_joined_pairs_are_listed_marked_and_shown(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("shape")
    rows = hand.find("joins")
    assert not rows.isVisible()
    hand.add_step("Join")
    assert rows.isVisible()
    words = [rows.item(k).text() for k in range(rows.count())]
    assert words[0] == "i:  its dot is a piece of its own"
    assert len(words) == 13
    moved = next(k for k, text in enumerate(words) if text.startswith("H e"))
    assert "moved" in words[moved]
    assert sum("over" in text for text in words) >= 8
    assert len(hand.window.table.pairs_shown) == 12
    rows.setCurrentRow(moved)
    hand.settle()
    place = hand.window.table.to_widget(*hand.window.table._spot.at)
    assert abs(place.x() - hand.window.table.width() / 2) < 20
    assert hand.find("nudgeApart").isEnabled()
    for _ in range(3):
        hand.click("nudgeApart")
    nudges = hand.window.session.job.item.layers[0].elements[0].steps[-1].nudges
    assert [(nudge.label, nudge.by) for nudge in nudges] == [("e", pytest.approx(0.6))]
    assert any("0.6 mm apart by hand" in rows.item(k).text() for k in range(rows.count()))
    assert hand.window.session.undo_name() == "Nudge e"
    hand.bot.keyClick(rows, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.bot.keyClick(rows, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    hand.bot.keyClick(rows, Qt.Key.Key_Left)
    hand.settle()
    for _ in range(2):
        hand.click("nudgeCloser")
    assert hand.window.session.job.item.layers[0].elements[0].steps[-1].nudges == ()
    neck = next(s for s in hand.window.session.job.item.layers[0].elements[0].steps if s.TITLE == "Join")
    hand.type_into(f"neck_{neck.id}", "40mm")
    assert "do not hold" in hand.window.trays["shape"].steps.joins.joins_title.text()
    hand.go_to("gather")
    assert hand.window.table.pairs_shown == ()
    hand.choose("face", "League Spartan")
    hand.go_to("shape")
    assert any("apart" in rows.item(k).text() for k in range(rows.count()))


def test_a_variable_face_has_a_field_for_each_axis(hand: Hand, variable_font: str, pick_file: Callable) -> None:
    lettered(hand)
    hand.go_to("gather")
    hand.type_into("wordsText", "EE")
    assert hand.window.findChild(QWidget, "axis_PUSH") is None
    pick_file(FilePath(variable_font.removeprefix("file:")))
    hand.choose("face", "A font file")
    usual = hand.window.session.result.layers[0].kept.area
    hand.type_into("axis_PUSH", "100")
    element = hand.window.session.job.item.layers[0].elements[0]
    assert element.source.axes == (("PUSH", 100.0),)
    assert hand.window.session.result.layers[0].kept.area != pytest.approx(usual, rel=0.05)
    hand.type_into("axis_PUSH", "400")
    assert hand.window.session.job.item.layers[0].elements[0] == element
    hand.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.window.session.job.item.layers[0].elements[0].source.axes == ()
    hand.choose("face", "Pacifico")
    hand.settle()
    assert hand.window.trays["gather"]._shown_axes == ()


def test_fonts_in_a_zip_are_kept_and_taken(hand: Hand, pick_file: Callable, tmp_path: FilePath) -> None:
    from tests.packed import FONT, bundle

    hand.window.files.open_file(bundle(tmp_path, {"Regatta Type.otf": FONT, "bad.ttf": b"nothing"}))
    hand.settle()
    assert "Kept from download.zip: Regatta Type." in hand.notice()
    assert "bad is not a font" in hand.notice()
    element = hand.window.session.job.item.layers[0].elements[0]
    assert element.source.face.endswith("Regatta Type.otf")
    assert hand.window.session.result.layers[0].problems == ()
