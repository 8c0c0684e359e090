"""A display for the whole run, private user folders, and no unexpected log lines."""

from __future__ import annotations

import gc
import logging
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator

import pytest
from hypothesis import settings

settings.register_profile("steady", derandomize=True, deadline=None)  # a run tells of the change, not of its luck
settings.load_profile("steady")
gc.set_threshold(20_000, 20, 200)  # going through all that a run keeps takes a tenth of a second each time
_display: subprocess.Popen[bytes] | None = None


def pytest_configure(config: pytest.Config) -> None:
    """Start Xvfb on a free display before Qt is loaded; without Xvfb the offscreen platform serves."""
    global _display
    home = tempfile.mkdtemp(prefix="thimble-tests-")
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = os.path.join(home, name.lower())
    config.stash[_HOME] = home
    if not hasattr(config, "workerinput") and config.getoption("numprocesses", None):
        return  # the workers run the tests, each with a display and folders of its own
    os.environ.pop("WAYLAND_DISPLAY", None)
    if shutil.which("Xvfb") is None:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        return
    read, write = os.pipe()
    _display = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as stream:
        os.environ["DISPLAY"] = f":{stream.readline().strip()}"
    os.environ["QT_QPA_PLATFORM"] = "xcb"


def pytest_unconfigure(config: pytest.Config) -> None:
    if _display is not None:
        _display.terminate()
        _display.wait()
    shutil.rmtree(config.stash[_HOME], ignore_errors=True)


_HOME = pytest.StashKey[str]()


@pytest.fixture(autouse=True)
def no_unexpected_log_lines(caplog: pytest.LogCaptureFixture) -> Iterator[None]:
    """A warning or error in the log fails the test that caused it."""
    yield
    bad = [r.getMessage() for r in caplog.get_records("call") if r.levelno >= logging.WARNING]
    assert not bad, f"unexpected log lines: {bad}"


@pytest.fixture(scope="session")
def variable_font(tmp_path_factory: pytest.TempPathFactory) -> str:
    """The reference of a small variable font with awkward glyphs."""
    from tests.fonts import awkward_font  # here: few tests need it

    path = tmp_path_factory.mktemp("fonts") / "awkward.ttf"
    awkward_font(path)
    return f"file:{path}"
