"""What killed runs left half written is gone after the next start, and nothing else."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path as FilePath

import pytest
from PySide6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from vivid_thimble.core import folders
from vivid_thimble.core.demo.jobs import demo_job
from vivid_thimble.core.storage.project import save_project
from vivid_thimble.desktop.application.sweeping import Sweeper
from vivid_thimble.desktop.look.preferences import SETTINGS_NAME, set_odd_settings_aside


def half_written(folder: FilePath, name: str, run: int) -> FilePath:
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f".{name}.x1y2z3.{run}.part"
    path.write_bytes(b"half")
    return path


def test_half_written_files_go_at_the_next_start(
    qtbot: QtBot, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("STATE", "DATA", "CACHE", "CONFIG"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))
    gone = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True)
    killed = int(gone.stdout)
    job = tmp_path / "jobs" / "pennants.thimble"
    job.parent.mkdir()
    save_project(job, demo_job(), {})
    QSettings().setValue("recent", [str(job)])
    left = [
        half_written(folders.recovery_folder(), "12-1.thimble", killed),
        half_written(folders.settings_folder(), "stock.json", killed),
        half_written(folders.versions_folder() / "pennants", "3.thimble", killed),
        half_written(job.parent, job.name, killed),
    ]
    kept = [
        half_written(folders.recovery_folder(), "13-1.thimble", os.getpid()),  # of a run that goes on
        half_written(job.parent, "holiday.film", killed),  # somebody else's
        job,
    ]
    sweeper = Sweeper()
    with qtbot.waitSignal(sweeper.finished, timeout=5000):
        sweeper.start()
    assert [path for path in left if path.exists()] == []
    assert [path for path in kept if not path.exists()] == []


@pytest.mark.parametrize("kind", ["pipe", "folder", "link", "endless"])
def test_what_lies_in_place_of_the_preferences_holds_up_no_start(
    kind: str, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    place = folders.settings_folder() / SETTINGS_NAME
    place.parent.mkdir()
    match kind:
        case "pipe":
            os.mkfifo(place)
        case "folder":
            place.mkdir()
        case "link":
            place.symlink_to(tmp_path / "nowhere")
        case _:
            place.symlink_to("/dev/zero")
    assert f"set aside as {place.with_name(f'set-aside-1-{SETTINGS_NAME}')}" in set_odd_settings_aside()
    assert not os.path.lexists(place)
    place.write_text("[General]\nversions=5\n")
    assert set_odd_settings_aside() == ""
    assert place.exists()
