"""The monkey for a long time: no exception, undo leads back to the beginning, memory stays.

    PYTHONPATH=src:. .venv/bin/python bench/monkey.py [--steps 2000] [--seed 1]

Needs a display (Xvfb will do). Prints what the process takes after every two hundred steps; memory is tidied as the
program does it while it is never idle. Steps count when the figures stand again after them; runs follow each other
until there are as many as asked for.
"""

from __future__ import annotations

import argparse
import os
import random
import tempfile
import time
from pathlib import Path

from hypothesis import HealthCheck, Phase, seed, settings
from hypothesis.stateful import run_state_machine_as_test
from tests.desktop.monkey import Monkey

from vivid_thimble.core.storage.project import save_project
from vivid_thimble.desktop.app import prepare_application
from vivid_thimble.desktop.application.memory import Tidier

EVERY = 200
LONGEST_RUN = 250


def resident_mb() -> float:
    """What the process takes of the memory."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096 / 1e6


class Watched(Monkey):
    """Counts its steps."""

    done = 0
    began = time.perf_counter()
    undone = 0

    def settle(self) -> None:
        try:
            super().settle()
        except AssertionError:
            stuck = Path(tempfile.gettempdir()) / "monkey-stuck.thimble"
            save_project(stuck, self.session.job, self.session.assets)
            print(f"the job that is stuck is in {stuck}", flush=True)
            os._exit(1)  # the thread cannot be ended
        Watched.done += 1
        if Watched.done % EVERY == 0:
            took = time.perf_counter() - Watched.began
            print(f"{Watched.done:5d} settled steps  {took:6.0f} s  {resident_mb():6.0f} MB", flush=True)

    def teardown(self) -> None:
        versions, _ = self.session.history
        super().teardown()
        Watched.undone += 1
        print(f"      a run undone to its beginning ({len(versions)} versions)", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--steps", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=random.randrange(10_000))
    told = parser.parse_args()
    print(f"seed {told.seed}")
    app, _ = prepare_application([])
    tidier = Tidier(lambda: True, app)
    run = settings(
        max_examples=1,
        stateful_step_count=LONGEST_RUN,
        deadline=None,
        database=None,
        derandomize=False,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    number = told.seed
    while Watched.done < told.steps:
        run_state_machine_as_test(seed(number)(Watched), settings=run)
        number += 1
    print(f"{Watched.undone} runs, {Watched.done} settled steps, {resident_mb():.0f} MB at the end")
    tidier.deleteLater()


if __name__ == "__main__":
    main()
