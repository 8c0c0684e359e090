"""The second language is whole, sentences with gaps are found, and nothing is cut off at any text size."""

from __future__ import annotations

import importlib.util
import json
import re
from collections.abc import Callable, Iterator
from pathlib import Path as FilePath
from types import ModuleType

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QListWidget, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from tests.desktop.conftest import Hand
from tests.desktop.fitting import clipped
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, hull_job, pane_job
from vivid_thimble.core.job.edits import moved_design, with_element, with_item
from vivid_thimble.core.job.values import Job, elements_of
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.look.theme import TEXT_SCALE, palette_in_use, style_sheet
from vivid_thimble.desktop.look.translation import use_language
from vivid_thimble.desktop.look.words import figures, tr
from vivid_thimble.desktop.window.window import MainWindow

ROOT = FilePath(__file__).resolve().parents[2]


def extractor() -> ModuleType:
    spec = importlib.util.spec_from_file_location("extract_words", ROOT / "scripts" / "extract_words.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


@pytest.fixture
def german(qapp: QApplication) -> Iterator[None]:
    use_language(qapp, "de")
    yield
    use_language(qapp, "en")


def test_every_word_of_the_window_has_a_german_one() -> None:
    module = extractor()
    words = module.all_words()
    assert len(words) > 1500
    german = module.read_list(ROOT / "languages" / "de.tsv")
    assert [word for word in words if word not in german] == []
    for english, said in german.items():
        assert sorted(re.findall(r"%\d", english)) == sorted(re.findall(r"%\d", said)), english
    shipped = json.loads((module.OUT / "patterns.json").read_text(encoding="utf-8"))
    assert shipped == [word for word in words if re.search(r"%\d", word)], "run scripts/extract_words.py"
    assert (ROOT / "languages" / "words.txt").read_text(encoding="utf-8").count("\n") == len(words)


def test_exact_texts_sentences_and_lists_are_said_in_german(german: None) -> None:
    assert tr("Measure") == "Messen"
    said = tr("A neck is 0.42 mm wide: the film tears there.")
    assert "0,42 mm" in said and "Hals" in said and "neck" not in said
    assert tr("words, drawing") == "Wörter, Zeichnung"
    assert tr("&Undo: Move") == "&Rückgängig: Verschieben"
    assert tr("Wandering Heron") == "Wandering Heron", "names stay"
    assert tr("") == ""


@pytest.mark.parametrize(
    ("told", "german_says"),
    [
        ("0.81 mm", "0,81 mm"),
        ("-0.5 × 12.25 mm, 3 in", "-0,5 × 12,25 mm, 3 in"),
        ("It is 0.8.", "It is 0,8."),
        ("lantern-1.5.svg, v2.0, 0.1.0, 10.1/2.5x", "lantern-1.5.svg, v2.0, 0.1.0, 10.1/2.5x"),
    ],
)
def test_figures_have_the_decimal_mark_of_the_language(german: None, told: str, german_says: str) -> None:
    assert figures(told) == german_says


def test_lengths_are_typed_and_shown_with_a_comma_in_german(
    make_window: Callable[[float, tuple[int, int]], Hand], german: None
) -> None:
    hand = make_window(1.0, (1280, 800))
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.type_into("designWidth", "45,25 cm")
    assert hand.window.session.result.size[0] == pytest.approx(452.5, abs=0.01)
    assert hand.find("designWidth").text() == "452,5 mm"
    hand.type_into("designWidth", "400.5 + 0,25")
    assert hand.find("designWidth").text() == "400,75 mm"


def test_english_needs_no_catalogue(qapp: QApplication) -> None:
    use_language(qapp, "en")
    assert tr("Measure") == "Measure" and tr("At most 3 × 4: the width decides.").startswith("At most")
    use_language(qapp, "xx")
    assert tr("Measure") == "Measure"


def shown_texts(window: QWidget) -> set[str]:
    return {
        widget.text()
        for widget in window.findChildren(QWidget)
        if isinstance(widget, QLabel | QPushButton) and widget.isVisible() and widget.text()
    }


def english_only(language: str) -> set[str]:
    """Texts that are others in this language."""
    pairs = extractor().read_list(ROOT / "languages" / "de.tsv") if language == "de" else {}
    return {text for text, said in pairs.items() if text != said}


@pytest.fixture
def make_window(qtbot: QtBot, qapp: QApplication) -> Iterator[Callable[[float, tuple[int, int]], Hand]]:
    prepare_application([])
    made: list[MainWindow] = []
    sheet = qapp.styleSheet()

    def make(scale: float, size: tuple[int, int]) -> Hand:
        qapp.setProperty(TEXT_SCALE, scale)
        qapp.setStyleSheet("")
        window = MainWindow(palette_in_use())
        qapp.setStyleSheet(style_sheet(palette_in_use(), scale))
        made.append(window)
        window.resize(*size)
        window.show()
        return Hand(window, qtbot)

    yield make
    for window in made:
        window.session.start(window.session.job, window.session.assets)
        window.close()
    qapp.setProperty(TEXT_SCALE, 1.0)
    qapp.setStyleSheet(sheet)


@pytest.mark.parametrize(
    ("language", "scale", "size", "jobs"),
    [
        ("en", 1.5, (1280, 800), (demo_job,)),
        ("de", 1.5, (1280, 800), (hull_job, pane_job)),
        ("de", 1.0, (1920, 1200), (demo_job,)),
    ],
)
def test_nothing_is_cut_off(
    make_window: Callable[[float, tuple[int, int]], Hand],
    qapp: QApplication,
    language: str,
    scale: float,
    size: tuple[int, int],
    jobs: tuple[Callable[[], Job], ...],
    tmp_path: FilePath,
) -> None:
    use_language(qapp, language)
    try:
        hand = make_window(scale, size)
        for make in jobs:
            hand.window.session.start(make(), demo_assets())
            hand.settle()
            for station in hand.window.trays:
                hand.go_to(station)
                assert clipped(hand.window) == []
                assert sorted(shown_texts(hand.window) & english_only(language)) == [], "English in a German window"
                assert (hand.window.width(), hand.window.height()) == size, "the window fits the screen"
                fields = {field.text() for field in hand.window.findChildren(QLineEdit) if field.isVisible()}
                points = [text for text in shown_texts(hand.window) | fields if re.search(r"\d\.\d", text)]
                assert language == "en" or not points, "figures with a point in a German window"
        jobs_of_late = [tmp_path / f"Lanterns for the regatta {k}.thimble" for k in range(6)]
        for path in jobs_of_late:
            path.touch()
        QSettings().setValue("recent", [str(path) for path in jobs_of_late])
        hand.window.show_start()
        hand.settle()
        assert clipped(hand.window.start_page) == []
        assert hand.find("recent_4").isVisible()
        assert (hand.window.width(), hand.window.height()) == size, "the window fits the screen"
    finally:
        use_language(qapp, "en")


def test_the_check_itself_sees_what_is_cut_off(hand: Hand) -> None:
    button = hand.find("zoomFit")
    button.setFixedWidth(20)
    hand.settle()
    assert any("zoomFit" in line for line in clipped(hand.window))


@pytest.mark.parametrize("name", ["Look", "Note", "Slice", "Film"])
def test_what_a_person_has_named_keeps_its_name_in_german(
    make_window: Callable[[float, tuple[int, int]], Hand], german: None, name: str
) -> None:
    """All of them are words of the window, which are translated wherever the window itself says them."""
    hand = make_window(1.0, (1280, 800))
    job = with_item(moved_design(hull_job(), 400.0, 0.0), lambda item: replace(item, name=name))
    for element in elements_of(job.item):
        job = with_element(job, element.id, lambda one: replace(one, name=name))
    hand.window.session.start(replace(job, name=name), {})
    hand.settle()
    hand.go_to("gather")
    entries = hand.find("elements")
    assert isinstance(entries, QListWidget)
    assert [entries.item(k).text().split()[0] for k in range(entries.count())] == [name] * entries.count()
    hand.go_to("inspect")
    findings = hand.find("findings")
    assert isinstance(findings, QListWidget)
    told = [findings.item(k).text() for k in range(findings.count())]
    assert any(one.startswith(f"Das Motiv läuft über den Rand von {name}: ") for one in told), told
    finding = next(f for f in hand.window.session.result.findings if f.kind == "does-not-fit")
    assert name in tr(finding.message) and tr(finding.message) != finding.sentence
    assert hand.window.windowTitle().startswith(name)
