"""The width under a place, against shapes whose widths are known."""

from __future__ import annotations

import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from vivid_thimble.core.widths.under_pointer import Neighbourhood

RING = (
    shapely.Point(0.0, 0.0).buffer(10.0, quad_segs=200).difference(shapely.Point(0.0, 0.0).buffer(7.0, quad_segs=200))
)
BARS = shapely.MultiPolygon([shapely.box(0.0, 0.0, 40.0, 3.0), shapely.box(0.0, 4.25, 40.0, 9.0)])


@given(angle=st.floats(0.0, 6.28), share=st.floats(0.05, 0.95))
def test_a_ring_is_as_wide_everywhere_as_it_was_made(angle: float, share: float) -> None:
    reach = 7.0 + 3.0 * share
    under = Neighbourhood(shapely.MultiPolygon([RING])).at(reach * math.cos(angle), reach * math.sin(angle))
    assert under is not None and under.kind == "line"
    assert under.width == pytest.approx(3.0, abs=2e-3)


def test_lines_gaps_and_what_lies_open() -> None:
    near = Neighbourhood(BARS)
    line, gap = near.at(20.0, 1.0), near.at(20.0, 3.4)
    assert line is not None and (line.kind, line.width) == ("line", pytest.approx(3.0))
    assert gap is not None and (gap.kind, gap.width) == ("gap", pytest.approx(1.25))
    assert sorted(end[1] for end in gap.ends) == pytest.approx([3.0, 4.25])
    beyond = near.at(20.0, 12.0)
    assert beyond is not None and beyond.kind == "gap" and beyond.width is None
    assert near.at(20.0, 500.0, reach=100.0) is None
    assert Neighbourhood(shapely.MultiPolygon()).at(0.0, 0.0) is None
    on_wall = near.at(20.0, 3.0)
    assert on_wall is not None and on_wall.width is None
