"""Awkward glyphs welded, against an independent renderer: overlaps, reversed winding, components, axes."""

from __future__ import annotations

import io
import itertools
from pathlib import Path as FilePath

import numpy as np
import pytest
import resvg_py
import shapely
from PIL import Image

from tests.letters import word
from vivid_thimble.core.demo.jobs import BOATS
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part, merged
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_text import write_path_data
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.steps import Join, Weld

EM_MM, PX_PER_MM = 40.0, 24


def raw_outlines(words: Words) -> list[Path]:
    """Each letter's outline as the font has it, in mm from the top-left of a page."""
    to_page = Affine.scaling(EM_MM).then(Affine.translation(2.0, EM_MM))
    return [letter.path.transformed(to_page) for letter in shape_words(words).letters]


def painted_mm2(outlines: list[Path]) -> float:
    """The area that an independent renderer paints with the non-zero rule."""
    box_ = Path.joined(outlines).bounds
    assert box_ is not None
    width, height = box_[2] + 2.0, box_[3] + 2.0
    paths = "".join(f'<path d="{write_path_data(outline, 5)}" fill="#000"/>' for outline in outlines)
    size = f'width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}"'
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{paths}</svg>'
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, dpi=PX_PER_MM * 25.4))
    covered = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))[:, :, 3] / 255.0
    return float(covered.sum()) / PX_PER_MM**2


def welded_mm2(outlines: list[Path]) -> float:
    parts = tuple(Part(str(k), Region.from_path(outline), 0) for k, outline in enumerate(outlines))
    return merged(Weld(id="w").apply(parts)).area


@pytest.mark.parametrize("text", ["A", "B", "C", "D", "E", "ABCDE"])
def test_awkward_glyphs_are_filled_as_a_renderer_fills_them(variable_font: str, text: str) -> None:
    outlines = raw_outlines(Words(text=text, face=variable_font))
    assert welded_mm2(outlines) == pytest.approx(painted_mm2(outlines), rel=0.001)


@pytest.mark.parametrize(("push", "wide"), [(0.0, 400.0), (50.0, 400.0), (100.0, 300.0)])
def test_an_axis_that_pushes_strokes_into_each_other_leaves_no_hole(
    variable_font: str, push: float, wide: float
) -> None:
    outlines = raw_outlines(Words(text="E", face=variable_font, axes=(("PUSH", push), ("none", 3.0))))
    assert welded_mm2(outlines) == pytest.approx(wide * 700 * (EM_MM / 1000) ** 2, rel=1e-6)
    assert welded_mm2(outlines) == pytest.approx(painted_mm2(outlines), rel=0.001)


@pytest.mark.parametrize(("face", "text"), list(itertools.product(BUNDLED, BOATS[:3]))[::2])
def test_bundled_faces_are_welded_as_a_renderer_paints_them(face: str, text: str) -> None:
    outlines = raw_outlines(Words(text=text, face=f"bundled:{face}"))
    assert welded_mm2(outlines) == pytest.approx(painted_mm2(outlines), rel=0.001)


@pytest.mark.parametrize("text", ["Wandering", "Heron", "Supper"])
def test_a_weld_adds_no_node_but_where_outlines_cross(text: str) -> None:
    """Untouched segments leave as they came in, bit for bit."""
    parts = Join(id="j").apply(word(text))
    whole = Weld(id="w").apply(parts)[0].region.outline
    segments = [segment for part in parts for contour in part.region.outline.contours for segment in contour.segments]
    known = {segment.tobytes() for segment in segments}
    swallowed = 0
    for k, part in enumerate(parts):
        others = shapely.union_all([other.region.polygons for j, other in enumerate(parts) if j != k])
        starts = np.array([s[0] for contour in part.region.outline.contours for s in contour.segments])
        swallowed += int(shapely.contains_xy(others, starts[:, 0], starts[:, 1]).sum())
    rings = [part.region.polygons.boundary for part in parts]
    crossings = sum(
        len(shapely.get_parts(shapely.intersection(a, b))) for k, a in enumerate(rings) for b in rings[k + 1 :]
    )
    assert whole.node_count <= 1.05 * (len(segments) - swallowed) + crossings
    kept = sum(segment.tobytes() in known for contour in whole.contours for segment in contour.segments)
    assert kept >= whole.node_count - 3 * crossings - 4


def test_a_font_collection_and_a_broken_axis_table_do_no_harm(tmp_path: FilePath, variable_font: str) -> None:
    broken = tmp_path / "broken.ttf"
    data = bytearray(FilePath(variable_font.removeprefix("file:")).read_bytes())
    at = data.find(b"gvar")
    data[at + 8 : at + 12] = b"\xff\xff\xff\xff"
    broken.write_bytes(bytes(data))
    outlines = raw_outlines(Words(text="E", face=f"file:{broken}", axes=(("PUSH", 100.0),)))
    assert welded_mm2(outlines) > 0.0
