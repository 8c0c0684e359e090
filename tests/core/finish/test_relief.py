"""Relief cuts and weeding boxes on film of any shape: clear of it, inside the box, nothing wrapped."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon

from tests.shapes import blobs
from vivid_thimble.core.finish.relief import CLEAR_MM, MOST_CUTS, REACH_MM, relief_in, waste_cuts, weeding_box


def surround_pieces(kept: MultiPolygon, box: tuple[float, float, float, float]) -> list[shapely.Polygon]:
    """The waste that reaches the box's edge, once the cuts are made (they end CLEAR_MM before film)."""
    room = shapely.difference(shapely.box(*box), shapely.buffer(kept, CLEAR_MM, quad_segs=4))
    parted = shapely.difference(room, shapely.buffer(shapely.union_all(relief_in(kept, box)), 0.05))
    rim = shapely.box(*box).exterior
    return [piece for piece in shapely.get_parts(parted) if piece.intersects(rim)]


@settings(max_examples=12)
@given(st.integers(0, 10_000), st.integers(1, 30), st.floats(4.0, 20.0))
def test_nothing_wraps_film_and_no_cut_touches_it(seed: int, count: int, margin: float) -> None:
    kept = MultiPolygon(shapely.get_parts(shapely.union_all(shapely.get_parts(blobs(count, 40, seed)))).tolist())
    box = weeding_box(kept, margin)
    cuts = relief_in(kept, box)
    assert len(cuts) < MOST_CUTS
    frame = shapely.box(*box)
    for cut in cuts:
        assert frame.buffer(1e-6).covers(cut)
        assert cut.distance(kept) >= CLEAR_MM - 0.03
    pieces = surround_pieces(kept, box)
    assert not any(len(piece.interiors) for piece in pieces)


def test_a_long_band_is_cut_into_lengths_that_a_hand_pulls() -> None:
    kept = MultiPolygon([shapely.box(0, 0, 900, 30)])
    pieces = surround_pieces(kept, weeding_box(kept, 8.0))
    assert len(pieces) >= 8
    assert max(np.ptp(shapely.get_coordinates(piece), axis=0).max() for piece in pieces) < REACH_MM + 45.0


def test_what_is_cut_is_closed_and_only_what_is_asked() -> None:
    kept = MultiPolygon([shapely.box(0, 0, 60, 30)])
    assert waste_cuts(kept, None, relief=False) == ()
    assert waste_cuts(MultiPolygon(), 5.0, relief=True) == ()
    (box,) = waste_cuts(kept, 7.0, relief=False)
    assert box.bounds == pytest.approx((-7.0, -7.0, 67.0, 37.0))
    lines = waste_cuts(kept, None, relief=True)
    assert len(lines) >= 2
    for path in lines:
        (contour,) = path.contours
        assert contour.closed
        assert shapely.Polygon(contour.segments[:, 0][[0, 1, 0]]).area == 0.0  # along the line and back
