"""Words of a picture found again in their face, size and place."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.reset_words import fit_words, likest_faces, outlines_of, with_words_for_picture
from vivid_thimble.core.errors import FontNotUsable, NothingToDraw
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.picture import Picture

FACES = [f"bundled:{name}" for name in BUNDLED]


def set_words(words: Words, placement: Placement) -> shapely.MultiPolygon:
    """Where the application itself puts these words, from the item's middle."""
    element = Element(id="w", name="w", source=words, placement=placement)
    job = with_layer(new_job(), lambda la: la.__class__(id=la.id, film=la.film, elements=(element,)))
    shape = evaluate(job, {}, Cache()).layers[0].design.polygons
    return shapely.transform(shape, lambda p: p - np.array([job.item.width, job.item.height]) / 2)


@pytest.mark.parametrize("face", FACES[:3:2])
def test_the_face_is_told_by_its_likeness_and_found_again_in_place(face: str) -> None:
    truth = set_words(Words(text="Second\nSupper", face=face, align="centre"), Placement(width=120.0, turn_deg=4.0))
    found = likest_faces("Second\nSupper", FACES, truth)
    assert found[0].words.face == face
    assert found[0].overlap > 0.95
    assert found[0].overlap > found[1].overlap + 0.1
    assert found[0].turn_deg == pytest.approx(4.0, abs=0.3)
    laid = outlines_of(found[0])
    moved = shapely.transform(laid, lambda p: p + np.array(shapely.bounds(truth)).reshape(2, 2).mean(axis=0))
    assert moved.symmetric_difference(truth).area < 0.05 * truth.area


def test_lines_set_wider_are_found() -> None:
    truth = set_words(
        Words(text="Moth\n& Ember", face=FACES[1], align="right", line_spacing=1.6), Placement(width=90.0)
    )
    fit = fit_words("Moth\n& Ember", FACES[1], truth)
    assert fit.words.align == "right"
    assert fit.words.line_spacing == pytest.approx(1.6, abs=0.03)
    assert fit.width == pytest.approx(90.0, rel=0.01)


def test_words_take_the_place_of_the_picture_turned_with_it() -> None:
    picture = Element(
        id="p", name="p", source=Picture(asset="a", name="a"), placement=Placement(width=80.0, dx=10.0, turn_deg=30.0)
    )
    job = with_layer(new_job(), lambda la: la.__class__(id=la.id, film=la.film, elements=(picture,)))
    truth = set_words(Words(text="Heron", face=FACES[0]), Placement(width=80.0))
    off = shapely.transform(truth, lambda p: p + np.array([3.0, 0.0]))
    fit = fit_words("Heron", FACES[0], off)
    job = with_words_for_picture(job, "p", fit)
    (element,) = job.item.layers[0].elements
    assert isinstance(element.source, Words)
    assert element.placement.turn_deg == pytest.approx(30.0, abs=0.5)
    at = Affine.turning(30.0).apply(np.array(fit.at))
    assert (element.placement.dx, element.placement.dy) == pytest.approx((10.0 + at[0], at[1]))


def test_faces_without_the_letters_and_empty_pictures_are_told() -> None:
    with pytest.raises(NothingToDraw):
        fit_words("Heron", FACES[0], shapely.MultiPolygon())
    with pytest.raises(FontNotUsable):
        fit_words("Heron", "family:No Such Face", shapely.MultiPolygon([shapely.box(0, 0, 9, 3)]))
    assert likest_faces("Heron", ["family:No Such Face"], shapely.MultiPolygon([shapely.box(0, 0, 9, 3)])) == []
