"""Promises about the repository itself: links lead somewhere, pins name no host, scripts agree."""

from __future__ import annotations

import ast
import importlib.util
import re
import subprocess
from pathlib import Path as FilePath
from types import ModuleType

import pytest

ROOT = FilePath(__file__).parents[1]
PAGES = sorted([*ROOT.glob("*.md"), *ROOT.glob("docs/*.md"), *ROOT.glob("bench/*.md")])


@pytest.fixture(scope="module")
def set_up() -> ModuleType:
    spec = importlib.util.spec_from_file_location("set_up", ROOT / "scripts" / "set_up.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


@pytest.mark.parametrize("page", PAGES, ids=lambda p: p.name)
def test_every_link_of_a_page_leads_to_a_file(page: FilePath) -> None:
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
        assert (page.parent / target).exists(), target


def test_every_screenshot_is_shown_somewhere_or_made_by_the_script() -> None:
    shots = {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert {"measure.png", "gather.png", "shape.png", "inspect-findings.png", "cut.png", "weed.png"} <= shots
    assert len(shots) < 20


def test_no_test_is_imported_by_another_and_the_map_names_every_helper() -> None:
    tests = ROOT / "tests"
    modules = [path for path in tests.rglob("*.py") if "additions" not in path.parts]
    told = {path.name: re.findall(r"from tests\.(?:\w+\.)*test_\w+ import", path.read_text()) for path in modules}
    assert {name: found for name, found in told.items() if found} == {}
    page = (tests / "README.md").read_text()
    helpers = {path.name for path in modules if not path.name.startswith(("test_", "__"))} - {"monkey.py", "fitting.py"}
    assert [name for name in sorted(helpers) if name not in page] == []


def test_nothing_large_or_installed_has_slipped_in() -> None:
    listed = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, check=False)
    if listed.returncode != 0:
        pytest.skip("not a checkout")
    files = [ROOT / name for name in listed.stdout.decode().split("\0") if name]
    assert [f.name for f in files if f.suffix in (".whl", ".gz", ".so", ".pyc")] == []
    assert [f.name for f in files if f.is_file() and f.stat().st_size > 1_000_000] == []


@pytest.mark.parametrize("name", ["runtime", "checks"])
def test_pins_have_hashes_and_name_no_host(name: str) -> None:
    text = (ROOT / "requirements" / f"{name}.txt").read_text()
    assert "://" not in text
    pinned = re.findall(r"^([A-Za-z0-9._-]+)==", text, re.MULTILINE)
    assert len(pinned) >= 13
    for block in re.split(r"^(?=[A-Za-z0-9])", text, flags=re.MULTILINE)[1:]:
        assert "--hash=sha256:" in block


def test_what_the_package_asks_for_is_pinned() -> None:
    asked = re.findall(r'^    "([A-Za-z0-9_-]+)[><=]', (ROOT / "pyproject.toml").read_text(), re.MULTILINE)
    pinned = (ROOT / "requirements" / "runtime.txt").read_text().lower()
    assert asked
    assert [name for name in asked if f"{name.lower()}==" not in pinned] == []


def test_missing_libraries_are_named_by_their_package(set_up: ModuleType, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(set_up, "can_load", lambda library: library != "libxcb-cursor.so.0")
    monkeypatch.setattr(set_up.shutil, "which", lambda program: None if program == "Xvfb" else "/usr/bin/" + program)
    assert set_up.missing_packages("checks") == ["libxcb-cursor0", "xvfb"]
    monkeypatch.delenv("DISPLAY", raising=False)
    assert set_up.missing_packages("runtime") == []


def test_without_root_the_one_line_to_run_is_printed(
    set_up: ModuleType, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setattr(set_up.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(set_up.subprocess, "run", lambda *_, **__: pytest.fail("nothing may be installed"))
    assert set_up.install_libraries(["libgl1", "xvfb"]) == 3
    assert "sudo apt-get install libgl1 xvfb" in capsys.readouterr().err
    assert set_up.install_libraries([]) == 0


def test_the_shell_script_lists_the_same_libraries(set_up: ModuleType, tmp_path: FilePath) -> None:
    (tmp_path / "bin").mkdir()
    for tool in ("sed", "tr"):
        (tmp_path / "bin" / tool).symlink_to(
            f"/usr/bin/{tool}" if FilePath(f"/usr/bin/{tool}").exists() else f"/bin/{tool}"
        )
    (tmp_path / "bin" / "id").write_text("#!/bin/sh\necho 1000\n")
    (tmp_path / "bin" / "id").chmod(0o755)
    done = subprocess.run(
        ["/bin/sh", "-c", f'root="{ROOT}"; . "{ROOT}/scripts/find_python.sh"'],
        env={"PATH": str(tmp_path / "bin")}, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 3
    listed = set(done.stderr.split("apt-get install")[1].split())
    assert set(set_up.BASE.values()) | set(set_up.DISPLAY.values()) <= listed


def test_heavy_libraries_stay_out_of_the_first_paint() -> None:
    """SciPy and the like are imported inside functions, never at the top of a module."""
    heavy = {"scipy", "cv2", "ezdxf", "fontTools", "PIL"}
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.parse(path.read_text()).body:
            names = {a.name for a in node.names} if isinstance(node, ast.Import) else set()
            names |= {node.module or ""} if isinstance(node, ast.ImportFrom) else set()
            assert not {name.split(".")[0] for name in names} & heavy, path
