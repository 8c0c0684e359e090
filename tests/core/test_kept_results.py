"""Results that are kept for the next run: what comes back is what was computed, and nothing else is let in."""

from __future__ import annotations

import contextlib
import os
import pickle
import stat
from pathlib import Path as FilePath

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from shapely import Point

from vivid_thimble import core
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import DEMO_JOBS, demo_assets, hull_job, pennant_job
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.storage import kept_results
from vivid_thimble.core.storage.kept_results import KeptResults
from vivid_thimble.core.strangers.plain_data import NotPlainData, own_classes, packed, unpacked

ASSETS = demo_assets()


def picks_of(result: ItemResult) -> list[tuple[str, tuple[float, float]]]:
    return [(pick.what, pick.at) for plan in result.weedings for pick in plan.picks]


@pytest.mark.parametrize("job", [make() for make in DEMO_JOBS.values()], ids=lambda job: job.name)
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
    assert packed(found) == packed(result)


def test_another_job_finds_nothing(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path)
    kept.keep(job, evaluate(job, {}, Cache()))
    assert kept.find(job) is not None
    assert kept.find(replace(job, name="Other hull numbers")) is None


def plain(value: object) -> bytes:
    return msgspec.msgpack.encode(value)


def test_a_file_that_is_no_result_is_not_read(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path)
    kept.keep(job, evaluate(job, {}, Cache()))
    (path,) = tmp_path.iterdir()
    whole = path.read_bytes()
    deep: object = 1
    for _ in range(400):
        deep = [deep]
    for damaged in (
        pickle.dumps(os.mkdir),
        whole[: len(whole) // 2],
        b"",
        packed("no result"),
        plain({"c": ["kept_results:KeptResults", [str(tmp_path)]]}),  # a class, but no value
        plain({"c": ["results:ItemResult", [1, 2]]}),
        plain({"c": ["results:ItemResult", [None] * 7]}) + b"more",
        plain({"e": ["results:ItemResult", "item"]}),
        plain({"a": ["|O", [1], b"12345678"]}),  # pointers
        plain({"a": ["<f8", [2**40, 2**40], b""]}),
        plain({"a": ["<f8", [3], b"12345678"]}),
        plain({"&": 7}),
        plain({"g": b"\x01\x06\x00\x00\x00\xff\xff\xff\xff"}),
        plain(deep),
    ):
        path.write_bytes(damaged)
        assert kept.find(job) is None
    path.write_bytes(whole)
    assert kept.find(job) is not None


def test_only_a_file_of_our_own_is_read(tmp_path: FilePath) -> None:
    job = hull_job()
    kept = KeptResults(tmp_path / "results")
    kept.keep(job, evaluate(job, {}, Cache()))
    (path,) = (tmp_path / "results").iterdir()
    assert stat.S_IMODE(path.stat().st_mode) == 0o600 and stat.S_IMODE(path.parent.stat().st_mode) == 0o700
    path.chmod(0o622)
    assert kept.find(job) is None
    path.chmod(0o600)
    elsewhere = path.rename(tmp_path / "elsewhere")
    path.symlink_to(elsewhere)
    assert kept.find(job) is None
    path.unlink()
    os.mkfifo(path)
    assert kept.find(job) is None


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_damaged_bytes_give_a_value_or_nothing(data: st.DataObject) -> None:
    values = (1, -2.5, "x", None, (True, b"y"), {"k": [1, 2]}, np.arange(6.0).reshape(2, 3), Point(3.0, 4.0))
    good = packed(values)
    back = unpacked(good, own_classes())
    assert packed(back) == good and back[7] == values[7] and (back[6] == values[6]).all()
    raw = bytearray(good)
    for _ in range(data.draw(st.integers(1, 4))):
        raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    with contextlib.suppress(NotPlainData):
        unpacked(bytes(raw[: data.draw(st.integers(0, len(raw)))]), own_classes())


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


def test_a_change_of_any_module_of_the_core_is_another_program() -> None:
    """Wherever it stands: what other code computed is not shown."""
    folder = FilePath(core.__file__).parent
    newest = max(path.stat().st_mtime_ns for path in folder.rglob("*.py"))
    assert str(newest) in kept_results._program()
    assert len({path.parent for path in folder.rglob("*.py")}) > 20
