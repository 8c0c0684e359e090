"""The entry in the desktop's menu, its icon, file type and description."""

from __future__ import annotations

import configparser
import subprocess
from pathlib import Path as FilePath
from xml.etree import ElementTree

import platformdirs
import pytest
from PySide6.QtGui import QImage

from vivid_thimble.__main__ import main
from vivid_thimble.core.storage.project import ENDING
from vivid_thimble.desktop_entry import entry_files

ROOT = FilePath(__file__).parents[1]


def test_the_entry_is_written_and_taken_away_again(
    tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(platformdirs, "user_data_dir", lambda *_: str(tmp_path))
    assert main(["--install-desktop"]) == 0
    told = capsys.readouterr().out
    written = [path for path in tmp_path.rglob("*vivid*") if path.is_file() and str(path) in told]
    assert len(written) == 4
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str  # type: ignore[assignment]  # keys keep their case
    entry.read(tmp_path / "applications" / "vivid-thimble.desktop")
    desktop = entry["Desktop Entry"]
    assert desktop["Type"] == "Application"
    assert desktop["Exec"] == f"{ROOT / 'run'} %F", "from a checkout its own script is started"
    assert FilePath(desktop["TryExec"]) == ROOT / "run"
    assert desktop["Icon"] == "vivid-thimble"
    assert "image/svg+xml" in desktop["MimeType"].split(";")
    icon = QImage(str(tmp_path / "icons" / "hicolor" / "scalable" / "apps" / "vivid-thimble.svg"))
    assert icon.isNull() or icon.width() == 128  # null where Qt has no reader for it
    assert main(["--remove-desktop"]) == 0
    assert not [path for path in tmp_path.rglob("*vivid*") if path.is_file()]


def test_a_command_with_blanks_is_quoted_and_the_descriptions_are_sound() -> None:
    files = entry_files("/opt/my tools/vivid-thimble")
    assert b'Exec="/opt/my tools/vivid-thimble" %F' in files["applications/vivid-thimble.desktop"]
    mime = ElementTree.fromstring(files["mime/packages/vivid-thimble.xml"])
    globs = [node.get("pattern") for node in mime.iter() if node.tag.endswith("glob")]
    assert globs == [f"*{ENDING}"]
    info = ElementTree.fromstring(files["metainfo/org.vivid_thimble.VividThimble.metainfo.xml"])
    assert info.findtext("launchable") == "vivid-thimble.desktop"


@pytest.mark.parametrize(
    "folder",
    ["plain", "two words", "a&b;c", "50% off", "$HOME", "(old) [x] {y}", 'say "so"', "it's", "back\\slash`tick"],
)
def test_the_menu_starts_the_script_whatever_its_folder_is_called(tmp_path: FilePath, folder: str) -> None:
    """The entry is taken apart as its specification says, by a shell's own rules, and what comes out is run."""
    script = tmp_path / folder / "run"
    script.parent.mkdir()
    script.write_text('#!/bin/sh\necho started "$@"\n')
    script.chmod(0o755)
    lines = entry_files(str(script))["applications/vivid-thimble.desktop"].decode().splitlines()
    values = {line.split("=", 1)[0]: line.split("=", 1)[1] for line in lines if "=" in line}
    command = values["Exec"].replace("\\\\", "\\").replace("%F", "a.svg").replace("%%", "%")
    assert subprocess.run(command, shell=True, capture_output=True, text=True, check=True).stdout == "started a.svg\n"
    assert FilePath(values["TryExec"].replace("\\\\", "\\")) == script


def test_the_validators_of_the_desktop_pass_entry_and_description(tmp_path: FilePath) -> None:
    for place, data in entry_files("/opt/my tools/run").items():
        (tmp_path / FilePath(place).name).write_bytes(data)
    for command in (
        ["desktop-file-validate", "vivid-thimble.desktop"],
        ["appstreamcli", "validate", "--no-net", "org.vivid_thimble.VividThimble.metainfo.xml"],
    ):
        done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stdout + done.stderr
