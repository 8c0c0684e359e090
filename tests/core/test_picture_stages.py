"""Pictures in a job: exact sizes, each stage once, dirt judged at the final size."""

from __future__ import annotations

import io

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from tests.trace_truth import colour_picture, compressed, distance, word
from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.errors import InputRefused, NothingToDraw
from vivid_thimble.core.evaluate import picture_stages
from vivid_thimble.core.evaluate.picture_stages import SizedPicture, raster_of, sized_picture
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.sources.artwork import ArtworkShare
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import BrushStroke, Picture, Spot
from vivid_thimble.core.storage.project import project_bytes, read_project


def png(pixels: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray(np.clip(np.rint(pixels), 0, 255).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


class Held:
    """One picture with its cache."""

    def __init__(self, pixels: np.ndarray) -> None:
        self.data = png(pixels)
        self.assets, self.cache = {asset_key(self.data): self.data}, Cache()
        self.picture = Picture(asset=asset_key(self.data), name="words.png")

    def sized(self, width: float = 120.0, **values: object) -> SizedPicture:
        picture = replace(self.picture, **values)
        raster = raster_of(picture, self.assets, self.cache)
        return sized_picture(raster, picture, Placement(width=width), self.cache)


@pytest.fixture(scope="module")
def words() -> Held:
    return Held(compressed(word("Supper", "bundled:Pacifico", 150.0).gray))


@pytest.mark.parametrize("width", [50.0, 240.0])
def test_width_is_exact_and_the_letters_are_the_true_ones(words: Held, width: float) -> None:
    found = words.sized(width, speck_area=0.0, pinhole_area=0.0)
    left, _, right, _ = found.regions[0].bounds or (0.0, 0.0, 0.0, 0.0)
    assert right - left == pytest.approx(width, abs=1e-4)
    truth = word("Supper", "bundled:Pacifico", 150.0).path
    box = truth.bounds or (0.0, 0.0, 1.0, 1.0)
    scale = width / (box[2] - box[0])
    placed = truth.transformed(Affine.translation(-box[0], -box[1]).then(Affine.scaling(scale)))
    own = found.regions[0].outline
    own = own.transformed(Affine.translation(-found.frame[0], -found.frame[1]))
    assert distance(placed, own).rms < 0.5 * scale


def test_smoothness_starts_after_separation_and_a_second_look_costs_nothing(
    words: Held, monkeypatch: pytest.MonkeyPatch
) -> None:
    words.sized(100.0)
    calls: list[str] = []
    for name in ("separated", "trace", "prepared_picture"):
        whole = getattr(picture_stages, name)
        monkeypatch.setattr(
            picture_stages, name, lambda *a, _name=name, _whole=whole, **k: (calls.append(_name), _whole(*a, **k))[1]
        )
    words.sized(100.0)
    assert calls == []
    smoother = words.sized(100.0, ease=3.0)
    assert calls == ["trace"]
    assert smoother.traced.node_count < words.sized(100.0).traced.node_count


def test_dirt_goes_by_its_size_on_the_item() -> None:
    pixels = np.full((100, 200), 255.0)
    pixels[30:70, 20:90] = pixels[30:70, 110:180] = 0.0
    pixels[10:13, 100:103] = 0.0
    pixels[48:51, 50:53] = 255.0
    held = Held(pixels)

    def shape(width: float, **values: object) -> tuple[int, int]:
        region = held.sized(width, **values).regions[0]
        return len(region.polygons.geoms), sum(len(p.interiors) for p in region.polygons.geoms)

    assert shape(160.0, leftovers_go=False) == (3, 1)
    assert shape(30.0, leftovers_go=False) == (2, 0)
    assert shape(30.0, leftovers_go=False, speck_area=0.0, pinhole_area=0.0) == (3, 1)
    assert shape(160.0)[0] == 2  # the speck is dirt among such blocks
    place = (101.5 / 200, 11.5 / 100)
    assert shape(160.0, kept_places=(place,))[0] == 3


def test_background_is_clicked_away_in_all_counters_at_once() -> None:
    pixels = np.full((90, 150, 3), (190.0, 205.0, 220.0))
    pixels[20:70, 20:60] = pixels[20:70, 90:130] = (60.0, 90.0, 40.0)
    pixels[35:55, 32:48] = pixels[35:55, 102:118] = (190.0, 205.0, 220.0)
    held = Held(pixels)
    everywhere = held.sized(background=(Spot(at=(0.05, 0.05)),)).regions[0]
    assert sum(len(p.interiors) for p in everywhere.polygons.geoms) == 2
    only = held.sized(background=(Spot(at=(0.05, 0.05), connected=True),)).regions[0]
    assert sum(len(p.interiors) for p in only.polygons.geoms) == 0
    scale = 120.0 / 110.0
    assert everywhere.area == pytest.approx(2 * (50 * 40 - 20 * 16) * scale**2, rel=0.01)


def test_a_brush_adds_and_takes_away() -> None:
    pixels = np.full((100, 200), 255.0)
    pixels[30:70, 20:90] = pixels[30:70, 110:180] = 0.0
    held = Held(pixels)
    bar = BrushStroke(adds=True, radius=0.03, points=((0.4, 0.5), (0.6, 0.5)))
    assert len(held.sized(strokes=(bar,)).regions[0].polygons.geoms) == 1
    wipe = BrushStroke(adds=False, radius=0.02, points=((0.275, 0.2), (0.275, 0.8)))
    assert len(held.sized(strokes=(wipe,)).regions[0].polygons.geoms) == 3


def bench(source: object, assets: dict[str, bytes], *more: Element) -> Job:
    element = Element(id="picture", name="Bramble", source=source, placement=Placement(width=80.0))  # type: ignore[arg-type]
    layers = [Layer(id="one", film=USUAL_FILM["decal"], elements=(element,))]
    layers += [Layer(id=f"layer-{one.id}", film=USUAL_FILM["decal"], elements=(one,)) for one in more]
    return Job(name="job", items=(Item(id="item", name="panel", width=200, height=160, layers=tuple(layers)),))


def test_films_of_a_picture_abut_on_the_item_and_survive_saving() -> None:
    _, _, pixels = colour_picture(200)
    held = Held(pixels.astype(float))
    colours = held.sized().separated.colours
    picture = replace(held.picture, films=2, colour_films=tuple((c, k % 2) for k, c in enumerate(colours)))
    share = Element(id="more", name="more", source=ArtworkShare(of="picture", film=1), placement=Placement(width=1.0))
    job = bench(picture, held.assets, share)
    result = evaluate(job, held.assets, Cache())
    one, two = (layer.kept.polygons for layer in result.layers)
    assert one.area > 100.0
    assert two.area > 100.0
    assert one.intersection(two).area < 1e-6
    box = one.union(two).bounds
    assert box[2] - box[0] == pytest.approx(80.0, abs=1e-3)
    back, assets = read_project(project_bytes(job, held.assets))
    assert back == job
    assert assets[picture.asset] == held.data


def test_a_portrait_is_drawn_as_large_as_it_is_placed() -> None:
    y, x = np.mgrid[0:120, 0:120]
    data = png(np.clip(255 - 2 * np.hypot(x - 60, y - 60), 0, 255))
    assets = {asset_key(data): data}
    result = evaluate(bench(LinePortrait(asset=asset_key(data), name="Bramble"), assets), assets, Cache())
    kept = result.layers[0].kept
    left, top, right, bottom = kept.bounds or (0.0, 0.0, 0.0, 0.0)
    assert right - left == pytest.approx(80.0, abs=1e-6)
    assert ((left + right) / 2, (top + bottom) / 2) == pytest.approx((100.0, 80.0), abs=2.0)
    assert result.layers[0].inspection.thinnest_line is None or result.layers[0].inspection.thinnest_line >= 0.8


def test_an_empty_picture_and_a_lost_file_are_told() -> None:
    held = Held(np.full((40, 40), 255.0))
    with pytest.raises(NothingToDraw, match="one tone"):
        held.sized()
    with pytest.raises(InputRefused, match="missing"):
        raster_of(held.picture, {}, Cache())


def test_a_shadow_nearly_of_the_grounds_colour_is_told_as_background() -> None:
    pixels = np.full((120, 200, 3), (240.0, 236.0, 226.0))
    pixels[30:90, 20:80] = (200.0, 30.0, 40.0)
    pixels[30:90, 110:160] = (30.0, 90.0, 170.0)
    pixels[95:110, 20:160] = (190.0, 186.0, 176.0)
    held = Held(pixels)
    assert [one.why for one in held.sized().separated.leftovers] == ["background"]
    assert len(held.sized().regions[0].polygons.geoms) == 2
    assert len(held.sized(leftovers_go=False).regions[0].polygons.geoms) == 3
