"""Earlier versions of saved jobs, and what changed between two states."""

from __future__ import annotations

import os
from pathlib import Path as FilePath

from msgspec.structs import replace

from vivid_thimble.core.demo.jobs import demo_assets, demo_job, floats_job
from vivid_thimble.core.edits.sets import another_item
from vivid_thimble.core.job.changes import what_changed
from vivid_thimble.core.job.edits import with_element, with_item, with_layer
from vivid_thimble.core.job.values import Placement, new_job
from vivid_thimble.core.steps import Thicken
from vivid_thimble.core.storage.project import open_project, save_project
from vivid_thimble.core.storage.versions import keep_version, versions_of


def saved(path: FilePath, name: str, at_s: int, versions: FilePath, most: int = 20) -> None:
    """Save a job of this name as it is done by the window, at a made-up time."""
    keep_version(path, versions, most)
    save_project(path, new_job(name), {})
    os.utime(path, (at_s, at_s))


def test_every_save_keeps_what_was_there_the_newest_first(tmp_path: FilePath) -> None:
    path, versions = tmp_path / "boat.thimble", tmp_path / "versions"
    for k, name in enumerate(("first", "second", "second", "third")):
        saved(path, name, 1_700_000_000 + 60 * k, versions)
    kept = versions_of(path, versions)
    assert [open_project(one.path)[0].name for one in kept] == ["second", "first"]
    assert kept[-1].saved_s == 1_700_000_000
    assert versions_of(tmp_path / "other" / "boat.thimble", versions) == []


def test_only_so_many_versions_are_kept_and_trouble_never_stops_a_save(tmp_path: FilePath) -> None:
    path, versions = tmp_path / "boat.thimble", tmp_path / "versions"
    for k in range(8):
        saved(path, f"v{k}", 1_700_000_000 + k, versions, most=3)
    assert [open_project(one.path)[0].name for one in versions_of(path, versions)] == ["v6", "v5", "v4"]
    (tmp_path / "blocked").write_text("a file where a folder should be")
    saved(path, "last", 1_800_000_000, tmp_path / "blocked")
    assert open_project(path)[0].name == "last"
    saved(path, "none kept", 1_800_000_100, tmp_path / "fresh", most=0)
    assert not (tmp_path / "fresh").exists()


def test_what_changed_is_told_in_words_and_nothing_else_is() -> None:
    job = demo_job()
    assert what_changed(job, replace(job, at=0)) == []
    bigger = with_element(job, "words-1", lambda e: replace(e, placement=Placement(width=400.0, dx=e.placement.dx)))
    assert what_changed(job, bigger) == ["Wandering Heron: place", "Wandering Heron: width"]
    step = Thicken(id="thicken-1", by=0.2)
    thicker = with_element(job, "words-1", lambda e: replace(e, steps=(*e.steps, step)))
    assert what_changed(job, thicker) == ["Wandering Heron: Thicken: new step"]
    assert what_changed(thicker, job) == ["Wandering Heron: Thicken: step taken out"]
    wider = with_item(job, lambda item: replace(item, width=700.0))
    assert what_changed(job, wider) == ["Transom of the Wandering Heron: width"]
    film = with_layer(job, lambda layer: replace(layer, film=replace(layer.film, thinnest_line=1.5)))
    assert what_changed(job, film) == ["Decal film, teal: thinnest line"]
    assert what_changed(job, another_item(job)) == ["Transom of the Wandering Heron: new item"]
    other = what_changed(job, floats_job())
    assert "Job: name" in other and any("taken out" in line for line in other)


def test_the_photo_of_an_item_is_saved_with_the_job(tmp_path: FilePath) -> None:
    from vivid_thimble.core.job.values import Photo

    job = with_item(new_job(), lambda item: replace(item, photo=Photo(asset="abc", room=(0.1, 0.2, 0.9, 0.8))))
    save_project(tmp_path / "a.thimble", job, {"abc": b"picture", "unused": b"x", **demo_assets()})
    again, assets = open_project(tmp_path / "a.thimble")
    assert again == job and assets == {"abc": b"picture"}
