"""Long work tells what it does and is left soon after it is not wanted any more."""

from __future__ import annotations

import itertools
import time
from collections.abc import Iterator

import cv2
import numpy as np
import pytest

from tests.trace_truth import photo
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.picture_stages import sized_picture
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.job.values import Placement
from vivid_thimble.core.pauses import Stopped, pause, watched
from vivid_thimble.core.sources.picture import Picture


def large_photo() -> Raster:
    scene = cv2.resize(photo(1000, 750), (2000, 1500), interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(2).normal(0.0, 4.0, scene.shape)
    return Raster(np.clip(scene + grain, 0, 255).astype(np.uint8))


def test_a_large_photo_pauses_often_and_can_be_left_anywhere() -> None:
    """Pauses are counted against the work between them, so a slow machine changes nothing."""
    held = Picture(asset="scene", name="scene", separate="colours")
    raster = large_photo()
    told: list[str] = []
    times: list[float] = []

    def note(doing: str) -> None:
        times.append(time.process_time())
        told.extend([doing] if doing else [])

    with watched(note):
        found = sized_picture(raster, held, Placement(width=250.0), Cache())
    assert found.traced.node_count > 1000
    assert {"Looking for leftovers", "Following outlines", "Smoothing outlines"} <= set(told)
    assert max(np.diff(times)) < 0.3 * (times[-1] - times[0])
    for leave_at in (1, len(times) // 3, len(times) - 1):
        cache, left = Cache(), itertools.count()

        def leave(doing: str, at: int = leave_at, left: Iterator[int] = left) -> None:
            if next(left) >= at:
                raise Stopped

        with pytest.raises(Stopped), watched(leave):
            sized_picture(raster, held, Placement(width=250.0), cache)
    again = sized_picture(raster, held, Placement(width=250.0), cache)
    assert again.traced.node_count == found.traced.node_count
    pause("nobody watches any more")
