"""Downloaded drawings in the window: opened, cleaned, parted by colour, chosen from, with their licence."""

from __future__ import annotations

import io
import threading
import zipfile
from collections.abc import Callable
from importlib import resources
from pathlib import Path as FilePath

import pytest
import shapely
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QListWidget, QTreeWidget, QWidget

from tests.desktop.conftest import Hand
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.sources.artwork import Artwork, film_region
from vivid_thimble.desktop.dialogs.bundle_dialog import BundleDialog
from vivid_thimble.desktop.dialogs.parts_dialog import PartsDialog
from vivid_thimble.desktop.stations.gather import station as gather

DEMO = FilePath(str(resources.files("vivid_thimble") / "data" / "demo"))
DOWNLOAD = DEMO / "lantern-heron.zip"
Pick = Callable[[FilePath], None]


def svg(body: str) -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="60" height="40">{body}</svg>'.encode()


@pytest.fixture
def glass(hand: Hand) -> Hand:
    """A blank for a lantern, Gather open."""
    hand.window.session.start(new_job("Lantern glass", 200.0, 240.0), {})
    hand.go_to("gather")
    return hand


@pytest.fixture
def downloaded(glass: Hand, pick_file: Pick) -> Hand:
    pick_file(DOWNLOAD)
    glass.click("addDrawing")
    return glass


def artwork(hand: Hand) -> Artwork:
    source = hand.window.session.job.item.layers[0].elements[0].source
    assert isinstance(source, Artwork)
    return source


def report(hand: Hand) -> list[str]:
    entries = hand.find("cleaned")
    assert isinstance(entries, QListWidget)
    return [entries.item(row).text() for row in range(entries.count())]


def row_of(hand: Hand, words: str) -> int:
    return next(k for k, text in enumerate(report(hand)) if words in text)


def films(hand: Hand) -> list[shapely.MultiPolygon]:
    return [layer.design.polygons for layer in hand.window.session.result.layers]


def dialog_of(kind: type[QWidget]) -> QWidget:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def test_the_messy_download_becomes_one_clean_film_with_a_report(downloaded: Hand) -> None:
    words = "\n".join(report(downloaded))
    for said in ("1 background patch", "1 shape beyond the page", "1 shape hidden", "1 shape drawn twice", "1 open outline",
                 "1 outline with tiny steps", "specks left out", "pinholes filled", "nodes left out"):  # fmt: skip
        assert said in words
    assert "personal use only" in downloaded.notice()
    (film,) = films(downloaded)
    assert len(film.geoms) == 5
    assert min(piece.area for piece in film.geoms) > 4 * (film.bounds[3] - film.bounds[1]) ** 2 / 195.5**2
    clean = read_drawing((DEMO / "heron-and-reeds.svg").read_bytes())
    scale = 200.0 / 128.0
    truth = film_region(clean, Affine.scaling(scale))
    assert film.area == pytest.approx(truth.area * (film.bounds[3] - film.bounds[1]) ** 2 / 195.5**2, rel=0.05)
    outline = downloaded.window.session.result.layers[0].design.outline
    assert outline.node_count < 420


def test_each_matter_is_shown_on_the_table_and_can_be_switched_off(downloaded: Hand) -> None:
    before = len(films(downloaded)[0].geoms)
    row = row_of(downloaded, "specks")
    downloaded.select_row("cleaned", row)
    assert len(downloaded.window.table._places) >= 10
    entries = downloaded.find("cleaned")
    assert isinstance(entries, QListWidget)
    entries.item(row).setCheckState(Qt.CheckState.Unchecked)
    downloaded.settle()
    assert len(films(downloaded)[0].geoms) > before + 5
    assert "left as drawn" in report(downloaded)[row_of(downloaded, "Specks")]
    downloaded.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(films(downloaded)[0].geoms) == before
    downloaded.type_into("speckSize", "12mm")
    assert len(films(downloaded)[0].geoms) < before


def test_colours_share_films_by_likeness_and_abut_exactly(downloaded: Hand, tmp_path: FilePath) -> None:
    downloaded.click("drawing_colours")
    downloaded.choose("filmCount", "4 films")
    layers = downloaded.window.session.job.item.layers
    assert [layer.film.colour for layer in layers] == ["#e8c95b", "#33465c", "#3f7046", "#2b6a80"]
    assert downloaded.find("film_#6b4a2f").currentData() == downloaded.find("film_#70502f").currentData()
    shapes = films(downloaded)
    overlap = sum(one.area for one in shapes) - shapely.union_all(shapes).area
    assert abs(overlap) < 1e-6
    assert shapely.coverage_is_valid(shapes)
    downloaded.choose("film_#6b4a2f", "A film of its own")
    downloaded.choose("film_#70502f", "Film 5")
    assert len(films(downloaded)) == 5
    downloaded.choose("film_#e8c95b", "Left out")
    assert len(films(downloaded)) == 4
    assert max(one.bounds[2] for one in films(downloaded)) < 200
    before = [one.area for one in films(downloaded)]
    path = tmp_path / "heron.thimble"
    assert downloaded.window.files.save_to(path)
    downloaded.window.session.start(new_job(), {})
    downloaded.window.files.open_file(path)
    downloaded.settle()
    assert [one.area for one in films(downloaded)] == before


def test_all_films_of_a_drawing_move_and_grow_together(downloaded: Hand) -> None:
    downloaded.click("drawing_colours")
    downloaded.choose("filmCount", "3 films")
    before = films(downloaded)
    downloaded.type_into("designWidth", "120mm")
    after = films(downloaded)
    scale = 120.0 / (max(s.bounds[2] for s in before) - min(s.bounds[0] for s in before))
    for one, other in zip(before, after, strict=True):
        assert other.area == pytest.approx(one.area * scale**2, rel=0.01)
    assert shapely.coverage_is_valid(after)
    downloaded.window.wishes.move(7.0, -3.0)
    downloaded.settle()
    for one, other in zip(after, films(downloaded), strict=True):
        assert other.centroid.x - one.centroid.x == pytest.approx(7.0, abs=1e-6)


@pytest.mark.parametrize("ending", ["svg", "dxf", "pdf"])
def test_a_film_is_saved_in_each_format_and_reads_back_as_it_is(
    downloaded: Hand, tmp_path: FilePath, ending: str
) -> None:
    downloaded.go_to("cut")
    path = tmp_path / f"heron.{ending}"
    downloaded.window.trays["cut"].save_to(path)
    drawing = read_drawing(path.read_bytes(), path.name)
    assert drawing.mm_per_unit is not None
    from vivid_thimble.core.sources.line_work import guessed_lines, with_lines_as

    back = film_region(with_lines_as(drawing, guessed_lines(drawing), 0.0, 0.01), Affine.scaling(drawing.mm_per_unit))
    (film,) = films(downloaded)
    assert back.area == pytest.approx(film.area, rel=1e-4)
    assert len(back.polygons.geoms) == len(film.geoms)


def test_parts_are_chosen_by_click_by_colour_by_size_and_in_the_tree(downloaded: Hand) -> None:
    downloaded.click("drawing_taken")
    downloaded.click("chooseParts")
    dialog = dialog_of(PartsDialog)
    assert isinstance(dialog, PartsDialog)
    tree = dialog.findChild(QTreeWidget, "partsTree")
    assert [tree.topLevelItem(k).text(0) for k in range(tree.topLevelItemCount())] == [
        "rect", "sky", "water", "reeds", "bird", "dust"
    ]  # fmt: skip
    moon = dialog.canvas.view().map(QPointF(50, 20)).toPoint()
    downloaded.bot.mouseClick(dialog.canvas, Qt.MouseButton.LeftButton, pos=QPoint(moon.x(), moon.y()))
    downloaded.settle()
    assert len(artwork(downloaded).left_out) == 1
    assert "47 of 48" in dialog.count.text()
    dialog.colour.setCurrentIndex(dialog.colour.findText("#3f7046", Qt.MatchFlag.MatchContains))
    downloaded.bot.mouseClick(dialog.findChild(QWidget, "partsLeaveColour"), Qt.MouseButton.LeftButton)
    assert len(artwork(downloaded).left_out) == 3
    downloaded.bot.mouseClick(dialog.findChild(QWidget, "partsLeaveSmall"), Qt.MouseButton.LeftButton)
    assert len(artwork(downloaded).left_out) > 25
    dialog.findChild(QTreeWidget, "partsTree").topLevelItem(2).setCheckState(0, Qt.CheckState.Unchecked)
    downloaded.settle()
    assert max(one.bounds[3] for one in films(downloaded)) < 240
    downloaded.bot.mouseClick(dialog.findChild(QWidget, "partsAll"), Qt.MouseButton.LeftButton)
    assert artwork(downloaded).left_out == ()
    dialog.close()


def test_a_personal_licence_is_remembered_and_reminded_of(
    downloaded: Hand, tmp_path: FilePath, pick_file: Pick
) -> None:
    downloaded.click("drawing_origin")
    downloaded.type_into("origin_maker", "Odile Marsh")
    assert artwork(downloaded).provenance.licence == "personal"
    assert not any("personally only" in f.sentence for f in downloaded.window.session.result.findings)
    downloaded.click("forSale")
    assert any("personally only" in f.sentence for f in downloaded.window.session.result.findings)
    assert "ask its maker" in downloaded.window.trays.gather.drawing.origin.reminder.text()
    downloaded.go_to("weed")
    pick_file(tmp_path / "sheet.txt")
    downloaded.click("saveJobSheet")
    sheet = (tmp_path / "sheet.txt").read_text()
    assert "by Odile Marsh, from lantern-heron.zip, personal use only" in sheet
    assert "Made for sale" in sheet


def test_outlines_made_for_cutting_are_filled_and_sketches_widened(glass: Hand, tmp_path: FilePath) -> None:
    plate = '<g fill="none" stroke="red" stroke-width=".05"><rect width="50" height="30"/><circle cx="20" cy="15" r="8"/></g>'
    (tmp_path / "plate.svg").write_bytes(svg(plate))
    glass.window.files.open_file(tmp_path / "plate.svg")
    glass.settle()
    assert artwork(glass).lines == "filled"
    (film,) = films(glass)
    assert [len(piece.interiors) for piece in film.geoms] == [1]
    glass.click("drawing_taken")
    glass.choose("drawingLines", "widened")
    glass.type_into("drawingLineWidth", "2mm")
    (film,) = films(glass)
    assert len(film.geoms) == 2
    assert film.area == pytest.approx(2.0 * film.length / 2.0, rel=0.02)
    figure, _ = glass.gauge("line")
    assert figure == "2 mm"


def test_a_drawing_is_pasted_and_what_is_none_is_told(glass: Hand) -> None:
    content = QMimeData()
    content.setText(svg('<circle cx="20" cy="20" r="9"/>').decode())
    QGuiApplication.clipboard().setMimeData(content)
    glass.window.files.paste()
    glass.settle()
    assert len(films(glass)[0].geoms) == 1
    QGuiApplication.clipboard().setText("heron")
    glass.window.files.paste()
    glass.settle()
    assert glass.window.session.job.item.layers[0].elements[-1].source.text == "heron"
    QGuiApplication.clipboard().clear()
    glass.window.files.paste()
    assert "There is no drawing, picture or text on the clipboard" in glass.notice()


def test_a_zip_with_several_drawings_and_fonts_asks_which(glass: Hand, tmp_path: FilePath) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("a/moon.svg", svg('<circle cx="20" cy="20" r="9"/>'))
        archive.writestr("a/star.svg", svg('<path d="M5 5L30 9L12 30Z"/><rect x="33" width="9" height="9"/>'))
        archive.writestr("../moon.pdf", b"%PDF-1.4")
        archive.writestr("face.otf", b"OTTO")
    (tmp_path / "kit.zip").write_bytes(out.getvalue())
    glass.window.files.open_file(tmp_path / "kit.zip")
    glass.settle()
    dialog = dialog_of(BundleDialog)
    assert isinstance(dialog, BundleDialog)
    shown = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert [text.split("    ")[0] for text in shown] == ["moon.pdf", "moon.svg", "star.svg", "face.otf"]
    assert [item.text().split("    ")[0] for item in dialog.list.selectedItems()] == ["star.svg"]
    dialog.list.item(1).setSelected(True)
    assert dialog.take_button.text() == "Add these 2 drawings"
    glass.bot.mouseClick(dialog.take_button, Qt.MouseButton.LeftButton)
    glass.settle()
    names = [e.name for e in glass.window.session.job.item.layers[0].elements]
    assert sorted(names) == ["moon.svg", "star.svg"]


def test_the_size_that_a_file_states_is_offered(glass: Hand, tmp_path: FilePath) -> None:
    (tmp_path / "tile.svg").write_bytes(
        svg('<rect width="60" height="30"/>').replace(b'width="60"', b'width="90mm" viewBox="0 0 60 40"', 1)
    )
    glass.window.files.open_file(tmp_path / "tile.svg")
    glass.settle()
    glass.click("drawing_taken")
    assert "90 mm × 45 mm" in glass.find("statedSize").text()
    glass.click("statedSize")
    assert films(glass)[0].bounds[2] - films(glass)[0].bounds[0] == pytest.approx(90.0)


class SlowFile:
    """A drawing that is opened, and whose reading waits until it is let go."""

    def __init__(self, hand: Hand, folder: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
        self.go_on = threading.Event()
        real = gather.open_file

        def slow(path: FilePath, cache: Cache) -> object:
            assert self.go_on.wait(60.0)
            return real(path, cache)

        monkeypatch.setattr(gather, "open_file", slow)
        (folder / "moon.svg").write_bytes(svg('<circle cx="20" cy="20" r="9"/>'))
        hand.window.files.open_file(folder / "moon.svg")


def test_a_file_that_takes_long_leaves_the_window_to_its_user(
    glass: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow = SlowFile(glass, tmp_path, monkeypatch)
    assert glass.window.state_label.text() == "reading moon.svg…"
    glass.bot.mouseClick(glass.find("addWords"), Qt.MouseButton.LeftButton)
    glass.bot.keyClicks(glass.find("wordsText"), "Heron")
    glass.bot.waitUntil(lambda: bool(glass.window.session.result.bounds), timeout=60_000)
    assert glass.window.session.is_reading
    slow.go_on.set()
    glass.settle()
    assert [e.name for e in glass.window.session.job.item.layers[0].elements] == ["Heron", "moon.svg"]
    assert glass.window.state_label.text() == ""


def test_a_file_read_for_another_job_does_not_join_this_one(
    glass: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    slow = SlowFile(glass, tmp_path, monkeypatch)
    glass.window.session.start(new_job("Another glass"), {})
    slow.go_on.set()
    glass.settle()
    glass.bot.wait(300)
    assert not glass.window.session.job.item.layers[0].elements
    assert not glass.window.session.assets


def test_a_reader_that_fails_says_so_and_the_window_stands(
    glass: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(path: FilePath, cache: Cache) -> object:
        raise IndexError("no such row")

    monkeypatch.setattr(gather, "open_file", broken)
    glass.window.files.open_file(tmp_path / "moon.svg")
    glass.settle()
    assert glass.notice() == "moon.svg could not be read (no such row): save it in another format and try again."
    assert [record.message for record in caplog.records] == ["moon.svg could not be read"]
    caplog.clear()


def test_of_several_files_the_bad_one_is_told_and_the_others_join(glass: Hand, tmp_path: FilePath) -> None:
    moon = svg('<circle cx="20" cy="20" r="9"/>')
    for name, data in {"a moon.svg": moon, "b torn.svg": b"<svg", "c star.svg": moon.replace(b"20", b"25")}.items():
        (tmp_path / name).write_bytes(data)
        glass.window.files.open_file(tmp_path / name)
    glass.settle()
    session = glass.window.session
    elements = session.job.item.layers[0].elements
    assert [element.name for element in elements] == ["a moon.svg", "c star.svg"]
    assert "b torn.svg" in glass.notice()
    assert set(session.assets) == {element.source.asset for element in elements}
    glass.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert [element.name for element in session.job.item.layers[0].elements] == ["a moon.svg"]
