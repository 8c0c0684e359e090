"""How fluid the table is: frames while panning and zooming, and how long the window keeps others waiting.

    PYTHONPATH=src .venv/bin/python bench/table.py

Needs a display (Xvfb will do). A frame is everything that happens between two steps of the pointer: the step, all
events that it causes, painting included. The baseline paints the same films as one compound path with every point.
"""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
import shapely
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap, QTransform
from PySide6.QtWidgets import QApplication

from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import new_job
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.window.window import MainWindow

STEPS = 60


def many_rings(pieces: int, points_each: int, seed: int = 3) -> shapely.MultiPolygon:
    """Flowers in rows on 1000 x 600 mm, each with a wavy edge."""
    rng, side = np.random.default_rng(seed), int(np.ceil(np.sqrt(pieces)))
    t = np.linspace(0.0, 2.0 * np.pi, points_each, endpoint=False)
    shapes = []
    for k in range(pieces):
        x, y = (k % side + 0.5) * 1000.0 / side, (k // side + 0.5) * 600.0 / side
        wave = 1.0 + 0.3 * np.sin(t * rng.integers(5, 20) + rng.random() * 6) + 0.02 * np.sin(t * (points_each // 9))
        reach = 220.0 / side * wave
        shapes.append(shapely.Polygon(np.column_stack([x + reach * np.cos(t), y + reach * np.sin(t)])))
    return shapely.MultiPolygon(shapes)


def result_with(polygons: shapely.MultiPolygon) -> ItemResult:
    """A result whose film has these polygons; nothing else of it is computed."""
    empty = evaluate(new_job("Table", 1000.0, 600.0), {})
    region = Region(polygons)
    film = replace(empty.layers[0], kept=region, design=region, parts=(Part("flowers", region),))
    whole = (0.0, 0.0, 1000.0, 600.0)
    return replace(empty, layers=(film,), bounds=whole, sheet_bounds=whole)


def frames(window: MainWindow, step: object, count: int = STEPS) -> np.ndarray:
    """Milliseconds of each frame."""
    app, spent = QApplication.instance(), []
    assert app is not None
    for k in range(count):
        began = time.perf_counter()
        step(k)  # type: ignore[operator]
        app.processEvents()
        spent.append(1000.0 * (time.perf_counter() - began))
        time.sleep(0.004)
    return np.array(spent)


def until_still(window: MainWindow) -> float:
    """Seconds until everything is shown sharp."""
    app, began = QApplication.instance(), time.perf_counter()
    assert app is not None
    while True:
        app.processEvents()
        if not window.table.films.tiles.is_busy:
            return time.perf_counter() - began
        time.sleep(0.001)


def baseline(polygons: shapely.MultiPolygon, window: MainWindow) -> float:
    """Milliseconds for one frame with one compound path."""
    table, picture = window.table, QPixmap(window.table.size())
    path = painter_path(polygons)
    began = time.perf_counter()
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#2f6f8f"))
        painter.setTransform(QTransform.fromScale(table.px_per_mm, table.px_per_mm))
        painter.drawPath(path)
    return 1000.0 * (time.perf_counter() - began)


def told(name: str, spent: np.ndarray) -> str:
    middle, late = np.percentile(spent, 50), np.percentile(spent, 95)
    return f"{name:28s} p50 {middle:6.1f}  p95 {late:6.1f}  worst {spent.max():6.1f} ms"


def measure(pieces: int, points_each: int) -> None:
    _, palette = prepare_application([])
    window = MainWindow(palette)
    window.resize(1280, 800)
    window.show()
    table = window.table
    polygons = many_rings(pieces, points_each)
    print(f"\n{pieces * points_each:,} vertices in {pieces:,} pieces")
    while window.session.is_busy:
        QApplication.processEvents()
    job = new_job("Table", 1000.0, 600.0)
    table.show_job(job, ())
    table.show_result(result_with(polygons))
    table.zoom_to_fit()
    print(f"first sharp picture          {1000 * until_still(window):6.0f} ms")
    one = baseline(polygons, window)
    for look in ("finished", "cut"):
        table.set_look(look)
        table.zoom_to_fit()
        until_still(window)
        pan = frames(window, lambda k: _pan(window, 9 if k < STEPS // 2 else -9))
        print(told(f"{look}: pan, whole item", pan))
        zoom = frames(window, lambda k: table.zoom_by(1.06 if k < STEPS // 2 else 1 / 1.06))
        print(told(f"{look}: zoom", zoom))
        table.zoom_by(8.0)
        print(f"{look}: sharp after a jump      {1000 * until_still(window):6.0f} ms")
        pan = frames(window, lambda k: _pan(window, 13 if k < STEPS // 2 else -17))
        print(told(f"{look}: pan, eight times", pan))
    share = 100.0 * float(np.percentile(pan, 95)) / one
    print(f"one compound path            {one:6.0f} ms a frame; the last p95 is {share:.1f} % of it")
    window.session.stop()
    table.stop()
    window.close()


def _pan(window: MainWindow, by: float) -> None:
    window.table.offset += QPointF(by, by / 3.0)
    window.table.update()


if __name__ == "__main__":
    for shape in ((200, 1_000), (20_000, 10), (200, 5_000), (2, 500_000)):
        measure(*shape)
