"""Files are read only when they are files, and written so that links, permissions and earlier content stay."""

from __future__ import annotations

import os
import stat
import subprocess
import sys
from pathlib import Path as FilePath

import pytest

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import hull_job
from vivid_thimble.core.edits.sets import names_in_file
from vivid_thimble.core.errors import FontNotUsable, InputRefused
from vivid_thimble.core.files import read_file, write_atomically
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.sources.fonts import load_face
from vivid_thimble.core.storage.incoming import OpenedDrawing, open_file
from vivid_thimble.core.storage.project import open_project, save_project
from vivid_thimble.core.storage.stock import load_stock
from vivid_thimble.core.storage.versions import keep_version, versions_of

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="30" height="20"><circle cx="10" cy="10" r="8"/></svg>'


@pytest.fixture(params=["pipe", "device", "folder"])
def no_file(request: pytest.FixtureRequest, tmp_path: FilePath) -> FilePath:
    """What would block, never end, or be no file at all."""
    path = tmp_path / "stock.json"
    if request.param == "pipe":
        os.mkfifo(path)
    elif request.param == "device":
        path.symlink_to("/dev/zero")
    else:
        path.mkdir()
    return path


def test_what_is_no_file_is_refused_with_a_sentence(no_file: FilePath) -> None:
    for reads in (
        lambda: open_file(no_file, Cache()),
        lambda: open_project(no_file),
        lambda: names_in_file(no_file),
        lambda: load_face(f"file:{no_file}"),
        lambda: load_stock(no_file.parent),
    ):
        with pytest.raises(InputRefused, match=r"^[^\n]*stock[^\n]*: [^\n]*\.$"):
            reads()


def test_no_more_than_was_asked_for_is_read(tmp_path: FilePath) -> None:
    path = tmp_path / "long"
    path.write_bytes(b"x" * 2_000_001)
    with pytest.raises(OSError, match="larger than 2 million bytes"):
        read_file(path, 2_000_000)
    assert len(read_file(path, 2_000_001)) == 2_000_001


def test_links_and_permissions_stay(tmp_path: FilePath) -> None:
    target = tmp_path / "kept elsewhere" / "boat.thimble"
    target.parent.mkdir()
    target.write_bytes(b"before")
    target.chmod(0o640)
    link = tmp_path / "boat.thimble"
    link.symlink_to(target)
    save_project(link, hull_job(), {})
    assert link.is_symlink() and open_project(target)[0] == hull_job()
    assert stat.S_IMODE(target.stat().st_mode) == 0o640
    assert (target.parent / "boat.thimble~").read_bytes() == b"before"


def test_what_a_killed_run_left_half_written_goes_at_the_next_save(tmp_path: FilePath) -> None:
    gone = subprocess.Popen([sys.executable, "-c", "pass"])
    gone.wait()
    ours, theirs = tmp_path / f".boat.thimble.abc.{gone.pid}.part", tmp_path / f".boat.thimble.abc.{os.getpid()}.part"
    for path in (ours, theirs):
        path.write_bytes(b"half")
    write_atomically(tmp_path / "boat.thimble", b"whole")
    assert not ours.exists() and theirs.exists()


def test_names_that_are_no_text_are_read_shown_and_saved(tmp_path: FilePath) -> None:
    odd = tmp_path / os.fsdecode(b"caf\xe9.svg")
    odd.write_bytes(SVG)
    found = open_file(odd, Cache())
    assert isinstance(found, OpenedDrawing) and found.artwork.name == "caf\ufffd.svg"
    path = tmp_path / os.fsdecode(b"caf\xe9.thimble")
    for name in ("first", "second", "bad \udce9 text"):
        keep_version(path, tmp_path / "versions", 5)
        save_project(path, new_job(name), {})
    assert open_project(path)[0].name == "bad ? text"
    assert len(versions_of(path, tmp_path / "versions")) == 2
    with pytest.raises(FontNotUsable, match="rename it"):
        load_face(f"file:{odd}")


def test_a_clock_that_stands_or_is_set_back_loses_no_version(tmp_path: FilePath) -> None:
    path, versions = tmp_path / "boat.thimble", tmp_path / "versions"
    for k in range(105):
        keep_version(path, versions, 200)
        path.write_bytes(f"{k}".encode())
        os.utime(path, (1_700_000_000 - 60 * (k // 50), 1_700_000_000))
    kept = versions_of(path, versions)
    assert [one.path.read_bytes() for one in kept] == [f"{k}".encode() for k in range(103, -1, -1)]
