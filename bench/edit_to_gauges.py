"""From an edit of the demonstration job to new gauges, and from the start to the first paint.

The baseline of the edits is the same evaluation with an empty cache.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.edits import moved_design, scaled_design, with_element
from vivid_thimble.core.job.values import Element, Job
from vivid_thimble.core.steps import Thicken

REPEATS = 7
FIRST_PAINT = """
import os, time
from PySide6.QtCore import QTimer
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
app, palette = prepare_application([])
from vivid_thimble.desktop.window.window import MainWindow
from vivid_thimble.desktop.table.table import Table
window = MainWindow(palette)
window.resize(1280, 800)
paint = Table.paintEvent
def first(self, event):
    paint(self, event)
    if not hasattr(window, "painted"):
        window.painted = time.time()
def told():
    print(window.painted - float(os.environ["STARTED"]), time.time() - float(os.environ["STARTED"]), flush=True)
    window.session.stop()
    os._exit(0)
Table.paintEvent = first
window.session.result_changed.connect(lambda: QTimer.singleShot(0, told) if window.session.result.bounds else None)
window.show()
window.session.start(demo_job(), demo_assets())
app.exec()
"""


def main() -> None:
    print(
        f"{'edit of the demonstration job':44s} {'best ms':>9s} {'median':>9s} {'worst':>9s} {'cold':>9s} {'ratio':>7s}"
    )
    for name, edit in edits().items():
        warm, cold = measured(edit)
        middle = statistics.median(warm)
        figures = " ".join(f"{ms:9.0f}" for ms in (min(warm), middle, max(warm), cold))
        print(f"{name:44s} {figures} {middle / cold:7.2f}")
    starts = [first_paint() for _ in range(4)][1:]
    paint, gauges = (min(start[k] for start in starts) for k in (0, 1))
    print(f"\nfirst paint {paint:.2f} s, first gauges {gauges:.2f} s (best of 3, warm)")


def edits() -> dict[str, Callable[[Job, int], Job]]:
    def words(job: Job, k: int) -> Job:
        text = ("Second Supper", "Moth & Ember", "Wandering Herons")[k % 3] + "." * (k // 3)
        return with_element(job, "words-1", lambda e: replace(e, source=replace(e.source, text=text)))

    def spacing(job: Job, k: int) -> Job:
        return with_element(job, "words-1", lambda e: replace(e, source=replace(e.source, spacing=0.001 * (k + 1))))

    def thicker(job: Job, k: int) -> Job:
        def grown(e: Element) -> Element:
            return replace(e, steps=(*e.steps, Thicken(id="t", by=0.1 + 0.01 * k)))

        return with_element(job, "words-1", grown)

    return {
        "other words": words,
        "letter spacing": spacing,
        "size of the design": lambda job, k: scaled_design(job, 0.9 + 0.01 * k),
        "design moved": lambda job, k: moved_design(job, 0.5 * (k + 1), 0.0),
        "words thickened": thicker,
    }


def measured(edit: Callable[[Job, int], Job]) -> tuple[list[float], float]:
    job, assets, cache = demo_job(), demo_assets(), Cache()
    evaluate(job, assets, cache)
    warm = []
    for k in range(REPEATS):
        changed = edit(job, k)
        start = time.perf_counter()
        evaluate(changed, assets, cache)
        warm.append((time.perf_counter() - start) * 1e3)
    start = time.perf_counter()
    evaluate(edit(job, REPEATS), assets, Cache())
    return warm, (time.perf_counter() - start) * 1e3


def first_paint() -> tuple[float, float]:
    environment = os.environ | {"STARTED": repr(time.time())}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    environment.setdefault("QT_QPA_PLATFORM", "offscreen" if "DISPLAY" not in environment else "xcb")
    done = subprocess.run(
        [sys.executable, "-c", FIRST_PAINT], env=environment, capture_output=True, text=True, check=True
    )
    paint, gauges = done.stdout.split()[-2:]
    return float(paint), float(gauges)


if __name__ == "__main__":
    main()
