"""Chords instead of lone segments change nothing about a boolean's result."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans import lone_segments
from vivid_thimble.core.geometry.booleans.lone_segments import shortened
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.plain_shapes import disc
from vivid_thimble.core.geometry.region import Region, difference, intersection, symmetric_difference, union
from vivid_thimble.core.sources.lettering import Words, shape_words

OPERATIONS = {
    "union": lambda a, b: union([a, b]),
    "difference": lambda a, b: difference(a, [b]),
    "intersection": intersection,
    "xor": symmetric_difference,
}


def word(text: str, face: str = "Pacifico", high: float = 60.0) -> list[Path]:
    return [
        one.path.transformed(Affine.scaling(high))
        for one in shape_words(Words(text=text, face=f"bundled:{face}")).letters
    ]


@pytest.fixture
def plainly(monkeypatch: pytest.MonkeyPatch) -> object:
    """Booleans without any chords, or with them wherever there is a lone segment."""

    def switch(*, chords: bool) -> None:
        monkeypatch.setattr(lone_segments, "FEWEST_POINTS", 0 if chords else 10**9)
        monkeypatch.setattr(lone_segments, "WORTH", 0.0)

    return switch


@pytest.mark.parametrize("name", OPERATIONS)
def test_booleans_of_words_are_the_same_with_chords(name: str, plainly) -> None:
    first = union([Region.from_path(path) for path in word("Wandering")])
    second = union([Region.from_path(path) for path in word("Heron", "League Spartan", 70.0)]).shifted(11.3, 6.7)
    both = []
    for chords in (False, True):
        plainly(chords=chords)
        both.append(OPERATIONS[name](first, second))
    plain, brief = both
    assert brief.polygons.is_valid
    assert shapely.symmetric_difference(plain.polygons, brief.polygons).area < 1e-5 * plain.area
    assert brief.outline.node_count == plain.outline.node_count
    assert len(brief.polygons.geoms) == len(plain.polygons.geoms)
    assert sum(len(p.interiors) for p in brief.polygons.geoms) == sum(len(p.interiors) for p in plain.polygons.geoms)
    assert shapely.get_num_coordinates(brief.polygons) == shapely.get_num_coordinates(plain.polygons)


def test_most_segments_of_a_line_of_letters_are_lone_and_come_back_bit_by_bit() -> None:
    path = Path.joined(word("Wandering Heron Second Supper"))
    flat = flatten(path)
    brief = shortened(path, flat)
    assert brief is not None
    assert brief.lone.mean() > 0.7
    assert len(brief.flat.points) < 0.4 * len(flat.points)
    joined = Region.from_path(path)
    came = {segment.tobytes() for contour in path.contours for segment in contour.segments}
    came |= {segment[::-1].copy().tobytes() for contour in path.contours for segment in contour.segments}
    left = [segment.tobytes() in came for contour in joined.outline.contours for segment in contour.segments]
    assert np.mean(left) > 0.8


@settings(max_examples=40, deadline=None, derandomize=True)
@given(
    st.lists(
        st.tuples(st.floats(-20, 20), st.floats(-20, 20), st.floats(0.5, 15.0)), min_size=2, max_size=6, unique=True
    )
)
def test_discs_in_any_place_unite_as_shapely_says(discs: list[tuple[float, float, float]]) -> None:
    regions = [disc((x, y), radius) for x, y, radius in discs]
    truth = shapely.union_all([region.polygons for region in regions])
    before = lone_segments.FEWEST_POINTS, lone_segments.WORTH
    lone_segments.FEWEST_POINTS, lone_segments.WORTH = 0, 0.0
    try:
        whole = union(regions)
    finally:
        lone_segments.FEWEST_POINTS, lone_segments.WORTH = before
    assert whole.polygons.is_valid
    assert whole.area == pytest.approx(truth.area, abs=2e-4 * (1.0 + truth.length))
