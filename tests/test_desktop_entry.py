"""The entry in the desktop's menu, its icon, file type and description."""

from __future__ import annotations

import configparser
from pathlib import Path as FilePath
from xml.etree import ElementTree

import platformdirs
import pytest
from PySide6.QtGui import QImage

from vivid_thimble.__main__ import main
from vivid_thimble.core.project import ENDING
from vivid_thimble.desktop_entry import entry_files


def test_the_entry_is_written_and_taken_away_again(
    tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(platformdirs, "user_data_dir", lambda *_: str(tmp_path))
    assert main(["--install-desktop"]) == 0
    told = capsys.readouterr().out
    written = [path for path in tmp_path.rglob("vivid-thimble*") if path.is_file()]
    assert len(written) == 4
    assert all(str(path) in told for path in written)
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str  # type: ignore[assignment]  # keys keep their case
    entry.read(tmp_path / "applications" / "vivid-thimble.desktop")
    desktop = entry["Desktop Entry"]
    assert desktop["Type"] == "Application"
    assert desktop["Exec"].endswith("vivid-thimble %F")
    assert desktop["Icon"] == "vivid-thimble"
    assert "image/svg+xml" in desktop["MimeType"].split(";")
    icon = QImage(str(tmp_path / "icons" / "hicolor" / "scalable" / "apps" / "vivid-thimble.svg"))
    assert icon.isNull() or icon.width() == 128  # null where Qt has no reader for it
    assert main(["--remove-desktop"]) == 0
    assert not [path for path in tmp_path.rglob("vivid-thimble*") if path.is_file()]


def test_a_command_with_blanks_is_quoted_and_the_descriptions_are_sound() -> None:
    files = entry_files("/opt/my tools/vivid-thimble")
    assert b'Exec="/opt/my tools/vivid-thimble" %F' in files["applications/vivid-thimble.desktop"]
    mime = ElementTree.fromstring(files["mime/packages/vivid-thimble.xml"])
    globs = [node.get("pattern") for node in mime.iter() if node.tag.endswith("glob")]
    assert globs == [f"*{ENDING}"]
    info = ElementTree.fromstring(files["metainfo/vivid-thimble.metainfo.xml"])
    assert info.findtext("launchable") == "vivid-thimble.desktop"
