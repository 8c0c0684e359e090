"""How long the window keeps a person waiting while something long is worked out beside it.

    PYTHONPATH=src .venv/bin/python bench/latency.py [--seconds 10]

Needs a display (Xvfb will do). A very large job is worked out; meanwhile every 15 ms a key is typed into a field, and
it is measured how long each key takes until the field shows it, and how long the event loop is away between two of its
turns. The baseline is the same typing while nothing is worked out.
"""

from __future__ import annotations

import argparse
import sys
import time

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from stolen import Stolen
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, portrait_job
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement
from vivid_thimble.core.sources.letter_grid import LetterGrid
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Thicken, Weld
from vivid_thimble.desktop.app import TURN_S, prepare_application
from vivid_thimble.desktop.application.memory import Tidier
from vivid_thimble.desktop.window.window import MainWindow

EACH_S = 0.015


def long_job(number: int) -> Job:
    """Hundreds of script letters that are joined, welded and thickened; another number is another job."""
    lines = "\n".join(f"Wandering Heron Second Supper Moth Ember {number}{k}" for k in range(14))
    words = Element(
        id="words",
        name="Many words",
        source=Words(text=lines, face="bundled:Pacifico"),
        placement=Placement(width=900.0),
        steps=(Join(id="join"), Weld(id="weld"), Thicken(id="thicken", by=0.2)),
    )
    film = demo_job().item.layers[0].film
    layer = Layer(id="layer", film=film, elements=(words,))
    return Job(name="Long", items=(Item(id="item", name="Wall", width=1000.0, height=700.0, layers=(layer,)),))


def grid_job(number: int) -> Job:
    grid = Element(
        id="grid",
        name="Grid",
        source=LetterGrid(names=("HERON", "EMBER"), columns=40, rows=30, seed=number, face="bundled:League Spartan"),
        placement=Placement(width=800.0),
    )
    film = demo_job().item.layers[0].film
    layer = Layer(id="layer", film=film, elements=(grid,))
    return Job(name="Grid", items=(Item(id="item", name="Pane", width=900.0, height=700.0, layers=(layer,)),))


def type_for(window: MainWindow, seconds: float, renew: object) -> tuple[np.ndarray, np.ndarray, float]:
    """Milliseconds for each key, for each turn of the event loop, and how long work was really going on."""
    app, field = QApplication.instance(), window.findChild(QLineEdit, "itemName")
    assert app is not None and isinstance(field, QLineEdit)
    window.go_to("measure")
    field.setFocus()
    keys, turns, busy, number = [], [], 0.0, 0
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        if not window.session.is_evaluating and renew is not None:
            number += 1
            renew(number)  # type: ignore[operator]
        began = time.perf_counter()
        app.processEvents()
        turns.append(1000.0 * (time.perf_counter() - began))
        before = field.text()
        began = time.perf_counter()
        QTest.keyClick(field, Qt.Key.Key_A if len(before) < 40 else Qt.Key.Key_Backspace)
        app.processEvents()
        assert field.text() != before
        keys.append(1000.0 * (time.perf_counter() - began))
        pause = time.perf_counter()
        time.sleep(EACH_S)
        busy += (time.perf_counter() - pause) if window.session.is_evaluating else 0.0
    return np.array(keys), np.array(turns), busy


def told(name: str, keys: np.ndarray, turns: np.ndarray) -> str:
    middle, late = np.percentile(keys, 50), np.percentile(keys, 95)
    typed = f"key p50 {middle:5.1f}  p95 {late:5.1f}  worst {keys.max():6.1f} ms"
    return f"{name:24s} {typed}   loop worst {turns.max():6.1f} ms   ({len(keys)} keys)"


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seconds", type=float, default=10.0)
    seconds = parser.parse_args().seconds
    stolen = Stolen()
    app, palette = prepare_application([])
    sys.setswitchinterval(TURN_S)  # as the program does
    window = MainWindow(palette)
    window.resize(1280, 800)
    window.show()
    tidier = Tidier(lambda: window.session.is_busy)  # as the program does
    window.session.start(demo_job(), demo_assets())
    while window.session.is_busy:
        app.processEvents()
    keys, turns, _ = type_for(window, 3.0, None)
    print(told("nothing beside", keys, turns))

    def portrait(number: int) -> None:
        job = portrait_job()
        element = replace(job.item.layers[0].elements[0], placement=Placement(width=200.0 + number))
        layers = (replace(job.item.layers[0], elements=(element,)),)
        window.session.change("Portrait", replace(job, items=(replace(job.item, layers=layers),)))

    for name, renew in (
        ("many words", lambda n: window.session.change("Words", long_job(n))),
        ("letter grid", lambda n: window.session.change("Grid", grid_job(n))),
        ("line portrait", portrait),
    ):
        keys, turns, _ = type_for(window, seconds, renew)
        print(told(name, keys, turns))
    print(stolen.told())
    tidier.deleteLater()
    window.session.stop()
    window.table.stop()


if __name__ == "__main__":
    main()
