"""Objects cut out by scribbles, against scenes whose objects are known."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from vivid_thimble.core.tracing.cut_out import cut_out

Mask = NDArray[np.bool_]
SIZE = 600


def scene(*ellipses: tuple[float, float, float, float]) -> tuple[NDArray[np.uint8], Mask]:
    """Things of changing colour on a ground of changing colour, a little soft and noisy; and where they are."""
    y, x = np.mgrid[0:SIZE, 0:SIZE].astype(np.float64)
    truth = np.zeros((SIZE, SIZE), bool)
    for cx, cy, wide, high in ellipses:
        truth |= ((x - cx) / wide) ** 2 + ((y - cy) / high) ** 2 < 1.0
    thing = np.stack([150 + 40 * np.sin(x / 23), 90 + 30 * np.sin(y / 17), 60 + 20 * np.cos(x / 11)], axis=2)
    ground = np.stack([80 + 30 * np.sin(x / 40) + y / 20, 120 + 25 * np.cos(y / 29), 140 + 30 * np.sin(x / 50)], axis=2)
    pixels = cv2.GaussianBlur(np.where(truth[:, :, None], thing, ground), (0, 0), 1.0)
    noisy = pixels + np.random.default_rng(1).normal(0.0, 5.0, pixels.shape)
    return np.clip(noisy, 0, 255).astype(np.uint8), truth


def scribble(*boxes: tuple[int, int, int, int]) -> Mask:
    """Boxes left, top, right, bottom."""
    mask = np.zeros((SIZE, SIZE), bool)
    for left, top, right, bottom in boxes:
        mask[top:bottom, left:right] = True
    return mask


def overlap(found: Mask, truth: Mask) -> float:
    return float((found & truth).sum() / (found | truth).sum())


TWO = ((250.0, 300.0, 140.0, 170.0), (480.0, 150.0, 60.0, 50.0))


def test_both_things_that_were_scribbled_on_are_found_to_the_pixel() -> None:
    pixels, truth = scene(*TWO)
    stays = scribble((245, 240, 255, 360), (460, 147, 500, 153))
    goes = scribble((40, 560, 560, 568), (30, 30, 400, 38))
    coverage = cut_out(pixels, stays, goes)
    assert overlap(coverage > 0.5, truth) > 0.995
    assert coverage.sum() == pytest.approx(truth.sum(), rel=0.004)


def test_without_a_scribble_on_the_ground_the_frame_is_ground() -> None:
    pixels, truth = scene(TWO[0])
    coverage = cut_out(pixels, scribble((245, 240, 255, 360)), scribble())
    assert overlap(coverage > 0.5, truth) > 0.99


def test_what_is_scribbled_on_stays_and_goes_whatever_the_colours_say() -> None:
    pixels, truth = scene(TWO[0])
    corner, hole = scribble((20, 20, 60, 40)), scribble((200, 280, 260, 300))
    coverage = cut_out(pixels, scribble((245, 320, 255, 400)) | corner, hole | scribble((40, 560, 560, 568)))
    assert coverage[corner].min() == 1.0
    assert coverage[hole].max() == 0.0
    assert not truth[corner].any()


def test_one_colour_everywhere_a_scribble_everywhere_and_a_dot_are_no_trouble() -> None:
    even = np.full((40, 60, 3), 90, np.uint8)
    some = np.zeros((40, 60), bool)
    some[10:14, 10:20] = True
    for stays, goes in ((some, ~some), (np.ones_like(some), np.zeros_like(some)), (some, np.zeros_like(some))):
        found = cut_out(even, stays, goes)
        assert found.shape == (40, 60)
        assert np.isfinite(found).all()
        assert (found[stays & ~goes] == 1.0).all()
    assert cut_out(np.zeros((1, 1, 3), np.uint8), np.ones((1, 1), bool), np.zeros((1, 1), bool)).tolist() == [[1.0]]
