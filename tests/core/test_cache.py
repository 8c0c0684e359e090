"""The cache: bounded by what its shapes hold, counted, and true to its slots."""

from __future__ import annotations

import numpy as np
import shapely

from vivid_thimble.core.cache import Cache, content_key, vertices_in
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.artwork import Prepared
from vivid_thimble.core.sources.separation import Separated

BOX = Region.from_polygons(shapely.box(0, 0, 5, 5))


def test_vertices_are_counted_wherever_shapes_are() -> None:
    part = Part("a", BOX)
    assert vertices_in(BOX) == 5
    assert vertices_in((part, part)) == 10
    assert vertices_in("words") == 0


def test_the_oldest_shapes_go_when_there_are_too_many_vertices() -> None:
    cache = Cache(most_vertices=52)
    for k in range(20):
        cache.get(f"box {k}", lambda: BOX)
        cache.get("always used", lambda: (Part("a", BOX),))
    assert cache.misses == 21, "what is used again stays"
    cache.get("box 19", lambda: BOX)
    assert cache.misses == 21
    cache.get("box 0", lambda: BOX)
    assert cache.misses == 22


def test_one_shape_larger_than_the_bound_is_kept_until_the_next() -> None:
    cache = Cache(most_vertices=3)
    cache.get("large", lambda: BOX)
    cache.get("large", lambda: BOX)
    assert (cache.misses, cache.hits) == (1, 1)


def test_a_slot_hands_on_what_it_held() -> None:
    cache = Cache(most=2)
    seen = [cache.renewed("slot", lambda before: (before or 0) + 1) for _ in range(3)]
    assert seen == [1, 2, 3]
    for k in range(3):
        cache.get(f"other {k}", lambda: BOX)
    assert cache.renewed("slot", lambda before: before) is None, "it was dropped like anything else"


def test_keys_tell_where_parts_end() -> None:
    assert content_key("ab", "c") != content_key("a", "bc")
    assert content_key("ab") == content_key(b"ab")


def test_what_holds_shapes_in_any_way_weighs_what_they_weigh() -> None:
    square = shapely.box(0, 0, 1, 1)
    prepared = Prepared(
        (0.0, 0.0, 1.0, 1.0), films=(shapely.MultiPolygon([square]), shapely.MultiPolygon([square] * 2))
    )
    assert vertices_in(prepared) == 15
    assert vertices_in({(0, 0, 0): square, (9, 9, 9): BOX}) == 10
    assert vertices_in(Prepared((0.0, 0.0, 1.0, 1.0), one=BOX)) == 5
    cache = Cache(most_vertices=20)
    cache.get("films", lambda: prepared)
    cache.get("colours", lambda: {(0, 0, 0): shapely.MultiPolygon([square] * 2)})
    remade: list[str] = []
    cache.get("films", lambda: remade.append("films"))
    assert remade == ["films"]  # both together were too much


def test_pictures_weigh_by_their_pixels() -> None:
    """Or every level that a slider passes would stay in memory."""
    photo = Raster(np.zeros((400, 640, 3), np.uint8), np.zeros((400, 640), np.uint8))
    assert vertices_in(photo) == 400 * 640 * 4 // 64
    parted = Separated("two tones", coverage=np.zeros((400, 640), np.float32))
    assert vertices_in(parted) == 400 * 640 * 4 // 64
    cache = Cache(most_vertices=40_000)
    for level in range(9):
        cache.get(f"level {level}", lambda: parted)
    cache.get("level 0", lambda: parted)
    assert cache.misses == 10
