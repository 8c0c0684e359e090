"""Hairlines are gone after one go: whoever reads a file of a tidied region finds nothing more to tidy."""

from __future__ import annotations

import numpy as np
import pytest
from shapely import Polygon

from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.geometry.seams import close_seams, drop_hairs, without_hairlines


@pytest.mark.parametrize("seed", [0, 13, 14, 26, 34, 39, 48])
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
