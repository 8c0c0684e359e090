"""Two tones, dirt among them, and pictures made ready."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.tracing.leftovers import looked_through
from vivid_thimble.core.tracing.prepare import Preparing, level_angle_deg, prepared_picture, tone_table
from vivid_thimble.core.tracing.tones import is_unevenly_lit, local_tones, two_tones


def page(ink: int = 30, ground: int = 220) -> np.ndarray:
    gray = np.full((80, 120), ground, np.uint8)
    gray[20:60, 20:40] = ink
    gray[20:60, 60:100] = ink
    gray[30:50, 70:90] = ground
    return gray


def test_ink_is_full_and_ground_empty_whichever_is_the_darker() -> None:
    for gray, dark in ((page(), True), (page(220, 30), False)):
        found = two_tones(gray)
        assert found is not None
        assert found.ink_is_dark is dark
        assert found.coverage[40, 30] == pytest.approx(1.0, abs=0.01)
        assert found.coverage[40, 80] == pytest.approx(0.0, abs=0.01)
        assert found.coverage[5, 5] == pytest.approx(0.0, abs=0.01)


def test_a_given_level_is_where_coverage_is_half() -> None:
    gray = page()
    gray[70:75, :] = 90
    found = two_tones(gray, level=90.0)
    assert found is not None
    assert found.coverage[72, 50] == pytest.approx(0.5, abs=0.01)


def test_one_tone_is_nothing_to_trace() -> None:
    assert two_tones(np.full((20, 20), 200, np.uint8)) is None
    assert local_tones(np.full((20, 20), 255, np.uint8)) is None


def test_uneven_light_is_followed() -> None:
    light = np.linspace(0.35, 1.0, 240)[None, :]
    sheet = np.full((160, 240), 230.0)
    for x in range(20, 220, 40):
        sheet[50:110, x : x + 8] = 60.0
    gray = np.clip(sheet * light, 0, 255).astype(np.uint8)
    assert is_unevenly_lit(gray)
    assert not is_unevenly_lit(page())
    found = local_tones(gray)
    assert found is not None
    ink = found.coverage > 0.5
    truth = sheet < 100
    assert (ink & truth).sum() > 0.97 * truth.sum()
    assert (ink & ~truth).sum() < 0.03 * truth.sum()
    flat = two_tones(gray)
    assert flat is not None
    assert ((flat.coverage > 0.5) & ~truth).sum() > truth.sum()  # one level takes the dark side of the sheet for ink


def test_dirt_faint_smudges_and_edges_are_told_and_letters_are_not() -> None:
    coverage = np.zeros((200, 300), np.float32)
    coverage[60:140, 40:60] = coverage[60:140, 100:180] = 1.0
    coverage[40:50, 44:56] = 1.0  # the dot of an i
    coverage[180:182, 150:152] = 1.0
    coverage[160:176, 230:260] = 0.55
    coverage[0:5, 0:300] = 1.0
    found = looked_through(coverage > 0.5, coverage)
    assert sorted((one.why, one.area_px) for _, one in found.leftovers) == [
        ("dirt", 4.0),
        ("edge", 1500.0),
        ("faint", 480.0),
    ]
    for k, one in found.leftovers:
        row, column = int(one.at[1] * 200), int(one.at[0] * 300)
        assert found.number[row, column] == k


def test_a_single_piece_is_never_a_leftover() -> None:
    coverage = np.zeros((30, 30), np.float32)
    assert looked_through(coverage > 0.5, coverage).leftovers == ()
    coverage[:, 10:14] = 1.0
    assert looked_through(coverage > 0.5, coverage).leftovers == ()


@settings(derandomize=True)
@given(st.floats(-44.0, 44.0), st.integers(40, 400), st.integers(40, 400))
def test_a_line_that_should_be_level_tells_the_turn(angle: float, columns: int, rows: int) -> None:
    way = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))]) * 20.0
    for dx, dy in (way, -way, (way[1], -way[0])):
        one, two = (0.5, 0.5), (0.5 + dx / columns, 0.5 + dy / rows)
        assert level_angle_deg(one, two, columns, rows) == pytest.approx(-angle, abs=1e-6)


def test_a_turned_bar_is_level_after_straightening() -> None:
    picture = np.full((200, 200, 3), 255, np.uint8)
    y, x = np.mgrid[0:200, 0:200] - 100
    tilt = np.radians(10.0)
    picture[np.abs(-np.sin(tilt) * x + np.cos(tilt) * y) < 8] = 0
    turn = level_angle_deg((0.3, 0.5 - 0.2 * np.tan(tilt)), (0.7, 0.5 + 0.2 * np.tan(tilt)), 200, 200)
    found = prepared_picture(picture, Preparing(level_deg=turn))
    rows = np.flatnonzero((found[:, 60:140, 0] < 128).all(axis=1))
    assert len(rows) >= 14
    assert (
        np.flatnonzero((found[:, 60:140, 0] < 128).any(axis=1)).tolist() == pytest.approx(rows, abs=2)
        or len(rows) <= 17
    )


def test_four_corners_make_a_rectangle() -> None:
    picture = np.zeros((120, 160, 3), np.uint8)
    corners = ((0.25, 0.25), (0.75, 0.125), (0.8125, 0.75), (0.1875, 0.875))
    import cv2

    cv2.fillConvexPoly(picture, np.array([(x * 160, y * 120) for x, y in corners]).astype(np.int32), (255, 255, 255))
    found = prepared_picture(picture, Preparing(four_corners=corners))
    assert (found[3:-3, 3:-3] > 200).mean() > 0.99


@settings(derandomize=True)
@given(st.floats(0.0, 0.6), st.floats(0.61, 1.0), st.floats(-1.0, 1.0), st.floats(-1.0, 1.0))
def test_tones_never_change_their_order(black: float, white: float, brightness: float, contrast: float) -> None:
    own = Preparing(black=black, white=white, brightness=brightness, contrast=contrast)
    rising = tone_table(own).astype(int)
    assert (np.diff(rising) >= 0).all()
    falling = tone_table(Preparing(black=black, white=white, brightness=brightness, contrast=contrast, invert=True))
    assert np.abs(rising + falling.astype(int) - 255).max() <= 1


def test_crop_and_sharpness() -> None:
    picture = np.zeros((100, 200, 3), np.uint8)
    picture[:, 100:] = 200
    assert prepared_picture(picture, Preparing(crop=(0.5, 0.0, 1.0, 0.5))).shape == (50, 100, 3)
    assert prepared_picture(picture, Preparing(crop=(0.7, 0.7, 0.7, 0.7))).shape == (1, 1, 3)
    soft = prepared_picture(picture, Preparing(soften=15.0))[50, :, 0].astype(int)
    assert np.abs(np.diff(soft)).max() < 60
    sharp = prepared_picture(prepared_picture(picture, Preparing(soften=5.0)), Preparing(soften=-5.0))[50, :, 0]
    assert np.abs(np.diff(sharp.astype(int))).max() > np.abs(np.diff(soft)).max()
