"""Joins in connecting faces: every lower-case pair, the neck confirmed by wearing the welded word down.

    PYTHONPATH=src python bench/joins.py FOLDER

FOLDER holds fonts; faces that do not connect are left out. Ten words are set 40 mm high and joined to a
neck of 1 mm. Columns: lower-case pairs; those that hold afterwards; those that a shift of 0.12 of the
height could have joined but that are apart (must be 0); pairs moved although they held (must be 0);
the thinnest of the joins by erosion; pieces of the welded words beyond one each, and how many of them
are dots or stand at pairs that no shift joins.
"""

from __future__ import annotations

import sys

import shapely
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.parts import Part, Parts, merged
from vivid_thimble.core.holding.necks import holds
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.sources.fonts import face_title, faces_in
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps.join import FARTHEST_SHARE, connects, joined, measured_pairs

WORDS = ("Wandering", "Heron", "Second", "Supper", "Moth", "Ember", "Quillfen", "Lantern", "Regatta", "Bramble")
HEIGHT_MM, NECK_MM, WORN_MM = 40.0, 1.0, 0.05


def letters_of(face: str, text: str) -> Parts:
    source = Words(text=text, face=face)
    element = Element(id="w", name=text, source=source, placement=Placement(height=HEIGHT_MM))
    job: Job = with_layer(new_job(width=900, height=200), lambda layer: replace(layer, elements=(element,)))
    return evaluate(job, {}, Cache()).layers[0].elements[0].letters


def survives(left: Part, right: Part, whole: shapely.MultiPolygon) -> bool:
    """Whether two letters stay one piece when the welded word is worn down by half the neck."""
    a, b = left.region.bounds, right.region.bounds
    assert a is not None and b is not None
    window = shapely.box(max(a[0], b[0]) - 4, min(a[1], b[1]) - 1, min(a[2], b[2]) + 4, max(a[3], b[3]) + 1)
    worn = shapely.buffer(shapely.intersection(whole, window), -(NECK_MM - WORN_MM) / 2.0, quad_segs=16)
    pieces = shapely.get_parts(worn)
    only = [shapely.difference(p.region.polygons, q.region.polygons) for p, q in ((left, right), (right, left))]
    return bool((shapely.intersects(pieces, only[0]) & shapely.intersects(pieces, only[1])).any())


def main() -> None:
    heads = ("pairs", "hold", "missed", "needless", "worn off", "extra", "dots")
    print(f"{'face':32s} " + " ".join(f"{head:>8s}" for head in heads))
    for face in faces_in(sys.argv[1]):
        try:
            row = measured(face)
        except ThimbleError as error:
            print(f"{face_title(face):32s} {error}")
            continue
        if row is not None:
            print(f"{face_title(face)[:32]:32s} " + " ".join(f"{value:8d}" for value in row))


def measured(face: str) -> tuple[int, ...] | None:
    pairs = hold = missed = needless = worn_off = extra = dots = 0
    if not connects(letters_of(face, "wanderingheron")):
        return None
    for text in WORDS:
        parts = letters_of(face, text)
        moved, moves = joined(parts, NECK_MM)
        assert [p.label for p in moved] == [p.label for p in parts]
        assert "".join(p.label for p in moved) == text
        whole = merged(moved).polygons
        farthest = FARTHEST_SHARE * max(p.region.bounds[3] - p.region.bounds[1] for p in parts if p.region.bounds)
        apart = 0
        for k, pair in enumerate(measured_pairs(moved, moves, NECK_MM), start=1):
            before = holds(parts[k - 1].region.polygons, parts[k].region.polygons, NECK_MM)
            needless += before and moves[k] > 0.0
            apart += not pair.joined
            if not (pair.left.islower() and pair.right.islower()):
                continue
            pairs, hold = pairs + 1, hold + pair.joined
            worn_off += pair.joined and not survives(moved[k - 1], moved[k], whole)
            if not pair.joined:
                shifts = (farthest * step / 24 for step in range(25))
                missed += any(
                    holds(parts[k - 1].region.polygons, parts[k].region.shifted(-by, 0.0).polygons, NECK_MM)
                    for by in shifts
                )
        loose = len(whole.geoms) - 1 - apart
        extra += len(whole.geoms) - 1
        dots += max(min(loose, sum(text.count(c) for c in "ij")), 0)
    return pairs, hold, missed, needless, worn_off, extra, dots


if __name__ == "__main__":
    main()
