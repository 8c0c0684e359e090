"""DXF in and out: every kind of line, blocks, units, and our own files, against shapes known from geometry."""

from __future__ import annotations

import io
import math

import ezdxf
import numpy as np
import pytest
import shapely

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.formats.dxf_read import read_dxf
from vivid_thimble.core.formats.dxf_write import dxf_text
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.sources.colours import to_hex
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.line_work import guessed_lines, with_lines_as

HAUSDORFF_MM = 0.02


def written(document: ezdxf.document.Drawing) -> bytes:
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def fresh(units: int = 4) -> tuple[ezdxf.document.Drawing, ezdxf.layouts.Modelspace]:
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = units
    return document, document.modelspace()


def lines_of(drawing: Drawing, scale: float = 1.0) -> shapely.Geometry:
    rings = []
    for part in drawing.parts:
        path = part.lines.transformed(Affine.scaling(scale))
        for contour, points in zip(path.contours, flatten(path, 0.001).rings(), strict=True):
            rings.append(np.concatenate([points, points[:1]]) if contour.closed else points)
    return shapely.MultiLineString(rings)


def filled(drawing: Drawing, scale: float = 1.0) -> Region:
    meaning = guessed_lines(drawing)
    return film_region(with_lines_as(drawing, meaning, 1.0, 0.05 / scale), Affine.scaling(scale))


def circle(x: float, y: float, r: float, first: float = 0.0, last: float = 360.0) -> np.ndarray:
    angles = np.radians(np.linspace(first, last, 2001))
    return np.column_stack([x + r * np.cos(angles), -(y + r * np.sin(angles))])


def far(one: shapely.Geometry, other: shapely.Geometry) -> float:
    return float(shapely.hausdorff_distance(one, other, densify=0.1))


def test_arcs_circles_and_ellipses_lie_where_geometry_puts_them() -> None:
    document, space = fresh()
    space.add_circle((40, 40), 12)
    space.add_arc((0, 0), 30, 20, 160)
    space.add_ellipse((100, 0), (20, 0), 0.4, 0, 2 * math.pi)
    t = np.linspace(0, 2 * math.pi, 4001)
    oval = np.column_stack([100 + 20 * np.cos(t), -8 * np.sin(t)])
    truth = shapely.MultiLineString([circle(40, 40, 12), circle(0, 0, 30, 20, 160), oval])
    assert far(lines_of(read_dxf(written(document))), truth) < HAUSDORFF_MM


def test_bulges_are_arcs_and_joined_pieces_become_one_filled_outline() -> None:
    document, space = fresh()
    space.add_lwpolyline([(0, 0, 0), (40, 0, 1), (40, 20, 0), (0, 20, 1)], format="xyb", close=True)
    drawing = read_dxf(written(document))
    assert filled(drawing).area == pytest.approx(40 * 20 + math.pi * 100, rel=1e-4)
    document, space = fresh()
    for a, b in (((0, 0), (40, 0)), ((40, 20), (40, 0)), ((0, 20), (40, 20.0004)), ((0, 0.0003), (0, 20))):
        space.add_line(a, b)
    space.add_circle((20, 10), 4)
    drawing = read_dxf(written(document))
    assert [sum(c.closed for c in part.path.contours) for part in drawing.parts] == [2]
    assert filled(drawing).area == pytest.approx(800 - math.pi * 16, rel=1e-4)


def test_a_spline_follows_its_own_definition() -> None:
    document, space = fresh()
    spline = space.add_spline(degree=3)
    spline.control_points = [(0, 0), (20, 60), (60, -40), (90, 50), (120, 0)]
    spline.knots = [0, 0, 0, 0, 0.4, 1, 1, 1, 1]
    truth = np.array([(p.x, -p.y) for p in spline.construction_tool().approximate(4000)])
    rational = space.add_spline(degree=2)
    rational.set_open_rational([(200, 0), (200, 50), (250, 50)], [1, math.sqrt(0.5), 1], degree=2)
    arc = circle(250, 0, 50, 90, 180)
    assert far(lines_of(read_dxf(written(document))), shapely.MultiLineString([truth, arc])) < HAUSDORFF_MM


def test_blocks_are_placed_turned_and_mirrored_and_their_colours_come_along() -> None:
    document, space = fresh()
    document.layers.add("wings", color=1)
    inner = document.blocks.new("dot")
    inner.add_circle((0, 0), 1, dxfattribs={"color": 5})
    outer = document.blocks.new("pair")
    outer.add_blockref("dot", (5, 0))
    outer.add_lwpolyline([(0, 0), (4, 0), (4, 3)], close=True, dxfattribs={"layer": "wings"})
    space.add_blockref("pair", (100, 50), dxfattribs={"rotation": 90, "xscale": 2, "yscale": -2})
    drawing = read_dxf(written(document))
    truth = [[(100, -50), (100, -58), (106, -58), (100, -50)], circle(100, 60, 2).tolist()]
    assert far(lines_of(drawing), shapely.MultiLineString(truth)) < HAUSDORFF_MM
    assert {part.colour for part in drawing.parts} == {(255, 0, 0), (0, 0, 255)}


@pytest.mark.parametrize("code,scale", [(1, 25.4), (4, 1.0), (5, 10.0), (0, None)])
def test_units_are_read_and_unitless_is_told(code: int, scale: float | None) -> None:
    document, space = fresh(code)
    space.add_circle((0, 0), 2)
    assert read_dxf(written(document)).mm_per_unit == scale


def test_hatches_are_areas_and_hidden_layers_stay_out() -> None:
    document, space = fresh()
    hatch = space.add_hatch(color=3)
    hatch.paths.add_polyline_path([(0, 0), (10, 0), (10, 10), (0, 10)], is_closed=True)
    hatch.paths.add_polyline_path([(2, 2), (8, 2), (8, 8), (2, 8)], is_closed=True)
    document.layers.add("off").off()
    space.add_circle((50, 50), 20, dxfattribs={"layer": "off"})
    space.add_text("boats")
    drawing = read_dxf(written(document))
    assert film_region(drawing, Affine()).area == pytest.approx(64)
    assert (drawing.hidden, drawing.not_understood) == (1, {"text": 1})


def test_our_own_file_reads_back_as_the_shape() -> None:
    shape = Region.from_polygons(shapely.Point(30, 30).buffer(25, quad_segs=64).difference(shapely.box(20, 20, 40, 40)))
    text = dxf_text([CutLayer("Film 1", "#2b6a80", (shape.outline,)), CutLayer("Film 1", "#ff0000", ())], 60)
    drawing = read_drawing(text.encode(), "cut.dxf")
    back = filled(drawing).transformed(Affine.translation(0, 60))
    assert drawing.mm_per_unit == 1.0
    assert shapely.hausdorff_distance(back.polygons.boundary, shape.polygons.boundary, densify=0.1) < HAUSDORFF_MM
    assert back.area == pytest.approx(shape.area, rel=1e-5)


@pytest.mark.parametrize(
    "data", [b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nabc", b"  0\nSECTION\n", b"0\r\nSECTION\r\n2"]
)
def test_a_broken_file_is_refused_in_one_sentence(data: bytes) -> None:
    try:
        drawing = read_drawing(data, "pond.dxf")
    except DrawingNotReadable as error:
        assert "pond.dxf" in str(error)
    else:
        assert not drawing.parts


def test_blocks_that_multiply_without_end_are_refused() -> None:
    document, space = fresh()
    names = [f"level{k}" for k in range(9)]
    document.blocks.new(names[0]).add_circle((0, 0), 1)
    for below, name in zip(names[:-1], names[1:], strict=True):
        block = document.blocks.new(name)
        for k in range(12):
            block.add_blockref(below, (k, 0))
    space.add_blockref(names[-1], (0, 0))
    with pytest.raises(DrawingNotReadable, match="more than"):
        read_dxf(written(document))


@pytest.mark.parametrize("colour", ["#e8c95b", "#33465c", "#3f7046", "#000000", "#ffffff", "#ff0000"])
def test_films_keep_their_colours_also_for_readers_that_know_numbers_only(colour: str) -> None:
    square = Path((Contour.from_points(np.array([[0.0, 0.0], [9.0, 0.0], [9.0, 9.0], [0.0, 9.0]])),))
    data = dxf_text([CutLayer("Lanterns", colour, (square,)), CutLayer("lanterns", "#123456", (square,))], 9.0)
    document = ezdxf.read(io.StringIO(data))
    first, second = document.layers.get("Lanterns"), document.layers.get("lanterns-2")
    assert "#{:02x}{:02x}{:02x}".format(*first.rgb) == colour
    assert first.dxf.color != 7  # that one is black or white by the ground it lies on
    away = np.abs(np.array(ezdxf.colors.aci2rgb(first.dxf.color)) - np.array(first.rgb))
    assert away.max() <= 64
    assert second is not None
    read = read_dxf(data.encode())
    assert [to_hex(part.colour) for part in read.parts] == [colour, "#123456"]


@pytest.mark.parametrize("number", [1, 5, 30, 150, 250])
def test_a_colour_number_of_the_layer_is_that_of_its_lines(number: int) -> None:
    document = ezdxf.new("R2000")
    document.layers.add("reeds", color=number)
    space = document.modelspace()
    space.add_circle((0, 0), 5, dxfattribs={"layer": "reeds"})
    space.add_circle((20, 0), 5, dxfattribs={"layer": "reeds", "color": 3})
    out = io.StringIO()
    document.write(out)
    colours = {part.colour for part in read_dxf(out.getvalue().encode()).parts}
    assert colours == {tuple(ezdxf.colors.aci2rgb(number)), tuple(ezdxf.colors.aci2rgb(3))}
