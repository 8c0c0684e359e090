"""A new step, source, finding, kind of file or station: files of its own and one line in each list, nothing else.

They are put into a copy of the package, from outside, and used there end to end (see ``additions/end_to_end.py``).
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
PACKAGE = HERE.parent / "src" / "vivid_thimble"
FILES = {
    "halve.py": "core/steps",
    "within.py": "core/steps",
    "star.py": "core/sources",
    "star_panel.py": "desktop/stations/gather",
    "points_write.py": "core/formats",
    "tally": "desktop/stations",
}
"""New files, and the folders that they go into."""
STEPS, VALUES = "core/steps/__init__.py", "core/job/values.py"
CONTROLS = "desktop/stations/shape/step_controls.py"
LINES = (
    (STEPS, "    | Stretch\n", "    | Halve\n"),
    (STEPS, "    | Stretch\n", "    | Within\n"),
    (
        CONTROLS,
        '    Kind(Stretch, "", None),\n',
        "    Kind(Halve, 'half', lambda job, _: Halve(id=free_id('h', job))),\n",
    ),
    (VALUES, "    | Plain\n", "    | Star\n"),
    ("core/evaluate/sources/__init__.py", "    Plain: composed(_plain),\n", "    Star: composed(compose_star),\n"),
    ("desktop/stations/gather/panels.py", "    Plain: PlainPanel,\n", "    Star: StarPanel,\n"),
    ("core/inspect/findings.py", '    "cleft": Matter(', "    'too-pointed': Matter('Too pointed', ('enlarge',)),\n"),
    ("desktop/look/marks.py", '    "cleft": "wedge",\n', "    'too-pointed': 'drop',\n"),
    (
        "core/formats/cut_file.py",
        '    ".pdf": Writer("PDF", pdf_bytes),\n',
        "    '.pts': Writer('Points', points_bytes),\n",
    ),
    ("desktop/stations/station_list.py", "MEASURE, GATHER,", " TALLY,"),
)
"""One line in each list: the file, what it stands beside, the line."""
IMPORTS = {
    STEPS: "from vivid_thimble.core.steps.halve import Halve\nfrom vivid_thimble.core.steps.within import Within\n",
    CONTROLS: "from vivid_thimble.core.steps import Halve\n",
    VALUES: "from vivid_thimble.core.sources.star import Star\n",
    "core/evaluate/sources/__init__.py": "from vivid_thimble.core.sources.star import Star, compose_star\n",
    "desktop/stations/gather/panels.py": "from vivid_thimble.core.sources.star import Star\n"
    "from vivid_thimble.desktop.stations.gather.star_panel import StarPanel\n",
    "core/formats/cut_file.py": "from vivid_thimble.core.formats.points_write import points_bytes\n",
    "desktop/stations/station_list.py": "from vivid_thimble.desktop.stations.tally.spec import SPEC as TALLY\n",
}
"""And what these lines name."""


def grown(folder: Path) -> Path:
    """A copy of the package with everything added."""
    copy = folder / "vivid_thimble"
    shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("__pycache__"))
    for name, place in FILES.items():
        new = HERE / "additions" / name
        (shutil.copytree if new.is_dir() else shutil.copy)(new, copy / place / name)
    for file, beside, line in LINES:
        text = (copy / file).read_text(encoding="utf-8")
        assert text.count(beside) == 1, f"{file} has its list elsewhere: look for {beside!r}"
        added = beside + line if not beside.endswith("(") else line + beside
        (copy / file).write_text(text.replace(beside, added), encoding="utf-8")
    for file, names in IMPORTS.items():
        text = (copy / file).read_text(encoding="utf-8")
        (copy / file).write_text(
            text.replace("\nfrom vivid_thimble", f"\n{names}from vivid_thimble", 1), encoding="utf-8"
        )
    return copy


def test_additions_are_files_of_their_own_and_one_line_each(tmp_path: Path) -> None:
    grown(tmp_path)
    inside = tmp_path / "test_inside.py"
    shutil.copy(HERE / "additions" / "end_to_end.py", inside)
    paths = os.pathsep.join((str(tmp_path), str(HERE.parent)))
    ran = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", "-p", "tests.desktop.conftest",
         "-c", os.devnull, "--rootdir", str(tmp_path), str(inside)],
        env={**os.environ, "PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True, text=True, timeout=300, check=False, cwd=tmp_path,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stdout[-4000:] + ran.stderr[-2000:]
    assert "5 passed" in ran.stdout
