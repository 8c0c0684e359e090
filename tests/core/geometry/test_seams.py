"""Hairlines are gone after one go: whoever reads a file of a tidied region finds nothing more to tidy."""

from __future__ import annotations

import math

import numpy as np
import pytest
from shapely import Polygon

from vivid_thimble.core.geometry.plain_shapes import disc, rectangle
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.geometry.seams import close_seams, drop_hairs, seams_between, without_hairlines


@pytest.mark.parametrize("seed", [3, 24, 49, 77, 83, 86, 91])
def test_a_gap_that_hovers_about_a_seams_width_is_settled(seed: int) -> None:
    rng = np.random.default_rng(seed)
    x = np.linspace(0.0, 30.0, 61)
    y = 0.3 * np.cumsum(rng.normal(size=61))
    gap = np.abs(0.02 + 0.006 * np.cumsum(rng.normal(size=61)))
    above = Polygon(np.r_[np.c_[x, y], [(30.0, -30.0), (0.0, -30.0)]])
    below = Polygon(np.r_[np.c_[x, y + gap], [(30.0, 30.0), (0.0, 30.0)]])
    drawn = union([Region.from_polygons(above), Region.from_polygons(below)])
    once = drop_hairs(close_seams(drawn))
    assert drop_hairs(close_seams(once)) is not once
    tidied = without_hairlines(drawn)
    assert drop_hairs(close_seams(tidied)) is tidied
    assert tidied.area == pytest.approx(drawn.area, abs=0.03 * 30.0)


@pytest.mark.parametrize("radius", [3.0, 5.0, 40.0, 150.0])
@pytest.mark.parametrize("angle", [0.0, 29.0, 60.0])
@pytest.mark.parametrize("gap", [0.0, 1e-6, -1e-6, 0.0005, 0.015])
def test_discs_that_merely_touch_get_no_neck(radius: float, angle: float, gap: float) -> None:
    away, turn = 2.0 * radius + gap, math.radians(angle)
    one, other = disc((0.0, 0.0), radius), disc((away * math.cos(turn), away * math.sin(turn)), radius)
    assert seams_between([one, other]) == []
    drawn = union([one, other])
    if len(drawn.polygons.geoms) == 2:  # overlapping ones are one outline, of which nobody knows that it was two
        assert without_hairlines(drawn) is drawn


@pytest.mark.parametrize("gap", [0.002, 0.01, 0.018])
@pytest.mark.parametrize("corner", [0.0, 0.5])
@pytest.mark.parametrize("length", [2.0, 9.0])
def test_edges_that_were_meant_to_be_one_are_closed(gap: float, corner: float, length: float) -> None:
    one, other = rectangle((0.0, 0.0, 5.0, length), corner), rectangle((5.0 + gap, 0.0, 9.0, length), corner)
    (patch,) = seams_between([one, other])
    straight = length - 2.0 * corner
    assert patch.area >= 0.94 * gap * straight
    assert len(without_hairlines(union([one, other])).polygons.geoms) == 1
