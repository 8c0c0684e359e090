"""What is shown of pictures and portraits, what becomes of them in a job, and the demonstrations of both."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo import demo_assets, portrait_job, screenshot_job
from vivid_thimble.core.elements import asset_key
from vivid_thimble.core.errors import PictureNotReadable
from vivid_thimble.core.films import DECAL_FILM
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.incoming import pictures_inside
from vivid_thimble.core.job import Element, Item, Job, Layer, Placement, find_element, source_in, with_source
from vivid_thimble.core.pictures import as_picture, as_portrait, look_at_picture, look_at_portrait, with_spot
from vivid_thimble.core.recipe import evaluate
from vivid_thimble.core.results import ItemResult
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.line_portrait import LinePortrait, smallest_diameter
from vivid_thimble.core.sources.picture import Picture


def png(pixels: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray(pixels.astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


def blocks() -> np.ndarray:
    """Two dark blocks on a light ground, and a speck."""
    pixels = np.full((300, 900, 3), (236, 230, 214), np.uint8)
    pixels[80:220, 100:400] = pixels[80:220, 500:800] = (40, 50, 90)
    pixels[20:26, 440:446] = (40, 50, 90)
    return pixels


def job_of(source: Picture | LinePortrait) -> Job:
    element = Element(id="one", name="one", source=source, placement=Placement(width=140.0, dx=7.0))
    film = replace(DECAL_FILM, thinnest_line=0.9, thinnest_gap=0.7)
    layer = Layer(id="layer", film=film, elements=(element,))
    return Job(name="job", items=(Item(id="item", name="door", width=200.0, height=120.0, layers=(layer,)),))


def result_of(job: Job) -> ItemResult:
    return evaluate(job, demo_assets(), Cache())


def test_what_is_not_kept_is_shown_faded_and_leftovers_are_told_in_mm2() -> None:
    data = png(blocks())
    look = look_at_picture(
        Picture(asset=asset_key(data), name="blocks"), Placement(width=140.0), {asset_key(data): data}, Cache()
    )
    assert max(look.shown.shape) <= 800
    share = max(look.shown.shape) / 900
    kept, ground, speck = (
        look.shown[round(y * share), round(x * share)] for x, y in ((200, 150), (450, 150), (443, 23))
    )
    assert kept.tolist() == pytest.approx([40, 50, 90], abs=2)
    assert ground.min() > 240
    assert speck.min() > 150
    assert [one.why for one, _ in look.leftovers] == ["dirt"]
    assert look.leftovers[0][1] == pytest.approx(36 * (140.0 / 700.0) ** 2, rel=0.25)
    assert look.nodes == 8
    assert "Two tones" in look.says


def test_a_picture_becomes_a_portrait_within_the_limits_of_its_film_and_back() -> None:
    job = as_portrait(job_of(Picture(asset="photo", name="Bramble")), "one")
    portrait = source_in(job, "one", LinePortrait)
    assert portrait is not None
    assert (portrait.asset, portrait.min_line, portrait.min_gap) == ("photo", 0.9, 0.7)
    placement = find_element(job, "one").placement
    assert placement.width == pytest.approx(0.85 * 120.0)
    assert placement.dx == 7.0
    assert as_portrait(job, "one") == job
    back = source_in(as_picture(job, "one"), "one", Picture)
    assert back == Picture(asset="photo", name="Bramble")


def test_a_look_at_a_portrait_tells_what_its_turns_need() -> None:
    y, x = np.mgrid[0:700, 0:900]
    data = png(np.repeat(np.clip(np.hypot(x - 450, y - 350) * 0.6, 0, 255)[:, :, None], 3, axis=2))
    portrait = LinePortrait(asset=asset_key(data), name="Bramble", turns=12.0)
    look = look_at_portrait(portrait, Placement(width=90.0), {asset_key(data): data}, Cache())
    assert look.turns == 12.0
    assert look.most_turns > 12.0
    assert look.smallest == pytest.approx(smallest_diameter(12.0, 0.8, 0.8))
    assert max(look.shown.shape) <= 560
    away = np.hypot(*(np.mgrid[0:360, 0:360] - 179.5))
    near, far = (look.from_afar[(away > r) & (away < r + 30)].mean() for r in (40, 130))
    assert near < far - 20.0  # dark in the middle, as the photo


def test_sources_are_found_and_changed_by_their_kind_only() -> None:
    job = job_of(Picture(asset="photo", name="Bramble"))
    assert source_in(job, "one", Artwork) is None
    assert source_in(job, "nobody", Picture) is None
    assert with_source(job, "one", LinePortrait, turns=9.0) == job
    changed = source_in(with_source(job, "one", Picture, colours=7), "one", Picture)
    assert changed is not None
    assert changed.colours == 7
    spot = with_spot(changed, (0.25, 0.5), 12.0, connected=True).background
    assert [(one.at, one.tolerance, one.connected) for one in spot] == [((0.25, 0.5), 12.0, True)]


def test_the_screenshot_of_the_demonstration_is_clean_film() -> None:
    result = result_of(screenshot_job())
    layer = result.layers[0]
    assert not layer.problems
    assert len(layer.kept.polygons.geoms) == 5
    assert not [f for f in result.findings if f.severity == "stop"]


def test_the_portrait_of_the_demonstration_cuts_as_one_piece() -> None:
    result = result_of(portrait_job())
    assert not result.findings
    assert len(result.layers[0].kept.polygons.geoms) == 1


def with_images(*data: bytes) -> bytes:
    images = "".join(
        f'<image x="{20 * k}" y="1" width="18" height="6" href="data:image/png;base64,{base64.b64encode(one).decode()}"/>'
        for k, one in enumerate(data)
    )
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 10">{images}</svg>'.encode()


def test_pictures_inside_a_drawing_come_out_as_wide_as_their_ink() -> None:
    good, broken, empty = png(blocks()), png(blocks())[:200], png(np.full((30, 30, 3), 255))
    drawing = read_svg(with_images(good, broken, empty), "mixed")
    found = pictures_inside(drawing, 2.0, "mixed", Cache())
    assert [one.opened.picture.name for one in found] == ["mixed, picture 1"]
    assert found[0].width == pytest.approx(18 * 2.0 * 700 / 900, rel=0.01)
    assert found[0].opened.data == good
    with pytest.raises(PictureNotReadable, match="broken"):
        pictures_inside(read_svg(with_images(broken), "mixed"), 2.0, "mixed", Cache())
