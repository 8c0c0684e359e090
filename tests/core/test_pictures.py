"""What is shown of pictures and portraits, what becomes of them in a job, and the demonstrations of both."""

from __future__ import annotations

import base64
import io

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PIL import Image

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.demo.jobs import demo_assets, hull_job, portrait_job, screenshot_job
from vivid_thimble.core.edits.colour_films import with_colour_in_film, with_film_count
from vivid_thimble.core.edits.pictures import (
    PictureLook,
    as_picture,
    as_portrait,
    look_at_picture,
    look_at_portrait,
    with_circled_kept,
    with_crop,
    with_spot,
)
from vivid_thimble.core.edits.reset_words import WordsFit, with_words_for_picture
from vivid_thimble.core.errors import PictureNotReadable
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.job.edits import with_source
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, find_element, source_in
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.colours import LEFT_OUT
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.line_portrait import LinePortrait, smallest_diameter
from vivid_thimble.core.sources.picture import BrushStroke, Picture, Spot
from vivid_thimble.core.storage.incoming import pictures_inside
from vivid_thimble.core.tracing.leftovers import Leftover


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
    circle = smallest_diameter(12.0, 0.8, 0.8)  # what its lines cover of it is a little less
    assert 0.92 * circle < look.smallest < circle
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


def tones() -> np.ndarray:
    """Paper, a gray patch, and a dark one in it."""
    pixels = np.full((160, 240, 3), 235, np.uint8)
    pixels[40:120, 30:210] = 130
    pixels[55:105, 80:160] = 30
    return pixels


def looked(job: Job, assets: dict[str, bytes]) -> PictureLook:
    element = find_element(job, "one")
    assert isinstance(element.source, Picture)
    return look_at_picture(element.source, element.placement, assets, Cache())


def toned() -> tuple[Job, dict[str, bytes]]:
    data = png(tones())
    return job_of(Picture(asset=asset_key(data), name="tones", separate="tones", colours=3)), {asset_key(data): data}


def test_the_lightest_tone_is_ground_until_it_gets_a_film() -> None:
    job, assets = toned()
    look = looked(job, assets)
    ground = max(look.areas, key=sum)
    assert look.films[ground] == LEFT_OUT
    assert sorted(film for colour, film in look.films.items() if colour != ground) == [0, 0]
    dark = evaluate(job, assets, Cache()).layers[0].kept.area
    job = with_colour_in_film(job, "one", look.areas, ground, 0, look.films)
    whole = evaluate(job, assets, Cache()).layers[0].kept
    assert whole.area > 1.2 * dark
    assert look.areas[ground] == pytest.approx(1.0 - 180 * 80 / (240 * 160), abs=0.02)


def test_tones_share_out_to_films_of_their_own_colour() -> None:
    job, assets = toned()
    look = looked(job, assets)
    job = with_film_count(job, "one", look.areas, 2, look.films)
    assert len(job.item.layers) == 2
    result = evaluate(job, assets, Cache())
    one, two = (layer.kept for layer in result.layers)
    assert one.polygons.intersection(two.polygons).area < 1e-6
    assert len(one.polygons.geoms[0].interiors) == 1  # the dark patch lies in its hole
    assert two.area == pytest.approx(one.polygons.geoms[0].area * 80 * 50 / (180 * 80 - 80 * 50), rel=0.05)
    assert {layer.layer.film.colour for layer in result.layers} == {
        "#{:02x}{:02x}{:02x}".format(*colour) for colour, film in look.films.items() if film != LEFT_OUT
    }
    assert not result.layers[1].problems


def test_a_picture_of_several_films_leaves_none_behind_as_a_portrait_or_as_words() -> None:
    job, assets = toned()
    look = looked(job, assets)
    job = with_film_count(job, "one", look.areas, 2, look.films)
    assert len(as_portrait(job, "one").item.layers) == 1
    fit = WordsFit(Words(text="Heron", face="bundled:Pacifico"), 0.9, 80.0, (1.0, 2.0), 3.0)
    (layer,) = with_words_for_picture(job, "one", fit).item.layers
    (element,) = layer.elements
    assert isinstance(element.source, Words)
    assert element.placement.width == 80.0
    assert not evaluate(with_words_for_picture(job, "one", fit), assets, Cache()).layers[0].problems


share = st.floats(0.02, 0.98)


@settings(max_examples=60, deadline=None, derandomize=True)
@given(share, share, st.tuples(share, share), st.tuples(share, share))
def test_what_was_clicked_stays_on_its_place_when_the_crop_changes(
    x: float, y: float, across: tuple[float, float], down: tuple[float, float]
) -> None:
    stroke = BrushStroke(adds=True, radius=0.01, points=((x, y), (y, x)))
    held = Picture(
        asset="a",
        name="a",
        background=(Spot(at=(x, y)),),
        strokes=(stroke,),
        scribbles=(stroke,),
        kept_places=((y, x),),
    )
    left, right = sorted((across[0], across[1] + 0.01))
    top, bottom = sorted((down[0], down[1] + 0.01))
    cropped = with_crop(held, (left, top, right, bottom))
    assert cropped.preparing.crop == (left, top, right, bottom)
    at = cropped.background[0].at
    assert left + at[0] * (right - left) == pytest.approx(x, abs=1e-6)
    assert top + at[1] * (bottom - top) == pytest.approx(y, abs=1e-6)
    again = with_crop(cropped, (0.0, 0.0, 1.0, 1.0))
    assert again.background[0].at == pytest.approx((x, y), abs=1e-6)
    for one in (again.strokes[0], again.scribbles[0]):
        assert np.array(one.points) == pytest.approx(np.array(stroke.points), abs=1e-6)
    assert again.kept_places[0] == pytest.approx((y, x), abs=1e-6)


def test_only_leftovers_inside_what_was_drawn_are_kept_once_each() -> None:
    told = [Leftover(at, 4.0, "dirt") for at in ((0.2, 0.2), (0.5, 0.5), (0.8, 0.2))]
    hook = ((0.1, 0.1), (0.9, 0.1), (0.9, 0.3), (0.3, 0.3), (0.3, 0.7), (0.1, 0.7))  # round the middle one
    kept = with_circled_kept(Picture(asset="a", name="a"), told, hook)
    assert kept.kept_places == ((0.2, 0.2), (0.8, 0.2))
    assert with_circled_kept(kept, told, hook) == kept
    assert with_circled_kept(kept, told, hook[:2]) == kept


def crossing_pens() -> np.ndarray:
    pixels = np.full((150, 200, 3), 250, np.uint8)
    cv2.line(pixels, (20, 20), (180, 130), (20, 20, 20), 6, cv2.LINE_AA)
    cv2.line(pixels, (20, 130), (180, 20), (20, 20, 20), 6, cv2.LINE_AA)
    return pixels


@pytest.mark.parametrize("separate", ["automatic", "level", "colours", "tones"])
def test_a_pen_drawing_is_traced_by_its_lines_however_it_was_parted_before(separate: str) -> None:
    data = png(crossing_pens())
    held = Picture(asset=asset_key(data), name="pens", separate=separate, traced_as="pen")  # type: ignore[arg-type]  # one of its names
    look = look_at_picture(held, Placement(width=160.0), {asset_key(data): data}, Cache())
    inked = float((250.0 - crossing_pens()[:, :, 0]).sum()) / 230.0
    wide = inked / (2 * np.hypot(160, 110))  # the crossing and the round ends nearly make up for each other
    assert look.pen_width == pytest.approx(wide * 160.0 / (160.0 + wide), rel=0.06)
    assert look.nodes < 10
    thin = replace(held, pen_width=1.0)
    (drawn,) = look_at_picture(thin, Placement(width=160.0), {asset_key(data): data}, Cache()).outlines
    assert len(drawn.geoms) == 1


def test_the_hull_numbers_of_the_demonstration_are_one_sheet_without_a_finding() -> None:
    result = result_of(hull_job())
    (layer,) = result.layers
    assert len(layer.kept.polygons.geoms) == 1
    assert [f.kind for f in result.findings if f.severity == "stop"] == []
