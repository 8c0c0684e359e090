"""Films of a drawing: every colour in one of them or left out, whatever is clicked, and all of them on one item."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets
from vivid_thimble.core.edits.colour_films import MOST_FILMS, with_colour_in_film, with_film_count
from vivid_thimble.core.edits.drawings import (
    artwork_in,
    with_artwork,
    without_element,
)
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, elements_of
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.sources.artwork import ArtworkShare
from vivid_thimble.core.sources.colours import LEFT_OUT, film_of
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.core.storage.incoming import open_drawing

BROWN, TAN, BLUE, GREEN, GOLD = (107, 74, 47), (112, 80, 47), (51, 70, 92), (63, 112, 70), (232, 201, 91)
AREAS = {BROWN: 0.1, TAN: 0.05, BLUE: 0.3, GREEN: 0.2, GOLD: 0.35}
CLICKS = st.lists(
    st.one_of(
        st.tuples(st.just("count"), st.integers(1, 6)),
        st.tuples(st.sampled_from(sorted(AREAS)), st.integers(LEFT_OUT, 5)),
    ),
    min_size=1,
    max_size=8,
)
BODY = "".join(
    f'<rect x="{10 * k}" width="10" height="20" fill="#{r:02x}{g:02x}{b:02x}"/>' for k, (r, g, b) in enumerate(AREAS)
)
SVG = f'<svg xmlns="http://www.w3.org/2000/svg" width="50" height="20">{BODY}</svg>'.encode()


def job_with(data: bytes, film: Film = USUAL_FILM["decal"]) -> tuple[Job, dict[str, bytes]]:
    opened = open_drawing(data, "lanterns.svg", Cache())
    element = Element(id="art", name="lanterns", source=opened.artwork, placement=Placement(width=100.0))
    layers = (Layer(id="layer", film=film, elements=(element,)), Layer(id="words", film=film))
    item = Item(id="item", name="panel", width=200, height=100, layers=layers)
    return Job(name="Lantern panel", items=(item,)), {opened.artwork.asset: data}


def clicked(job: Job, what: object, value: int) -> Job:
    """The number of films, or the film of one colour, chosen as in the drawing's panel."""
    if what == "count":
        return with_film_count(job, "art", AREAS, value)
    return with_colour_in_film(job, "art", AREAS, what, value)


@given(CLICKS)
@settings(max_examples=60, deadline=None)
def test_every_colour_has_one_film_and_every_film_one_layer(clicks: list) -> None:
    job, _ = job_with(SVG)
    for what, value in clicks:
        job = clicked(job, what, value)
        artwork = artwork_in(job, "art")
        assert artwork is not None
        used = {film_of(colour, artwork) for colour in AREAS} - {LEFT_OUT}
        assert used == set(range(artwork.films))
        assert 1 <= artwork.films <= MOST_FILMS
        shares = [e.source.film for e in elements_of(job.item) if isinstance(e.source, ArtworkShare)]
        assert sorted(shares) == list(range(1, artwork.films))
        assert [layer.id for layer in job.item.layers if not layer.elements] == ["words"]
        ids = [layer.id for layer in job.item.layers] + [e.id for e in elements_of(job.item)]
        assert len(ids) == len(set(ids))
    whole = without_element(job, "art")
    assert list(elements_of(whole.item)) == []


@given(CLICKS)
@settings(max_examples=12, deadline=None)
def test_films_hold_what_is_not_left_out_and_nothing_twice(clicks: list) -> None:
    job, assets = job_with(SVG)
    for what, value in clicks:
        job = clicked(job, what, value)
    artwork = artwork_in(job, "art")
    assert artwork is not None
    kept = [k for k, colour in enumerate(AREAS) if film_of(colour, artwork) != LEFT_OUT]
    result = evaluate(job, assets)
    areas = [layer.design.area for layer in result.layers if layer.elements]
    scale = 100.0 / (10 * (kept[-1] - kept[0] + 1))  # what is cut is 100 mm wide
    assert abs(sum(areas) - 200 * len(kept) * scale**2) < 0.2
    assert result.bounds is not None
    assert abs(result.bounds[2] - result.bounds[0] - 100.0) < 0.01


def test_the_job_sheet_tells_films_origin_and_what_stands_against_selling() -> None:
    job, assets = job_with(SVG)
    job = with_film_count(job, "art", AREAS, 2)
    origin = Provenance(maker="Odd Quill", origin="a friend", licence="personal", credit="drawn by Odd Quill")
    job = with_artwork(job, "art", provenance=origin)
    sheet = job_sheet(job, evaluate(job, assets))
    assert "film 1: " in sheet
    assert "film 2: " in sheet
    assert "Odd Quill" in sheet
    assert "personally only" not in sheet
    sold = job_sheet(Job(name=job.name, items=job.items, for_sale=True), evaluate(job, assets))
    assert "Made for sale" in sold
    assert "lanterns may be used personally only" in sold
    assert "Makers' labels" in sold


def test_the_demonstration_files_open_as_drawings_or_as_a_bundle() -> None:
    for name, data in demo_assets().items():
        if data[:5] == b"<?xml" or data[:4] == b"<svg":
            assert open_drawing(data, name, Cache()).artwork.asset
