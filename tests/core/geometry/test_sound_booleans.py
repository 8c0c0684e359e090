"""Booleans lose no area: outlines that touch themselves in many points, told by cutting the plane into faces."""

from __future__ import annotations

import logging
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.geometry import region as regions
from vivid_thimble.core.geometry.booleans.clip import to_grid
from vivid_thimble.core.geometry.booleans.cross_check import disagreement
from vivid_thimble.core.geometry.booleans.kernels import KERNELS, arrangement, older_sweep, sweep
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.plain_shapes import disc, rectangle
from vivid_thimble.core.geometry.region import Region, difference, intersection, union

SELF_TOUCHING = [
    (100, 0), (0, 50), (75, 100), (25, 50), (75, 50), (50, 25), (0, 50),
    (50, 50), (25, 25), (75, 50), (50, 100), (25, 25), (50, 25), (75, 50),
]  # fmt: skip
SWEEP_FAILS, OLDER_FAILS = [252, 312, 2245, 2271, 2303, 2350], [1140, 1203, 1367, 1387, 1875, 2359]
OPERATIONS = ("union", "difference", "intersection", "xor")


def outline(rng: np.random.Generator) -> np.ndarray:
    """Corners on a coarse grid: edges meet in many points, and lie on each other."""
    step = rng.choice([1, 2, 5, 10, 25, 50])
    return np.asarray(rng.integers(0, 100 // step + 1, (rng.integers(4, 24), 2)) * step, dtype=float)


def as_path(points: np.ndarray) -> Path:
    return Path((Contour.from_points(np.r_[points, points[:1]]),))


def faces_of(*outlines: np.ndarray) -> tuple[np.ndarray, list[np.ndarray]]:
    """Areas of the faces into which all edges cut the plane, and how often each outline winds round each face."""
    edges = [shapely.LineString([a, b]) for o in outlines for a, b in zip(o, np.roll(o, -1, axis=0), strict=True)]
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all([e for e in edges if e.length])]))
    inside = shapely.get_coordinates(shapely.point_on_surface(faces))
    return shapely.area(faces), [turns_round(o, inside) for o in outlines]


def turns_round(outline: np.ndarray, points: np.ndarray) -> np.ndarray:
    """How often an outline winds round points: the angles at which it is seen, added up."""
    seen = np.arctan2(outline[:, 1] - points[:, 1:], outline[:, 0] - points[:, :1])
    turned = np.diff(np.c_[seen, seen[:, 0]], axis=1)
    return np.rint(np.sum((turned + math.pi) % (2.0 * math.pi) - math.pi, axis=1) / (2.0 * math.pi)).astype(int)


@pytest.mark.parametrize("rule,area", [("evenodd", 2827.380952), ("nonzero", 3091.517857)])
def test_an_outline_that_touches_itself_in_many_points_keeps_its_area(rule: str, area: float) -> None:
    shape = Region.from_path(as_path(np.array(SELF_TOUCHING, dtype=float)), rule)
    far = rectangle((500.0, 500.0, 510.0, 510.0))
    results = [
        shape,
        union([shape]),
        difference(shape, [far]),
        intersection(shape, rectangle((-10.0, -10.0, 800.0, 800.0))),
    ]
    assert [result.area for result in results] == pytest.approx([area] * 4, abs=1e-3)
    assert union([shape, far]).area == pytest.approx(area + far.area, abs=1e-3)


@pytest.mark.parametrize("seed", range(60))
def test_random_outlines_keep_every_face(seed: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = outline(rng), outline(rng)
    rule = ("evenodd", "nonzero")[seed % 2]
    first, second = Region.from_path(as_path(one), rule), Region.from_path(as_path(other), rule)
    areas, turns = faces_of(one, other)
    inside, within = ((t % 2 != 0) if rule == "evenodd" else (t != 0) for t in turns)
    for result, belongs in (
        (first, inside),
        (union([first, second]), inside | within),
        (difference(first, [second]), inside & ~within),
        (intersection(first, second), inside & within),
    ):
        assert result.area == pytest.approx(areas[belongs].sum(), abs=1e-3)
        assert result.outline.area == pytest.approx(result.area, abs=1e-3)  # holes wind against their outer rings
        assert result.polygons.is_valid


@pytest.mark.parametrize("kernel,seeds", [(sweep, SWEEP_FAILS), (older_sweep, OLDER_FAILS)])
def test_what_a_kernel_loses_is_noticed_and_the_next_one_has_it(kernel: object, seeds: list[int]) -> None:
    for seed in seeds:
        rng = np.random.default_rng(seed)
        given = [outline(rng) * 1e6], [outline(rng) * 1e6]
        operation, rule = OPERATIONS[seed % 4], ("evenodd", "nonzero")[seed // 4 % 2]
        off = {k: disagreement(operation, *given, rule, k(operation, *given, rule)) for k in KERNELS}
        assert off[kernel] > 1e5  # a tenth of a millimetre
        assert off[arrangement] == 0.0


def test_the_log_tells_which_kernel_was_wrong(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def loses_the_first(*args: object) -> list[np.ndarray]:
        return sweep(*args)[1:]  # type: ignore[arg-type]

    monkeypatch.setattr(regions, "KERNELS", (loses_the_first, *KERNELS[1:]))
    with caplog.at_level(logging.INFO):
        both = union([disc((0.0, 0.0), 5.0), disc((20.0, 0.0), 3.0)])
    assert both.area == pytest.approx(math.pi * 34.0, rel=1e-3)
    assert "loses_the_first" in caplog.text


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(OPERATIONS))
def test_a_lost_face_is_noticed_and_nothing_else_is(seed: int, operation: str) -> None:
    rng = np.random.default_rng(seed)
    centres, radii = rng.uniform(0.0, 60.0, (12, 2)), rng.uniform(1.0, 9.0, 12)
    rings = [to_grid(ring) for c, r in zip(centres, radii, strict=True) for ring in rings_of(disc(tuple(c), r))]
    result = arrangement(operation, rings[:6], rings[6:], "nonzero")
    assert disagreement(operation, rings[:6], rings[6:], "nonzero", result) == 0.0
    if result:
        largest = max(range(len(result)), key=lambda k: len(result[k]))
        lost = result[:largest] + result[largest + 1 :]
        assert disagreement(operation, rings[:6], rings[6:], "nonzero", lost) > 0.0


def rings_of(region: Region) -> list[np.ndarray]:
    return [np.asarray(ring.coords)[:-1] for ring in shapely.get_rings(shapely.get_parts(region.polygons))]


def test_curves_enclose_what_they_do() -> None:
    ring = difference(disc((300.0, -200.0), 10.0), [disc((301.0, -200.0), 4.0)])
    assert ring.outline.area == pytest.approx(math.pi * 84.0, rel=5e-4)  # as round as four cubics are
    finely = ring.with_outline(ring.outline, tolerance=1e-7)
    assert ring.outline.area == pytest.approx(finely.area, rel=1e-7)
