"""One film on one carrier."""

from __future__ import annotations

import numpy as np
import pytest

from vivid_thimble.core.errors import DoesNotFitCarrier
from vivid_thimble.core.layout.sheet import plan_sheet
from vivid_thimble.core.materials.carriers import MAT, ROLL

CORNERS = np.array([[10.0, 20.0], [210.0, 20.0], [210.0, 70.0], [10.0, 70.0]])
BOX = (10.0, 20.0, 210.0, 70.0)


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("margin", [0.0, 5.0])
def test_the_design_lies_inside_its_sheet_with_its_margin(mirrored: bool, margin: float) -> None:
    plan = plan_sheet(BOX, MAT, margin=margin, mirrored=mirrored)
    laid = plan.affine.apply(CORNERS)
    assert laid.min(axis=0) == pytest.approx([margin, margin])
    assert laid.max(axis=0) == pytest.approx([plan.width - margin, plan.height - margin])
    assert (plan.affine.determinant < 0) is mirrored


def test_a_long_strip_is_turned_onto_the_roll() -> None:
    plan = plan_sheet((0, 0, 600, 140), ROLL, margin=5.0, mirrored=False)
    assert plan.turned
    assert (plan.width, plan.height) == (150, 610)
    laid = plan.affine.apply(np.array([[0.0, 0.0], [600.0, 140.0]]))
    assert laid.min(axis=0) == pytest.approx([5, 5])
    assert laid.max(axis=0) == pytest.approx([145, 605])
    assert plan.affine.determinant > 0


@pytest.mark.parametrize(
    "box,carrier,overhang",
    [((0, 0, 300, 100), MAT, "8.0 mm too long"), ((0, 0, 300, 310), MAT, "8.0 mm too wide and 18.0 mm too long"),
     ((0, 0, 320, 310.5), ROLL, "10.5 mm too wide")],
)  # fmt: skip
def test_what_is_too_large_is_refused_with_its_overhang(box: tuple, carrier: object, overhang: str) -> None:
    with pytest.raises(DoesNotFitCarrier, match=overhang):
        plan_sheet(box, carrier, margin=0.0, mirrored=False)
