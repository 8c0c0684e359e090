"""SVG in and out: each basic element, what is not understood, refusals, and an independent renderer."""

from __future__ import annotations

import gzip
import io
import math
from pathlib import Path as FilePath

import numpy as np
import pytest
import resvg_py
from lxml import etree
from PIL import Image, ImageChops

from tests.core.formats.drawings import RASTER_CASES, drawn
from tests.raster import mask
from vivid_thimble.core.errors import DrawingNotReadable, NothingToDraw
from vivid_thimble.core.formats.picture import png_of
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.formats.svg_write import CutLayer, svg_text
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.artwork import colour_regions, film_region
from vivid_thimble.core.sources.fonts import load_face
from vivid_thimble.core.sources.lettering import glyph_path
from vivid_thimble.core.sources.page import on_page

DRAWINGS = sorted((FilePath(__file__).parents[2] / "data" / "drawings").glob("*.svg"))
PX_PER_MM = 10
FINER = 8


def film(body: str) -> Region:
    return film_region(read_svg(drawn(body)), Affine())


def overlap(svg: str, region: Region) -> float:
    """Intersection over union of a written file and the shape it was made of.

    The file is drawn by an independent renderer, the shape by counting crossings along pixel rows; both eight
    times finer than compared, because a renderer's own anti-aliasing is coarse.
    """
    fine = PX_PER_MM * FINER
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, dpi=fine * 25.4))
    read = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))[:, :, 3] / 255.0
    rows, columns = (size // FINER * FINER for size in read.shape)
    shape = mask(region.polygons, fine, (rows, columns))
    a, b = (
        image.reshape(rows // FINER, FINER, columns // FINER, FINER).mean(axis=(1, 3))
        for image in (read[:rows, :columns], shape)
    )
    return float(np.minimum(a, b).sum() / np.maximum(a, b).sum())


@pytest.mark.parametrize(
    "body,area",
    [
        ('<rect width="10" height="4"/>', 40),
        ('<rect width="10" height="4" rx="2"/>', 40 - (4 - math.pi) * 4),
        ('<rect width="10" height="4" rx="99" ry="1"/>', 40 - (4 - math.pi) * 5),
        ('<circle cx="3" cy="3" r="3"/>', math.pi * 9),
        ('<ellipse rx="4" ry="2"/>', math.pi * 8),
        ('<polygon points="0,0 10,0 10,10"/>', 50),
        ('<polyline points="0 0 10 0 10 10 0 10"/>', 100),
        ('<path d="M0 0H10V10H0Z"/>', 100),
        ('<line x2="10" y2="10" stroke="none"/><rect width="1" height="1"/>', 1),
        ('<g transform="translate(5 5) rotate(30)"><g transform="scale(2,3)"><rect width="1" height="1"/></g></g>', 6),
        ('<rect width="1" height="1" transform="matrix(2 0 0 2 7 7) skewX(20)"/>', 4),
        ('<path fill-rule="evenodd" d="M0 0H10V10H0ZM2 2H8V8H2Z"/>', 64),
        ('<g style="fill-rule:evenodd"><path d="M0 0H10V10H0ZM2 2H8V8H2Z"/></g>', 64),
        ('<path d="M0 0H10V10H0ZM2 2H8V8H2Z"/>', 100),
        ('<rect width="9" height="9" style="display:none"/><rect width="1" height="1"/>', 1),
        ('<g visibility="hidden"><rect width="9" height="9"/><rect visibility="visible" width="2" height="1"/></g>', 2),
        ('<g fill="none"><rect width="9" height="9"/></g><rect width="1" height="1"/>', 1),
        ('<rect width="10" height="10"/><circle cx="5" cy="5" r="2" fill="white"/>', 100 - math.pi * 4),
        ('<rect width="10" height="10" fill="#fff"/>', 100),
    ],
)
def test_each_basic_element_covers_its_area(body: str, area: float) -> None:
    assert film(body).area == pytest.approx(area, rel=1e-3)


def test_upper_colours_hide_lower_ones_and_white_belongs_to_no_film() -> None:
    body = (
        '<rect width="10" height="10" fill="red"/><rect x="5" width="10" height="10" fill="blue"/>'
        '<rect x="12" width="3" height="3" fill="white"/>'
    )
    regions = colour_regions(read_svg(drawn(body)), Affine())
    assert {c: round(r.area, 6) for c, r in regions.items()} == {(255, 0, 0): 50, (0, 0, 255): 91}


def test_what_is_not_understood_or_simplified_is_listed_by_name() -> None:
    body = (
        "<use href='#x'/><text font-family='No Such Face'>hi</text><image href='http://example.invalid/x.png'/>"
        "<use href='other.svg#a'/><g clip-path='url(#c)'><path d='M0 0 L9 x'/><rect width='1' height='1'/></g>"
        "<rect width='5 apples' height='1'/><foreignObject/><linearGradient id='g'><stop/></linearGradient>"
        "<rect width='1' height='1' fill='url(#g)' filter='url(#f)' transform='twist(3)'/>"
    )
    read = read_svg(drawn(body))
    assert set(read.not_understood) == {
        "use of a missing part", "use of another file", 'text "hi" (the font No Such Face is not on this machine)',
        "picture in another file", "clip-path without its shape", "path data (drawn up to the error)", "length 5 apples",
        "foreignObject", "transform",
    }  # fmt: skip
    assert set(read.simplified) == {"gradient (one colour by its outline)", "filter (left out)"}


@pytest.mark.parametrize("body", RASTER_CASES.values(), ids=RASTER_CASES)
def test_what_is_read_is_what_an_independent_renderer_shows(body: str) -> None:
    data = drawn(body, 'width="40" height="40"')
    region = film_region(on_page(read_svg(data)), Affine())
    white = b'<rect width="100%" height="100%" fill="white"/>'
    page = data.replace(b">", b">" + white, 1).replace(
        b'width="40" height="40"', b'width="1600" height="1600" viewBox="0 0 40 40"', 1
    )
    png = bytes(resvg_py.svg_to_bytes(svg_string=page.decode(), dpi=96, shape_rendering="crisp_edges"))
    seen = np.asarray(Image.open(io.BytesIO(png)).convert("RGB")).min(axis=2) < 250
    shape = mask(region.polygons, 40, (1600, 1600)) > 0
    assert (seen & shape).sum() / (seen | shape).sum() > 0.995


def test_text_is_set_in_a_face_at_hand_with_its_anchor_and_its_size() -> None:
    body = '<text x="100" y="50" font-family="Nowhere, League Spartan" font-size="20" text-anchor="middle">OHO<tspan x="100" dy="30">H</tspan></text>'
    read = read_svg(drawn(body))
    assert [part.name for part in read.parts] == ["OHO", "H"]
    assert not read.not_understood
    boxes = [part.path.bounds for part in read.parts]
    assert (boxes[0][0] + boxes[0][2]) / 2 == pytest.approx(100, abs=0.5)
    assert (boxes[0][3], boxes[1][3]) == pytest.approx((50, 80), abs=0.4)
    capital = load_face("bundled:League Spartan")
    height = glyph_path(capital, capital.font.get_nominal_glyph(ord("H"))).bounds[3] / capital.units_per_em
    assert boxes[1][3] - boxes[1][1] == pytest.approx(20 * height, rel=1e-6)


def test_a_font_is_never_taken_from_a_file_that_a_drawing_names(tmp_path: FilePath) -> None:
    face = tmp_path / "face.ttf"
    face.write_bytes(b"not a font")
    read = read_svg(drawn(f'<text font-family="{face}">hi</text>'))
    assert list(read.not_understood) == [f'text "hi" (the font {face} is not on this machine)']


def test_broken_but_common_files_are_read_as_a_browser_would() -> None:
    rect = b'<rect width="10" height="4"/>'
    files = [
        b"<svg>" + rect + b"</svg>",
        b'<svg:svg xmlns:svg="http://www.w3.org/2000/svg"><svg:rect width="10" height="4"/></svg:svg>',
        b'<svg xmlns="http://www.w3.org/2000/svg"><g label="caf\xe9">' + rect + b"</g></svg>",
        b"<?xml version='1.0' encoding='latin-1'?>\n<svg><title>caf\xe9 &nbsp; &unknown;</title>" + rect + b"</svg>",
        b'<!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg">]><svg xmlns="&ns;" x:y="1">' + rect + b"</svg>",
        b"junk before <svg><g>" + rect + b"</svg>",
        b"<svg>\x00\x01" + rect + b"<path d='M0 0",
        gzip.compress(b"<svg>" + rect + b"</svg>"),
        ("\ufeff<svg>" + rect.decode() + "</svg>").encode("utf-16-le"),
    ]
    for data in files:
        assert film_region(read_svg(data), Affine()).area == pytest.approx(40), data[:60]


@pytest.mark.parametrize(
    "attributes,scale",
    [
        ('width="100mm" height="50mm" viewBox="0 0 200 100"', 0.5),
        ('width="4in" height="2in" viewBox="0 0 96 48"', 25.4 / 24),
        ('width="100" height="50"', None),
        ('width="100%" viewBox="0 0 10 10"', None),
        ('width="72pt"', 25.4 / 96),
    ],
)
def test_the_stated_physical_size_is_found(attributes: str, scale: float | None) -> None:
    found = read_svg(drawn("<rect width='1' height='1'/>", attributes)).mm_per_unit
    assert found == (None if scale is None else pytest.approx(scale))


@pytest.mark.parametrize(
    "data",
    [
        b"", b"   \n", b"not xml at all", b"<html><body/></html>", b"\x00\x01\x02", b"<svg", b"\xff\xfe<svg/>",
        b'<!DOCTYPE a [<!ENTITY b "b"><!ENTITY c "&b;&b;">]><a>&c;</a>', b"<svg xmlns='http://www.w3.org/2000/svg'>" + b"<g>" * 300,
    ],
)  # fmt: skip
def test_a_broken_file_is_refused_in_one_sentence_that_names_it(data: bytes) -> None:
    with pytest.raises(DrawingNotReadable) as refusal:
        film_region(read_svg(data, "heron.svg"), Affine())
    assert "heron.svg" in str(refusal.value)
    assert str(refusal.value).count("\n") == 0


def test_a_drawing_without_a_shape_says_what_it_holds_instead() -> None:
    drawing = read_svg(drawn("<foreignObject/>"))
    with pytest.raises(NothingToDraw, match="1 x foreignObject"):
        film_region(drawing, Affine())


def test_a_file_cannot_read_another_one_by_an_entity() -> None:
    greedy = (
        b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]>'
        b'<svg xmlns="http://www.w3.org/2000/svg"><rect id="&x;" width="2" height="2"/></svg>'
    )
    drawing = read_svg(greedy)
    assert film_region(drawing, Affine()).area == pytest.approx(4)
    assert [part.name for part in drawing.parts] == ["&x;"]


@pytest.mark.parametrize("path", DRAWINGS, ids=lambda p: p.stem)
def test_a_cut_file_of_a_real_drawing_reads_back_as_its_shape(path: FilePath) -> None:
    drawing = read_svg(path.read_bytes(), path.name)
    probe = film_region(drawing, Affine())
    region = film_region(drawing, Affine.scaling(40 / (probe.bounds[2] - probe.bounds[0])))
    region = region.transformed(Affine.translation(-region.bounds[0], -region.bounds[1]))
    svg = svg_text([CutLayer("film", "#123456", (region.outline,))], region.bounds[2], region.bounds[3])
    assert overlap(svg, region) >= 0.995


def test_a_written_file_holds_nothing_but_closed_even_odd_paths() -> None:
    region = film('<rect width="30" height="10"/><circle cx="15" cy="5" r="3" fill="white"/>')
    layers = [CutLayer("Film & co", "#123456", (region.outline,)), CutLayer("Film & co", "#654321", ())]
    root = etree.fromstring(svg_text(layers, 30, 10).encode())
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("30mm", "10mm", "0 0 30 10")
    assert [g.get("id") for g in root] == ["film-co", "film-co-2"]
    assert [g.get("aria-label") for g in root] == ["Film & co", "Film & co"]
    elements = [e for e in root.iter() if e is not root]
    assert {etree.QName(e).localname for e in elements} == {"g", "path"}
    for path in root.iter("{*}path"):
        assert set(path.attrib) == {"fill", "fill-rule", "d"}
        assert path.get("fill-rule") == "evenodd"
        assert path.get("d").count("M") == path.get("d").count("Z") == 2
    assert overlap(svg_text(layers, 30, 10), region) > 0.995


def test_a_picture_shows_holes_and_islands() -> None:
    region = film('<path fill-rule="evenodd" d="M0 0H30V30H0ZM5 5H25V25H5ZM10 10H20V20H10Z"/>')
    image = Image.open(io.BytesIO(png_of([(region, "#ff0000")], (0, 0, 30, 30), 2, "#ffffff"))).convert("RGB")
    assert [image.getpixel((2 * x, 30)) for x in (2, 7, 15)] == [(255, 0, 0), (255, 255, 255), (255, 0, 0)]
    assert ImageChops.invert(image).getbbox() is not None
