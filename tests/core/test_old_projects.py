"""Jobs that version 0.1 has saved open as they were, with the same figures and with what was let be."""

from __future__ import annotations

import json
from pathlib import Path as FilePath
from typing import Any

import pytest

from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.storage.project import open_project, project_bytes, read_project

FOLDER = FilePath(__file__).parents[1] / "data" / "jobs_0_1"
FIGURES: dict[str, Any] = json.loads((FOLDER / "figures.json").read_text())


def told(result: ItemResult) -> list[list[Any]]:
    return [[f.severity, f.width, f.area, None if f.at is None else list(f.at)] for f in result.findings]


@pytest.mark.parametrize("name", FIGURES)
def test_a_job_of_0_1_opens_with_its_figures(name: str) -> None:
    job, assets = open_project(FOLDER / f"{name}.thimble")
    result, then = evaluate(job, assets), FIGURES[name]
    assert len(result.accepted) == then["accepted"]
    now = sorted(told(result), key=repr)
    for one, was in zip(now, sorted((f[1:] for f in then["findings"]), key=repr), strict=True):
        assert one[0] == was[0]
        assert [one[1:3], one[3] or ()] == [pytest.approx(was[1:3], abs=1e-6), pytest.approx(was[3] or (), abs=1e-6)]
    for layer, was in zip(result.layers, then["layers"], strict=True):
        inspection = layer.inspection
        assert (len(layer.parts), layer.kept.outline.node_count) == (was["parts"], was["nodes"])
        assert layer.kept.bounds == pytest.approx(was["bounds"], abs=1e-6)
        assert [
            layer.kept.area, inspection.thinnest_line, inspection.thinnest_gap, inspection.smallest_clean_scale
        ] == [
            was[figure] if was[figure] is None else pytest.approx(was[figure], rel=1e-7)
            for figure in ("area", "thinnest line", "thinnest gap", "smallest clean scale")
        ]  # fmt: skip


@pytest.mark.parametrize("name", FIGURES)
def test_a_job_of_0_1_is_saved_without_loss(name: str) -> None:
    job, assets = open_project(FOLDER / f"{name}.thimble")
    assert read_project(project_bytes(job, assets)) == (job, assets)
