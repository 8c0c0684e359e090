"""Faces judged with the user's own words: the figures are those of Inspect, whoever computes them."""

from __future__ import annotations

from pathlib import Path as FilePath

import numpy as np
import pytest
from msgspec.structs import replace
from shapely import Point, Polygon, box

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.errors import FontNotUsable
from vivid_thimble.core.evaluate.audition import Audition, audition_key, auditioned, auditions, rank, roughness
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.edits import with_element, with_layer
from vivid_thimble.core.job.values import Element, Job, Placement, new_job
from vivid_thimble.core.sources.fonts import BUNDLED, faces_at_hand, faces_in
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Weld

FACES = [f"bundled:{name}" for name in BUNDLED]


def words_job(text: str = "Wandering Heron", height: float = 40.0) -> Job:
    source = Words(text=text, face=FACES[0])
    steps = (Join(id="j"), Weld(id="w"))
    element = Element(id="words", name=text, source=source, placement=Placement(height=height), steps=steps)
    return with_layer(new_job(width=600, height=200), lambda layer: replace(layer, elements=(element,)))


@pytest.mark.parametrize("face", FACES)
def test_the_figures_are_those_that_inspect_shows_for_the_applied_face(face: str) -> None:
    job = words_job()
    heard = auditioned(job, "words", face, {}, Cache())
    applied = with_element(job, "words", lambda e: replace(e, source=replace(e.source, face=face)))
    result = evaluate(applied, {}, Cache())
    inspection = result.layers[0].inspection
    assert heard.thinnest_line == inspection.thinnest_line
    assert heard.thinnest_gap == inspection.thinnest_gap
    assert heard.size == result.size
    assert heard.stops == sum(f.severity == "stop" for f in result.findings)
    assert heard.cuts is (heard.stops == 0)


def test_kinds_are_found_by_measuring() -> None:
    kinds = {face: auditioned(words_job(), "words", face, {}, Cache()).kinds for face in FACES}
    assert "connected" in kinds["bundled:Pacifico"]
    assert not any("connected" in kinds[face] for face in FACES[1:])
    assert "heavy" in kinds["bundled:League Spartan"]
    assert "no islands" in kinds["bundled:Stardos Stencil"]
    assert "no islands" not in kinds["bundled:Courier Prime"]


def test_words_are_judged_without_the_rest_of_the_design() -> None:
    with_heron = auditioned(demo_job(), "words-1", FACES[1], demo_assets(), Cache())
    alone = with_layer(demo_job(), lambda layer: replace(layer, elements=layer.elements[:1]))
    assert auditioned(alone, "words-1", FACES[1], {}, Cache()) == with_heron


def test_workers_and_the_calling_thread_say_the_same_and_many_come_as_they_are_ready() -> None:
    job = words_job("Bramble", 30.0)
    heard = {one.face: one for one in auditions(job, "words", [*FACES, "family:not here"], {})}
    assert set(heard) == {*FACES, "family:not here"}
    assert "not here" in heard["family:not here"].refusal
    for face in FACES:
        assert heard[face] == auditioned(job, "words", face, {}, Cache())
    ranked = sorted(heard.values(), key=rank)
    assert [one.cuts for one in ranked] == sorted((one.cuts for one in ranked), reverse=True)


def test_an_audition_can_be_stopped() -> None:
    heard: list[Audition] = []
    for one in auditions(words_job("Moth", 30.0), "words", FACES * 5, {}, lambda: len(heard) >= 2):
        heard.append(one)
    assert 2 <= len(heard) < len(FACES) * 5


def test_a_face_without_the_letters_is_refused_by_name() -> None:
    heard = auditioned(words_job("Ωμέγα"), "words", FACES[3], {}, Cache())
    assert not heard.cuts
    assert "no shapes" in heard.refusal


def test_a_key_changes_with_all_that_changes_the_figures_and_nothing_else() -> None:
    job = demo_job()
    key = audition_key(job, "words-1", FACES[0])
    moved = with_element(job, "drawing-1", lambda e: replace(e, placement=replace(e.placement, dx=3.0)))
    assert audition_key(moved, "words-1", FACES[0]) == key
    other = with_element(job, "words-1", lambda e: replace(e, source=replace(e.source, text="Moth")))
    assert audition_key(other, "words-1", FACES[0]) != key
    assert audition_key(job, "words-1", FACES[1]) != key


def test_roughness_counts_ripples_and_not_curves_or_corners() -> None:
    turn = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    rippled = Polygon(np.c_[np.cos(turn), np.sin(turn)] * (20 + 0.5 * np.sin(30 * turn))[:, None])
    assert roughness([rippled]) == pytest.approx(60 / (rippled.length / 10), rel=0.1)
    assert roughness([Point(0, 0).buffer(20, quad_segs=90)]) == 0.0
    assert roughness([box(0, 0, 40, 30)]) < 1.0
    assert roughness([]) == 0.0


def test_folders_of_fonts_are_listed_and_missing_ones_told(tmp_path: FilePath) -> None:
    (tmp_path / "below").mkdir()
    for name in ("b.ttf", "below/a.OTF", "readme.txt"):
        (tmp_path / name).write_bytes(b"not a font")
    faces = faces_in(str(tmp_path))
    assert [FilePath(face.removeprefix("file:")).name for face in faces] == ["a.OTF", "b.ttf"]
    heard = [auditioned(words_job("Moth"), "words", face, {}, Cache()) for face in faces]
    assert all("is not a font" in one.refusal for one in heard)
    with pytest.raises(FontNotUsable, match="There is no folder"):
        faces_in(str(tmp_path / "nowhere"))
    assert faces_at_hand()[: len(FACES)] == FACES
