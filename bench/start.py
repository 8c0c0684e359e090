"""How long it takes until the demonstration job is painted, and what the program takes of the memory then.

    PYTHONPATH=src .venv/bin/python bench/start.py [--times 7]

Needs a display (Xvfb will do). Each start is a process of its own with warm files; the clock begins before Python
does. The baseline is a Python that imports Qt's widgets and shows an empty window, in the same run. A job that was
opened before is painted from what was kept of it, and computed anew behind that; the last line is without that.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time

from stolen import Stolen

OURS = """
import gc, os, time
import vivid_thimble.__main__ as program
gc.disable()  # as the program does before it imports anything
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

def watched(app):
    window = next(one for one in app.topLevelWidgets() if hasattr(one, "session"))
    at = {}

    def look():
        now = time.time()
        at.setdefault("shown", now)
        if "done" not in at:
            if window.session.result is not None and window.table.films.kept and window.table.is_sharp:
                at["done"] = now
        elif now > at["done"] + 2.5 and not window.session.is_busy:
            pages = int(open("/proc/self/statm").read().split()[1])
            print(at["shown"], at["done"], pages * 4096 / 1e6, flush=True)
            app.quit()

    timer = QTimer(window)
    timer.timeout.connect(look)
    timer.start(1)
    return run()

run = QApplication.exec
QApplication.exec = watched
program.main(["demo"])
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
    folders = ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME")
    env = dict(os.environ, **{name: tempfile.mkdtemp() for name in folders})
    stolen = Stolen()
    rows = (("empty Qt window", EMPTY), ("demo, opened before", OURS), ("demo, for the first time", OURS))
    for name, code in rows:
        one(code, env)
        runs = []
        for _ in range(times):
            if code is OURS and "first" in name:
                env["XDG_CACHE_HOME"] = tempfile.mkdtemp()
            runs.append(one(code, env))
        shown, done, resident = (statistics.median(run[k] for run in runs) for k in range(3))
        best = min(run[1] for run in runs)
        print(f"{name:24s} first paint {shown:.2f} s   painted job {done:.2f} s (best {best:.2f})   {resident:.0f} MB")
    print(stolen.told())


if __name__ == "__main__":
    main()
