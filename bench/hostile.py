"""What files made to break a reader cost and come to, each in a process of its own, so that peak memory is its own.

    PYTHONPATH=src python bench/hostile.py

The files are those of ``tests/hostile.py``; the tests only look at the outcome. Peak memory holds what making the file
takes as well.
"""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
import time
from pathlib import Path as FilePath

ROOT = FilePath(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.hostile import HOSTILE  # noqa: E402 - the folder has to be known first

from vivid_thimble.core.errors import ThimbleError  # noqa: E402
from vivid_thimble.core.formats.drawing_read import read_drawing  # noqa: E402
from vivid_thimble.core.sources.artwork import artwork_for, painted, prepared  # noqa: E402


def one(name: str) -> None:
    """Read one file and print its seconds, peak memory in MB, and outcome as JSON."""
    data = HOSTILE[name]()
    begun = time.perf_counter()
    try:
        drawing = read_drawing(data, "file.svg")
        prepared(painted(drawing, taken := artwork_for(drawing, "key", "file.svg"), 1.0), taken)
        says = f"{len(drawing.parts)} parts"
    except ThimbleError as error:
        says = str(error)
    seconds = time.perf_counter() - begun
    peak = max(resource.getrusage(who).ru_maxrss for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    print(json.dumps([seconds, peak / 1024, says]))


def main() -> None:
    environment = os.environ | {"PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)])}
    for name in HOSTILE:
        command = [sys.executable, __file__, name]
        run = subprocess.run(command, capture_output=True, text=True, check=False, env=environment)
        seconds, peak, says = json.loads(run.stdout) if run.returncode == 0 else (0.0, 0.0, run.stderr[-300:])
        print(f"{name:34} {seconds:6.2f} s {peak:6.0f} MB  {says[:110]}")


if __name__ == "__main__":
    one(sys.argv[1]) if len(sys.argv) > 1 else main()
