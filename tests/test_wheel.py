"""The wheel holds what the application needs at run time."""

from __future__ import annotations

import subprocess
import sys
import zipfile
from pathlib import Path as FilePath

from vivid_thimble.core.demo import DOWNLOAD, DRAWING
from vivid_thimble.core.sources.fonts import BUNDLED

ROOT = FilePath(__file__).parents[1]


def test_the_wheel_carries_fonts_licences_icons_and_the_demonstration(tmp_path: FilePath) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path)],
        cwd=ROOT, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    with zipfile.ZipFile(next(tmp_path.glob("*.whl"))) as wheel:
        names = set(wheel.namelist())
        scripts = wheel.read(next(n for n in names if n.endswith("entry_points.txt"))).decode()
    data = "vivid_thimble/data"
    wanted = {f"{data}/fonts/{name}" for name in (*BUNDLED.values(), "Cabin-Regular.otf", "Cabin-SemiBold.otf")}
    wanted |= {f"{data}/demo/{DOWNLOAD}"}
    wanted |= {f"{data}/demo/{DRAWING}", f"{data}/icons/tick-day.svg", f"{data}/icons/down-evening.svg"}
    wanted |= {f"{data}/help/user-guide.md", f"{data}/languages/de.qm", f"{data}/languages/patterns.json"}
    assert wanted <= names
    assert sum(1 for n in names if n.startswith(f"{data}/fonts/OFL-")) == 5
    assert "vivid-thimble = vivid_thimble.__main__:main" in scripts
    assert not [n for n in names if "test" in n or n.startswith("bench")]
