"""The layer check passes, and rings when a fault is planted."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path as FilePath

import pytest

ROOT = FilePath(__file__).parents[1]


def lint_imports(folder: FilePath) -> subprocess.CompletedProcess[str]:
    program = FilePath(sys.executable).with_name("lint-imports")
    environment = os.environ | {"PYTHONPATH": str(folder / "src")}
    return subprocess.run(
        [str(program), "--no-cache"], cwd=folder, env=environment, capture_output=True, text=True, check=False
    )


@pytest.fixture
def copy(tmp_path: FilePath) -> FilePath:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "data"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def test_the_layers_hold(copy: FilePath) -> None:
    done = lint_imports(copy)
    assert done.returncode == 0, done.stdout


@pytest.mark.parametrize(
    "module,fault",
    [
        ("core/geometry/path.py", "from PySide6 import QtCore"),
        ("core/geometry/path.py", "from vivid_thimble.core.evaluate import recipe"),
        ("core/steps/weld.py", "from vivid_thimble.core.inspect import pieces"),
        ("core/evaluate/recipe.py", "from vivid_thimble.core.edits import linked"),
        ("core/evaluate/recipe.py", "from vivid_thimble.desktop.look import theme"),
        ("desktop/stations/cut/station.py", "from vivid_thimble.desktop.stations.weed import station"),
        ("desktop/widgets/panel.py", "from vivid_thimble.desktop.dialogs import find_dialog"),
    ],
)
def test_a_planted_fault_rings_the_alarm(copy: FilePath, module: str, fault: str) -> None:
    path = copy / "src" / "vivid_thimble" / module
    text = path.read_text()
    path.write_text(
        text.replace("from __future__ import annotations\n", f"from __future__ import annotations\n\n{fault}\n", 1)
    )
    done = lint_imports(copy)
    assert done.returncode == 1
    assert "BROKEN" in done.stdout


@pytest.mark.parametrize("package", ["core", "desktop"])
def test_every_room_of_the_house_has_its_place_in_the_order(copy: FilePath, package: str) -> None:
    (copy / "src" / "vivid_thimble" / package / "attic.py").write_text('"""Nobody said where this belongs."""\n')
    done = lint_imports(copy)
    assert done.returncode == 1
    assert "attic" in done.stdout
