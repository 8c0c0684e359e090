"""What was added, used from the empty table to the file; run by ``test_additions`` inside the copy."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from vivid_thimble.core.sources.star import Star
from vivid_thimble.core.steps.halve import Halve
from vivid_thimble.core.steps.within import Within

from tests.desktop.conftest import Hand
from vivid_thimble.__main__ import main
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.messages import Message
from vivid_thimble.core.storage.project import open_project, save_project
from vivid_thimble.desktop.look.marks import KIND_SHAPES

STAR_MM2 = 2 * 4 * 30.0 * 15.0 * math.sin(math.pi / 4) / 2
"""Of a star 60 mm wide: eight triangles between its corners and its middle."""


def job_of(*elements: Element) -> Job:
    return with_layer(new_job("stars", 200.0, 120.0), lambda layer: replace(layer, elements=elements))


def star(name: str, dx: float = 0.0, **values: object) -> Element:
    return Element(id=name, name=name, source=Star(), placement=Placement(width=60.0, dx=dx), **values)


def area(job: Job) -> float:
    return evaluate(job, {}, Cache()).layers[0].design.area


def test_a_source_and_a_step_are_saved_opened_and_cut(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = job_of(star("one", steps=(Halve(id="h"),)))
    assert area(job_of(star("one"))) == pytest.approx(STAR_MM2, rel=1e-6)
    assert area(job) == pytest.approx(STAR_MM2 / 2, rel=1e-6)
    save_project(tmp_path / "stars.thimble", job, {})
    assert open_project(tmp_path / "stars.thimble")[0] == job
    assert main(["inspect", str(tmp_path / "stars.thimble"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["items"][0]["size_mm"] == [30.0, 60.0]


def test_a_step_that_needs_another_element_follows_it() -> None:
    """Two stars 30 mm apart: of the right one stays what lies left of the left one's edge."""
    job = job_of(star("left", helps_only=True), star("right", dx=30.0, steps=(Within(id="w", of=("left",)),)))
    assert area(job) == pytest.approx(STAR_MM2 / 2, rel=1e-6)
    away = job_of(star("left", dx=60.0, helps_only=True), *job.item.layers[0].elements[1:])
    assert area(away) == pytest.approx(STAR_MM2 / 2, rel=1e-6)  # the other half
    assert evaluate(away, {}, Cache()).layers[0].design.bounds[0] == pytest.approx(130.0, abs=1e-6)
    gone = evaluate(job_of(*job.item.layers[0].elements[1:]), {}, Cache())
    assert [problem.step_id for problem in gone.layers[0].problems] == ["w"]


def test_a_finding_has_its_word_remedies_and_mark() -> None:
    found = Finding("too-pointed", "look", Message("Too pointed."))
    assert (found.matter.word, found.remedies) == ("Too pointed", ("enlarge",))
    assert KIND_SHAPES["too-pointed"] == "drop"


def test_a_kind_of_file_is_written_by_the_command_line(tmp_path: Path) -> None:
    art, out = tmp_path / "plate.svg", tmp_path / "plate.pts"
    art.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="4mm" viewBox="0 0 9 4">'
                   '<path d="M0 0H9V4H0Z"/></svg>')  # fmt: skip
    assert main(["weld", str(art), "-o", str(out)]) == 0
    size, *corners = [tuple(map(float, line.split())) for line in out.read_text().splitlines()]
    assert size == (9.0, 4.0)
    assert {*corners} == {(0.0, 0.0), (9.0, 0.0), (9.0, 4.0), (0.0, 4.0)}


def test_all_of_it_in_the_window(hand: Hand, tmp_path: Path) -> None:
    hand.go_to("gather")
    hand.click("addStar")
    hand.type_into("starPoints", "6")
    whole = hand.window.session.result.layers[0].design
    assert len(whole.outline.contours[0]) == 12
    hand.add_step("Halve")
    half = hand.window.session.result.layers[0].design
    assert half.area == pytest.approx(whole.area / 2, rel=1e-6)
    hand.go_to("tally")
    assert hand.find("tallySays").text() == f"{half.polygons.length:.1f} mm of edges"
    assert hand.window.work_path.buttons["tally"].standing.words == "1 in all"
    hand.go_to("cut")
    hand.window.trays.cut.save_to(tmp_path / "star.pts")
    corners = np.loadtxt(tmp_path / "star.pts", skiprows=1)
    assert np.ptp(corners[:, 1]) == pytest.approx(half.bounds[3] - half.bounds[1], abs=1e-3)
