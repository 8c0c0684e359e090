"""A small variable font with awkward glyphs, built for the tests."""

from __future__ import annotations

from pathlib import Path as FilePath

from fontTools.feaLib.builder import addOpenTypeFeaturesFromString
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib.tables._g_l_y_f import Glyph
from fontTools.ttLib.tables.TupleVariation import TupleVariation

Contour = list[tuple[float, float]]


def box(left: float, low: float, right: float, high: float, *, clockwise: bool = True) -> Contour:
    corners = [(left, low), (left, high), (right, high), (right, low)]
    return corners if clockwise else corners[::-1]


def drawn(*contours: Contour) -> Glyph:
    pen = TTGlyphPen(None)
    for contour in contours:
        pen.moveTo(contour[0])
        for point in contour[1:]:
            pen.lineTo(point)
        pen.closePath()
    return pen.glyph()


def composed(glyphs: dict[str, Glyph], *parts: tuple[str, float, float]) -> Glyph:
    pen = TTGlyphPen(glyphs)
    for name, dx, dy in parts:
        pen.addComponent(name, (1, 0, 0, 1, dx, dy))
    return pen.glyph()


def awkward_font(path: FilePath) -> None:
    """A: strokes that overlap. B: one of them wound backwards. C: a ring with a counter. D: components in
    components that overlap. E: a bar that an axis pushes into its neighbour."""
    glyphs = {".notdef": drawn(box(0, 0, 500, 700))}
    glyphs["A"] = drawn(box(50, 0, 250, 700), box(100, 250, 600, 450))
    glyphs["B"] = drawn(box(50, 0, 250, 700, clockwise=False), box(350, 0, 550, 700, clockwise=False))
    glyphs["C"] = drawn(box(50, 0, 600, 700), box(200, 150, 450, 550, clockwise=False))
    glyphs["part"] = drawn(box(0, 0, 200, 500))
    glyphs["pair"] = composed(glyphs, ("part", 0, 0), ("part", 150, 200))
    glyphs["D"] = composed(glyphs, ("pair", 50, 0), ("part", 300, 100))
    glyphs["E"] = drawn(box(50, 0, 250, 700), box(350, 0, 550, 700))
    builder = started([".notdef", "part", "pair", *"ABCDE"], {ord(c): c for c in "ABCDE"}, glyphs)
    builder.setupFvar([("PUSH", 0, 0, 100, "Push")], [])
    moves = [(0, 0)] * 4 + [(-200, 0)] * 4 + [None] * 4
    builder.setupGvar({"E": [TupleVariation({"PUSH": (0.0, 1.0, 1.0)}, moves)]})
    builder.save(path)


def started(order: list[str], characters: dict[int, str], glyphs: dict[str, Glyph]) -> FontBuilder:
    """A font with everything it must have."""
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder(order)
    builder.setupCharacterMap(characters)
    builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics(dict.fromkeys(order, (650, 0)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Awkward", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    return builder


def two_way_font(path: FilePath) -> None:
    """a, b, c read to the right, alef, bet and gimel to the left; each is a box of its own height. A
    stylistic set turns a into a lower box."""
    characters = dict(zip("abc\u05d0\u05d1\u05d2 ", ["a", "b", "c", "alef", "bet", "gimel", "space"], strict=True))
    glyphs = {".notdef": drawn(box(0, 0, 500, 700)), "space": drawn(), "a.low": drawn(box(50, 0, 600, 50))}
    for k, name in enumerate(("a", "b", "c", "alef", "bet", "gimel"), start=1):
        glyphs[name] = drawn(box(50, 0, 600, 100 * k))
    builder = started([".notdef", *characters.values(), "a.low"], {ord(c): n for c, n in characters.items()}, glyphs)
    addOpenTypeFeaturesFromString(builder.font, "feature ss01 { sub a by a.low; } ss01;")
    builder.save(path)
