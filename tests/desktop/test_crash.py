"""An unforeseen failure: the job is kept, a report is written, the window goes on."""

from __future__ import annotations

import logging
import sys
from pathlib import Path as FilePath

import pytest

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.storage.project import open_project
from vivid_thimble.desktop.crash import CrashReporter


def test_a_failure_keeps_the_job_and_tells_where_its_report_is(
    hand: Hand, tmp_path: FilePath, caplog: pytest.LogCaptureFixture
) -> None:
    window = hand.window
    window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.type_into("designHeight", "90mm")
    reporter = CrashReporter(lambda: window, tmp_path / "reports")
    with caplog.at_level(logging.CRITICAL):
        try:
            raise ZeroDivisionError("planted")
        except ZeroDivisionError:
            reporter.report(*sys.exc_info())  # type: ignore[arg-type]
    (report,) = (tmp_path / "reports").glob("report-*.txt")
    text = report.read_text()
    assert "ZeroDivisionError: planted" in text
    assert "Size of the design" in text
    assert str(report) in hand.notice()
    kept = [*window.recovery.left_over(), window.recovery._path]
    job, _ = open_project(kept[0])
    assert job == window.session.job
    hand.type_into("designHeight", "80mm")  # it goes on
    assert window.session.result.size[1] == pytest.approx(80.0, abs=0.01)
