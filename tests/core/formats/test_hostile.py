"""Files made to break the readers: each ends in one clear sentence or in a right result."""

from __future__ import annotations

import builtins
import socket
from pathlib import Path as FilePath

import pytest

from tests.hostile import HOSTILE
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.formats.bundle import contents, unpacked
from vivid_thimble.core.formats.drawing_read import read_drawing, read_drawing_here
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.sources.artwork import artwork_for, film_region, painted, prepared
from vivid_thimble.core.sources.page import on_page
from vivid_thimble.core.strangers.plain_data import packed

SEEDS = sorted((FilePath(__file__).parents[2] / "data" / "fuzz").glob("*.*"))
AREAS = {  # what is left to draw of those that can be drawn, in units of the file
    "external entity": 4, "external references": 9, "not numbers": 16, "coordinates of 10^9": 1600, "use of itself": 9,
    "zip that leads elsewhere": 16, "cut off in the middle": 16,
}  # fmt: skip


COSTLY = {"PDF bomb", "100,000 shapes", "style sheet of 30,000 rules", "packed drawing bomb"}
"""Files that take seconds to make; ``bench/hostile.py`` looks at them."""


@pytest.mark.parametrize("name", [name for name in HOSTILE if name not in COSTLY])
def test_a_hostile_file_is_refused_in_one_sentence_or_read_rightly(name: str) -> None:
    try:
        drawing = read_drawing(HOSTILE[name](), "file.svg")
        prepared(painted(drawing, taken := artwork_for(drawing, "key", "file.svg"), 1.0), taken)
    except ThimbleError as error:
        assert name not in AREAS
        assert str(error).count("\n") == 0
        assert str(error).endswith(".")
        return
    if name in AREAS:
        assert film_region(on_page(drawing), Affine()).area == pytest.approx(AREAS[name], rel=1e-3)


@pytest.mark.parametrize("name", ["external entity", "external references", "zip that leads elsewhere"])
def test_no_other_file_is_opened_and_nothing_goes_to_the_network(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Not even tried; the process in which it is read could not either (see ``test_strangers``)."""
    data = HOSTILE[name]()
    within = packed(read_drawing(data, "file.svg"))
    read_drawing_here(data, "file.svg", 0)  # what Python itself loads is loaded now

    def forbidden(*what: object, **_: object) -> None:
        raise AssertionError(f"tried to open {what}")

    monkeypatch.setattr(builtins, "open", forbidden)
    monkeypatch.setattr(FilePath, "open", forbidden)
    monkeypatch.setattr(socket, "socket", forbidden)
    assert packed(read_drawing_here(data, "file.svg", 0)) == within


def test_a_zip_lists_plain_names_and_offers_the_best_drawing() -> None:
    bundle = contents(HOSTILE["zip that leads elsewhere"](), "boats.zip")
    assert [(entry.name, entry.kind) for entry in bundle.entries] == [("x.svg", "drawing"), ("y.txt", "notes")]
    assert bundle.best is not None
    with pytest.raises(ThimbleError, match=r"bomb\.svg in boats\.zip unpacks to more"):
        unpacked(HOSTILE["zip bomb"](), "bomb.svg", "boats.zip")


@pytest.mark.parametrize("path", SEEDS, ids=lambda path: path.name)
def test_what_a_fuzzer_once_found_stays_mended(path: FilePath) -> None:
    try:
        drawing = read_drawing(path.read_bytes(), path.name)
        prepared(painted(drawing, taken := artwork_for(drawing, "key", path.name), 1.0), taken)
    except ThimbleError as error:
        assert str(error).endswith(".")
