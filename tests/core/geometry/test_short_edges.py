"""Edges of no direction, as crossings and files leave them, change no figure and no verdict."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.recipe import evaluate, limits_of
from vivid_thimble.core.formats.cut_file import cut_file
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.geometry.tolerances import SHORTEST_EDGE_MM
from vivid_thimble.core.inspect.inspection import Inspection, inspect_shape
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.line_work import with_lines_as
from vivid_thimble.core.steps import Join, Weld
from vivid_thimble.core.widths.survey import survey_widths
from vivid_thimble.core.widths.walls import rings_of

WORDS = ("Otter", "Sedge", "Oarsmen", "Skiff", "Punt", "Lucky Oar", "Old Jetty")
NOISE_MM = 1e-4


@lru_cache
def welded(text: str) -> Region:
    """Joined and welded script words, 200 mm wide."""
    element = Element(
        id="w",
        name=text,
        source=Words(text=text, face="bundled:Pacifico"),
        placement=Placement(width=200.0),
        steps=(Join(id="join"), Weld(id="weld")),
    )
    job = with_layer(new_job("Boat", 400.0, 200.0), lambda layer: replace(layer, elements=(element,)))
    return evaluate(job, {}, Cache()).layers[0].kept


def inspected(polygons: shapely.MultiPolygon) -> Inspection:
    left, top, right, bottom = polygons.bounds
    box = (left - 5.0, top - 5.0, right + 5.0, bottom + 5.0)
    return inspect_shape(polygons, limits_of(DECAL_FILM), is_sheet=False, weeding_box=box)


def noisy(polygons: shapely.MultiPolygon, seed: float) -> shapely.MultiPolygon:
    """Every corner moved by up to NOISE_MM in both directions; equal corners alike."""
    mixing = np.array([[12.9898, 78.233], [39.346, 11.135]]) * 1e4 * seed
    return shapely.transform(polygons, lambda points: points + NOISE_MM * np.sin(points @ mixing))


@pytest.mark.parametrize("text", WORDS)
def test_noise_far_below_any_cutter_moves_no_figure_and_no_verdict(text: str) -> None:
    polygons = welded(text).polygons
    plain = inspected(polygons)
    tried = [shaken for seed in (1.0, 2.0, 3.0) if (shaken := noisy(polygons, seed)).is_valid]
    assert tried
    for shaken in tried:
        found = inspected(shaken)
        assert found.thinnest_line == pytest.approx(plain.thinnest_line, abs=0.002)
        assert found.thinnest_gap == pytest.approx(plain.thinnest_gap, abs=0.002)
        assert [f.kind for f in found.findings] == [f.kind for f in plain.findings]


@pytest.mark.parametrize("kind", ["svg", "pdf", "dxf"])
@pytest.mark.parametrize("text", ["Hello", "Oarsmen"])
def test_saved_and_read_again_words_keep_their_figures(text: str, kind: str) -> None:
    region = welded(text)
    left, top, right, bottom = region.outline.bounds or (0.0, 0.0, 0.0, 0.0)
    moved = region.outline.transformed(Affine.translation(-left, -top))
    name = f"again.{kind}"
    data = cut_file(name, [CutLayer("film", "#204060", (moved,))], right - left, bottom - top)
    drawing = (
        with_lines_as(read_drawing(data, name), "filled", 1.0, 0.01) if kind == "dxf" else read_drawing(data, name)
    )
    again = inspected(film_region(drawing, Affine.scaling(drawing.mm_per_unit or 1.0), "again").polygons)
    plain = inspected(region.as_cut())
    assert again.thinnest_line == pytest.approx(plain.thinnest_line, abs=0.002)
    assert again.thinnest_gap == pytest.approx(plain.thinnest_gap, abs=0.002)
    assert [f.kind for f in again.findings] == [f.kind for f in plain.findings]


def test_the_noise_of_rounding_beside_a_corner_is_no_point_in_which_film_touches() -> None:
    stepped = shapely.Polygon([(0, 0), (30, 0), (30, 20 - 9e-7), (20, 20 - 9e-7), (20 + 4e-7, 20), (0, 20)])
    lines, gaps = survey_widths(shapely.MultiPolygon([stepped]), 1.0, 1.0)
    assert not lines.places
    assert not gaps.places


@given(
    at=st.integers(0, 5),
    turn=st.floats(0.0, 6.3),
    short=st.floats(1e-5, 0.9 * SHORTEST_EDGE_MM),
    first=st.integers(0, 6),
)
def test_a_short_edge_of_any_direction_is_no_wall_wherever_the_ring_begins(
    at: int, turn: float, short: float, first: int
) -> None:
    corners = np.array([(0, 0), (30, 0), (30, 8), (12, 8), (12, 20), (0, 20)], dtype=float)
    beside = corners[at] + short * np.array([np.cos(turn), np.sin(turn)])
    ring = np.roll(np.insert(corners, at + 1, beside, axis=0), first, axis=0)
    walls = rings_of(shapely.MultiPolygon([shapely.Polygon(ring)]))
    assert len(walls) == len(corners)
    away = np.hypot(*(walls.a[:, None] - corners[None]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() <= SHORTEST_EDGE_MM


def test_corners_in_which_shapes_touch_stay_although_an_edge_beside_them_is_short() -> None:
    tip = (10.0, 5.0)
    left = shapely.Polygon([(0, 0), (10, 4.998), tip, (0, 10)])
    right = shapely.Polygon([tip, (20, 0), (20, 10)])
    _, gaps = survey_widths(shapely.MultiPolygon([left, right]), 1.0, 1.0)
    assert any(place.is_touching and place.thinnest == 0.0 and place.at == tip for place in gaps.places)
