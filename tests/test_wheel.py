"""The wheel holds what the application needs at run time."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
import tomllib
import zipfile
from importlib.metadata import packages_distributions
from pathlib import Path as FilePath

from vivid_thimble.core.demo.jobs import DOWNLOAD, DRAWING
from vivid_thimble.core.sources.fonts import BUNDLED

ROOT = FilePath(__file__).parents[1]


def test_the_wheel_asks_for_every_package_that_it_imports() -> None:
    """By the distributions that are installed here, each module of which is known by name."""
    asked = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    names = {re.split(r"[><=~! ]", one)[0].lower().replace("_", "-") for one in asked}
    where = packages_distributions()
    imported = set()
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Import):
                imported |= {alias.name.split(".")[0] for alias in node.names}
            elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
                imported.add(node.module.split(".")[0])
    foreign = imported - set(sys.stdlib_module_names) - {"vivid_thimble"}
    assert len(foreign) > 15
    lacking = {m for m in foreign if not names & {d.lower().replace("_", "-") for d in where.get(m, [m])}}
    assert lacking <= {"shiboken6"}, "that one comes with the window's toolkit"


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
