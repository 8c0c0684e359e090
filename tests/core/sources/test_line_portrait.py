"""Portraits of lines keep the film's limits and look like the photo."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.trace_truth import photo
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.sources.line_portrait import (
    MOST_TURNS,
    LinePortrait,
    _planned,
    draw_lines,
    most_turns,
    seen_from_afar,
    smallest_diameter,
)
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.widths.survey import survey_widths

SPIRAL = LinePortrait(asset="photo", name="Bramble")


def thinnest(polygons: shapely.MultiPolygon, limit: float = 0.8) -> tuple[float, float]:
    lines, gaps = survey_widths(polygons, limit, limit)
    assert lines.thinnest is not None
    assert gaps.thinnest is not None
    return lines.thinnest.thinnest, gaps.thinnest.thinnest


def likeness(drawn: shapely.MultiPolygon, pixels: ColourImage, diameter: float, pitch: float) -> float:
    """Correlation of the blurred portrait with the blurred photo, inside the circle."""
    size = 300
    region = type("Held", (), {"polygons": drawn})()
    dark = 255.0 - seen_from_afar(region, diameter, 0.0, size)
    wanted = 255.0 - cv2.resize(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), (size, size), interpolation=cv2.INTER_AREA)
    blur = 0.8 * pitch * size / diameter
    one, two = (cv2.GaussianBlur(v.astype(np.float32), (0, 0), blur) for v in (dark, wanted))
    y, x = np.mgrid[0:size, 0:size] - size / 2.0
    away = np.hypot(x, y) * diameter / size
    inside = (away < diameter / 2.0 - 2.0 * pitch) & (away > 3.0 * pitch)
    return float(np.corrcoef(one[inside], two[inside])[0, 1])


@settings(max_examples=3, deadline=None, derandomize=True)
@given(st.integers(0, 1000), st.floats(60.0, 110.0), st.floats(0.5, 0.9), st.floats(0.5, 0.9))
def test_a_spiral_keeps_its_limits_on_any_photo(seed: int, diameter: float, line: float, gap: float) -> None:
    held = replace(SPIRAL, min_line=line, min_gap=gap)
    drawn = draw_lines(photo(300, 300, seed), held, diameter)
    lines, gaps = survey_widths(drawn.kept.polygons, line + 0.02, gap + 0.02)
    for side, limit in ((lines, line), (gaps, gap)):
        assert all(place.thinnest >= limit for place in side.places)
    assert len(drawn.kept.polygons.geoms) == 1
    assert len(drawn.kept.polygons.geoms[0].interiors) == 0  # the waste is one strip


def test_a_spiral_of_200_mm_looks_like_its_photo_and_cannot_have_more_turns() -> None:
    pixels = photo(600, 600)
    drawn = draw_lines(pixels, SPIRAL, 200.0)
    assert min(thinnest(drawn.kept.polygons)) >= 0.8
    assert likeness(drawn.kept.polygons, pixels, 200.0, drawn.pitch) > 0.98
    assert drawn.turns == pytest.approx(drawn.most_turns)
    exact = 100.0 / (3.0 * 0.8 + 0.8)  # lines up to three times the thinnest, without any allowance
    assert 0.98 * exact < drawn.turns <= exact
    assert drawn.kept_end is not None
    assert shapely.distance(shapely.Point(drawn.kept_end), drawn.kept.polygons) < 0.01
    assert drawn.waste_end is not None
    assert shapely.distance(shapely.Point(drawn.waste_end), drawn.kept.polygons) > 0.1


@pytest.mark.parametrize(("lines", "pieces"), [("rings", 15), ("waves", 27)])
def test_rings_and_waves_keep_the_limits_too(lines: str, pieces: int) -> None:
    held = replace(SPIRAL, lines=lines)
    drawn = draw_lines(photo(300, 300), held, 100.0)
    assert min(thinnest(drawn.kept.polygons)) >= 0.8
    assert len(drawn.kept.polygons.geoms) == pytest.approx(pieces, abs=2)
    left, top, right, bottom = drawn.kept.bounds or (0.0, 0.0, 0.0, 0.0)
    assert max(-left, -top, right, bottom) <= 50.0


def test_an_outer_ring_holds_the_spiral() -> None:
    drawn = draw_lines(photo(300, 300), replace(SPIRAL, outer_ring=True), 100.0)
    assert len(drawn.kept.polygons.geoms) == 1
    assert drawn.kept.bounds == pytest.approx((-50.0, -50.0, 50.0, 50.0), abs=0.01)
    assert len(drawn.kept.polygons.geoms[0].interiors) == 1
    assert thinnest(drawn.kept.polygons)[0] >= 0.8


def test_the_way_round_is_chosen() -> None:
    one, other = (draw_lines(photo(200, 200), replace(SPIRAL, clockwise=c), 60.0).kept_end for c in (True, False))
    assert one is not None
    assert other is not None
    assert one[0] == pytest.approx(other[0], abs=0.8)
    assert one[1] * other[1] < 0.0


def test_turns_and_size_belong_together() -> None:
    for diameter in (60.0, 150.0, 340.0):
        assert smallest_diameter(most_turns(diameter, 0.8, 0.6), 0.8, 0.6) == pytest.approx(diameter)


def test_too_many_turns_are_refused_with_the_size_that_they_need() -> None:
    with pytest.raises(InputRefused, match=r"24 turns need (\d+) mm") as caught:
        draw_lines(photo(100, 100), replace(SPIRAL, turns=24.0), 40.0)
    needed = float(str(caught.value).split("need ")[1].split(" mm")[0])
    assert draw_lines(photo(100, 100), replace(SPIRAL, turns=24.0), needed + 1.0).turns == 24.0
    with pytest.raises(InputRefused, match="larger"):
        draw_lines(photo(100, 100), SPIRAL, 6.0)


def test_a_photo_of_one_tone_gives_even_lines() -> None:
    drawn = draw_lines(np.full((50, 50, 3), 99, np.uint8), SPIRAL, 60.0)
    lines, gaps = thinnest(drawn.kept.polygons, 4.0)
    assert lines + gaps == pytest.approx(drawn.pitch, abs=0.1)


@pytest.mark.parametrize(
    ("lines", "clockwise"), [("spiral", True), ("spiral", False), ("rings", True), ("waves", True)]
)
def test_a_rigid_sheet_holds_together_where_lines_are_tied(lines: str, clockwise: bool) -> None:
    """Without ties the sheet between rings falls out; with them it is one piece, as strong as the ties are wide."""
    held = replace(SPIRAL, lines=lines, clockwise=clockwise, min_line=1.5, min_gap=1.5)
    scene = photo(400, 400)
    loose, tied = (draw_lines(scene, replace(held, ties=ties), 160.0).kept.polygons for ties in (0, 3))
    frame = shapely.Point(0, 0).buffer(100.0, quad_segs=64)
    assert len(shapely.get_parts(frame.difference(tied))) == 1
    assert (len(shapely.get_parts(frame.difference(loose))) > 1) == (lines == "rings")
    assert len(tied.geoms) > len(loose.geoms)
    eroded = shapely.get_parts(frame.difference(tied).buffer(-1.4 / 2.0))
    assert len([part for part in eroded if part.area > 1.0]) == 1


def test_a_wall_sized_portrait_has_no_more_turns_than_anybody_would_weed() -> None:
    """Its lines are wider instead: the limits are kept, and memory does not grow with the wall."""
    plan = _planned(
        np.full((40, 40, 3), 102, dtype=np.uint8), LinePortrait(asset="a", name="a", lines="rings"), 20_000.0
    )
    assert plan.turns == MOST_TURNS
    assert plan.room.pitch == pytest.approx(10_000.0 / MOST_TURNS)
