"""What is cleaned in a drawing, what painting order and translucency leave, which colours belong together."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.core.formats.drawings import drawing
from tests.raster import mask
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.sources.artwork import (
    Artwork,
    artwork_for,
    colour_regions,
    finished,
    painted,
    prepared,
    working_scale,
)
from vivid_thimble.core.sources.cleaning import Cleaned, Cleaning, in_words
from vivid_thimble.core.sources.colours import grouped, nearest
from vivid_thimble.core.sources.line_work import guessed_lines, joined_ends
from vivid_thimble.core.sources.provenance import Provenance, licence_in, may_not_be_sold
from vivid_thimble.core.tracing.colour_space import lab


def cleaned(body: str, **switches: object) -> tuple[shapely.MultiPolygon, dict[str, Cleaned]]:
    """The film of a drawing at 1 mm a unit, and its report by kind."""
    read = drawing(body)
    artwork = replace(artwork_for(read, "key", "heron"), cleaning=Cleaning(**switches))
    found = prepared(painted(read, artwork), artwork)
    scale = 1.0 / working_scale(read)
    films, report = finished(found, artwork, scale)
    return films[0][0].region.polygons, {one.kind: one for one in report}


DISC = '<circle cx="50" cy="50" r="20"/>'
STAIRS = "M" + "L".join(
    f"{50 + s * math.sqrt(max(900 - (y + 0.5 * d) ** 2, 0)):.0f} {50 + y + k:.0f}"
    for s, d, ys in ((1, 1, range(-30, 30)), (-1, -1, range(30, -30, -1)))
    for y in ys
    for k in (0, d)
)
CASES = {
    "background": ('<rect width="100" height="100" fill="#fefdf8"/>' + DISC, math.pi * 400, 10_000),
    "page": (DISC + '<circle cx="150" cy="50" r="9"/><rect x="95" y="45" width="10" height="10"/>', math.pi * 400 + 50, math.pi * 481 + 100),
    "hidden": (DISC + '<circle cx="50" cy="50" r="25" fill="red"/>', math.pi * 625, math.pi * 625),
    "doubled": (DISC + '<circle cx="50.005" cy="50" r="20" fill="red"/>', math.pi * 400, math.pi * 400),
    "open": (DISC + '<path d="M10 10H30V30H10V12"/>', math.pi * 400 + 400, math.pi * 400),
    "crossings": (DISC + '<path fill-rule="evenodd" d="M5 5H25V25H5ZM10 10H20V20H10Z" /><path fill-rule="evenodd" d="M70 5H90L70 25H90Z"/>', math.pi * 400 + 300 + 200, math.pi * 400 + 300 + 200),
    "specks": (DISC + '<circle cx="10" cy="10" r=".3"/><circle cx="12" cy="20" r=".2"/>', math.pi * 400, math.pi * 400.13),
    "pinholes": (DISC + '<circle cx="50" cy="50" r=".3" fill="white"/>', math.pi * 400, math.pi * 399.91),
    "stairs": (f'<path d="{STAIRS}Z"/>', math.pi * 900, None),
    "nodes": ('<path d="M' + "L".join(f"{50 + 20 * math.cos(t):.4f} {50 + 20 * math.sin(t):.4f}" for t in np.linspace(0, 6.28, 300)) + 'Z"/>', math.pi * 400, math.pi * 400),
}  # fmt: skip


@pytest.mark.parametrize("kind", CASES)
def test_each_matter_is_counted_cleaned_and_left_alone_when_switched_off(kind: str) -> None:
    body, area, raw = CASES[kind]
    shape, report = cleaned(body)
    assert report[kind].on
    assert report[kind].count >= 1
    assert shape.area == pytest.approx(area, rel=4e-3)
    left, told = cleaned(body, **{kind: False})
    assert told[kind].count == report[kind].count
    assert not told[kind].on
    if raw is not None:
        assert left.area == pytest.approx(raw, rel=1e-3)


def test_a_staircase_becomes_the_round_that_it_stands_for() -> None:
    shape, _ = cleaned(CASES["stairs"][0])
    away = np.abs(np.hypot(*(shapely.get_coordinates(shape) - 50).T) - 30)
    assert away.max() < 0.75
    assert away.mean() < 0.3


def test_fewer_nodes_stay_within_the_tolerance_and_the_report_says_so() -> None:
    body, _, _ = CASES["nodes"]
    shape, report = cleaned(body, node_tolerance=0.05)
    assert report["nodes"].before == 300
    assert report["nodes"].after <= 12
    assert np.abs(np.hypot(*(shapely.get_coordinates(shape) - 50).T) - 20).max() < 0.06
    assert in_words(report["nodes"]).endswith("of 300 nodes left out")


def test_paper_that_is_left_out_cuts_away_wherever_it_was_painted_again() -> None:
    shape, _ = cleaned(
        '<rect width="100" height="100" fill="#fffdf5"/>' + DISC + '<circle cx="50" cy="50" r="10" fill="#fffdf5"/>'
    )
    assert shape.area == pytest.approx(math.pi * 300, rel=2e-3)


def test_a_coloured_patch_stays_until_somebody_leaves_it_out() -> None:
    body = '<rect width="100" height="100" fill="#224466"/><circle cx="50" cy="50" r="20" fill="red"/>'
    shape, report = cleaned(body)
    assert not report["background"].on
    assert shape.area == pytest.approx(10_000)
    shape, _ = cleaned(body, background=True)
    assert shape.area == pytest.approx(math.pi * 400, rel=1e-3)


BOX = st.tuples(st.integers(0, 8), st.integers(0, 8), st.integers(2, 10), st.integers(2, 10))
LAYER = st.tuples(BOX, st.sampled_from(["#c83020", "#2040c0", "#ffffff"]), st.sampled_from([1.0, 0.5, 0.25]))


@given(
    st.lists(
        st.one_of(LAYER, st.tuples(st.sampled_from([0.5, 0.3]), st.lists(LAYER, min_size=1, max_size=3))),
        min_size=1,
        max_size=6,
    )
)
@settings(max_examples=30, deadline=None)
def test_translucent_shapes_and_groups_are_mixed_as_a_painter_mixes_them(layers: list) -> None:
    """Against painting pixel by pixel, groups on a canvas of their own."""

    def body(items: list) -> str:
        out = []
        for item in items:
            if isinstance(item[0], float):
                out.append(f'<g opacity="{item[0]}">{body(item[1])}</g>')
            else:
                (x, y, w, h), colour, opacity = item
                out.append(f'<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="{colour}" fill-opacity="{opacity}"/>')
        return "".join(out)

    def paint(items: list) -> np.ndarray:
        canvas = np.zeros((20, 20, 4))
        for item in items:
            if isinstance(item[0], float):
                layer = paint(item[1])
                layer[..., 3] *= item[0]
            else:
                (x, y, w, h), colour, opacity = item
                layer = np.zeros((20, 20, 4))
                layer[y : y + h, x : x + w] = [*(int(colour[k : k + 2], 16) for k in (1, 3, 5)), opacity]
            alpha = layer[..., 3:] + canvas[..., 3:] * (1 - layer[..., 3:])
            mixed = layer[..., :3] * layer[..., 3:] + canvas[..., :3] * canvas[..., 3:] * (1 - layer[..., 3:])
            canvas = np.concatenate([np.divide(mixed, alpha, out=np.zeros_like(mixed), where=alpha > 0), alpha], axis=2)
        return canvas

    seen = paint(layers)
    on_white = seen[..., :3] * seen[..., 3:] + 255.0 * (1 - seen[..., 3:])
    if not (on_white.min(axis=2) < 246).any():
        return
    ours = np.full((20, 20, 3), 255.0)
    for colour, region in colour_regions(drawing(body(layers)), Affine()).items():
        ours[mask(region.polygons, 1, (20, 20)) > 0] = colour
    assert np.abs(ours - on_white).max() <= 8


def test_two_browns_are_one_and_a_tiny_colour_keeps_no_film_for_itself() -> None:
    areas = {(107, 74, 47): 3.0, (112, 80, 47): 2.0, (63, 112, 70): 30.0, (232, 201, 91): 50.0, (255, 0, 255): 0.001}
    groups = grouped(areas, 3)
    assert groups[0][0] == (232, 201, 91)
    assert any({(107, 74, 47), (112, 80, 47)} <= set(group) for group in groups)
    assert sum(map(len, groups)) == 5
    assert len(grouped(areas, 99)) == 5
    assert nearest((110, 78, 48), list(areas)) in ((107, 74, 47), (112, 80, 47))


def test_lab_has_the_known_values() -> None:
    found = lab([(255, 255, 255), (0, 0, 0), (255, 0, 0)])
    assert found == pytest.approx(np.array([[100, 0, 0], [0, 0, 0], [53.24, 80.09, 67.20]]), abs=0.02)


def test_lines_are_guessed_by_how_they_are_drawn() -> None:
    thin = 'fill="none" stroke="red" stroke-width="0.1"'
    assert guessed_lines(drawing(DISC)) == "drawn"
    assert guessed_lines(drawing(f'<circle cx="50" cy="50" r="20" {thin}/>')) == "filled"
    assert guessed_lines(drawing(f'<path d="M0 0L50 90L90 10" {thin}/>')) == "widened"
    assert guessed_lines(drawing('<path d="M0 0L50 90L90 10" fill="none" stroke="red" stroke-width="8"/>')) == "drawn"


@given(st.permutations(list(range(12))), st.lists(st.booleans(), min_size=12, max_size=12))
@settings(max_examples=30, deadline=None)
def test_pieces_of_an_outline_are_joined_in_any_order_and_direction(order: list[int], turned: list[bool]) -> None:
    corners = [np.array([math.cos(k * math.pi / 6), math.sin(k * math.pi / 6)]) * 10 for k in range(13)]
    pieces = []
    for k in order:
        a, b = (corners[k + 1], corners[k]) if turned[k] else (corners[k], corners[k + 1])
        pieces.append(f"M{a[0]:.5f} {a[1]:.5f}L{b[0]:.5f} {b[1]:.5f}")
    read = drawing(f'<path d="{"".join(pieces)}" fill="none" stroke="red"/>')
    joined = joined_ends(read.parts[0].path, 0.001)
    assert [contour.closed for contour in joined.contours] == [True]
    assert len(joined.contours[0]) >= 12


def test_licences_are_told_from_notes_and_hold_for_things_that_are_sold() -> None:
    assert licence_in("For PERSONAL\n use only, please") == "personal"
    assert licence_in("commercial licence included") == "commercial"
    assert licence_in("please give credit") == "credit"
    assert licence_in("hello") == "unknown"
    told = str(may_not_be_sold(Provenance(licence="personal"), "heron"))
    assert told.startswith("heron may be used personally only")
    assert may_not_be_sold(Provenance(licence="commercial"), "heron") is None


def test_artwork_from_older_jobs_is_taken_as_it_was() -> None:
    assert not Artwork(asset="a", name="b").cleaning.specks


@pytest.mark.parametrize(("over", "told_of"), [(0.005, False), (0.2, True)])
def test_shapes_that_rounding_lets_reach_beyond_the_page_are_left_alone(over: float, told_of: bool) -> None:
    shape, report = cleaned(f'<rect width="{100 + over}" height="50"/><circle cx="50" cy="80" r="10"/>', nodes=False)
    assert ("page" in report) is told_of
    assert shape.bounds[2] == pytest.approx(100.0 if told_of else 100.0 + over, abs=1e-6)
