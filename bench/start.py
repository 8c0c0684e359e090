"""How long it takes until the demonstration job is painted, and what the program takes of the memory then.

    PYTHONPATH=src .venv/bin/python bench/start.py [--times 7]

Needs a display (Xvfb will do). Each start is a process of its own with warm files; the clock begins before Python
does. The baseline is a Python that imports Qt's widgets and shows an empty window, in the same run.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time

OURS = """
import sys, time, os
from vivid_thimble.desktop import app as starting
app, palette = starting.prepare_application([], dressed=False)
from vivid_thimble.desktop.workroom import Workroom
from vivid_thimble.core.demo import demo_assets, demo_job
room = Workroom(app)
window = room.open_window()
starting.use_palette(app, starting.read_preferences())
window.show()
window.session.start(demo_job(), demo_assets())
window.go_to("inspect")
shown = 0.0
while window.session.is_busy or window.table.films.tiles.is_busy or window.session.result is None:
    app.processEvents()
    if not shown:
        shown = time.time()
    time.sleep(0.001)
app.processEvents()
done = time.time()
import gc; gc.collect()
end = time.time() + 1.5
while time.time() < end:
    app.processEvents(); time.sleep(0.01)
pages = int(open("/proc/self/statm").read().split()[1])
print(shown, done, pages * 4096 / 1e6, flush=True)
room.stop()
os._exit(0)
"""
EMPTY = """
import time, os
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow(); window.resize(1280, 800); window.show()
app.processEvents()
pages = int(open("/proc/self/statm").read().split()[1])
print(time.time(), time.time(), pages * 4096 / 1e6, flush=True)
os._exit(0)
"""


def one(code: str, env: dict[str, str]) -> tuple[float, float, float]:
    """Seconds to the first paint and to the painted job, MB."""
    began = time.time()
    out = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True).stdout
    shown, done, resident = (float(one) for one in out.split())
    return shown - began, done - began, resident


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--times", type=int, default=7)
    times = parser.parse_args().times
    env = dict(os.environ, XDG_CONFIG_HOME=tempfile.mkdtemp(), XDG_STATE_HOME=tempfile.mkdtemp())
    for name, code in (("empty Qt window", EMPTY), ("Vivid Thimble, demo", OURS)):
        one(code, env)
        runs = [one(code, env) for _ in range(times)]
        shown, done, resident = (statistics.median(run[k] for run in runs) for k in range(3))
        best = min(run[1] for run in runs)
        print(f"{name:22s} first paint {shown:.2f} s   painted job {done:.2f} s (best {best:.2f})   {resident:.0f} MB")


if __name__ == "__main__":
    main()
