"""PDF in and out: files of another library and our own, against the shapes they were made of."""

from __future__ import annotations

import io

import pytest
import shapely
from reportlab.lib.pdfencrypt import StandardEncryption
from reportlab.pdfgen.canvas import Canvas

from tests.core.formats.drawings import RASTER_CASES, drawn
from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.formats.pdf_read import read_pdf
from vivid_thimble.core.formats.pdf_write import pdf_bytes
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.artwork import colour_regions, film_region
from vivid_thimble.core.sources.page import on_page

MM = 72 / 25.4
HAUSDORFF_MM = 0.02


def far(one: Region, other: shapely.Geometry) -> float:
    return float(shapely.hausdorff_distance(one.polygons.boundary, other.boundary, densify=0.1))


def canvas(width: float = 100, height: float = 80) -> tuple[io.BytesIO, Canvas]:
    out = io.BytesIO()
    return out, Canvas(out, pagesize=(width * MM, height * MM))


def test_paths_strokes_and_forms_of_another_library_lie_where_it_put_them() -> None:
    out, page = canvas()
    page.setFillColorRGB(1, 0, 0)
    page.rect(10 * MM, 10 * MM, 30 * MM, 20 * MM, stroke=0, fill=1)
    page.setStrokeColorRGB(0, 0, 1)
    page.setLineWidth(2 * MM)
    page.setLineCap(1)
    page.line(50 * MM, 10 * MM, 90 * MM, 10 * MM)
    page.beginForm("ring", -9 * MM, -9 * MM, 9 * MM, 9 * MM)
    page.setFillColorRGB(0, 1, 0)
    page.circle(0, 0, 5 * MM, stroke=0, fill=1)
    page.endForm()
    page.saveState()
    page.translate(70 * MM, 50 * MM)
    page.scale(2, 2)
    page.doForm("ring")
    page.restoreState()
    page.save()
    drawing = read_pdf(out.getvalue(), "sheet.pdf")
    assert drawing.mm_per_unit == pytest.approx(25.4 / 72)
    layers = colour_regions(drawing, Affine.scaling(25.4 / 72))
    truth = {
        (255, 0, 0): shapely.box(10, 50, 40, 70),
        (0, 0, 255): shapely.LineString([(50, 70), (90, 70)]).buffer(1, quad_segs=64),
        (0, 255, 0): shapely.Point(70, 30).buffer(10, quad_segs=256),
    }
    assert set(layers) == set(truth)
    for colour, shape in truth.items():
        assert far(layers[colour], shape) < HAUSDORFF_MM


def test_clips_even_odd_and_opacity_are_followed() -> None:
    out, page = canvas()
    clip = page.beginPath()
    clip.rect(0, 0, 50 * MM, 80 * MM)
    page.saveState()
    page.clipPath(clip, stroke=0)
    ring = page.beginPath()
    ring.rect(10 * MM, 10 * MM, 80 * MM, 60 * MM)
    ring.rect(20 * MM, 20 * MM, 60 * MM, 40 * MM)
    page.drawPath(ring, stroke=0, fill=1, fillMode=0)
    page.restoreState()
    page.setFillAlpha(0.001)
    page.rect(60 * MM, 0, 30 * MM, 30 * MM, stroke=0, fill=1)
    page.save()
    region = film_region(read_pdf(out.getvalue()), Affine.scaling(25.4 / 72))
    assert far(region, shapely.box(10, 10, 50, 70).difference(shapely.box(20, 20, 80, 60))) < HAUSDORFF_MM


def test_text_pictures_and_other_pages_are_told() -> None:
    out, page = canvas()
    page.drawString(10, 10, "boats")
    page.showPage()
    page.circle(20 * MM, 20 * MM, 5 * MM, fill=1)
    page.save()
    first, second = (read_pdf(out.getvalue(), "two.pdf", number) for number in (0, 1))
    assert dict(first.not_understood) == {"other page": 1, "text (turn it into outlines where it was made)": 1}
    assert len(second.parts) == 2
    with pytest.raises(DrawingNotReadable, match=r"two\.pdf has no page 3"):
        read_pdf(out.getvalue(), "two.pdf", 2)


@pytest.mark.parametrize("name", ["fill and stroke", "closed outline", "clip within a clip", "round joins and caps"])
def test_our_own_file_reads_back_as_the_shape(name: str) -> None:
    region = film_region(on_page(read_svg(drawn(RASTER_CASES[name], 'width="40" height="40"'))), Affine())
    data = pdf_bytes([CutLayer("Film 1", "#2b6a80", (region.outline,)), CutLayer("leer", "#ff0000", ())], 40, 40)
    drawing = read_drawing(data, "cut.pdf")
    back = film_region(drawing, Affine.scaling(25.4 / 72))
    assert far(back, region.polygons) < HAUSDORFF_MM
    assert back.outline.node_count <= region.outline.node_count + 2
    assert drawing.page == pytest.approx((0, 0, 40 * MM, 40 * MM), abs=1e-3)


def test_locked_and_broken_files_are_refused_in_one_sentence() -> None:
    out = io.BytesIO()
    locked = Canvas(out, encrypt=StandardEncryption("secret", ownerPassword="more"))
    locked.circle(20, 20, 5)
    locked.save()
    with pytest.raises(DrawingNotReadable, match="locked by a password"):
        read_drawing(out.getvalue(), "pond.pdf")
    for data in (b"%PDF-1.4\n", b"%PDF-1.7\n1 0 obj\n<< /Type /Catalog >>\nendobj\n", out.getvalue()[:400]):
        with pytest.raises(DrawingNotReadable, match=r"pond\.pdf"):
            read_drawing(data, "pond.pdf")
