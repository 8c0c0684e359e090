"""Pictures in the window: from the clipboard to clean film, leftovers, background clicked away, one-line portraits."""

from __future__ import annotations

import base64
import io
from importlib import resources
from pathlib import Path as FilePath

import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QDoubleSpinBox, QLabel, QListWidget, QSlider, QWidget

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import PHOTO, SCREENSHOT
from vivid_thimble.core.job.values import find_element
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import Picture


def demo(name: str) -> bytes:
    return (resources.files("vivid_thimble") / "data" / "demo" / name).read_bytes()


def small_photo() -> bytes:
    """The otter with fewer pixels: enough to see what a control does."""
    held = io.BytesIO()
    Image.open(io.BytesIO(demo(PHOTO))).resize((96, 96)).save(held, "PNG")
    return held.getvalue()


def kept(hand: Hand) -> shapely.MultiPolygon:
    assert hand.window.session.result is not None
    return hand.window.session.result.layers[0].kept.polygons


def source(hand: Hand) -> object:
    return find_element(hand.window.session.job, hand.window.session.chosen).source


def click_at(hand: Hand, name: str, x: float, y: float) -> None:
    """Click into the picture view at shares of its picture."""
    view = hand.find(name)
    frame = view.frame()  # type: ignore[attr-defined]  # a PictureView
    at = QPoint(round(frame.left() + x * frame.width()), round(frame.top() + y * frame.height()))
    hand.bot.mouseClick(view, Qt.MouseButton.LeftButton, pos=at)
    hand.settle()


@pytest.fixture
def bench(hand: Hand) -> Hand:
    hand.go_to("gather")
    return hand


def test_a_pasted_screenshot_of_words_is_clean_film_at_once(bench: Hand) -> None:
    """One action: paste. Smudge, specks and the strip at the frame are left out, and told."""
    image = QImage()
    image.loadFromData(demo(SCREENSHOT))
    QGuiApplication.clipboard().setImage(image)
    bench.window.files.paste()
    bench.settle()
    assert isinstance(source(bench), Picture)
    film = kept(bench)
    assert len(film.geoms) == 5  # two words joined, a third one, the dot of the i and the Q's neighbours
    box = film.bounds
    assert box[2] - box[0] == pytest.approx(0.8 * bench.window.session.job.item.width, abs=0.01)
    assert not [kind for kind in bench.kinds() if kind in ("small-piece", "loose-piece", "thin-line")]
    listed = bench.find("pictureLeftovers")
    assert isinstance(listed, QListWidget)
    words = [listed.item(row).text() for row in range(listed.count())]
    assert any("edge of the picture" in one for one in words)
    assert any("faint" in one for one in words)
    assert sum("dirt" in one for one in words) >= 2


def test_leftovers_come_back_one_by_one_or_all_together(bench: Hand) -> None:
    bench.window.trays.gather.add_picture(lambda: demo(SCREENSHOT), SCREENSHOT)
    bench.settle()
    before = kept(bench)
    listed = bench.find("pictureLeftovers")
    assert isinstance(listed, QListWidget)
    row = next(k for k in range(listed.count()) if "faint" in listed.item(k).text())
    bench.select_row("pictureLeftovers", row)
    listed.itemActivated.emit(listed.item(row))
    bench.settle()
    assert kept(bench).area > before.area
    bench.window.session.undo()
    bench.settle()
    bench.click("pictureAllLeftovers")
    assert len(kept(bench).geoms) > len(before.geoms)
    bench.click("pictureAllLeftovers")
    assert len(kept(bench).geoms) == len(before.geoms)


def counters(tmp_path: FilePath) -> FilePath:
    """Two frames on a coloured ground."""
    pixels = np.full((120, 200, 3), (188, 205, 220), np.uint8)
    for left in (20, 110):
        pixels[25:95, left : left + 70] = (70, 84, 40)
        pixels[45:75, left + 20 : left + 50] = (188, 205, 220)
    path = tmp_path / "frames.png"
    Image.fromarray(pixels).save(path)
    return path


def test_background_is_clicked_away_on_the_picture(bench: Hand, tmp_path: FilePath) -> None:
    bench.window.files.open_file(counters(tmp_path))
    bench.settle()
    bench.click("pictureAway")
    click_at(bench, "pictureView", 0.05, 0.05)
    assert sum(len(p.interiors) for p in kept(bench).geoms) == 2
    bench.click("pictureBack")
    connected = bench.find("pictureConnected")
    bench.bot.mouseClick(connected, Qt.MouseButton.LeftButton, pos=QPoint(8, connected.height() // 2))
    view = bench.find("pictureView")
    view.setFocus()
    for key in (Qt.Key.Key_Up,) * 24 + (Qt.Key.Key_Return,):
        bench.bot.keyClick(view, key)
    bench.settle()
    assert sum(len(p.interiors) for p in kept(bench).geoms) == 0


def test_colours_and_levels_are_chosen(bench: Hand, tmp_path: FilePath) -> None:
    bench.window.trays.gather.add_picture(small_photo, PHOTO)
    bench.settle()
    bench.choose("pictureSeparate", "At one level")
    level = bench.find("pictureLevel")
    assert isinstance(level, QSlider)
    areas = []
    for value in (70, 150):
        level.setValue(value)
        bench.settle()
        shape = kept(bench)
        areas.append(shape.area / shapely.box(*shape.bounds).area)
    assert areas[1] > areas[0]
    bench.choose("pictureSeparate", "By colours")
    says = [label.text() for label in bench.window.trays.gather.picture.findChildren(QLabel)]
    assert "4 colours." in says


def test_smoother_outlines_have_fewer_nodes(bench: Hand) -> None:
    bench.window.trays.gather.add_picture(lambda: demo(SCREENSHOT), SCREENSHOT)
    bench.settle()
    ease = bench.find("pictureEase")
    assert isinstance(ease, QSlider)
    nodes = []
    for value in (ease.minimum(), ease.maximum()):
        ease.setValue(value)
        bench.settle()
        assert bench.window.session.result is not None
        nodes.append(bench.window.session.result.layers[0].kept.outline.node_count)
    assert nodes[1] < 0.8 * nodes[0]


def test_a_photo_becomes_one_line_and_a_picture_again(bench: Hand) -> None:
    bench.window.trays.gather.add_picture(small_photo, PHOTO)
    bench.settle()
    bench.click("asPortrait")
    assert isinstance(source(bench), LinePortrait)
    assert len(kept(bench).geoms) == 1
    assert bench.gauge("line")[1] == "fine"
    assert bench.gauge("gap")[1] == "fine"
    before = kept(bench)
    click_at(bench, "portraitPicture", 0.4, 0.45)
    moved = source(bench)
    assert isinstance(moved, LinePortrait)
    assert moved.centre == pytest.approx((0.4, 0.45), abs=0.02)
    assert kept(bench).area != before.area
    bench.click("portraitView_afar")
    most = bench.find("portraitMost")
    bench.bot.mouseClick(most, Qt.MouseButton.LeftButton, pos=QPoint(8, most.height() // 2))
    bench.settle()
    turns = bench.find("portraitTurns")
    assert isinstance(turns, QDoubleSpinBox)
    turns.setValue(100.0)
    bench.settle()
    assert "100 turns need" in bench.window.trays.gather.trouble.text()
    turns.setValue(12.0)
    bench.settle()
    assert bench.window.trays.gather.trouble.text() == ""
    ring = bench.find("portraitRing")
    bench.bot.mouseClick(ring, Qt.MouseButton.LeftButton, pos=QPoint(8, ring.height() // 2))
    bench.settle()
    assert len(kept(bench).geoms[0].interiors) == 1
    bench.click("asPicture")
    assert isinstance(source(bench), Picture)


def test_a_broken_picture_is_told_and_nothing_changes(bench: Hand, tmp_path: FilePath) -> None:
    held = io.BytesIO()
    Image.new("RGB", (300, 300), (9, 9, 9)).save(held, "JPEG")
    path = tmp_path / "bramble.jpg"
    path.write_bytes(held.getvalue()[:300])
    before = bench.window.session.job
    bench.window.files.open_file(path)
    bench.settle()
    assert "bramble.jpg cannot be read as a picture" in bench.notice()
    assert bench.window.session.job is before


def test_nothing_is_cut_off_in_the_panels(bench: Hand) -> None:
    bench.window.trays.gather.add_picture(small_photo, PHOTO)
    bench.settle()
    for button in (None, "asPortrait"):
        if button:
            bench.click(button)
        panel = bench.window.trays.gather.in_hand
        for widget in panel.findChildren(QWidget):
            if widget.isVisible() and widget.parent() is panel:
                assert widget.geometry().right() <= panel.width()


def with_pictures(tmp_path: FilePath, *, shape: bool) -> FilePath:
    """A drawing 100 mm wide that holds a picture 30 mm wide twice, and perhaps a circle."""
    held = io.BytesIO()
    pixels = np.full((40, 60), 240, np.uint8)
    pixels[10:30, 15:45] = 30
    Image.fromarray(pixels).save(held, "PNG")
    data = base64.b64encode(held.getvalue()).decode()
    image = f'<image x="{{}}" y="5" width="30" height="20" href="data:image/png;base64,{data}"/>'
    circle = '<circle cx="80" cy="40" r="9"/>' if shape else ""
    path = tmp_path / "mixed.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60">'
        f"{circle}{image.format(5)}{image.format(45)}</svg>"
    )
    return path


def test_pictures_inside_a_drawing_are_offered_to_be_traced(bench: Hand, tmp_path: FilePath) -> None:
    bench.window.files.open_file(with_pictures(tmp_path, shape=True))
    bench.settle()
    assert bench.window.session.result is not None
    scale = bench.window.session.result.layers[0].elements[0].drawing_scale
    assert scale is not None
    bench.click("drawing_taken")
    bench.click("tracePictures")
    elements = bench.window.session.job.item.layers[0].elements
    assert [type(one.source) for one in elements[1:]] == [Picture, Picture]
    assert elements[1].placement.width == pytest.approx(15.0 * scale, rel=0.02)  # its ink is half as wide


def test_a_drawing_that_is_only_a_picture_is_taken_as_that(bench: Hand, tmp_path: FilePath) -> None:
    bench.window.files.open_file(with_pictures(tmp_path, shape=False))
    bench.settle()
    assert isinstance(source(bench), Picture)
    assert len(kept(bench).geoms) == 1
