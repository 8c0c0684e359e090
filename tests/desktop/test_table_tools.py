"""The table's tools: tiles, tape, guides, frames, turning, the menu, finding, true size."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot
from scipy.spatial import cKDTree

from tests.desktop.conftest import Hand
from tests.desktop.looks import shown
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, hull_job
from vivid_thimble.core.edits.arrange import boxes_of
from vivid_thimble.core.job.values import Guide
from vivid_thimble.desktop.dialogs.find_dialog import FindDialog
from vivid_thimble.desktop.dialogs.guides_dialog import GuidesDialog
from vivid_thimble.desktop.look.preferences import read_preferences
from vivid_thimble.desktop.table.outlines import Outlines
from vivid_thimble.desktop.table.region_path import painter_path


@pytest.fixture
def demo(hand: Hand) -> Hand:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("shape")
    return hand


def drag(
    hand: Hand, start: QPointF, end: QPointF, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    """Press, move in two steps, let go."""
    table = hand.window.table
    QTest.mousePress(table, Qt.MouseButton.LeftButton, modifier, start.toPoint())
    for share in (0.5, 1.0):
        at = start + (end - start) * share
        QTest.mouseMove(table, at.toPoint())
        QApplication.processEvents()
    QTest.mouseRelease(table, Qt.MouseButton.LeftButton, modifier, end.toPoint())
    hand.settle()


def box_of(hand: Hand, element: str) -> tuple[float, float, float, float]:
    return boxes_of(hand.window.session.result, hand.window.session.job)[element]


# -- tiles --------------------------------------------------------------------------


def stars(seed: int, count: int, points: int) -> shapely.MultiPolygon:
    """Wavy pieces with holes, some of them partly outside any box."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0.0, 2.0 * np.pi, points, endpoint=False)
    pieces = []
    for _ in range(count):
        x, y = rng.uniform(-20.0, 120.0, 2)
        wave = (1.0 + 0.4 * np.sin(t * rng.integers(3, 9))) * rng.uniform(4.0, 30.0)
        ring = np.column_stack([x + wave * np.cos(t), y + wave * np.sin(t)])
        pieces.append(shapely.Polygon(ring, [(ring - (x, y)) * 0.5 + (x, y)]))
    return shapely.MultiPolygon(pieces)


def painted(outlines: Outlines) -> np.ndarray:
    """Even-odd, on 200 x 200 pixels of the square from 0 to 100 mm."""
    image = QImage(200, 200, QImage.Format.Format_Grayscale8)
    image.fill(255)
    with QPainter(image) as painter:
        painter.scale(2.0, 2.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("black"))
        painter.drawPath(outlines.path())
    return np.frombuffer(image.constBits(), np.uint8).reshape(200, image.bytesPerLine())[:, :200].copy()


@settings(max_examples=15)
@given(seed=st.integers(0, 10_000), left=st.floats(0.0, 60.0), top=st.floats(0.0, 60.0), size=st.floats(5.0, 40.0))
def test_what_is_cut_down_to_a_box_looks_the_same_inside_it(seed: int, left: float, top: float, size: float) -> None:
    whole = Outlines.of(stars(seed, 7, 60))
    part = whole.within((left, top, left + size, top + size))
    assert len(part) <= len(whole)
    rows, columns = (
        slice(int(top * 2) + 1, int((top + size) * 2) - 1),
        slice(int(left * 2) + 1, int((left + size) * 2) - 1),
    )
    assert (painted(whole)[rows, columns] == painted(part)[rows, columns]).all()


def test_thinning_moves_no_edge_by_more_than_a_cell_and_drops_specks() -> None:
    shape = stars(3, 5, 4000)
    whole = Outlines.of(shape)
    thin = whole.thinned(0.5)
    assert len(thin) < 0.4 * len(whole)
    apart, _ = cKDTree(thin.points).query(whole.points)
    assert apart.max() < 0.5 * 2**0.5
    assert len(Outlines.of(shapely.MultiPolygon([shapely.box(0.1, 0.1, 0.2, 0.2)])).thinned(0.5)) == 0
    assert len(Outlines.of(shapely.MultiPolygon()).within((0, 0, 1, 1)).thinned(1.0)) == 0


def test_tiles_show_what_one_path_would(demo: Hand) -> None:
    table = demo.window.table
    demo.go_to("inspect")
    demo.click("look_finished")
    table.findings = ()
    for zoom in (1.0, 7.3):
        table.zoom_by(zoom)
        table.offset = QPointF(round(table.offset.x()), round(table.offset.y()))
        demo.settle()
        picture = shown(demo)
        layer = demo.window.session.result.layers[0]
        true = QImage(table.size(), QImage.Format.Format_RGB32)
        true.fill(QColor("white"))
        with QPainter(true) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(table.offset)
            painter.scale(table.px_per_mm, table.px_per_mm)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor("black"))
            painter.drawPath(painter_path(layer.kept.polygons))
        film, wrong, looked = QColor(layer.layer.film.colour).name(), 0, 0
        for x in range(40, table.width() - 10, 7):
            for y in range(40, table.height() - 10, 7):
                value = true.pixelColor(x, y).value()
                if value in (0, 255):
                    looked += value == 0
                    wrong += (picture.pixelColor(x, y).name() == film) != (value == 0)
        assert looked > 150
        assert wrong < 0.02 * looked, "distances cover a little"


def test_many_points_are_got_ready_on_a_thread_and_come_out_right(demo: Hand) -> None:
    from dataclasses import replace

    from vivid_thimble.core.geometry.region import Region

    result = demo.window.session.result
    shape = shapely.transform(stars(8, 40, 2500), lambda p: p * (4.0, 1.2) + (60.0, 10.0))
    layer = replace(result.layers[0], kept=Region(shape))
    table = demo.window.table
    table.show_result(replace(result, layers=(layer,), findings=()))
    table.update()
    QApplication.processEvents()
    assert table.films.tiles.is_busy
    demo.painted()
    inside = shapely.MultiPolygon(list(shape.geoms)).buffer(0).representative_point()
    table.zoom_by(3.0, table.to_widget(inside.x, inside.y))
    QApplication.processEvents()
    demo.painted()
    assert table.films.tiles.is_complete


# -- tape, guides, frames ------------------------------------------------------------


def test_the_tape_tells_distance_angle_and_the_line_under_it(demo: Hand) -> None:
    table = demo.window.table
    demo.keys(Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    assert table.tape.on
    drag(demo, table.to_widget(100.0, 100.0), table.to_widget(400.0, 100.0))
    assert "at 0.0°" in table.tape.words() and "300" in table.tape.words().replace("299.", "300.")
    drag(demo, table.to_widget(100.0, 120.0), table.to_widget(160.0, 58.0), Qt.KeyboardModifier.ShiftModifier)
    moon = next(p for p in demo.window.session.result.layers[0].inspection.kept if p.area > 2000)
    table.use_tape(on=False)
    table.use_tape(on=True)
    QTest.mouseMove(table, table.to_widget(*moon.at).toPoint())
    demo.settle()
    table.tape.hover(table.to_widget(*moon.at))
    assert table.tape.under is not None and table.tape.under.kind == "line"
    assert "line is" in table.tape.words()
    demo.bot.keyClick(table, Qt.Key.Key_Escape)
    assert not table.tape.on
    assert box_of(demo, "words-1") == pytest.approx(box_of(demo, "words-1")), "nothing was moved meanwhile"


def test_guides_are_pulled_out_snapped_to_moved_and_put_back(demo: Hand) -> None:
    table, session = demo.window.table, demo.window.session
    drag(demo, QPointF(300.0, 8.0), QPointF(300.0, table.to_widget(0.0, 20.0).y()))
    (guide,) = session.job.item.guides
    assert guide.axis == 1 and guide.at == pytest.approx(20.0, abs=1.0)
    grip = QPointF(8.0, table.to_widget(0.0, guide.at).y())
    drag(demo, grip, QPointF(8.0, table.to_widget(0.0, 30.0).y()))
    (moved,) = session.job.item.guides
    assert moved.axis == 1 and moved.at == pytest.approx(30.0, abs=1.0)
    before = box_of(demo, "words-1")
    session.choose("words-1")
    table.arranging.take_result()
    _, y = table.arranging.snapped(0.0, moved.at - before[1] + 0.2, freely=False)
    assert before[1] + y == pytest.approx(moved.at)
    drag(demo, QPointF(8.0, table.to_widget(0.0, moved.at).y()), QPointF(8.0, 6.0))
    assert session.job.item.guides == ()
    session.undo()
    assert session.job.item.guides == (moved,)


def test_guides_are_typed_from_any_edge(demo: Hand) -> None:
    demo.keys(Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, GuidesDialog) and one.isVisible())
    dialog.length.edit.setFocus()
    demo.bot.keyClicks(dialog.length.edit, "5 cm")
    dialog.edge.setCurrentIndex(dialog.edge.findData("right"))
    demo.bot.mouseClick(dialog.findChild(type(dialog.remove_button), "addGuide"), Qt.MouseButton.LeftButton)
    assert demo.window.session.job.item.guides == (Guide(axis=0, at=570.0),)
    demo.bot.mouseClick(dialog.remove_button, Qt.MouseButton.LeftButton)
    assert demo.window.session.job.item.guides == ()


def test_a_frame_takes_several_in_hand_and_keys_size_and_turn_them(demo: Hand) -> None:
    table, session = demo.window.table, demo.window.session
    table.zoom_by(0.8)
    demo.settle()
    drag(demo, table.to_widget(-12.0, -10.0), table.to_widget(640.0, 150.0))
    assert set(session.picked) == {"words-1", "drawing-1"}
    session.choose("drawing-1")
    before = box_of(demo, "drawing-1")
    table.setFocus()
    demo.bot.keyClick(table, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    demo.settle()
    wider = box_of(demo, "drawing-1")
    assert wider[2] - wider[0] == pytest.approx(before[2] - before[0] + 1.0, abs=0.01)
    demo.bot.keyClick(table, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    demo.settle()
    assert session.job.item.layers[0].elements[1].placement.turn_deg == pytest.approx(15.0)
    knob = table.arranging.knob()
    assert knob is not None
    box = table.arranging.box()
    middle = table.place((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0)
    drag(demo, knob, QPointF(middle.x() + (middle.y() - knob.y()), middle.y()), Qt.KeyboardModifier.ShiftModifier)
    assert session.job.item.layers[0].elements[1].placement.turn_deg == pytest.approx(-75.0, abs=15.1)
    demo.bot.keyClick(table, Qt.Key.Key_Delete)
    demo.settle()
    assert [e.id for e in session.job.item.layers[0].elements] == ["words-1"]


def test_the_menu_comes_by_button_and_key_and_acts(demo: Hand) -> None:
    table, session = demo.window.table, demo.window.session
    session.choose("drawing-1")
    demo.settle()

    def menu_at(reason: QContextMenuEvent.Reason, at: QPoint) -> QMenu:
        QApplication.sendEvent(table, QContextMenuEvent(reason, at, table.mapToGlobal(at)))
        found = demo.window.findChildren(QMenu, "tableMenu")
        return found[-1]

    def act(menu: QMenu, words: str) -> None:
        next(a for a in menu.actions() if words in a.text()).trigger()
        menu.close()
        demo.settle()

    menu = menu_at(QContextMenuEvent.Reason.Keyboard, QPoint(0, 0))
    act(menu, "Centre up and down")
    box = box_of(demo, "drawing-1")
    assert (box[1] + box[3]) / 2.0 == pytest.approx(70.0, abs=0.01)
    menu = menu_at(QContextMenuEvent.Reason.Mouse, table.to_widget(330.0, 70.0).toPoint())
    assert session.chosen == "words-1"
    act(menu, "Linked copy")
    assert len(session.job.item.layers[0].elements) == 3
    menu = menu_at(QContextMenuEvent.Reason.Mouse, table.to_widget(-10.0, -10.0).toPoint())
    act(menu, "Measuring tape")
    assert table.tape.on


def test_an_element_is_found_by_part_of_its_name(hand: Hand) -> None:
    hand.window.session.start(hull_job(), {})
    hand.settle()
    hand.keys(Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, FindDialog) and one.isVisible())
    hand.bot.keyClicks(dialog.edit, "quill")
    assert dialog.list.count() == 1
    before = hand.window.table.px_per_mm
    hand.bot.keyClick(dialog.edit, Qt.Key.Key_Return)
    assert hand.window.session.chosen == "village"
    assert hand.window.table.px_per_mm > before


def test_true_size_follows_the_ruler_that_was_held_to_the_screen(demo: Hand, qtbot: QtBot) -> None:
    demo.window.dialogs.open_preferences("screen")
    from vivid_thimble.desktop.dialogs.preferences_dialog import CHECK_PX, PreferencesDialog

    dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, PreferencesDialog))
    dialog.line_field.edit.setFocus()
    qtbot.keyClick(dialog.line_field.edit, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(dialog.line_field.edit, "16 cm")
    qtbot.keyClick(dialog.line_field.edit, Qt.Key.Key_Return)
    assert read_preferences().screen_px_per_mm == pytest.approx(CHECK_PX / 160.0)
    dialog.close()
    demo.click("zoomTrue")
    assert demo.window.table.px_per_mm == pytest.approx(CHECK_PX / 160.0)
