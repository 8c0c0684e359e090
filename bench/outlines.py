"""Welded words against an independent truth: where the outline lies, and how many nodes it has.

    PYTHONPATH=src python bench/outlines.py FOLDER

FOLDER holds fonts. Ten words are set 40 mm high and welded as they stand. The truth: outlines drawn by
fontTools, flattened to 0.1 micrometres and united by GEOS; another reader, another flattening and
another kernel than ours. Columns: the largest distance between the two outlines, either way, in
micrometres; nodes of the weld over the nodes of the letters that are not swallowed by another letter;
the same without the nodes where two outlines cross, which no weld can do without.
"""

from __future__ import annotations

import sys

import numpy as np
import shapely
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont
from msgspec.structs import replace

from joins import HEIGHT_MM, WORDS
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.fonts import face_title, faces_in, load_face
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.steps import Weld

FINE_MM = 0.0004
CORNER_MM = 1e-4
"""Nodes closer than this are the same node."""


def main() -> None:
    print(f"{'face':34s} {'micrometres':>12s} {'nodes':>7s} {'without crossings':>18s}")
    for face in faces_in(sys.argv[1]):
        worst, nodes, kept, crossings = 0.0, 0, 0, 0
        try:
            for word in WORDS:
                distance, has, had, crossed = compared(face, word)
                worst, nodes, kept, crossings = max(worst, distance), nodes + has, kept + had, crossings + crossed
        except ThimbleError as error:
            print(f"{face_title(face):34s} {error}")
            continue
        print(f"{face_title(face):34s} {worst * 1e3:12.2f} {nodes / kept:7.3f} {(nodes - crossings) / kept:18.3f}")


def compared(face: str, text: str) -> tuple[float, int, int, int]:
    """Hausdorff distance in mm, nodes of the weld, nodes of the letters left over, crossings."""
    source = Words(text=text, face=face)
    element = Element(id="w", name=text, source=source, placement=Placement(height=HEIGHT_MM), steps=(Weld(id="weld"),))
    job = with_layer(new_job(width=900, height=200), lambda layer: replace(layer, elements=(element,)))
    result = evaluate(job, {}, Cache()).layers[0].elements[0]
    outline = result.parts[0].region.outline
    truth = true_outline(face, source, result.letters)
    flat = flatten(outline, FINE_MM)
    ours = [flat.points[a:b] for a, b in zip(flat.starts[:-1], flat.starts[1:], strict=True)]
    theirs = [shapely.get_coordinates(line)[:-1] for line in shapely.get_parts(truth)]
    distance = max(farthest(ours, theirs), farthest(theirs, ours))
    has = np.array([s[0] for c in outline.contours for s in c.segments])
    had = [np.array([s[0] for c in part.region.outline.contours for s in c.segments]) for part in result.letters]
    boundary = result.parts[0].region.polygons.boundary
    left_over = sum(int(shapely.dwithin(shapely.points(points), boundary, 0.006).sum()) for points in had)
    known = shapely.STRtree(shapely.points(np.concatenate(had)))
    crossed = sum(len(known.query(shapely.points(p), "dwithin", CORNER_MM)) == 0 for p in has)
    return distance, len(has), left_over, crossed


def farthest(rings: list[np.ndarray], others: list[np.ndarray]) -> float:
    """The largest distance from the points of some rings to the edges of others."""
    edges = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in others])
    tree = shapely.STRtree(shapely.linestrings(edges))
    _, distance = tree.query_nearest(shapely.points(np.concatenate(rings)), return_distance=True)
    return float(distance.max())


def true_outline(face: str, words: Words, letters: tuple) -> shapely.Geometry:
    """The boundary of all glyphs united, placed where the shaping put them."""
    loaded = load_face(face)
    font = TTFont(face.removeprefix("file:"))
    glyphs, scale = font.getGlyphSet(), 1.0 / loaded.units_per_em
    shapes = []
    for letter in shape_words(words).letters:
        name = font.getGlyphName(int(letter.glyph.rpartition(" ")[2]))
        pen = DecomposingRecordingPen(glyphs)
        glyphs[name].draw(pen)
        rings = [ring * np.array([scale, -scale]) + np.array(letter.at) for ring in drawn(pen.value, 2e-6 / scale)]
        shapes.append(nonzero(rings))
    whole = shapely.union_all(shapes)
    low = np.array([b for p in letters if (b := p.region.bounds)])
    left, top, right, bottom = low[:, 0].min(), low[:, 1].min(), low[:, 2].max(), low[:, 3].max()
    box = whole.bounds
    factor = (bottom - top) / (box[3] - box[1])
    place = Affine.translation(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2).then(Affine.scaling(factor))
    place = place.then(Affine.translation((left + right) / 2, (top + bottom) / 2))
    return shapely.transform(whole, place.apply).boundary


def nonzero(rings: list[np.ndarray]) -> shapely.Geometry:
    """Rings filled by the non-zero rule: the faces of their arrangement that they wind round."""
    noded = shapely.union_all([shapely.LinearRing(ring) for ring in rings])
    faces = shapely.get_parts(shapely.polygonize(list(shapely.get_parts(noded))))
    return shapely.union_all([face for face in faces if winding(rings, face.representative_point())])


def winding(rings: list[np.ndarray], point: shapely.Point) -> int:
    turns = 0.0
    for ring in rings:
        angles = np.arctan2(ring[:, 1] - point.y, ring[:, 0] - point.x)
        steps = np.diff(np.r_[angles, angles[0]])
        turns += float(((steps + np.pi) % (2 * np.pi) - np.pi).sum())
    return round(turns / (2 * np.pi))


def drawn(commands: list, tolerance: float) -> list[np.ndarray]:
    """The rings of recorded pen commands, curves cut into steps within a tolerance (font units)."""
    rings, points = [], []
    for command, args in commands:
        if command == "moveTo":
            points = [np.array(args[0], dtype=float)]
        elif command == "lineTo":
            points.append(np.array(args[0], dtype=float))
        elif command in ("qCurveTo", "curveTo"):
            places = [np.array(p, dtype=float) for p in args if p is not None]
            if args[-1] is None:  # no point of the ring lies on it: it starts between two of them
                points = [(places[-1] + places[0]) / 2.0]
                places.append(points[0])
            points += curve(points[-1], places, command, tolerance)
        elif len(points) > 2:
            rings.append(np.array(points))
    return rings


def curve(start: np.ndarray, args: list[np.ndarray], command: str, tolerance: float) -> list[np.ndarray]:
    pieces = []
    if command == "curveTo":
        pieces = [(start, *args)]
    else:
        controls, at = args[:-1], start
        for k, control in enumerate(controls):
            end = args[-1] if k == len(controls) - 1 else (control + controls[k + 1]) / 2.0
            pieces.append((at, at + (control - at) * 2 / 3, end + (control - end) * 2 / 3, end))
            at = end
    points = []
    for a, b, c, d in pieces:
        bend = max(np.hypot(*(a - 2 * b + c)), np.hypot(*(b - 2 * c + d)))
        steps = int(np.ceil(np.sqrt(0.75 * bend / tolerance))) + 1
        t = (np.arange(1, steps + 1) / steps)[:, None]
        points += list((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t * t * c + t**3 * d)
    return points


if __name__ == "__main__":
    main()
