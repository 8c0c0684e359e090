"""Tangles of blades and rings, with hundreds of cusps: one verdict wherever they lie and however large they are."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Point, Polygon
from shapely.affinity import rotate, scale, translate

from vivid_thimble.core.inspect.inspection import Limits, inspect_shape
from vivid_thimble.core.widths.balls import facing_by_balls
from vivid_thimble.core.widths.field import width_fields
from vivid_thimble.core.widths.survey import survey_widths
from vivid_thimble.core.widths.walls import rings_of, sample_walls

LINE, GAP = 0.8, 0.5
SIZES = (75.0, 150.0, 300.0, 600.0)
NOISE_MM = 1e-4


@cache
def tangled(seed: int) -> MultiPolygon:
    """Fourteen blades across each other, some with a ring, about one millimetre in all."""
    random, parts = np.random.default_rng(seed), []
    for _ in range(14):
        at, turn, long = random.uniform(0, 1, 2), random.uniform(0, 2 * np.pi), random.uniform(0.1, 0.4)
        thick = long * random.uniform(0.02, 0.3)
        t = np.linspace(0, 1, 40)
        rim = np.c_[t * long, thick * np.sin(np.pi * t) ** 2]
        blade = np.r_[rim, rim[::-1][1:-1] * (1, -0.3)]
        blade = blade @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + at
        parts.append(shapely.make_valid(Polygon(blade)))
        if random.random() < 0.4:
            parts.append(Point(at).buffer(long / 2, quad_segs=40).exterior.buffer(thick / 6))
    return as_film(shapely.union_all(parts))


def as_film(shape: shapely.Geometry) -> MultiPolygon:
    return MultiPolygon([part for part in shapely.get_parts(shape) if isinstance(part, Polygon)])


def shaken(shape: shapely.Geometry) -> MultiPolygon:
    def noise(points: NDArray[np.float64]) -> NDArray[np.float64]:
        return points + NOISE_MM * np.sin(points @ np.array([[12.9898, 78.233], [39.346, 11.135]]) * 1e4)

    return as_film(shapely.transform(shape, noise))


def critical(shape: shapely.Geometry) -> list[float]:
    return [side.critical or 0.0 for side in survey_widths(as_film(shape), LINE, GAP)]


@pytest.mark.parametrize("seed", [15, 17, 20, 21])
def test_every_size_tells_one_smallest_clean_size(seed: int) -> None:
    shape = tangled(seed)
    shares = np.array([critical(scale(shape, size, size, origin=(0, 0))) for size in SIZES]) / np.array(SIZES)[:, None]
    assert (np.ptp(shares, axis=0) <= 0.01 * shares.min(axis=0)).all()


@pytest.mark.parametrize("seed", range(30, 36))
def test_neither_noise_nor_where_it_lies_moves_a_figure(seed: int) -> None:
    shape = scale(tangled(seed), 120.0, 120.0, origin=(0, 0))
    moved = [shaken(shape), translate(shape, 31.7, -9.3), rotate(shape, 37.0, origin=(0, 0)), scale(shape, -1.0, 1.0)]
    expected = critical(shape)
    for other in moved:
        assert critical(other) == pytest.approx(expected, abs=0.002)


def test_dust_is_told_and_moves_no_figure() -> None:
    plain = shapely.box(0, 0, 120, 60).difference(shapely.box(20, 20, 100, 40))
    hole, speck = shapely.box(60, 19.97, 60.006, 19.976), shapely.box(50, 60.02, 50.006, 60.026)
    dusty = as_film(shapely.union(plain.difference(hole), speck))
    assert critical(dusty) == pytest.approx(critical(plain))
    found = inspect_shape(
        dusty, Limits(LINE, GAP, 4.0, 2.0), is_sheet=False, weeding_box=(-5.0, -5.0, 125.0, 65.0)
    ).findings
    assert sorted(finding.kind for finding in found) == ["pinhole", "small-piece"]


@pytest.mark.parametrize("thick", [1e-3, 1e-4, 3e-5, 1e-5])
def test_no_chord_leaves_what_its_outline_encloses(thick: float) -> None:
    """Waste in a sliver stays in it, and film in a splinter: none leads from one to the next across what lies between,
    although it enters and leaves that within a thousandth of its way."""
    slivers = [Polygon([(x, 40), (x + to * thick, 42.5), (x, 45)]) for x, to in ((10, 1), (50, 1), (90, -1))]
    holes = MultiPolygon([Polygon(Point(50, 50).buffer(60).exterior, [sliver.exterior for sliver in slivers])])
    for shape, side in ((holes, "waste"), (MultiPolygon(slivers), "kept")):
        samples = sample_walls(rings_of(shape), 1.0)
        for field in (width_fields(samples, 99.0)[side == "waste"], facing_by_balls(samples, side, 99.0)):
            found = field.width[np.isfinite(field.width)]
            assert found.max(initial=0.0) < 5.1
