"""Monograms: fitted letters, even strokes, one piece when asked."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.parts import bounds_of, merged
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.monogram import SIZE_MM, Frame, Monogram, compose_monogram, strokes_of

FACES = ("bundled:League Spartan", "bundled:Courier Prime")
MOST_RATIO = 1.35
"""Widest to narrowest upright strokes of one monogram."""


def letters(monogram: Monogram) -> list[shapely.MultiPolygon]:
    return [p.region.polygons for p in compose_monogram(monogram).parts if p.label != "border"]


@pytest.mark.parametrize("face", FACES)
@pytest.mark.parametrize("initials", ["MOB", "AHT", "WH"])
def test_strokes_stay_even_though_letters_are_stretched(face: str, initials: str) -> None:
    for frame in ("row", "shield"):
        shapes = letters(Monogram(initials=initials, face=face, frame=frame))
        widths = [strokes_of(shape).upright for shape in shapes]
        assert max(widths) / min(widths) < MOST_RATIO, (frame, widths)


def test_strokes_are_measured_on_known_letters() -> None:
    bar = shapely.box(0, 0, 100, 12)
    ladder = shapely.union_all([shapely.box(0, 0, 10, 100), shapely.box(90, 0, 100, 100), shapely.box(0, 44, 100, 52)])
    assert strokes_of(ladder).upright == pytest.approx(10.0)
    assert strokes_of(ladder).level == pytest.approx(8.0)
    assert strokes_of(bar).level is None, "what fills the whole height is no stroke"


@pytest.mark.parametrize("frame", ["circle", "shield", "row"])
@pytest.mark.parametrize("border", ["none", "ring", "band"])
def test_letters_fill_their_frame_and_keep_their_gaps(frame: str, border: str) -> None:
    monogram = Monogram(initials="QLR", face=FACES[0], frame=frame, border=border, gap=0.03)  # type: ignore[arg-type]
    composed = compose_monogram(monogram)
    shapes = [part.region.polygons for part in composed.parts]
    gaps = [a.distance(b) for a, b in itertools.combinations(shapes, 2)]
    rings = 2 if border == "band" else 1
    apart = [g for g in gaps if g < 0.5 * SIZE_MM]
    assert min(apart) > 0.0
    assert sum(p.label == "border" for p in composed.parts) == (0 if border == "none" else rings)
    if border == "ring" and frame != "row":
        ring, inside = shapes[-1], shapely.union_all(shapes[:-1])
        room = shapely.Polygon(ring.geoms[0].interiors[0])
        assert inside.within(room)
        assert ring.distance(inside) == pytest.approx(2.0 * 0.03 * SIZE_MM, rel=0.25)


@pytest.mark.parametrize("initials", ["QLR", "IJL", "AV"])
@pytest.mark.parametrize(("frame", "border"), [("circle", "band"), ("shield", "ring"), ("row", "none")])
def test_a_welded_monogram_is_one_piece(initials: str, frame: str, border: str) -> None:
    monogram = Monogram(initials=initials, face=FACES[1], frame=frame, border=border, welded=True)  # type: ignore[arg-type]
    composed = compose_monogram(monogram)
    assert len(composed.parts) == 1
    region = composed.parts[0].region
    assert len(region.polygons.geoms) == 1
    assert region.polygons.is_valid
    box = bounds_of(composed.parts)
    assert box is not None
    assert max(np.abs(box[:1] + box[2:3])) <= SIZE_MM * 1.01


def test_the_outline_is_what_the_polygons_say() -> None:
    region = merged(compose_monogram(Monogram(initials="MOB", face=FACES[0], frame="shield")).parts)
    again = Region.from_path(region.outline, "evenodd")
    assert shapely.symmetric_difference(again.polygons, region.polygons).area < 1e-3 * region.area


def test_other_than_two_or_three_letters_are_refused() -> None:
    for initials in ("", "A", "ABCD"):
        with pytest.raises(InputRefused, match="two or three initials"):
            compose_monogram(Monogram(initials=initials, face=FACES[0]))


@pytest.mark.parametrize("frame", ["circle", "row", "shield"])
@pytest.mark.parametrize(("gap", "line"), [(1.0 / 3.0, 0.04), (0.0, 0.5), (1.0, 0.4), (0.02, 0.5)])
def test_no_room_for_the_letters_is_told(frame: Frame, gap: float, line: float) -> None:
    with pytest.raises(InputRefused, match="leave no room for the letters"):
        compose_monogram(Monogram(initials="QLR", face=FACES[0], frame=frame, border="ring", gap=gap, line=line))
