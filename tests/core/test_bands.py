"""Bands along outlines and rounded corners, against areas that geometry gives."""

from __future__ import annotations

import math

import pytest
import shapely

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.steps import Band, RoundCorners

SQUARE = (Part("s", Region.from_polygons(shapely.box(0, 0, 40, 40))),)
PLATE = (Part("p", Region.from_polygons(shapely.box(0, 0, 60, 40).difference(shapely.box(20, 10, 40, 30)))),)


@pytest.mark.parametrize(
    ("side", "area"),
    [
        ("outside", 4 * 40 * 3 + math.pi * 9),
        ("inside", 40 * 40 - 34 * 34),
        ("centred", 4 * 40 * 1.5 + math.pi * 1.5**2 + 40 * 40 - 37 * 37),
    ],
)
def test_a_band_has_its_width_on_its_side(side: str, area: float) -> None:
    (part,) = Band(id="b", width=3.0, side=side).apply(SQUARE)  # type: ignore[arg-type]  # one of its names
    assert part.region.area == pytest.approx(area, rel=1e-3)
    assert len(part.region.polygons.geoms[0].interiors) == 1


def test_corners_of_film_and_of_openings_are_rounded_and_edges_stay() -> None:
    (part,) = RoundCorners(id="r", by=4.0).apply(PLATE)
    lost = (4 - math.pi) * 4.0**2
    assert part.region.area == pytest.approx(60 * 40 - 20 * 20 - lost + lost, rel=1e-3)
    shape = part.region.polygons
    assert shape.bounds == pytest.approx((0, 0, 60, 40), abs=0.02)
    assert not shapely.intersects(shape, shapely.Point(0.5, 0.5))
    assert shapely.intersects(shape, shapely.Point(20.5, 10.5))


def test_a_radius_that_leaves_nothing_is_refused() -> None:
    with pytest.raises(InputRefused, match="smaller radius"):
        RoundCorners(id="r", by=30.0).apply(SQUARE)


def test_shapes_without_area_give_none() -> None:
    empty = (Part("", Region()),)
    assert Band(id="b").apply(empty)[0].region.is_empty
    assert RoundCorners(id="r").apply(empty)[0].region.is_empty
