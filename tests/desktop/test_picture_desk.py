"""The desk of a picture: framed, its tones changed, brushed, cut out, its colours given to films."""

from __future__ import annotations

import io
from collections.abc import Sequence
from importlib import resources

import cv2
import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLabel, QSlider

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import SCREENSHOT
from vivid_thimble.core.job.values import source_in
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.desktop.stations.gather.picture_canvas import PictureCanvas
from vivid_thimble.desktop.stations.gather.picture_desk import PictureDesk
from vivid_thimble.desktop.stations.gather.words_dialog import WordsDialog

SIZE = 240, 160


def png(pixels: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray(pixels).save(held, "PNG")
    return held.getvalue()


def frame_with_bar() -> bytes:
    """A dark frame with a lighter bar in it, on paper."""
    pixels = np.full((SIZE[1], SIZE[0], 3), 240, np.uint8)
    pixels[30:130, 30:130] = 20
    pixels[50:110, 50:110] = 240
    pixels[60:100, 150:220] = 150
    return png(pixels)


def kept(hand: Hand, layer: int = 0) -> shapely.MultiPolygon:
    assert hand.window.session.result is not None
    return hand.window.session.result.layers[layer].kept.polygons


def picture(hand: Hand) -> Picture:
    found = source_in(hand.window.session.job, hand.window.session.chosen, Picture)
    assert found is not None
    return found


class Desk:
    def __init__(self, hand: Hand, data: bytes) -> None:
        self.hand = hand
        hand.go_to("gather")
        hand.window.trays.gather.add_picture(lambda: data, "made.png")
        hand.settle()
        hand.click("openPictureDesk")
        found = hand.window.findChild(PictureDesk)
        assert found is not None
        self.dialog = found
        self.canvas: PictureCanvas = found.canvas
        hand.bot.waitUntil(lambda: found._previewed[1] is not None)

    def draw(self, *shares: tuple[float, float]) -> None:
        """Press at the first place, move over the others, let go at the last."""
        at = [self.canvas.place_of(share).toPoint() for share in shares]
        bot = self.hand.bot
        bot.mousePress(self.canvas, Qt.MouseButton.LeftButton, pos=at[0])
        for place in at[1:]:
            bot.mouseMove(self.canvas, place)
        bot.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, pos=at[-1])
        self.hand.settle()

    def click(self, *shares: tuple[float, float]) -> None:
        for share in shares:
            at = self.canvas.place_of(share).toPoint()
            self.hand.bot.mouseClick(self.canvas, Qt.MouseButton.LeftButton, pos=at)
        self.hand.settle()


@pytest.fixture
def desk(hand: Hand) -> Desk:
    return Desk(hand, frame_with_bar())


def shares(*pixels: tuple[float, float]) -> Sequence[tuple[float, float]]:
    return [(x / SIZE[0], y / SIZE[1]) for x, y in pixels]


def test_a_picture_is_cropped_and_made_whole_again(desk: Desk) -> None:
    hand = desk.hand
    assert len(kept(hand).geoms) == 2
    hand.click("deskTool_crop")
    desk.draw(*shares((10, 10), (80, 90), (140, 150)))
    crop = picture(hand).preparing.crop
    assert crop == pytest.approx((10 / 240, 10 / 160, 140 / 240, 150 / 160), abs=0.01)
    assert len(kept(hand).geoms) == 1
    hand.click("deskWhole")
    assert picture(hand).preparing.crop == (0.0, 0.0, 1.0, 1.0)
    assert len(kept(hand).geoms) == 2


def test_a_drawn_line_becomes_level(desk: Desk) -> None:
    hand = desk.hand
    hand.click("deskTool_level")
    desk.draw((0.2, 0.5), (0.8, 0.6))
    fallen = np.degrees(np.arctan2(0.1 * SIZE[1], 0.6 * SIZE[0]))
    assert picture(hand).preparing.level_deg == pytest.approx(-fallen, abs=0.3)
    hand.click("deskWhole")
    assert picture(hand).preparing.level_deg == 0.0


def test_four_corners_in_any_order_become_a_rectangle(desk: Desk) -> None:
    hand = desk.hand
    hand.click("deskTool_corners")
    desk.click(*shares((130, 130), (30, 30), (30, 130), (130, 30)))
    found = picture(hand).preparing.four_corners
    wanted = shares((30, 30), (130, 30), (130, 130), (30, 130))
    assert np.array(found) == pytest.approx(np.array(wanted), abs=0.01)


def test_tones_are_changed_live_and_set_back(desk: Desk) -> None:
    hand = desk.hand
    slider = hand.find("desk_white")
    assert isinstance(slider, QSlider)
    slider.setValue(50)  # the bar becomes paper
    hand.settle()
    assert len(kept(hand).geoms) == 1
    hand.click("deskReset")
    assert len(kept(hand).geoms) == 2
    assert slider.value() == 100


def test_the_brush_adds_and_takes_away(desk: Desk) -> None:
    hand = desk.hand
    hand.click("desk_part")
    before = kept(hand).area
    hand.click("deskTool_take")
    desk.draw(*shares((40, 20), (40, 140)))
    assert kept(hand).area < before
    hand.click("deskTool_add")
    desk.draw(*shares((40, 20), (40, 140)))
    assert kept(hand).area > before
    hand.click("deskUnbrushed")
    assert kept(hand).area == pytest.approx(before, rel=1e-6)


def test_background_goes_within_a_tolerance(desk: Desk) -> None:
    hand = desk.hand
    hand.click("desk_part")
    hand.click("deskTool_away")
    desk.click(*shares((10, 10)))
    assert len(kept(hand).geoms) == 2
    tolerance = hand.find("deskTolerance")
    assert isinstance(tolerance, QSlider)
    tolerance.setValue(60)  # the bar is near enough to paper then
    hand.settle()
    assert len(kept(hand).geoms) == 1
    hand.window.session.undo()
    hand.settle()
    assert len(kept(hand).geoms) == 2


def scene() -> bytes:
    """A round thing of changing colour on a ground of changing colour."""
    y, x = np.mgrid[0:120, 0:160]
    thing = np.stack([170 + 30 * np.sin(x / 9), 90 + 20 * np.cos(y / 7), 60 + 0 * x], axis=2)
    ground = np.stack([70 + x / 6, 120 + 6 * np.sin(y / 11), 140 + 0 * x], axis=2)
    inside = (x - 80) ** 2 + (y - 60) ** 2 < 40**2
    grain = np.random.default_rng(3).normal(0, 2, (120, 160, 3))
    return png(np.clip(np.where(inside[:, :, None], thing, ground) + grain, 0, 255).astype(np.uint8))


def test_an_object_is_cut_out_by_a_scribble(hand: Hand) -> None:
    desk = Desk(hand, scene())
    hand.click("desk_part")
    hand.click("deskTool_stays")
    desk.draw((0.42, 0.5), (0.5, 0.45), (0.58, 0.55))
    shape = kept(hand)
    assert len(shape.geoms) == 1
    box = shape.bounds
    disc = np.pi / 4 * (box[2] - box[0]) * (box[3] - box[1])
    assert shape.area == pytest.approx(disc, rel=0.02)
    hand.click("deskTool_goes")
    desk.draw((0.05, 0.1), (0.9, 0.1))
    assert kept(hand).area == pytest.approx(disc, rel=0.02)
    hand.click("deskUncut")
    assert picture(hand).scribbles == ()


def specked() -> bytes:
    """A large dark block, and specks at two places."""
    pixels = np.full((200, 300, 3), 250, np.uint8)
    pixels[40:160, 90:260] = 25
    pixels[20:24, 20:24] = 25
    pixels[180:184, 20:24] = 25
    return png(pixels)


def test_leftovers_that_are_circled_stay(hand: Hand) -> None:
    desk = Desk(hand, specked())
    assert len(kept(hand).geoms) == 1
    hand.click("desk_part")
    hand.click("deskTool_circle")
    desk.draw((0.02, 0.04), (0.14, 0.04), (0.14, 0.2), (0.02, 0.2))
    assert len(kept(hand).geoms) == 2


def three_tones() -> bytes:
    pixels = np.full((200, 300, 3), 235, np.uint8)
    pixels[30:170, 40:260] = 130
    pixels[70:130, 100:200] = 30
    return png(pixels)


def test_tones_are_given_to_films_that_lie_over_each_other(hand: Hand) -> None:
    Desk(hand, three_tones())
    hand.click("desk_part")
    hand.choose("deskSeparate", "By tones, for portraits")
    hand.find("deskColours").setValue(3)  # type: ignore[attr-defined]  # a spin box
    hand.settle()
    hand.click("desk_films")
    hand.choose("deskFilms", "2 films")
    layers = hand.window.session.job.item.layers
    assert len(layers) == 2
    one, two = kept(hand, 0), kept(hand, 1)
    assert one.intersection(two).area < 1e-3
    hand.type_into("deskTrap", "0.5 mm")
    wide, narrow = kept(hand, 0), kept(hand, 1)
    shared = wide.intersection(narrow)
    edge = one.intersection(two).length
    assert shared.area == pytest.approx(0.5 * edge, rel=0.05)
    assert narrow.symmetric_difference(two).area < 1e-6
    hand.choose("deskOverlap", "Stacked, the first whole")
    assert two.difference(kept(hand, 0)).area < 1e-3
    assert len(kept(hand, 0).geoms[0].interiors) == 0


def test_corners_are_kept_or_rounded_and_the_state_before_is_shown_while_held(desk: Desk) -> None:
    hand = desk.hand
    hand.click("desk_outlines")
    sharp = kept(hand).area
    hand.choose("deskCorners", "None, all round")
    assert kept(hand).area < sharp
    before = hand.find("deskBefore")
    hand.bot.mousePress(before, Qt.MouseButton.LeftButton)
    shown = desk.canvas._lines[0][0].elementCount()
    hand.bot.mouseRelease(before, Qt.MouseButton.LeftButton)
    assert shown < desk.canvas._lines[0][0].elementCount()


def test_a_slow_edit_is_stopped_by_taking_it_back(hand: Hand) -> None:
    y, x = np.mgrid[0:640, 0:860]
    waves = (128 + 100 * np.sin(x / 24.0) * np.sin(y / 29.0 + x / 170.0)).astype(np.uint8)
    hand.go_to("gather")
    hand.window.trays.gather.add_picture(lambda: png(np.repeat(waves[:, :, None], 3, 2)), "waves.png")
    hand.settle()
    hand.window._patience.setInterval(20)  # however fast the machine is
    before = hand.window.session.job
    box = hand.find("pictureSeparate")
    box.setCurrentIndex(box.findData("colours"))  # type: ignore[attr-defined]  # a box of choices
    box.activated.emit(box.currentIndex())  # type: ignore[attr-defined]
    stop = hand.window.stop_button
    hand.bot.waitUntil(stop.isVisible, timeout=20_000)
    label = hand.window.state_label
    assert isinstance(label, QLabel)
    assert label.text().endswith("…")
    hand.bot.mouseClick(stop, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    hand.settle()
    assert hand.window.session.job == before
    assert not stop.isVisible()


def pen_drawing() -> bytes:
    pixels = np.full((200, 300), 255, np.uint8)
    cv2.line(pixels, (30, 30), (270, 170), 0, 9, cv2.LINE_AA)
    cv2.line(pixels, (30, 170), (270, 30), 0, 9, cv2.LINE_AA)
    return png(np.repeat(pixels[:, :, None], 3, axis=2))


def test_a_pen_drawing_is_traced_by_its_middle_and_gets_another_pen(hand: Hand) -> None:
    Desk(hand, pen_drawing())
    outlines = kept(hand)
    hand.click("desk_outlines")
    hand.choose("deskTracedAs", "Pen lines, by their middle")
    lines = kept(hand)
    assert lines.symmetric_difference(outlines).area < 0.05 * outlines.area
    hand.type_into("deskPen", "1 mm")
    thin = kept(hand)
    assert len(thin.geoms) == 1
    assert not thin.buffer(-0.49).is_empty
    assert thin.buffer(-0.8).is_empty
    hand.click("deskOwnPen")
    assert kept(hand).area == pytest.approx(lines.area, rel=0.01)


def screenshot() -> bytes:
    return (resources.files("vivid_thimble") / "data" / "demo" / SCREENSHOT).read_bytes()


def test_the_words_of_a_picture_are_set_in_its_face(hand: Hand) -> None:
    hand.go_to("gather")
    hand.window.trays.gather.add_picture(screenshot, SCREENSHOT)
    hand.settle()
    before = kept(hand)
    hand.click("resetWords")
    dialog = hand.window.findChild(WordsDialog)
    assert dialog is not None
    dialog.text.setPlainText("Quillfen\nLantern Regatta")
    hand.click("wordsCompare")
    hand.bot.waitUntil(lambda: dialog.list.count() > 0, timeout=30_000)
    assert "Pacifico" in dialog.list.item(0).text()
    hand.click("wordsLay")
    (element,) = hand.window.session.job.item.layers[0].elements
    assert isinstance(element.source, Words)
    assert kept(hand).symmetric_difference(before).area < 0.12 * before.area
    hand.window.session.undo()
    hand.settle()
    assert kept(hand).equals(before)


def test_specks_go_by_their_size_on_the_item(hand: Hand) -> None:
    Desk(hand, specked())
    hand.click("pictureAllLeftovers")  # all are cut now that are larger than a speck
    assert len(kept(hand).geoms) == 3
    hand.click("desk_part")
    across = np.sqrt(min(piece.area for piece in kept(hand).geoms))
    hand.type_into("deskSpeck", f"{1.2 * across:.2f} mm")
    assert len(kept(hand).geoms) == 1
