"""Areas of labels share their edges: together they are the picture, no more and no less."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.trace_truth import colour_picture
from vivid_thimble.core.tracing.colour_space import lab
from vivid_thimble.core.tracing.label_map import traced_map
from vivid_thimble.core.tracing.separate import (
    despeckled,
    filled,
    flat_colours,
    flat_labels,
    nearest_labels,
    reduced_colours,
)

PALETTE = np.array([[250.0, 250, 240], [200, 40, 40], [30, 80, 160], [240, 190, 60]])


def overlap_and_gap(labels: np.ndarray, palette: np.ndarray) -> tuple[float, float, list[float]]:
    picture = palette.astype(np.uint8)[labels]
    regions = traced_map(labels, picture, palette).regions(1.0)
    union = shapely.union_all([region.polygons for region in regions]).area
    areas = [region.area for region in regions]
    return sum(areas) - union, labels.size - union, areas


@settings(max_examples=25, deadline=None, derandomize=True)
@given(st.integers(0, 10_000), st.integers(6, 26), st.integers(6, 26), st.integers(2, 4), st.integers(1, 5))
def test_any_map_is_covered_once(seed: int, rows: int, columns: int, count: int, grain: int) -> None:
    coarse = np.random.default_rng(seed).integers(0, count, (rows // grain + 1, columns // grain + 1))
    labels = np.kron(coarse, np.ones((grain, grain), dtype=int))[:rows, :columns].astype(np.uint8)
    over, gap, areas = overlap_and_gap(labels, PALETTE[:count])
    rough = 0.02 if grain == 1 else 0.001  # noise of single pixels has no shape that curves could follow
    assert over < 0.3 + rough * labels.size
    assert gap < 0.3 + rough * labels.size
    for k, area in enumerate(areas):
        assert area == pytest.approx((labels == k).sum(), rel=0.35, abs=6.0)


def test_four_colours_meet_without_gap_or_overlap_where_they_were_drawn() -> None:
    colours, areas, picture = colour_picture(300)
    palette = flat_colours(picture)
    assert palette is not None
    assert len(palette) == 4
    found = traced_map(flat_labels(picture, palette), picture, palette)
    regions = found.regions(1.0)
    union = shapely.union_all([region.polygons for region in regions]).area
    assert abs(sum(region.area for region in regions) - union) < 1e-6
    assert abs(union - 300 * 300) < 1e-6
    for colour, area in zip(colours, areas, strict=True):
        own = regions[int(((palette - colour) ** 2).sum(axis=1).argmin())]
        assert own.polygons.symmetric_difference(area).area < 20.0
    assert found.node_count < 70


def test_the_ground_is_not_traced_but_its_edges_are() -> None:
    _, areas, picture = colour_picture(300)
    palette = flat_colours(picture)
    assert palette is not None
    ground = int(((palette - [250, 246, 235]) ** 2).sum(axis=1).argmin())
    regions = traced_map(flat_labels(picture, palette), picture, palette, left_out=ground).regions(1.0)
    assert regions[ground].is_empty
    kept = shapely.union_all([region.polygons for region in regions])
    assert kept.symmetric_difference(shapely.union_all(areas[1:])).area < 30.0


def test_mixed_pixels_never_become_a_third_colour() -> None:
    """Half way between the outer two lies the middle one."""
    palette = np.array([[240.0, 240, 240], [120, 120, 120], [0, 0, 0]])
    picture = np.full((40, 90, 3), 240, np.uint8)
    picture[:, 20:40] = 0
    picture[:, 19] = picture[:, 40] = 118
    picture[10:30, 60:80] = 120
    labels = flat_labels(picture, palette)
    assert set(np.unique(labels[:, :50])) == {0, 2}
    assert (labels[12:28, 62:78] == 1).all()


def test_a_line_too_thin_to_be_pure_keeps_its_colour() -> None:
    picture = np.full((30, 60, 3), 250, np.uint8)
    picture[14:16, 5:55] = (225, 145, 145)  # red, 40 to 60 % covered
    picture[2:8, 2:8] = (200, 40, 40)
    labels = flat_labels(picture, PALETTE[:2])
    assert (labels[14:16, 8:52] == 1).any(axis=0).mean() > 0.9


def test_flat_colours_are_found_in_compression_noise_and_not_in_a_photo() -> None:
    _, _, picture = colour_picture(200)
    noisy = np.clip(picture + np.random.default_rng(3).normal(0, 3, picture.shape), 0, 255).astype(np.uint8)
    found = flat_colours(noisy)
    assert found is not None
    assert len(found) == 4
    ramp = np.tile(np.linspace(0, 255, 200)[None, :, None], (120, 1, 3)).astype(np.uint8)
    assert flat_colours(ramp) is None


def test_reduced_colours_are_those_that_are_there() -> None:
    picture = np.zeros((60, 60, 3), np.uint8)
    for k, colour in enumerate(PALETTE.astype(np.uint8)):
        picture[:, 15 * k : 15 * k + 15] = colour
    found = reduced_colours(picture, 4)
    assert np.abs(lab(found)[:, None] - lab(PALETTE)).sum(axis=2).min(axis=1).max() < 3.0
    assert len(np.unique(nearest_labels(picture, found))) == 4
    assert len(reduced_colours(picture[:, :15], 4)) == 1


def test_specks_take_what_surrounds_them_and_large_areas_stay() -> None:
    labels = np.zeros((30, 30), np.uint8)
    labels[:, 15:] = 1
    labels[4:6, 4:6] = 2
    labels[10:20, 18:28] = 2
    found = despeckled(labels, 10.0)
    assert (found[4:6, 4:6] == 0).all()
    assert (found[10:20, 18:28] == 2).all()
    assert (filled(labels, np.ones_like(labels, dtype=bool)) == labels).all()
