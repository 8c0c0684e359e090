"""Recovery, the newest request wins, painter paths, contrast, accessible names."""

from __future__ import annotations

import os
from pathlib import Path as FilePath

import numpy as np
import pytest
import shapely
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.desktop.conftest import Hand
from tests.shapes import blobs, ring
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.job.edits import scaled_design, with_item
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.storage.stock import Stock, StockFilm, load_stock, stock_bytes
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.session.evaluator import Evaluator
from vivid_thimble.desktop.session.recovery import Recovery
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.table.rulers import ruler_steps

KEPT_STOCK = Stock().with_entry("films", StockFilm(film=replace(DECAL_FILM, name="Roll from the market")))


def test_unsaved_work_is_found_again_after_a_crash(qtbot: QtBot, tmp_path: FilePath) -> None:
    session = Session()
    running = Recovery(tmp_path)
    session.start(demo_job(), demo_assets())
    session.change("Size", scaled_design(demo_job(), 0.5))
    running.job_changed(session)
    running.write()
    journal = next(tmp_path.glob("*.thimble"))
    assert running.left_over() == []
    crashed = journal.rename(tmp_path / "999999999.thimble")
    (found,) = Recovery(tmp_path).left_over()
    assert found == crashed
    again = Session()
    again.open(found)
    assert again.job == scaled_design(demo_job(), 0.5)
    for one in (session, again):
        one.stop()


def test_only_the_newest_request_is_answered(qtbot: QtBot) -> None:
    evaluator = Evaluator(Cache())
    answers = []
    evaluator.answered.connect(answers.append)
    ids = [evaluator.ask(scaled_design(demo_job(), 1 + k / 100), demo_assets()) for k in range(6)]
    qtbot.waitUntil(lambda: not evaluator.is_busy, timeout=90_000)
    evaluator.stop()
    assert [answer.id for answer in answers] == ids[-1:]
    assert answers[0].result is not None


@pytest.mark.parametrize("tolerance", [0.0, 0.05])
def test_painter_paths_hold_the_same_area(qtbot: QtBot, tolerance: float) -> None:
    shape = shapely.MultiPolygon([*shapely.get_parts(blobs(4, 200)), shapely.affinity.translate(ring(8, 2), -40, 0)])
    path = painter_path(shape, tolerance)
    rng = np.random.default_rng(1)
    left, top, right, bottom = shape.bounds
    points = rng.uniform([left, top], [right, bottom], (400, 2))
    clear = shapely.distance(shape.boundary, shapely.points(points)) > 0.1
    inside = shapely.contains_xy(shape, points)
    assert clear.sum() > 300
    assert all(path.contains(QPointF(*p)) == i for p, i, c in zip(points.tolist(), inside, clear, strict=True) if c)
    assert painter_path(shapely.MultiPolygon()).isEmpty()


@pytest.mark.parametrize("unit", ["mm", "cm", "in", "in/16"])
@pytest.mark.parametrize("px_per_mm", [0.02, 0.5, 3.78, 40, 400])
def test_ruler_labels_never_crowd(unit: str, px_per_mm: float) -> None:
    step, parts = ruler_steps(px_per_mm, unit)
    assert step * px_per_mm >= 50 or step > 6000
    assert parts >= 2


def luminance(colour: str) -> float:
    channels = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("palette", list(PALETTES.values()), ids=list(PALETTES))
def test_every_text_colour_stands_out_from_its_ground(palette: object) -> None:
    pairs = [
        (ink, ground) for ink in ("ink", "soft_ink", "fine", "look", "stop", "thread") for ground in ("panel", "raised")
    ]
    pairs += [("ink", "cloth"), ("soft_ink", "blank"), ("thread_ink", "thread")]
    for ink, ground in pairs:
        a, b = sorted((luminance(getattr(palette, ink)), luminance(getattr(palette, ground))), reverse=True)
        assert (a + 0.05) / (b + 0.05) >= 4.5, f"{ink} on {ground}"


def test_every_control_has_a_name_for_those_who_hear_the_window(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    silent = []
    labelled = {label.buddy() for label in hand.window.findChildren(QLabel) if label.buddy() is not None}
    labelled |= {w.focusProxy() for w in labelled if w.focusProxy() is not None}
    kinds = (QAbstractButton, QLineEdit, QPlainTextEdit, QComboBox, QListWidget)
    for widget in hand.window.findChildren(QWidget):
        internal = widget.objectName().startswith("qt_") or isinstance(widget.parent(), (QComboBox))
        if not isinstance(widget, kinds) or internal:
            continue
        words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
        if not words and widget not in labelled:
            silent.append(widget.objectName() or type(widget).__name__)
    assert silent == []
    assert hand.window.table.accessibleName()


def test_nothing_is_wider_than_the_window_at_1280_by_800(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    for key in hand.window.trays:
        hand.go_to(key)
        station = hand.window.trays[key]
        assert station.minimumSizeHint().width() <= hand.window.trays.width(), key
    assert hand.window.minimumSizeHint().width() <= 1280
    assert hand.window.minimumSizeHint().height() <= 800


@pytest.mark.parametrize("kept", [b"{", stock_bytes(KEPT_STOCK).replace(b'"schema": 1', b'"schema": 99'), None])
def test_a_list_that_cannot_be_read_is_set_aside_before_another_is_written(
    tmp_path: FilePath, kept: bytes | None
) -> None:
    path = tmp_path / "stock.json"
    if kept is None:
        os.mkfifo(path)
    else:
        path.write_bytes(kept)
    (tmp_path / "set-aside-1-stock.json").write_bytes(b"an earlier one")
    workshop = Workshop(tmp_path)
    assert workshop.trouble and workshop.own == Stock()
    workshop.keep(KEPT_STOCK)
    assert load_stock(tmp_path) == KEPT_STOCK
    assert workshop.aside == tmp_path / "set-aside-2-stock.json" and not workshop.trouble
    assert kept is None or workshop.aside.read_bytes() == kept
    assert (tmp_path / "set-aside-1-stock.json").read_bytes() == b"an earlier one"


def test_names_are_shown_as_they_are_written(hand: Hand) -> None:
    """A label that takes a name's signs for commands would hide it, or show what a stranger wants."""
    named = with_item(demo_job(), lambda item: replace(item, name="<b>Boat</b> & <img src=x>"))
    hand.window.session.start(named, demo_assets())
    hand.settle()
    for station in ("measure", "gather", "shape", "inspect", "cut", "weed"):
        hand.go_to(station)
        labels = [label for label in hand.window.findChildren(QLabel) if label.text()]
        assert labels and {label.textFormat() for label in labels} == {Qt.TextFormat.PlainText}
    assert any("<b>Boat</b>" in label.text() for label in hand.window.findChildren(QLabel))
