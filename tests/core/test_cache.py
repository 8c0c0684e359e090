"""The cache: bounded by all the bytes in it, counted once each, and true to its slots."""

from __future__ import annotations

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st

from vivid_thimble.core.cache import Cache, bytes_in, content_key
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.strangers.plain_data import packed

BOX = Region.from_polygons(shapely.box(0, 0, 5, 5))
LARGE = 100_000


def large() -> np.ndarray:
    return np.zeros(LARGE, np.uint8)


def test_what_was_not_used_for_longest_goes_when_there_is_no_room() -> None:
    cache = Cache(room=3 * LARGE + LARGE // 2)
    for k in range(20):
        cache.get(f"array {k}", large)
        cache.get("always used", large)
    assert cache.misses == 21, "what is used again stays"
    assert 2 * LARGE < cache.bytes_kept <= 3 * LARGE + LARGE // 2
    cache.get("array 19", large)
    assert cache.misses == 21
    cache.get("array 0", large)
    assert cache.misses == 22


def test_one_value_larger_than_the_room_is_kept_until_the_next() -> None:
    cache = Cache(room=3)
    cache.get("large", large)
    cache.get("large", large)
    assert (cache.misses, cache.hits) == (1, 1)


def test_a_slot_hands_on_what_it_held_to_its_own_cache() -> None:
    cache = Cache(most=3)
    other = Cache(beside=cache)
    seen = [one.renewed("slot", lambda before: (before or 0) + 1) for one in (cache, other, cache, other, cache)]
    assert seen == [1, 1, 2, 2, 3]
    for k in range(3):
        cache.get(f"other {k}", lambda: BOX)
    assert cache.renewed("slot", lambda before: before) is None, "it was dropped like anything else"


def test_keys_tell_where_parts_end() -> None:
    assert content_key("ab", "c") != content_key("a", "bc")
    assert content_key("ab") == content_key(b"ab")


def test_caches_beside_each_other_share_results_and_room() -> None:
    first = Cache(room=3 * LARGE)
    second = Cache(beside=first)
    made = first.get("array", large)
    assert second.get("array", large) is made
    for k in range(5):
        second.get(f"array {k}", large)
    assert first.bytes_kept <= 3 * LARGE
    assert first.get("array", large) is not made, "it had to go for what the other made"


@given(st.lists(st.tuples(st.integers(0, 9), st.lists(st.integers(0, 5), max_size=3)), max_size=30))
def test_what_several_values_hold_weighs_once(orders: list[tuple[int, list[int]]]) -> None:
    """Against a sum over what is held, made anew after each step."""
    things = [np.zeros(5_000 + k, np.uint8) for k in range(6)]
    cache, held = Cache(most=4), dict[str, tuple[np.ndarray, ...]]()
    for key, chosen in orders:
        name = f"{key} {chosen}"
        held[name] = cache.get(name, lambda chosen=chosen: tuple(things[k] for k in chosen))
        held = {one: held[one] for one in [*[o for o in held if o != name], name][-4:]}
        distinct = {id(one): one.nbytes for value in held.values() for one in value}
        assert 0 <= cache.bytes_kept - sum(distinct.values()) < 400 * (len(held) + len(distinct))


def test_every_leaf_of_a_result_weighs() -> None:
    """What a result is written as, curves and points as numbers, can be no more than what it takes."""
    result = evaluate(demo_job(), demo_assets())
    assert bytes_in(result) > 0.9 * len(packed(result))
    picture = np.zeros((400, 640, 3), np.uint8)
    for holder in ({"any name": picture}, [picture[::2], picture], Raster(picture), (Part("a", BOX), picture)):
        assert 0 <= bytes_in(holder) - picture.nbytes < 6_000
