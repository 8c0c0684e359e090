"""The survey as a whole: the same at any place and size, and honest about the critical limit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely import MultiPolygon, Polygon, box
from shapely.affinity import affine_transform, scale, translate

from tests.core.widths.surveying import DRAWINGS, GAP, LINE, drawing, words
from tests.shapes import blobs, comb, dumbbell, notched, ring, turned
from vivid_thimble.core.widths.field import BEYOND_LIMIT, SAMPLES_PER_LIMIT, width_fields
from vivid_thimble.core.widths.places import ThinPlace, thin_places
from vivid_thimble.core.widths.survey import SideSurvey, combined, survey_widths
from vivid_thimble.core.widths.touching import touching_points
from vivid_thimble.core.widths.walls import rings_of, sample_walls

TRUTHS = {
    "comb": (comb(4, 0.6), 0.6),
    "dumbbell": (dumbbell(1.1, gap=3.0), 1.1),
    "ring": (ring(8.0, 1.7), 1.7),
    "notches": (notched(0.35), 0.35),
}


def real_shapes() -> dict[str, MultiPolygon]:
    shapes = {path.stem: drawing(path.stem) for path in DRAWINGS}
    for face in ("Pacifico", "League Spartan", "Courier Prime", "Stardos Stencil"):
        shapes[face] = words("Moth & Ember", face)
    return shapes


def stops(polygons: MultiPolygon, limit: float, *, kept: bool, step: float | None = None) -> list[ThinPlace]:
    """A check from scratch with fine samples everywhere, as a user would get at that limit."""
    rings = rings_of(polygons)
    rings = replace(rings, meetings=touching_points(rings)[1])
    samples = sample_walls(rings, step or limit / SAMPLES_PER_LIMIT)
    field = width_fields(samples, BEYOND_LIMIT * limit)[0 if kept else 1]
    return [p for p in thin_places(rings, samples, field, limit, "kept" if kept else "waste") if not p.is_needle]


@pytest.mark.parametrize("name", list(TRUTHS))
@pytest.mark.parametrize("angle", [0.0, 29.0])
def test_the_critical_limit_of_a_plain_place_is_its_width(name: str, angle: float) -> None:
    shape, width = TRUTHS[name]
    lines, _ = survey_widths(turned(shape, angle), LINE, GAP)
    assert lines.thinnest is not None
    assert lines.thinnest.thinnest == pytest.approx(width, abs=0.005)
    assert lines.critical == pytest.approx(width, rel=0.003)


@pytest.mark.parametrize("factor", [0.31, 0.77, 2.4])
@pytest.mark.parametrize("name", list(TRUTHS))
def test_a_shape_of_another_size_has_figures_of_that_size(name: str, factor: float) -> None:
    shape, width = TRUTHS[name]
    lines, _ = survey_widths(turned(scale(shape, factor, factor), 11.0), LINE, GAP)
    assert lines.thinnest is not None
    assert lines.thinnest.thinnest == pytest.approx(width * factor, rel=0.01)
    assert lines.critical == pytest.approx(width * factor, rel=0.003)


@pytest.mark.parametrize("name", list(real_shapes()))
@pytest.mark.parametrize("kept", [True, False], ids=["lines", "gaps"])
def test_one_percent_below_the_clean_size_something_is_thin_and_one_percent_above_nothing(
    name: str, kept: bool
) -> None:
    shape, side, limit = real_shapes()[name], 0 if kept else 1, LINE if kept else GAP
    critical = survey_widths(shape, LINE, GAP)[side].critical
    if critical is None or critical > 8.0:  # then fine samples everywhere must find nothing either
        assert not [p for p in stops(shape, 8.0, kept=kept, step=0.4) if not p.is_touching]
        return

    def thin_at(size: float) -> list[ThinPlace]:
        found = survey_widths(scale(shape, size, size), LINE, GAP)[side]
        return [p for p in found.places if not (p.is_needle or p.is_touching)]

    assert thin_at(0.99 * limit / critical)
    assert not thin_at(1.01 * limit / critical)


@pytest.mark.parametrize("name", ["dolphin", "socks", "Pacifico", "League Spartan"])
def test_a_coarse_look_first_finds_what_fine_samples_everywhere_find(name: str) -> None:
    shape = real_shapes()[name]
    lines, gaps = survey_widths(shape, LINE, GAP)
    for side, limit, kept in ((lines, LINE, True), (gaps, GAP, False)):
        found = sorted(round(p.thinnest, 2) for p in side.places if not p.is_needle and p.thinnest > 0)
        everywhere = sorted(round(p.thinnest, 2) for p in stops(shape, limit, kept=kept, step=GAP / SAMPLES_PER_LIMIT))
        assert found == pytest.approx(everywhere, abs=0.02)


@pytest.mark.parametrize("name", ["arrows", "dinosaur", "figure", "ice", "Courier Prime"])
@pytest.mark.parametrize("move", ["shift", "turn", "mirror"])
def test_real_shapes_have_the_same_thinnest_figures_wherever_they_lie(name: str, move: str) -> None:
    shape = real_shapes()[name]
    moved = {
        "shift": translate(shape, 113.7, -41.3),
        "turn": turned(shape, 37.0),
        "mirror": affine_transform(shape, [-1, 0, 0, 1, 0, 0]),
    }[move]
    for before, after in zip(
        survey_widths(shape, LINE, GAP), survey_widths(turned(moved, 0.0), LINE, GAP), strict=True
    ):
        stops_before = [p.thinnest for p in before.places if not p.is_needle]
        stops_after = [p.thinnest for p in after.places if not p.is_needle]
        assert len(stops_before) == len(stops_after)
        assert np.allclose(sorted(stops_before), sorted(stops_after), atol=0.01)


def test_shapes_far_apart_are_the_sum_of_their_surveys() -> None:
    left, right = turned(comb(3, 0.6), 0.0), turned(dumbbell(0.5, gap=1.0), 0.0, 60.0, 0.0)
    apart = [survey_widths(shape, LINE, GAP) for shape in (left, right)]
    together = survey_widths(MultiPolygon([*left.geoms, *right.geoms]), LINE, GAP)
    for k, side in enumerate(together):
        joined = combined([survey[k] for survey in apart])
        assert [p.thinnest for p in joined.places] == pytest.approx([p.thinnest for p in side.places], abs=1e-6)
        assert (joined.critical is None) == (side.critical is None)
        if side.critical is not None:
            assert joined.critical == pytest.approx(side.critical, rel=0.01)


def test_a_moved_survey_is_the_survey_of_the_moved_shape() -> None:
    shape = turned(shapely.union(blobs(4, 160, seed=3), translate(comb(3, 0.5), -40, 0)), 0.0)
    moved = turned(translate(shape, 12.0, 7.0), 0.0)
    for before, after in zip(survey_widths(shape, LINE, GAP), survey_widths(moved, LINE, GAP), strict=True):
        shifted = before.shifted(12.0, 7.0)
        assert np.allclose([p.at for p in shifted.places], [p.at for p in after.places], atol=0.05)
        assert np.allclose([p.ends for p in shifted.places], [p.ends for p in after.places], atol=0.06)


def test_nothing_combined_with_nothing_is_nothing() -> None:
    empty = SideSurvey((), None)
    assert combined([empty, empty]) == empty or combined([empty, empty]).places == ()
    assert combined([]).thinnest is None


def test_wide_things_are_no_concern() -> None:
    lines, gaps = survey_widths(MultiPolygon([box(0, 0, 400, 400)]), LINE, GAP)
    assert (lines.thinnest, gaps.thinnest) == (None, None)
    assert (lines.critical, gaps.critical) == (None, None)


@pytest.mark.parametrize("face", ["Pacifico", "League Spartan", "Courier Prime"])
def test_one_smallest_clean_width_is_told_from_every_size(face: str) -> None:
    shape = words("Boat 86", face)
    left, _, right, _ = shape.bounds
    told = []
    for width in (75.0, 150.0, 300.0, 600.0):
        factor = width / (right - left)
        lines, gaps = survey_widths(scale(shape, factor, factor), LINE, GAP)
        told.append([width * limit / side.critical for side, limit in ((lines, LINE), (gaps, GAP)) if side.critical])
    assert np.ptp(told, axis=0) / np.min(told, axis=0) == pytest.approx(0.0, abs=0.01)


def rough_taper(seed: int) -> MultiPolygon:
    """A blade whose edges are uneven: what of it is a line and what a tip hangs on a hair."""
    rng = np.random.default_rng(seed)
    x = np.linspace(0.0, 14.0, 46)
    rise = 0.02 + 0.11 * x + 0.01925 * np.cumsum(rng.normal(size=46))
    above = np.abs(np.maximum.accumulate(np.maximum(rise, 0.02)) * (1.0 + 0.12 * rng.normal(size=46))) + 0.01
    below = -above * (1.0 + 0.1 * rng.normal(size=46))
    blade = shapely.buffer(Polygon(np.r_[np.c_[x, above], np.c_[x, below][::-1]]), 0.0)
    return MultiPolygon([piece for piece in shapely.get_parts(blade) if isinstance(piece, Polygon)])


@pytest.mark.parametrize("seed", [1, 2, 3, 5, 8, 9])
def test_rough_outlines_too_tell_one_figure_from_every_size(seed: int) -> None:
    blade = rough_taper(seed)
    told = []
    for factor in (0.3, 0.5, 1.0, 1.7, 3.1):
        lines, _ = survey_widths(scale(blade, factor, factor, origin=(0, 0)), LINE, GAP)
        assert lines.critical is not None
        told.append(lines.critical / factor)
    assert np.ptp(told) < 0.003 * min(told)


@pytest.mark.parametrize("length", [3_000.0, 40_000.0])
def test_a_place_beside_a_very_long_edge_is_measured_as_beside_short_ones(length: float) -> None:
    """Long edges get samples only about what matters; cut into edges of 200 mm, none of them is long."""
    sheet = box(0, 0, length, 2_000)
    narrow = [Polygon([(0.4 * length, 0.62), (0.4 * length + 30, 0.62), (0.4 * length + 15, 40)]), box(900, 5, 990, 8)]
    wedge = Polygon([(0.7 * length, 1e-9), (0.7 * length + 0.41, 1e-9), (0.7 * length + 2.0, 60), (0.7 * length, 60)])
    whole = turned(shapely.difference(sheet, shapely.union_all([*narrow, wedge.buffer(0.01, join_style="mitre")])), 0.3)
    split = MultiPolygon(shapely.get_parts(shapely.segmentize(whole, 200.0)).tolist())
    (line, gap), (line_of_short, gap_of_short) = survey_widths(whole, LINE, GAP), survey_widths(split, LINE, GAP)
    assert line.thinnest is not None and gap.thinnest is not None
    assert line.thinnest.thinnest == pytest.approx(0.61, abs=0.01)
    assert [p.thinnest for p in line.places] == pytest.approx([p.thinnest for p in line_of_short.places], abs=1e-3)
    assert [p.thinnest for p in gap.places] == pytest.approx([p.thinnest for p in gap_of_short.places], abs=1e-3)
    assert gap.places
