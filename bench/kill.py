"""Ends an editing window without warning at random moments: does the job open again, and how much is lost?

    PYTHONPATH=src python bench/kill.py [--times N]

The window edits twenty times a second and saves every second and a half; each edit's number is the name of the job and
is noted, with its time, beside it. After the end the newest of the project and the recovery journal is opened. Told:
how many of the runs had something to open (the others ended before the first journal), files that did not open, and
the longest time of edits that were lost.
"""

from __future__ import annotations

import argparse
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path as FilePath

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.storage.project import open_project

EDIT_EVERY_MS, SAVE_EVERY = 50, 30


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--times", type=int, default=50)
    parser.add_argument("--edit", default="", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.edit:
        return edit(FilePath(options.edit))
    chance = random.Random(3)
    opened, broken, lost = 0, 0, []
    for _ in range(options.times):
        with tempfile.TemporaryDirectory() as name:
            folder = FilePath(name)
            ended = run_and_kill(folder, chance.uniform(1.0, 5.0))
            numbers, bad = recovered(folder)
            broken += bad
            opened += bool(numbers)
            lost.append(seconds_lost(folder, max(numbers, default=-1), ended))
    print(f"{opened} of {options.times} had a file to open, {broken} files broken; at most {max(lost):.2f} s lost")
    return 0


def run_and_kill(folder: FilePath, after: float) -> float:
    """When the window was ended, in seconds since the epoch; ``after`` seconds from its first edit."""
    command = [sys.executable, __file__, "--edit", str(folder)]
    child = subprocess.Popen(command, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"})
    while not (folder / "edits.txt").exists():
        time.sleep(0.02)
    time.sleep(after)
    child.send_signal(signal.SIGKILL)
    ended = time.time()
    child.wait()
    return ended


def recovered(folder: FilePath) -> tuple[list[int], int]:
    """The edits that the project and the journals hold, and how many of those files do not open."""
    found, broken = [], 0
    for path in [*folder.glob("job.thimble"), *(folder / "recovery").glob("*.thimble")]:
        try:
            found.append(int(open_project(path)[0].name.split()[1]))
        except ThimbleError:
            broken += 1
    return found, broken


def seconds_lost(folder: FilePath, number: int, ended: float) -> float:
    """From the first edit that is not there to the end."""
    for line in (folder / "edits.txt").read_text().splitlines():
        parts = line.split()
        if len(parts) == 2 and int(parts[0]) > number:
            return ended - float(parts[1])
    return 0.0


def edit(folder: FilePath) -> int:
    """Edit and save until somebody ends it."""
    from msgspec.structs import replace
    from PySide6.QtCore import QTimer

    from vivid_thimble.core.demo.jobs import demo_assets, demo_job
    from vivid_thimble.core.job.edits import moved_design
    from vivid_thimble.desktop.app import prepare_application
    from vivid_thimble.desktop.session.recovery import Recovery
    from vivid_thimble.desktop.window.window import MainWindow

    app, palette = prepare_application([])
    window = MainWindow(palette, Recovery(folder / "recovery"))
    window.show()
    window.session.start(demo_job(), demo_assets())
    notes = (folder / "edits.txt").open("w")
    count = 0

    def once() -> None:
        nonlocal count
        count += 1
        job = moved_design(window.session.job, 0.1 if count % 2 else -0.1, 0.0)
        window.session.change("Move", replace(job, name=f"edit {count}"))
        notes.write(f"{count} {time.time():.4f}\n")
        notes.flush()
        if count % SAVE_EVERY == 0:
            window.files.save_to(folder / "job.thimble")

    timer = QTimer()
    timer.timeout.connect(once)
    timer.start(EDIT_EVERY_MS)
    return app.exec()


if __name__ == "__main__":
    sys.exit(main())
