"""Cleaning at the final size: what is dropped, who gets it, and that films still fit each other."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import MultiPolygon, Point, Polygon, box

from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.cleaning import Cleaned, Cleaning
from vivid_thimble.core.sources.tidy import tidy, tidy_side_by_side

PLACE = st.floats(0, 30).map(lambda x: round(x, 3))
SHAPES = st.lists(st.tuples(PLACE, PLACE, st.floats(0.1, 9), st.integers(1, 12)), min_size=2, max_size=8)
NOTHING = Cleaning(hairlines=False, specks=False, pinholes=False, nodes=False)


def areas_of(*shapes: shapely.Geometry) -> list[MultiPolygon]:
    """Upper shapes hide lower ones; what is left of each."""
    left = [shapely.difference(s, shapely.union_all(shapes[k + 1 :])) for k, s in enumerate(shapes)]
    return [polygons_of(area) for area in left]


def told(report: list[Cleaned]) -> dict[str, Cleaned]:
    return {one.kind: one for one in report}


def cleaned(areas: list[MultiPolygon], cleaning: Cleaning) -> tuple[list[MultiPolygon], dict[str, Cleaned]]:
    regions, report = tidy_side_by_side(areas, cleaning)
    return [region.polygons for region in regions], told(report)


@given(SHAPES, st.floats(0.3, 3.0))
@settings(max_examples=40, deadline=None)
def test_films_abut_exactly_whatever_is_cleaned(shapes: list, factor: float) -> None:
    drawn = [Point(x, y).buffer(r, quad_segs=corners) for x, y, r, corners in shapes]
    areas = [shapely.transform(area, lambda points: points * factor) for area in areas_of(*drawn)]
    films, report = cleaned(areas, Cleaning())
    kept = [film for film in films if not film.is_empty]
    assert shapely.coverage_is_valid(kept)
    assert abs(sum(film.area for film in kept) - shapely.union_all(kept).area) < 1e-6
    lost = shapely.union_all(areas).area - sum(film.area for film in kept)
    dropped = sum(piece.area for area in areas for piece in area.geoms if piece.area <= 0.5)
    filled = report["pinholes"].count * 0.5 if "pinholes" in report else 0.0
    room = 0.03 * sum(area.length for area in areas)
    assert -filled - room <= lost <= dropped + room


def test_a_sliver_goes_to_the_neighbour_that_it_borders_most() -> None:
    red, blue, sliver = box(0, 0, 10, 10), box(10.05, 0, 20, 10), box(10, 0, 10.05, 9)
    films, report = cleaned([MultiPolygon([s]) for s in (red, blue, sliver)], Cleaning())
    assert films[2].is_empty
    assert report["hairlines"].count >= 1
    assert films[0].area + films[1].area == pytest.approx(100 + 99.5 + 0.45, abs=0.02)
    left, _ = cleaned([MultiPolygon([s]) for s in (red, blue, sliver)], NOTHING)
    assert left[2].area == pytest.approx(0.45)


def test_a_speck_inside_a_film_is_filled_by_it_and_one_on_bare_ground_goes() -> None:
    inside, alone = Point(5, 5).buffer(0.2), Point(30, 5).buffer(0.2)
    films, report = cleaned([*areas_of(box(0, 0, 10, 10), inside), MultiPolygon([alone])], Cleaning())
    assert [round(film.area, 3) for film in films] == [100.0, 0.0, 0.0]
    assert report["specks"].count == 2


@pytest.mark.parametrize("specks", [True, False])
def test_a_pinhole_with_an_island_is_filled_without_covering_it(specks: bool) -> None:
    hole, island = Point(5, 5).buffer(0.35), Point(5, 5).buffer(0.1)
    film = box(0, 0, 10, 10).difference(hole)
    switches = Cleaning(specks=specks)
    (red, blue), report = cleaned([MultiPolygon([film]), MultiPolygon([island])], switches)
    assert report["pinholes"].count == 1
    assert red.area + blue.area == pytest.approx(100.0, abs=1e-3)
    assert shapely.coverage_is_valid([one for one in (red, blue) if not one.is_empty])
    whole, _ = tidy(Region.from_polygons(MultiPolygon([film, island])), switches)
    assert whole.polygons.is_valid
    assert whole.area == pytest.approx(100.0, abs=1e-3)
    assert len(whole.outline.contours) == 1


def test_an_area_that_scaling_made_cross_itself_is_taken_all_the_same() -> None:
    bow = MultiPolygon([Polygon([(0, 0), (10, 10), (10, 0), (0, 10)])])
    films, _ = cleaned([bow, MultiPolygon([box(20, 0, 30, 10)])], NOTHING)
    assert [film.area for film in films] == pytest.approx([50.0, 100.0], abs=0.01)
    assert all(film.is_valid for film in films)


@given(st.integers(20, 400), st.floats(0.02, 0.2))
@settings(max_examples=20, deadline=None)
def test_fewer_nodes_never_move_a_film_by_more_than_the_tolerance(points: int, tolerance: float) -> None:
    angle = np.linspace(0, 2 * np.pi, points, endpoint=False)
    radius = 20 + 3 * np.cos(5 * angle)
    ring = np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])
    region, report = tidy(Region.from_polygons(Polygon(ring)), Cleaning(node_tolerance=tolerance))
    assert shapely.hausdorff_distance(Polygon(ring).exterior, region.polygons.geoms[0].exterior) <= tolerance + 2e-3
    if "nodes" in told(report):
        assert told(report)["nodes"].after < told(report)["nodes"].before


def test_patches_that_reach_into_each_other_are_given_once() -> None:
    # a hairline gap that branches between three films
    left, right = box(0, 0, 10, 10), box(10.01, 0, 20, 4.995)
    top = box(10.01, 5.005, 20, 10)
    films, report = cleaned([MultiPolygon([s]) for s in (left, right, top)], Cleaning())
    assert report["hairlines"].count >= 1
    assert sum(film.area for film in films) == pytest.approx(shapely.union_all(films).area, abs=1e-9)
    assert shapely.union_all(films).area == pytest.approx(200.0, abs=0.01)
    assert shapely.coverage_is_valid(films)
