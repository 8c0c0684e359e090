"""Bridges in the window: from the finding to a sheet without loose middles, at any size, and back."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from PySide6.QtWidgets import QComboBox

from tests.desktop.conftest import Hand
from vivid_thimble.core.job.edits import with_item, with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Bridges


@pytest.fixture
def stencil(hand: Hand) -> Hand:
    """Hull numbers to be cut from a rigid sheet."""
    words = Element(
        id="hull",
        name="hull",
        source=Words(text="4689", face="bundled:League Spartan"),
        placement=Placement(height=80.0),
    )
    job = with_layer(new_job("Hull", 300.0, 200.0), lambda la: la.__class__(id=la.id, film=la.film, elements=(words,)))
    job = with_item(job, lambda item: item.__class__(**{**_fields(item), "method": "rigid-stencil", "surround": 20.0}))
    hand.window.session.start(job, {})
    hand.settle()
    return hand


def _fields(item: object) -> dict[str, object]:
    return {name: getattr(item, name) for name in item.__struct_fields__}  # type: ignore[attr-defined]  # a Struct


def sheet(hand: Hand) -> shapely.MultiPolygon:
    assert hand.window.session.result is not None
    return hand.window.session.result.layers[0].kept.polygons


def width_of_bridges(hand: Hand) -> float:
    """The widest erosion that leaves the sheet in one piece, to 0.02 mm."""
    low, high = 0.0, 6.0
    while high - low > 0.02:
        middle = (low + high) / 2.0
        parts = shapely.get_parts(shapely.buffer(sheet(hand), -middle / 2.0))
        whole = len([part for part in parts if part.area > 1.0]) == 1
        low, high = (middle, high) if whole else (low, middle)
    return low


def test_a_loose_middle_is_bridged_from_its_finding_and_keeps_its_width_at_every_size(stencil: Hand) -> None:
    assert len(sheet(stencil).geoms) == 6
    assert stencil.kinds().count("loose-piece") == 5
    before = stencil.window.session.job
    stencil.go_to("inspect")
    stencil.click("page_findings")
    stencil.window.trays.inspect.hold(
        next(k for k, f in enumerate(stencil.window.session.result.findings) if f.kind == "loose-piece")
    )
    stencil.settle()
    stencil.click("remedy_bridge")
    assert len(sheet(stencil).geoms) == 1
    assert "loose-piece" not in stencil.kinds()
    assert stencil.gauge("line")[1] == "fine"  # a bridge as wide as the limit is not below it
    assert width_of_bridges(stencil) == pytest.approx(1.5, abs=0.05)
    for height in ("48mm", "112mm"):
        stencil.type_into("designHeight", height)
        assert len(sheet(stencil).geoms) == 1
        assert width_of_bridges(stencil) == pytest.approx(1.5, abs=0.05)
    for _ in range(3):
        stencil.window.session.undo()
        stencil.settle()
    assert stencil.window.session.job == before
    assert len(sheet(stencil).geoms) == 6


def test_bridges_are_set_in_shape_and_follow_other_words(stencil: Hand) -> None:
    stencil.add_step("Bridges")
    (step,) = [s for s in stencil.window.session.job.item.layers[0].elements[0].steps if isinstance(s, Bridges)]
    stencil.type_into(f"width_{step.id}", "3 mm")
    assert width_of_bridges(stencil) == pytest.approx(3.0, abs=0.06)
    stencil.choose("bridgeCount", "One")
    one = sheet(stencil).area
    stencil.choose("bridgeCount", "Two")
    assert sheet(stencil).area > one
    angle = stencil.find("bridgeAngle")
    assert isinstance(angle, QComboBox)
    stencil.choose("bridgeAngle", "All level")
    stencil.go_to("gather")
    stencil.window.trays.gather.text_edit.setPlainText("BOAT 08")
    stencil.settle()
    assert len(sheet(stencil).geoms) == 1
    stencil.go_to("shape")
    stencil.type_into("bridgeDropped", "200 mm")  # every middle may drop out
    assert len(sheet(stencil).geoms) > 1
    assert np.isfinite(sheet(stencil).area)
