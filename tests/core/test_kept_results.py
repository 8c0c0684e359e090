"""Results that are kept for the next run: what comes back is what was computed, and nothing else is let in."""

from __future__ import annotations

import os
import pickle
from pathlib import Path as FilePath

import pytest
import shapely
from msgspec.structs import replace

from vivid_thimble.core import kept_results
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo import demo_assets, demo_job, hull_job, pennant_job
from vivid_thimble.core.job import Job
from vivid_thimble.core.kept_results import KeptResults
from vivid_thimble.core.recipe import evaluate
from vivid_thimble.core.results import ItemResult

ASSETS = demo_assets()


def picks_of(result: ItemResult) -> list[tuple[str, tuple[float, float]]]:
    return [(pick.what, pick.at) for plan in result.weedings for pick in plan.picks]


@pytest.mark.parametrize("job", [demo_job(), hull_job(), pennant_job()], ids=lambda job: job.name)
def test_what_was_kept_comes_back_as_it_was_computed(job: Job, tmp_path: FilePath) -> None:
    result = evaluate(job, ASSETS, Cache())
    kept = KeptResults(tmp_path / "results")
    assert kept.find(job) is None
    kept.keep(job, result)
    found = KeptResults(tmp_path / "results").find(job)
    assert found is not None
    assert (found.item, found.bounds, found.findings) == (result.item, result.bounds, result.findings)
    for ours, theirs in zip(found.layers, result.layers, strict=True):
        assert shapely.equals_exact(ours.kept.polygons, theirs.kept.polygons)
        assert ours.inspection.thinnest_line == theirs.inspection.thinnest_line
    assert [e.key for la in found.layers for e in la.elements] == [e.key for la in result.layers for e in la.elements]
    assert picks_of(found) == picks_of(result)


def test_another_job_finds_nothing(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path)
    kept.keep(job, evaluate(job, {}, Cache()))
    assert kept.find(job) is not None
    assert kept.find(replace(job, name="Other hull numbers")) is None


def pickled_call(module: str, name: str, argument: object) -> bytes:
    """A pickle that calls what a module of ours has at hand."""
    words = b"".join(b"\x8c" + bytes([len(word)]) + word.encode() for word in (module, name))
    return b"\x80\x04" + words + b"\x93" + pickle.dumps(argument, protocol=4)[2:-1] + b"\x85R."


def test_a_file_that_would_run_something_is_not_read(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path)
    kept.keep(job, evaluate(job, {}, Cache()))
    (path,) = tmp_path.iterdir()
    ran = tmp_path / "ran"

    class Harmful:
        def __reduce__(self) -> tuple[object, ...]:
            return os.mkdir, (str(ran),)

    reached = pickled_call("vivid_thimble.core.formats.pdf_read", "subprocess.Popen", ["mkdir", str(ran)])
    imported = pickle.dumps(None).replace(b"N", b"cvivid_thimble.core.kept_results\nKeptResults\n(V%s\ntR" % b"x")
    whole = path.read_bytes()
    for damaged in (
        reached,
        imported,
        pickle.dumps(Harmful()),
        whole[: len(whole) // 2],
        b"",
        pickle.dumps("no result"),
    ):
        path.write_bytes(damaged)
        assert kept.find(job) is None
    assert not ran.exists()


def test_what_is_computed_otherwise_now_takes_the_place_of_what_was_kept(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path)
    other = evaluate(pennant_job(), ASSETS, Cache())
    kept.keep(job, other)
    kept.keep(job, evaluate(job, {}, Cache()))
    found = kept.find(job)
    assert found is not None and found.item == job.item


def test_the_ones_not_looked_at_for_longest_go(tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(kept_results, "MOST_KEPT", 2)
    job = hull_job()
    result = evaluate(job, {}, Cache())
    kept = KeptResults(tmp_path)
    jobs = [replace(job, name=f"Hull {number}") for number in range(3)]
    for age, one in enumerate(jobs[:2]):
        kept.keep(one, result)
        (newest,) = (path for path in tmp_path.iterdir() if path.stat().st_mtime > 1e6)
        os.utime(newest, (1000.0 + age, 1000.0 + age))
    assert kept.find(jobs[0]) is not None, "looked at: now the second one is the oldest"
    kept.keep(jobs[2], result)
    assert [kept.find(one) is not None for one in jobs] == [True, False, True]


def test_a_folder_that_cannot_be_written_changes_nothing(tmp_path: FilePath) -> None:
    (tmp_path / "file").write_text("in the way")
    job = hull_job()
    kept = KeptResults(tmp_path / "file" / "results")
    kept.keep(job, evaluate(job, {}, Cache()))
    assert kept.find(job) is None
