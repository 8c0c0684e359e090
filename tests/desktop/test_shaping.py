"""Shape by hand: lining up, snapping, handles, copies, slices, sheets, and bridges on the table."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QListWidget

from tests.desktop.conftest import Hand
from tests.desktop.looks import colour_at
from vivid_thimble.core.demo.jobs import demo_assets, pennant_job
from vivid_thimble.core.edits.arrange import boxes_of
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import with_item, with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps import Bridges, Slice


def plate(name: str, wide: float, dx: float, dy: float = 0.0) -> Element:
    return Element(id=name, name=name, source=Plain(ratio=0.5), placement=Placement(width=wide, dx=dx, dy=dy))


@pytest.fixture
def plates(hand: Hand) -> Hand:
    """Three plates in a row, in Shape."""
    elements = (plate("first", 40.0, -60.0, -20.0), plate("second", 30.0, 0.0, 5.0), plate("third", 20.0, 60.0, 12.0))
    start(hand, with_layer(new_job("Plates", 240.0, 120.0), lambda layer: replace(layer, elements=elements)))
    return hand


def start(hand: Hand, job: Job) -> None:
    hand.window.session.start(job, {})
    hand.settle()
    hand.go_to("shape")
    hand.window.table.zoom_to_fit()
    hand.settle()


def boxes(hand: Hand) -> dict[str, Box]:
    session = hand.window.session
    assert session.result is not None
    return boxes_of(session.result, session.job)


def middle(hand: Hand, name: str) -> QPoint:
    box = boxes(hand)[name]
    return hand.window.table.to_widget((box[0] + box[2]) / 2, (box[1] + box[3]) / 2).toPoint()


def drag(
    hand: Hand, start_at: QPoint, by: QPoint, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    table = hand.window.table
    hand.bot.mousePress(table, Qt.MouseButton.LeftButton, modifier, start_at)
    for share in (0.3, 0.6, 1.0):
        hand.bot.mouseMove(table, start_at + by * share)
    hand.bot.mouseRelease(table, Qt.MouseButton.LeftButton, modifier, start_at + by)
    hand.settle()


def test_several_are_picked_with_shift_lined_up_spread_and_undone(plates: Hand) -> None:
    before = plates.window.session.job
    for name in ("second", "first", "third"):
        modifier = Qt.KeyboardModifier.NoModifier if name == "second" else Qt.KeyboardModifier.ShiftModifier
        plates.bot.mouseClick(plates.window.table, Qt.MouseButton.LeftButton, modifier, middle(plates, name))
        plates.settle()
    assert plates.window.session.picked == ("second", "first", "third")
    plates.click("align_top")
    assert [box[1] for box in boxes(plates).values()] == pytest.approx([57.5] * 3)
    plates.click("gapsAcross")
    row = sorted(boxes(plates).values())
    assert row[1][0] - row[0][2] == pytest.approx(row[2][0] - row[1][2])
    plates.click("sameWidth")
    assert [box[2] - box[0] for box in boxes(plates).values()] == pytest.approx([30.0] * 3)
    plates.type_into("rowsGap", "4mm")
    plates.click("layRows")
    tops = sorted(round(box[1], 3) for box in boxes(plates).values())
    assert tops[1] == tops[0]
    assert tops[2] - tops[0] == pytest.approx(19.0)
    for _ in range(4):
        plates.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert plates.window.session.job == before
    plates.click("centreAcross")
    assert plates.window.session.result.margins[0] == pytest.approx(plates.window.session.result.margins[1])


def test_a_drag_snaps_to_neighbours_and_shows_the_room_and_a_handle_sizes(plates: Hand) -> None:
    table = plates.window.table
    px = table.px_per_mm
    away = boxes(plates)["second"][1] - boxes(plates)["third"][1]
    drag(plates, middle(plates, "third"), QPoint(round(-7.0 * px), round((away + 1.0) * px)))
    assert boxes(plates)["third"][1] == pytest.approx(boxes(plates)["second"][1], abs=1e-6)  # 1 mm off, snapped
    plates.bot.mousePress(table, Qt.MouseButton.LeftButton, pos=middle(plates, "third"))
    plates.bot.mouseMove(table, middle(plates, "third") + QPoint(20, 13))
    assert "moved" in plates.window.place_label.text()
    plates.bot.mouseRelease(table, Qt.MouseButton.LeftButton, pos=middle(plates, "third"))
    plates.settle()
    old = boxes(plates)["third"]
    corner = table.to_widget(old[2], old[3]).toPoint()
    drag(plates, corner, QPoint(round(10.0 * px), round(5.0 * px)))
    new = boxes(plates)["third"]
    assert new[:2] == pytest.approx(old[:2])
    assert new[2] - new[0] == pytest.approx(30.0, abs=0.5)
    plates.click("keepProportions")
    plates.type_into("elementHeight", "24")
    box = boxes(plates)["third"]
    assert (box[2] - box[0], box[3] - box[1]) == pytest.approx((new[2] - new[0], 24.0), abs=0.01)
    corner = table.to_widget(box[2], box[3]).toPoint()
    drag(plates, corner, QPoint(round(-12.0 * px), 0))
    box = boxes(plates)["third"]
    assert (box[2] - box[0], box[3] - box[1]) == pytest.approx((new[2] - new[0] - 12.0, 24.0), abs=0.5)


def test_copies_follow_until_they_stand_on_their_own(plates: Hand) -> None:
    plates.window.session.choose("first")
    plates.click("linkedCopy")
    copy = plates.window.session.chosen
    assert copy not in ("first", "second", "third")
    plates.type_into("elementWidth", "50")  # of the copy: what it copies grows as well
    sizes = {name: round(box[2] - box[0], 3) for name, box in boxes(plates).items()}
    assert sizes["first"] == sizes[copy] == 50.0
    plates.click("unlink")
    plates.type_into("elementWidth", "20")
    sizes = {name: round(box[2] - box[0], 3) for name, box in boxes(plates).items()}
    assert (sizes["first"], sizes[copy]) == (50.0, 20.0)
    plates.click("mirroredCopy")
    assert len(boxes(plates)) == 5


def test_a_plate_is_sliced_by_words_with_a_gap_and_divided(plates: Hand) -> None:
    words = Element(
        id="words", name="Ember", source=Words(text="Ember", face="bundled:Pacifico"), placement=Placement(width=60.0)
    )
    below = Element(id="plate", name="Plate", source=Plain(ratio=0.4), placement=Placement(width=100.0))
    start(plates, with_layer(new_job("Plate", 160.0, 80.0), lambda layer: replace(layer, elements=(words, below))))
    plates.window.session.choose("plate")
    plates.add_step("Slice")
    others = plates.find("sliceBy")
    assert isinstance(others, QListWidget)
    assert others.count() == 1
    others.item(0).setCheckState(Qt.CheckState.Checked)
    plates.settle()
    layer = plates.window.session.result.layers[0]
    left, letters = layer.elements[1].parts, layer.elements[0].parts
    assert sum(part.region.area for part in left) < 100 * 40 - 300
    plates.type_into("sliceHalo", "1.2mm")
    film = shapely.union_all(
        [part.region.polygons for part in plates.window.session.result.layers[0].elements[1].parts]
    )
    assert film.distance(shapely.union_all([part.region.polygons for part in letters])) == pytest.approx(1.2, abs=0.02)
    plates.choose("sliceKeep", "All, divided")
    pieces = plates.find("slicePieces")
    assert isinstance(pieces, QListWidget)
    assert pieces.count() >= 4
    whole = sum(part.region.area for part in plates.window.session.result.layers[0].elements[1].parts)
    pieces.item(0).setCheckState(Qt.CheckState.Unchecked)
    plates.settle()
    assert sum(part.region.area for part in plates.window.session.result.layers[0].elements[1].parts) < whole - 1.0
    (step,) = plates.window.session.job.item.layers[0].elements[1].steps
    assert isinstance(step, Slice)
    assert (step.by, step.halo, len(step.left_out)) == (("words",), 1.2, 1)
    cuts = len(plates.window.session.result.layers[0].cut_paths)
    plates.window.session.choose("words")
    plates.click("helpsOnly")
    assert len(plates.window.session.result.layers[0].cut_paths) < cuts


def test_steps_are_reordered_and_run_over_a_whole_film(plates: Hand) -> None:
    plates.window.session.choose("first")
    plates.add_step("Thicken")
    plates.add_step("Band")
    plates.click("earlier_band-1")
    assert [step.id for step in plates.window.session.job.item.layers[0].elements[0].steps] == ["band-1", "thicken-1"]
    plates.choose("bandSide", "Inside the edge")
    assert boxes(plates)["first"][2] - boxes(plates)["first"][0] == pytest.approx(40.4, abs=0.01)
    plates.click("scope_film")
    plates.add_step("Weld")
    assert [step.TITLE for step in plates.window.session.job.item.layers[0].steps] == ["Weld"]
    assert plates.find("weldAll").isChecked()
    plates.click("scope_element")
    plates.window.session.pick(["first", "second"])
    plates.click("weldPicked")
    assert plates.window.session.job.item.layers[0].steps[-1].only == ("first", "second")


@pytest.fixture
def ring(hand: Hand) -> Hand:
    """A ring to be cut from a rigid sheet, its middle bridged."""
    source = Plain(form="ellipse", ratio=1.0, band=0.2)
    element = Element(
        id="ring", name="Ring", source=source, placement=Placement(width=80.0), steps=(Bridges(id="b", width=2.0),)
    )
    job = with_layer(new_job("Ring", 160.0, 140.0), lambda layer: replace(layer, elements=(element,)))
    start(hand, with_item(job, lambda item: replace(item, method="rigid-stencil")))
    hand.click("shape_steps")
    return hand


def bridges(hand: Hand) -> list[tuple[float, float]]:
    (found,) = hand.window.session.result.layers[0].elements[0].shown
    return sorted((round(one.middle[0], 2), round(one.middle[1], 2)) for one in found.found.plan.bridges)


def is_whole(hand: Hand) -> bool:
    return len(hand.window.session.result.layers[0].kept.polygons.geoms) == 1


def test_a_bridge_is_dragged_turned_added_taken_out_and_let_go_again(ring: Hand) -> None:
    table, automatic = ring.window.table, bridges(ring)
    assert len(automatic) == 2
    at = table.to_widget(*automatic[1]).toPoint()
    drag(ring, at, table.to_widget(80.0 + 32.0 * 0.7071, 70.0 - 32.0 * 0.7071).toPoint() - at)
    moved = bridges(ring)
    assert automatic[0] in moved  # the other one stays
    assert any(np.hypot(x - 102.6, y - 47.4) < 2.0 for x, y in moved)
    assert is_whole(ring)
    held = table.bridges.held
    assert held >= 0
    bridge = table.bridges.found.found.plan.bridges[held]
    far = max((bridge.start, bridge.end), key=lambda at: np.hypot(at[0] - 80.0, at[1] - 70.0))
    drag(ring, table.to_widget(*far).toPoint(), QPoint(round(6 * table.px_per_mm), round(6 * table.px_per_mm)))
    turned = table.bridges.found.found.plan.bridges[table.bridges.held]
    assert abs(turned.length - bridge.length) > 0.2
    ring.click("bridgeAdd")
    ring.bot.mouseClick(table, Qt.MouseButton.LeftButton, pos=table.to_widget(80.0, 100.0).toPoint())
    ring.settle()
    assert len(bridges(ring)) == 3
    ring.select_row("bridgeList", 0)
    ring.click("bridgeOut")
    assert len(bridges(ring)) == 2
    ring.select_row("bridgeList", 1)
    table.setFocus()
    before = bridges(ring)
    ring.bot.keyClick(table, Qt.Key.Key_Right)
    ring.settle()
    assert bridges(ring) != before
    ring.bot.keyClick(table, Qt.Key.Key_Delete)
    ring.settle()
    assert len(bridges(ring)) == 1
    assert is_whole(ring)
    ring.click("bridgeAutomatic")
    assert bridges(ring) == automatic
    while ring.window.session.undo_name():
        ring.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bridges(ring) == automatic
    assert ring.window.session.job.item.layers[0].elements[0].steps == (Bridges(id="b", width=2.0),)


def test_bridges_take_another_shape_and_locked_ones_stay_at_every_size(ring: Hand) -> None:
    straight = ring.window.session.result.layers[0].kept.area
    ring.choose("bridgeStyle", "Bent along an arc")
    bent = ring.window.session.result.layers[0].kept.area
    assert bent > straight
    ring.click("bridgeFeet")
    assert ring.window.session.result.layers[0].kept.area > bent
    ring.click("bridgeLock")
    (step,) = ring.window.session.job.item.layers[0].elements[0].steps
    assert len(step.placed) == 2
    shares = bridges(ring)
    ring.type_into("designHeight", "112mm")
    assert is_whole(ring)
    grown = [((x - 80.0) * 80.0 / 112.0 + 80.0, (y - 70.0) * 80.0 / 112.0 + 70.0) for x, y in bridges(ring)]
    assert np.abs(np.array(grown) - shares).max() < 0.1
    assert "by hand" in ring.window.trays.shape.steps.bridges.list.item(0).text()


def test_the_sheet_is_set_and_told_and_marks_come_and_go(ring: Hand) -> None:
    ring.click("shape_sheet")
    ring.type_into("frame_left", "35mm")
    layer = ring.window.session.result.layers[0]
    assert layer.kept.bounds[0] == pytest.approx(40.0 - 35.0, abs=0.05)  # a bridge lies at the edge
    ring.choose("paint", "Sprayed")
    assert ring.window.session.result.layers[0].kept.bounds[0] == pytest.approx(0.0, abs=0.05)
    ring.choose("frameHoles", "Two")
    ring.type_into("frameRadius", "8mm")
    ring.choose("frameTab", "At the top")
    result = ring.window.session.result
    assert result.layers[0].kept.bounds[1] == pytest.approx(30.0 - 40.0 - 14.0, abs=0.05)
    assert len(result.layers[0].kept.polygons.geoms[0].interiors) >= 4
    ring.choose("registerMarks", "Squares")
    ring.click("markSticker")
    layer = ring.window.session.result.layers[0]
    assert len(layer.marks) == 3
    assert len(layer.cut_paths) == 2
    ring.choose("registerMarks", "None")
    assert ring.window.session.result.layers[0].marks == ()
    ring.choose("frameFit", "As large as the item")
    assert ring.window.session.result.layers[0].kept.bounds[2] == pytest.approx(160.0, abs=0.01)
    assert any("40 mm is usual" in finding.sentence for finding in ring.window.session.result.findings)


def test_a_plain_shape_is_gathered_and_cuts_through_its_waste_are_cut(hand: Hand) -> None:
    hand.go_to("gather")
    hand.click("addPlain")
    hand.type_into("plainWidth", "120")
    hand.type_into("plainHeight", "40")
    hand.type_into("plainBand", "5")
    size = hand.window.session.result.size
    assert size == pytest.approx((120.0, 40.0), abs=0.01)
    assert len(hand.window.session.result.layers[0].kept.polygons.geoms[0].interiors) == 1
    hand.go_to("shape")
    hand.click("shape_sheet")
    hand.click("weedingBox")
    hand.type_into("weedingBoxMargin", "7")
    hand.click("reliefCuts")
    hand.click("look_cut")
    assert len(hand.window.table.films.waste_cuts) >= 2
    left, _, right, _ = hand.window.table.films.waste_cuts[0].bounds
    assert right - left == pytest.approx(134.0, abs=0.02)


def test_margins_are_dragged_at_the_sheets_edges_and_letters_at_their_marks(ring: Hand, hand: Hand) -> None:
    ring.click("shape_sheet")
    table = ring.window.table
    left, top, _, bottom = ring.window.session.result.layers[0].sheet_box
    edge = table.to_widget(left, top + (bottom - top) / 3.0).toPoint()
    drag(ring, edge, QPoint(round(-15 * table.px_per_mm), 0))
    assert ring.window.session.job.item.frame.left == pytest.approx(35.0, abs=0.6)
    assert ring.window.session.job.item.frame.right is None
    hand.click("station_gather")
    hand.click("addWords")
    hand.type_into("wordsText", "Moss")
    hand.add_step("Join")
    (pair, *_) = sorted(table.pairs_shown, key=lambda one: one.letter)
    mark = table.to_widget(*pair.at).toPoint()
    drag(hand, mark, QPoint(round(4.0 * table.px_per_mm), 0))
    (join,) = [step for step in hand.window.session.job.item.layers[0].elements[-1].steps if step.TITLE == "Join"]
    assert join.nudges[0].letter == pair.letter
    assert join.nudges[0].by == pytest.approx(4.0, abs=0.6)


def test_several_in_hand_move_together_and_stay_apart_from_the_rest(plates: Hand) -> None:
    before = boxes(plates)
    plates.window.session.pick(["first", "second"])
    table = plates.window.table
    table.setFocus()
    plates.bot.keyClick(table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    plates.settle()
    after = boxes(plates)
    assert [after[name][1] - before[name][1] for name in ("first", "second")] == pytest.approx([10.0, 10.0])
    assert after["third"] == before["third"]
    drag(plates, middle(plates, "second"), QPoint(0, round(-17.3 * table.px_per_mm)))
    last = boxes(plates)
    ways = [last[name][1] - after[name][1] for name in ("first", "second")]
    assert ways[0] == pytest.approx(ways[1])
    assert ways[0] < -10.0
    assert plates.window.session.picked == ("first", "second")
    plates.bot.mouseClick(table, Qt.MouseButton.LeftButton, pos=middle(plates, "third"))
    plates.settle()
    assert plates.window.session.picked == ("third",)


def test_of_several_sheets_the_one_in_hand_is_shown_and_what_only_helps_is_an_outline(hand: Hand) -> None:
    hand.window.session.start(pennant_job(), demo_assets())
    hand.settle()
    hand.go_to("shape")
    table = hand.window.table
    table.zoom_to_fit()
    corner = (30.0, 150.0)  # sheet, far from both designs
    for name, layer in (("heron", 0), ("moon", 1)):
        hand.window.session.choose(name)
        hand.settle()
        film = QColor(hand.window.session.job.item.layers[layer].film.colour)
        assert colour_at(hand, *corner) == film.name()
        assert table.films.sheet_in_hand().layer.id == hand.window.session.job.item.layers[layer].id
    plate_only = plate("first", 40.0, 0.0)
    start(hand, with_layer(new_job("One", 100.0, 60.0), lambda layer: replace(layer, elements=(plate_only,))))
    film = hand.window.session.job.item.layers[0].film.colour
    assert colour_at(hand, 45.0, 34.0) == film
    hand.click("shape_steps")
    hand.click("helpsOnly")
    assert colour_at(hand, 45.0, 34.0) != film
    assert hand.window.session.result.layers[0].cut_paths == ()


def test_bridges_of_a_whole_film_hold_a_middle_that_lies_between_elements(hand: Hand) -> None:
    halves = tuple(
        Element(
            id=name,
            name=name,
            source=Words(text=text, face="bundled:League Spartan"),
            placement=Placement(height=60.0, dx=dx),
            steps=(Bridges(id=f"{name}-b"),),
        )
        for name, text, dx in (("left", "C", -8.0), ("right", "C", 8.0))
    )
    turned = replace(halves[1], placement=replace(halves[1].placement, turn_deg=180.0))
    job = with_layer(new_job("Ring of two", 160.0, 120.0), lambda layer: replace(layer, elements=(halves[0], turned)))
    start(hand, with_item(job, lambda item: replace(item, method="rigid-stencil")))
    assert not is_whole(hand)
    hand.go_to("inspect")
    hand.click("page_findings")
    result = hand.window.session.result
    hand.window.trays.inspect.hold(next(k for k, f in enumerate(result.findings) if f.kind == "loose-piece"))
    hand.settle()
    hand.click("remedy_bridge")
    assert is_whole(hand)
    assert [step.TITLE for step in hand.window.session.job.item.layers[0].steps] == ["Bridges"]
    hand.go_to("shape")
    hand.click("shape_steps")
    hand.click("scope_film")
    assert hand.window.table.bridges.owner == hand.window.session.job.item.layers[0].id
    assert hand.find("bridgeList").count() >= 1
