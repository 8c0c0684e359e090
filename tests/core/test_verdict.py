"""Fit: the item's edges, the carrier, the squeegee, the side."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from shapely import box

from tests.judging import drawn, inspected, of_kind
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.job.edits import moved_design, with_item, with_layer
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.materials.carriers import MAT, ROLL


def placed(width: float, height: float, room: tuple[float, float] = (400, 300)) -> tuple[Job, dict[str, bytes]]:
    job, assets = drawn(box(0, 0, width, height))
    return with_item(job, lambda one: replace(one, width=room[0], height=room[1])), assets


@pytest.mark.parametrize(
    ("shift", "words"),
    [((-120, 0), "20.0 mm at the left"), ((130, 0), "30.0 mm at the right"), ((0, -105), "5.0 mm at the top")],
)
def test_each_edge_that_is_run_over_is_told(shift: tuple[float, float], words: str) -> None:
    job, assets = placed(200, 100)
    assert of_kind(inspected(job, assets), "does-not-fit") == []
    over = of_kind(inspected(moved_design(job, *shift), assets), "does-not-fit")
    assert len(over) == 1
    assert words in over[0].sentence
    assert over[0].severity == "stop"
    assert over[0].belongs_to == "shape"


def test_tails_that_hang_over_the_edge_are_named_by_their_letter() -> None:
    words = with_layer(demo_job(), lambda layer: replace(layer, elements=layer.elements[:1]))
    margins = inspected(words, {}).margins
    assert margins is not None
    job = moved_design(words, 0.0, margins[3] + 5.0)
    over = of_kind(inspected(job, demo_assets()), "does-not-fit")
    assert "bottom" in over[0].sentence
    assert over[0].belongs_to == "g"


def test_what_is_larger_than_the_carrier_stops_unless_a_turn_helps() -> None:
    job, assets = placed(280, 120, (1000, 500))
    assert of_kind(inspected(replace(job, carrier=MAT), assets), "beyond-carrier") == []
    wide, assets = placed(350, 120, (1000, 500))
    assert len(of_kind(inspected(replace(wide, carrier=MAT), assets), "beyond-carrier")) == 1
    assert of_kind(inspected(replace(wide, carrier=ROLL), assets), "beyond-carrier") == []


def test_a_stencils_surround_counts_on_the_carrier() -> None:
    job, assets = drawn(box(0, 0, 260, 100), "rigid-stencil")
    job = with_item(job, lambda one: replace(one, width=1000, height=500, surround=10.0))
    assert of_kind(inspected(replace(job, carrier=MAT), assets), "beyond-carrier") == []
    wide = with_item(job, lambda one: replace(one, surround=40.0))
    assert len(of_kind(inspected(replace(wide, carrier=MAT), assets), "beyond-carrier")) == 1


def test_a_squeegee_narrower_than_the_design_takes_two_pulls() -> None:
    job, assets = drawn(box(0, 0, 200, 120), "screen-stencil")
    narrow = with_item(job, lambda one: replace(one, squeegee=100.0))
    notes = [f.sentence for f in of_kind(inspected(narrow, assets), "two-pulls")]
    assert len(notes) == 1
    assert "two pulls" in notes[0]
    wide = with_item(job, lambda one: replace(one, squeegee=150.0))
    assert [f.kind for f in inspected(wide, assets).findings if f.matter.is_note] == []
