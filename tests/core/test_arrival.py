"""New elements come in as large as fits the room both ways, beside what is there; a stated size comes first."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.edits.arrival import BESIDE_SHARE, FRESH_SHARE, arrived
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, Source, new_job
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.plain import Plain

CACHE = Cache()


def element(name: str, source: Source, **place: float) -> Element:
    return Element(id=name, name=name, source=source, placement=Placement(**place))


def holding(*elements: Element) -> Job:
    return with_layer(new_job("Shelf", 400.0, 100.0), lambda layer: replace(layer, elements=elements))


def box(job: Job, name: str, assets: dict[str, bytes] | None = None) -> tuple[float, float, float, float]:
    found = evaluate(job, assets or {}, CACHE).element(name)
    assert found is not None and found.box is not None
    return found.box


@pytest.mark.parametrize(("ratio", "wide", "high"), [(0.1, 320.0, 32.0), (2.0, 40.0, 80.0)])
def test_the_first_one_fits_both_ways(ratio: float, wide: float, high: float) -> None:
    job, said = arrived(holding(element("new", Plain(ratio=ratio), width=320.0)), "new", {}, CACHE)
    left, top, right, bottom = box(job, "new")
    assert (right - left, bottom - top) == pytest.approx((wide, high), rel=1e-6), f"{FRESH_SHARE} of the tighter way"
    assert ((left + right) / 2.0, (top + bottom) / 2.0) == pytest.approx((200.0, 50.0)) and said == ""


def test_another_one_comes_beside_what_is_there() -> None:
    """A block of 100 x 90 at the left leaves 270 x 100 at its right: a square gets 0.92 of 100 there, in the middle."""
    block = element("block", Plain(ratio=0.9), width=100.0, dx=-120.0)
    job, _ = arrived(holding(block, element("new", Plain(ratio=1.0), width=320.0)), "new", {}, CACHE)
    left, top, right, bottom = box(job, "new")
    assert right - left == pytest.approx(BESIDE_SHARE * 100.0)
    assert (left + right) / 2.0 == pytest.approx((130.0 + 400.0) / 2.0)
    assert (top, bottom) == pytest.approx((4.0, 96.0))


def test_where_nothing_is_free_it_lies_over_the_middle() -> None:
    plate = element("plate", Plain(ratio=0.24), width=390.0)
    job, _ = arrived(holding(plate, element("new", Plain(ratio=0.2), width=50.0)), "new", {}, CACHE)
    left, _, right, _ = box(job, "new")
    assert (left, right) == pytest.approx((40.0, 360.0))


@pytest.mark.parametrize(("stated", "wide"), [("60mm", 60.0), ("900mm", 0.8 * 160.0)])
def test_a_size_that_the_file_states_comes_first_if_it_fits(stated: str, wide: float) -> None:
    data = f'<svg xmlns="http://www.w3.org/2000/svg" width="{stated}" viewBox="0 0 80 50"><rect width="80" height="50"/></svg>'.encode()
    art = element("art", Artwork(asset=asset_key(data), name="sign.svg"), height=80.0)
    assets = {asset_key(data): data}
    job, said = arrived(holding(art), "art", assets, CACHE)
    left, _, right, _ = box(job, "art", assets)
    assert right - left == pytest.approx(wide, abs=0.01)
    assert said == ("art is as large as its file states: 60 × 37.5 mm." if wide == 60.0 else "")
