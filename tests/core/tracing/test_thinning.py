"""Thinned shapes keep their topology, are one pixel wide, and fall into the chains that were drawn."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from vivid_thimble.core.tracing.polynomials import fitted_polynomials
from vivid_thimble.core.tracing.thinning import chains_of, thinned

Mask = NDArray[np.bool_]


def drawn(*strokes: tuple[tuple[int, int], tuple[int, int], int], size: tuple[int, int] = (120, 160)) -> Mask:
    picture = np.zeros(size, np.uint8)
    for start, end, width in strokes:
        cv2.line(picture, start, end, 255, width)
    return np.asarray(picture > 0)


def pieces(mask: Mask, connectivity: int) -> int:
    return cv2.connectedComponents(mask.astype(np.uint8), connectivity=connectivity)[0] - 1


places = st.tuples(st.integers(8, 150), st.integers(8, 110))


@settings(max_examples=40, deadline=None, derandomize=True)
@given(st.lists(st.tuples(places, places, st.integers(1, 9)), min_size=1, max_size=6))
def test_thinning_keeps_pieces_and_holes_and_leaves_no_square(strokes: list) -> None:
    ink = drawn(*strokes)
    lines = thinned(ink)
    assert not (lines & ~ink).any()
    assert pieces(lines, 8) == pieces(ink, 8)
    assert pieces(~np.pad(lines, 1), 4) == pieces(~np.pad(ink, 1), 4)
    square = lines[:-1, :-1] & lines[1:, :-1] & lines[:-1, 1:] & lines[1:, 1:]
    assert not square.any()


@settings(max_examples=25, deadline=None, derandomize=True)
@given(st.lists(st.tuples(places, places, st.integers(1, 7)), min_size=1, max_size=5))
def test_chains_hold_every_pixel_once_and_go_from_neighbour_to_neighbour(strokes: list) -> None:
    lines = thinned(drawn(*strokes))
    chains, middles = chains_of(lines)
    seen = np.zeros(lines.shape, dtype=int)
    for chain in chains:
        seen[tuple(chain.pixels.T)] += 1
        steps = np.abs(np.diff(chain.pixels, axis=0))
        assert not len(steps) or steps.max() == 1
        assert all(-1 <= end < len(middles) for end in chain.ends)
    assert seen.max(initial=0) <= 1
    assert not (seen.astype(bool) & ~lines).any()


def test_a_cross_has_four_chains_at_one_meeting_and_a_ring_is_closed() -> None:
    chains, middles = chains_of(thinned(drawn(((20, 60), (140, 60), 5), ((80, 10), (80, 110), 5))))
    long = [chain for chain in chains if len(chain.pixels) > 20]
    assert len(long) == 4
    assert all(sorted(chain.ends)[0] == -1 < sorted(chain.ends)[1] for chain in long)
    assert np.abs(middles - [60.0, 80.0]).max() < 3.0
    ring = np.zeros((120, 160), np.uint8)
    cv2.circle(ring, (80, 60), 40, 255, 6)
    (chain,) = chains_of(thinned(ring > 0))[0]
    assert chain.closed
    assert chain.ends == (-1, -1)


@settings(max_examples=30, deadline=None, derandomize=True)
@given(st.integers(1, 3), st.integers(0, 2**31 - 1))
def test_polynomials_of_rows_are_those_that_numpy_finds(degree: int, seed: int) -> None:
    random = np.random.default_rng(seed)
    t = np.sort(random.uniform(-1.0, 1.0, (4, 9)), axis=1)
    values, weight = random.normal(0.0, 3.0, (4, 9, 2)), random.uniform(0.2, 1.0, (4, 9))
    found, left = fitted_polynomials(t, values, degree, weight)
    for row in range(4):
        for d in range(2):
            wanted = np.polynomial.polynomial.polyfit(t[row], values[row, :, d], degree, w=np.sqrt(weight[row]))
            assert found[row, :, d] == pytest.approx(wanted, rel=1e-4, abs=1e-4)
            off = values[row, :, d] - np.polynomial.polynomial.polyval(t[row], found[row, :, d])
            assert left[row, :, d] == pytest.approx(off, abs=1e-9)
