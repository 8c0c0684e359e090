"""The life of jobs: begun, kept, changed elsewhere, opened twice; windows, preferences, help, print; and trouble with files."""

from __future__ import annotations

import errno
import json
import os
import socket
import stat
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path as FilePath

import pypdfium2
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QPageSize
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QApplication, QMenu, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from tests.desktop.conftest import Hand
from vivid_thimble.core import files as core_files
from vivid_thimble.core.demo.jobs import demo_assets, demo_job, floats_job
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.storage.project import open_project, save_project
from vivid_thimble.desktop.application import one_instance
from vivid_thimble.desktop.application.application import Workroom
from vivid_thimble.desktop.application.one_instance import hand_over
from vivid_thimble.desktop.dialogs.preferences_dialog import PreferencesDialog
from vivid_thimble.desktop.dialogs.versions_dialog import VersionsDialog
from vivid_thimble.desktop.look.preferences import Preferences, keep_preferences, keep_shortcut, read_preferences
from vivid_thimble.desktop.session import recovery as recovery_module
from vivid_thimble.desktop.session.recovery import Recovery
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.station_list import STATIONS
from vivid_thimble.desktop.window.help import TOUR, HelpDialog, Tour, guide_folder, sections_of
from vivid_thimble.desktop.window.printing import pages_for, print_result

POINTS_PER_MM = 72.0 / 25.4


@pytest.fixture
def saved(hand: Hand, tmp_path: FilePath) -> Hand:
    """The demonstration job, saved as boat.thimble."""
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    assert hand.window.files.save_to(tmp_path / "boat.thimble")
    return hand


def dialog(kind: type) -> object:
    return next(one for one in QApplication.topLevelWidgets() if isinstance(one, kind) and one.isVisible())


# -- versions, duplicates, patterns ------------------------------------------------------


def test_earlier_versions_are_listed_with_what_differs_and_opened(saved: Hand, tmp_path: FilePath) -> None:
    path = tmp_path / "boat.thimble"
    saved.type_into("designWidth", "500")
    saved.window.files.save()
    saved.go_to("measure")
    saved.type_into("itemName", "Stern board")
    saved.window.dialogs.open_versions()
    versions = dialog(VersionsDialog)
    assert isinstance(versions, VersionsDialog)
    assert versions.states.count() == 2
    told = [versions.changes.item(k).text() for k in range(versions.changes.count())]
    assert told == ["Stern board: name"]
    versions.states.setCurrentRow(1)
    told = [versions.changes.item(k).text() for k in range(versions.changes.count())]
    assert "Wandering Heron: width" in told and "Stern board: name" in told
    saved.window.session._saved = saved.window.session.job  # nothing is asked about
    saved.bot.mouseClick(versions.open_button, Qt.MouseButton.LeftButton)
    saved.settle()
    assert saved.window.session.path is None and not saved.window.session.is_saved
    assert saved.window.session.job.name.endswith(", new")
    assert open_project(path)[0].item.name == "Transom of the Wandering Heron"


def test_a_copy_and_a_pattern_leave_the_file_alone(saved: Hand, tmp_path: FilePath) -> None:
    path = tmp_path / "boat.thimble"
    before = path.read_bytes()
    saved.window.files.duplicate()
    assert saved.window.session.path is None and saved.window.session.job.name.endswith(", copy")
    saved.window.session._saved = saved.window.session.job
    saved.window.files.new_from_job(path)
    saved.settle()
    assert saved.window.session.path is None and path.read_bytes() == before


# -- trouble with files --------------------------------------------------------------


def test_a_file_that_another_program_wrote_is_not_overwritten_unasked(saved: Hand, tmp_path: FilePath) -> None:
    path = tmp_path / "boat.thimble"
    saved.type_into("designWidth", "510")
    time.sleep(0.02)
    save_project(path, new_job("Somebody else's"), {})
    assert not saved.window.files.save()
    assert "changed by another program" in saved.notice()
    assert open_project(path)[0].name == "Somebody else's"
    assert not saved.window.session.is_saved
    saved.settle()
    saved.click("saveOver")
    assert open_project(path)[0].name == demo_job().name and saved.window.session.is_saved
    assert saved.notice() == ""
    saved.window.dialogs.open_versions()
    versions = dialog(VersionsDialog)
    assert isinstance(versions, VersionsDialog)
    assert versions.states.count() >= 2, "what the other program wrote is kept as a version"


def test_a_full_disk_leaves_the_old_file_and_the_job(
    saved: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "boat.thimble"
    before = path.read_bytes()
    saved.type_into("designWidth", "490")
    job = saved.window.session.job

    def full(handle: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    with monkeypatch.context() as patch:
        patch.setattr(core_files.os, "fsync", full)
        assert not saved.window.files.save()
        assert "no space left" in saved.notice() and "previous version is untouched" in saved.notice()
        assert path.read_bytes() == before and saved.window.session.job is job and not saved.window.session.is_saved
        assert [p.name for p in tmp_path.iterdir() if p.name.startswith(".")] == []
        assert saved.window.recovery is not None
        saved.window.recovery.write()
        assert "cannot be kept safe for a crash" in saved.notice()
    assert saved.window.files.save() and saved.window.session.is_saved


def test_a_folder_that_is_read_only_is_told(saved: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
    def locked(**_: object) -> None:
        raise OSError(errno.EROFS, os.strerror(errno.EROFS))

    monkeypatch.setattr(core_files.tempfile, "mkstemp", locked)
    assert not saved.window.files.save_to(tmp_path / "other.thimble")
    assert "read-only" in saved.notice() and "choose another folder" in saved.notice()
    assert not (tmp_path / "other.thimble").exists() and saved.window.session.path == tmp_path / "boat.thimble"


def test_a_place_that_is_no_folder_is_told_and_another_one_offered(saved: Hand, tmp_path: FilePath) -> None:
    (tmp_path / "file").write_text("x")
    assert not saved.window.files.save_to(tmp_path / "file" / "boat.thimble")
    assert "cannot be written" in saved.notice()
    saved.settle()
    assert saved.find("saveElsewhere").isVisible()


def test_a_job_of_a_newer_version_and_a_damaged_one_change_nothing(saved: Hand, tmp_path: FilePath) -> None:
    job = saved.window.session.job
    newer, broken = tmp_path / "newer.thimble", tmp_path / "broken.thimble"
    import io
    import json
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("recipe.json", json.dumps({"format": "vivid-thimble-project", "schema": 999, "job": {}}))
    newer.write_bytes(out.getvalue())
    broken.write_bytes(out.getvalue()[:-30])
    for path, says in ((newer, "newer version"), (broken, "damaged")):
        before = path.read_bytes()
        saved.window.files.open_file(path)
        assert says in saved.notice() and saved.window.session.job is job and path.read_bytes() == before


def test_a_job_whose_font_is_gone_opens_with_its_letters_and_says_so(
    hand: Hand, tmp_path: FilePath, variable_font: str
) -> None:
    import shutil

    font = tmp_path / "gone.ttf"
    shutil.copy(variable_font.removeprefix("file:"), font)
    job = floats_job()
    from vivid_thimble.core.job.edits import with_element

    source = replace(job.item.layers[0].elements[0].source, face=f"file:{font}", text="AB")
    job = with_element(job, job.item.layers[0].elements[0].id, lambda e: replace(e, source=source))
    job = replace(job, items=job.items[:1], shared=())
    job = with_element(
        job, job.item.layers[0].elements[0].id, lambda e: replace(e, placement=e.placement.sized(width=60.0), steps=())
    )
    save_project(tmp_path / "font.thimble", job, {})
    font.unlink()
    hand.window.files.open_file(tmp_path / "font.thimble")
    hand.settle()
    result = hand.window.session.result
    assert result is not None and result.bounds is not None
    assert any("not on this machine" in f.sentence for f in result.findings)


# -- opening several, dropping ------------------------------------------------------------


def test_several_jobs_are_dropped_and_the_others_get_windows(saved: Hand, tmp_path: FilePath) -> None:
    save_project(tmp_path / "one.thimble", new_job("One"), {})
    save_project(tmp_path / "two.thimble", new_job("Two"), {})
    wanted: list[object] = []
    saved.window.another_wanted.connect(wanted.append)
    content = QMimeData()
    content.setUrls([QUrl.fromLocalFile(str(tmp_path / f"{name}.thimble")) for name in ("one", "two")])
    drop = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, content, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    saved.window.dropEvent(drop)
    saved.settle()
    assert saved.window.session.job.name == "One"
    assert wanted == [[tmp_path / "two.thimble"]]


def test_recent_jobs_are_in_the_menu_and_on_the_first_page(saved: Hand, tmp_path: FilePath) -> None:
    saved.window.recent_menu.aboutToShow.emit()
    assert [a.text() for a in saved.window.recent_menu.actions()] == ["boat.thimble"]
    saved.window.show_start()
    button = saved.find("recent_0")
    assert button.accessibleName().startswith(f"boat, {tmp_path.name} · "), "its folder tells it from others"
    saved.window.session.start(new_job(), {})
    saved.window.show_start()
    saved.settle()
    saved.click("recent_0")
    assert saved.window.session.path == tmp_path / "boat.thimble"
    assert saved.window.table.isVisible()


def test_the_first_page_begins_in_three_ways(hand: Hand) -> None:
    for name, station, filled in (
        ("startItem", "measure", False),
        ("startArt", "gather", False),
        ("startDemo", "inspect", True),
    ):
        hand.window.session.start(new_job(), {})
        hand.window.show_start()
        hand.click(name)
        assert hand.window.station_in_hand == station and hand.window.table.isVisible()
        assert bool(hand.window.session.job.item.layers[0].elements) == filled


# -- windows and the one instance ------------------------------------------------------------


@pytest.fixture
def meeting(tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> FilePath:
    """The path of the socket at which starts of the program meet."""
    monkeypatch.setattr(one_instance, "runtime_folder", lambda: tmp_path / "run")
    return one_instance.meeting_place("here")


def started_again(meeting: FilePath, file: FilePath) -> subprocess.Popen[bytes]:
    code = (
        "import sys; from pathlib import Path; from vivid_thimble.desktop.application import one_instance;"
        "one_instance.runtime_folder = lambda: Path(sys.argv[1]);"
        "sys.exit(0 if one_instance.hand_over(sys.argv[2:], demo=False, name='here') else 5)"
    )
    return subprocess.Popen([sys.executable, "-c", code, str(meeting.parent), str(file)])


def test_another_start_of_the_program_opens_its_files_here(
    workroom: Workroom, qtbot: QtBot, tmp_path: FilePath, meeting: FilePath
) -> None:
    late = tmp_path / os.fsdecode(b"l\xe4te.thimble")
    save_project(late, new_job("Late"), {})
    meeting.write_text("left behind")
    workroom.listen("here")
    assert stat.S_IMODE(meeting.parent.stat().st_mode) == 0o700
    run = started_again(meeting, late)
    qtbot.waitUntil(lambda: run.poll() is not None, timeout=30_000)
    assert run.returncode == 0
    qtbot.waitUntil(lambda: any(w.session.job.name == "Late" for w in workroom.windows), timeout=10_000)
    assert len(workroom.windows) == 1, "an untouched window is used"
    assert not hand_over([], demo=False, name="nobody-listens")


@pytest.mark.parametrize("sent", [b"x" * 300_000, b'{"files": "x"}\n', b"[" * 5000 + b"\n", b'{"files": [1]}\n', b"\n"])
def test_what_is_no_message_is_passed_by(workroom: Workroom, qtbot: QtBot, meeting: FilePath, sent: bytes) -> None:
    workroom.listen("here")
    with socket.socket(socket.AF_UNIX) as other:
        other.connect(str(meeting))
        other.settimeout(0.0)
        left = memoryview(sent)
        answer: list[bytes] = []

        def is_closed() -> bool:
            nonlocal left
            try:
                left = left[other.send(left) :] if left else left
                answer.append(other.recv(10))
            except BlockingIOError:
                return False
            except OSError:
                return True
            return not answer[-1]

        qtbot.waitUntil(is_closed, timeout=10_000)
    assert not any(answer) and len(workroom.windows) == 1 and not workroom.windows[0].session.undo_name()


@pytest.mark.parametrize("answer", [b"no\n", b"", b"o"])
def test_one_that_answers_otherwise_is_passed_by(meeting: FilePath, answer: bytes) -> None:
    with socket.socket(socket.AF_UNIX) as odd:
        odd.bind(str(meeting))
        odd.listen()
        run = started_again(meeting, meeting)
        other, _ = odd.accept()
        with other:
            assert json.loads(other.recv(10_000))["files"] == [str(meeting)]
            other.sendall(answer)
    assert run.wait(20) == 5


def test_nothing_is_told_to_another_user(meeting: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(one_instance, "_user_of", lambda other: os.geteuid() + 1)
    with socket.socket(socket.AF_UNIX) as odd:
        odd.bind(str(meeting))
        odd.listen()
        assert not hand_over(["boat.thimble"], demo=False, name="here")
        other, _ = odd.accept()
        with other:
            assert other.recv(10) == b""


def test_windows_keep_jobs_apart_and_share_materials_and_colours(workroom: Workroom, qtbot: QtBot) -> None:
    first = workroom.windows[0]
    first.another_wanted.emit(None)
    second = workroom.windows[1]
    assert second.session is not first.session and second.session.workshop is first.session.workshop
    assert first.recovery is not None and second.recovery is not None
    assert first.recovery._path != second.recovery._path
    keep_preferences(Preferences(palette="evening"))
    workroom.use_preferences(read_preferences())
    assert {w.table.colours.name for w in workroom.windows} == {"evening"}
    first.session.change("Name", with_item(first.session.job, lambda item: replace(item, name="Kept")))
    keep_preferences(Preferences(palette="day", text_scale=1.25))
    workroom.use_preferences(read_preferences())
    assert len(workroom.windows) == 2 and first not in workroom.windows
    names = {w.session.job.item.name for w in workroom.windows}
    assert "Kept" in names, "larger text makes the windows anew and keeps their jobs"
    held = next(w for w in workroom.windows if w.session.job.item.name == "Kept")
    held.session.undo()
    assert held.session.job.item.name != "Kept"
    keep_preferences(Preferences())
    workroom.use_preferences(read_preferences())


def left_behind(folder: FilePath, *names: str) -> None:
    """Journals of a run that was killed, the last one the newest."""
    folder.mkdir(parents=True, exist_ok=True)
    gone = subprocess.Popen([sys.executable, "-c", "pass"])
    gone.wait()
    for number, name in enumerate(names, start=1):
        path = folder / f"{gone.pid}-{number}.thimble"
        save_project(path, new_job(name), {})
        os.utime(path, (number * 1000.0, number * 1000.0))


def test_journals_of_several_windows_of_a_run_that_was_killed_are_found(tmp_path: FilePath) -> None:
    folder = tmp_path / "recovery"
    left_behind(folder, "First window", "Second window")
    session, running = Session(), Recovery(folder, name="999999999-7")
    session.start(new_job("Of a window that is open"), {}, saved=False)
    running.job_changed(session)
    assert running.write()
    (folder / "dangling.thimble").symlink_to(folder / "nowhere")
    (folder / "a folder.thimble").mkdir()
    odd = folder / os.fsdecode(b"caf\xe9.thimble")
    save_project(odd, new_job("Of an odd name"), {})
    save_project(folder / f"{os.getpid()}-1.thimble", new_job("Of another run of this number"), {})
    found = Recovery(folder, name=f"{os.getpid()}-1").left_over()
    names = {open_project(path)[0].name for path in found}
    assert names == {"Second window", "First window", "Of an odd name", "Of another run of this number"}
    assert [open_project(path)[0].name for path in found[-2:]] == ["Second window", "First window"]
    assert {stat.S_IMODE(path.stat().st_mode) for path in (folder, running._path)} == {0o700, 0o600}
    session.stop()


@pytest.mark.parametrize("slow", ["project_bytes", "private_folder"])
def test_the_journal_is_written_beside_the_window_and_not_kept_once_saved(
    qtbot: QtBot, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch, slow: str
) -> None:
    """Large pictures take their time; a save, or the end, that comes while they are written leaves no journal."""
    monkeypatch.setattr(recovery_module, "WRITE_AFTER_MS", 1)
    begun, may_go_on = threading.Event(), threading.Event()
    threads: list[threading.Thread] = []

    real = getattr(recovery_module, slow)

    def slowly(*given: object) -> object:
        threads.append(threading.current_thread())
        begun.set()
        assert may_go_on.wait(20.0)
        return real(*given)

    monkeypatch.setattr(recovery_module, slow, slowly)
    session, journal = Session(), Recovery(tmp_path / "recovery")
    session.start(new_job("Large"), {}, saved=False)
    journal.job_changed(session)
    qtbot.waitUntil(begun.is_set, timeout=20_000)
    assert threads[0] is not threading.main_thread(), "the window goes on meanwhile"
    journal.saved()
    may_go_on.set()
    qtbot.waitUntil(lambda: not journal._background.is_busy, timeout=20_000)
    assert list((tmp_path / "recovery").glob("*.thimble")) == []
    journal.job_changed(session)
    qtbot.waitUntil(lambda: any((tmp_path / "recovery").glob("*.thimble")), timeout=20_000)
    assert Recovery(tmp_path / "recovery", name="another").left_over() == [], "it is locked again, and ours"
    journal.stop()
    session.stop()


def test_a_recovered_job_is_kept_under_our_own_journal(hand: Hand, tmp_path: FilePath) -> None:
    """It is offered once, and never lost: the old journal goes when ours is written."""
    recovery = hand.window.recovery
    left_behind(tmp_path / "recovery", "Lanterns")
    hand.window.files.offer_recovered(recovery.left_over())
    hand.settle()
    hand.click("openRecovered")
    assert hand.window.session.job.name == "Lanterns"
    assert not hand.window.session.is_saved and hand.window.session.path is None
    assert recovery.left_over() == []
    (ours,) = (tmp_path / "recovery").glob("*.thimble")
    assert open_project(ours)[0].name == "Lanterns"


def test_a_recovered_job_stays_where_it_is_when_ours_cannot_be_written(
    hand: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Even with an older journal of this window in place, nothing is discarded that stands nowhere else."""
    recovery = hand.window.recovery
    hand.go_to("measure")
    hand.type_into("itemWidth", "333")
    assert recovery.write()
    hand.window.session.start(hand.window.session.job, {}, saved=False)
    left_behind(tmp_path / "recovery", "Lanterns")
    monkeypatch.setattr(hand.window.files, "may_leave", lambda: True)
    hand.window.files.offer_recovered(recovery.left_over())
    hand.settle()

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "no space left on device")

    monkeypatch.setattr("vivid_thimble.desktop.session.recovery.write_atomically", full)
    hand.click("openRecovered")
    assert hand.window.session.job.name == "Lanterns"
    (left,) = recovery.left_over()
    assert open_project(left)[0].name == "Lanterns"


def test_unsaved_work_in_the_window_is_asked_about_before_a_recovered_job_takes_its_place(
    hand: Hand, tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand.go_to("measure")
    hand.type_into("itemWidth", "333")
    left_behind(tmp_path / "recovery", "Lanterns")
    hand.window.files.offer_recovered(hand.window.recovery.left_over())
    hand.settle()
    monkeypatch.setattr(hand.window.files, "may_leave", lambda: False)
    hand.click("openRecovered")
    assert hand.window.session.job.item.width == 333.0
    assert len(hand.window.recovery.left_over()) == 1 and "kept" in hand.notice()


def test_a_kept_job_is_thrown_away_and_brought_back(hand: Hand, tmp_path: FilePath) -> None:
    recovery = hand.window.recovery
    left_behind(tmp_path / "recovery", "Old", "Older still")
    hand.window.files.offer_recovered(recovery.left_over())
    hand.settle()
    assert "2 jobs were kept" in hand.notice()
    hand.click("throwRecovered")
    assert recovery.left_over() == []
    hand.click("unthrowRecovered")
    assert len(recovery.left_over()) == 2 and "2 jobs" in hand.notice()


def test_all_jobs_of_a_run_that_was_killed_are_opened_in_windows_of_their_own(workroom: Workroom, qtbot: QtBot) -> None:
    (window,) = workroom.windows
    left_behind(window.recovery._folder, "Pennants", "Lanterns")
    window.files.offer_recovered(window.recovery.left_over())
    qtbot.mouseClick(window.findChild(QPushButton, "openRecovered"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not any(one.session.is_busy for one in workroom.windows), timeout=30_000)
    assert sorted(one.session.job.name for one in workroom.windows) == ["Lanterns", "Pennants"]
    assert window.session.job.name == "Lanterns", "the newest where one looks"
    assert window.recovery.left_over() == []


# -- preferences and keys ------------------------------------------------------------


def test_keys_are_changed_and_a_clash_is_told(hand: Hand) -> None:
    hand.window.dialogs.open_preferences("keys")
    preferences = dialog(PreferencesDialog)
    assert isinstance(preferences, PreferencesDialog)
    row = preferences._names.index("history")
    preferences.keys.selectRow(row)
    preferences._set_keys("Ctrl+S")
    assert "belongs to Save" in preferences.keys_line.text()
    preferences._set_keys("Ctrl+J")
    assert hand.window.commands.all["history"].keys == "Ctrl+J"
    preferences.close()
    from vivid_thimble.desktop.dialogs.history_dialog import HistoryDialog

    hand.keys(Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    history = dialog(HistoryDialog)
    history.close()
    keep_shortcut("history", None)


def test_preferences_are_kept_and_new_jobs_follow_them(hand: Hand) -> None:
    hand.window.dialogs.open_preferences("work")
    preferences = dialog(PreferencesDialog)
    assert isinstance(preferences, PreferencesDialog)
    box = preferences.findChild(type(hand.find("unit")), "prefUnit")
    box.setCurrentIndex(box.findData("in/16"))
    box.activated.emit(box.currentIndex())
    assert read_preferences().unit == "in/16"
    preferences.close()
    hand.window.session.start(hand.window.session.job, {})
    hand.window.files.new()
    assert hand.window.session.job.unit == "in/16"
    from PySide6.QtCore import QSettings

    QSettings().setValue("textScale", "nonsense")
    QSettings().setValue("unit", "cubits")
    assert read_preferences().text_scale == 1.0 and read_preferences().unit == "mm"


def test_every_command_has_one_name_and_no_two_share_their_keys(hand: Hand) -> None:
    commands = hand.window.commands.all.values()
    keys = [command.keys for command in commands if command.keys]
    assert len(keys) == len(set(keys)) and all(command.title for command in commands)


# -- help, tour, printing ------------------------------------------------------------


def test_help_opens_at_the_station_and_finds_words(hand: Hand) -> None:
    titles = [title for _, title, _ in sections_of((guide_folder() / "user-guide.md").read_text())]
    assert all(heading in titles for heading in (station.title for station in STATIONS.values()))
    hand.go_to("shape")
    hand.keys(Qt.Key.Key_F1)
    guide = dialog(HelpDialog)
    assert isinstance(guide, HelpDialog)
    assert guide.list.currentItem().text().strip() == "Shape" and "Shape" in guide.page.toPlainText()
    guide.find_edit.setText("squeegee")
    hidden = [guide.list.item(k).isHidden() for k in range(guide.list.count())]
    assert any(hidden) and not all(hidden)
    guide.close()


def test_the_tour_walks_through_the_stations_on_the_demonstration(hand: Hand) -> None:
    hand.window.dialogs.begin_tour()
    hand.settle()
    tour = hand.window.findChild(Tour)
    assert hand.window.session.job.name == demo_job().name
    for station, name, _ in TOUR:
        assert hand.window.findChild(object, name) is not None
        assert not station or hand.window.station_in_hand == station
        assert hand.window.rect().contains(tour.geometry())
        hand.bot.keyClick(tour.next_button, Qt.Key.Key_Space)
    assert not tour.isVisible()


def test_a_print_is_as_large_as_the_thing(saved: Hand, tmp_path: FilePath) -> None:
    """The item's outline, the rule and the design measured in the pages as a PDF reader draws them."""
    result = saved.window.session.result
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setResolution(600)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "true.pdf"))
    printer.setPageSize(QPageSize(QPageSize.PageSizeId.A3))
    count = print_result(printer, result, "mm")
    document = pypdfium2.PdfDocument(str(tmp_path / "true.pdf"))
    assert len(document) == count == 3
    page = document[0]
    boxes = [obj.get_bounds() for obj in page.get_objects()]
    wide = [(right - left) / POINTS_PER_MM for left, _, right, _ in boxes]
    assert any(abs(one - 100.0) < 0.3 for one in wide), "the rule of 100 mm"
    high = [(top - bottom) / POINTS_PER_MM for _, bottom, _, top in boxes]
    assert any(abs(one - 140.0) < 0.3 for one in high), "the item is 140 mm high"
    document.close()


def test_pages_cover_everything_and_overlap() -> None:
    pages = pages_for((-10.0, 0.0, 610.0, 380.0), (190.0, 277.0))
    assert pages[0].shows[0] == -10.0 and max(p.shows[2] for p in pages) >= 610.0
    assert max(p.shows[3] for p in pages) >= 380.0
    first, second = pages[0], pages[1]
    assert first.shows[2] - second.shows[0] == pytest.approx(10.0)
    assert len(pages_for((0.0, 0.0, 100.0, 100.0), (190.0, 277.0))) == 1


def test_closing_asks_about_unsaved_work_and_staying_keeps_it(saved: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    saved.type_into("designWidth", "505")
    answers: list[str] = []

    def exec_as(words: str) -> Callable[[QMessageBox], int]:
        def run(box: QMessageBox) -> int:
            answers.append(box.text())
            next(b for b in box.buttons() if b.text() == words).click()
            return 0

        return run

    monkeypatch.setattr(QMessageBox, "exec", exec_as("Stay"))
    assert not saved.window.close() and saved.window.isVisible()
    assert answers and "not saved" in answers[0]
    assert isinstance(saved.window.menuBar().actions()[0].menu(), QMenu)


# -- opened again ------------------------------------------------------------------------


def test_a_saved_job_is_there_at_once_when_it_is_opened_again(saved: Hand, tmp_path: FilePath) -> None:
    """Its figures come from the last time, before they are computed anew; an edit made meanwhile counts."""
    window = saved.window
    before = window.session.result
    saved.bot.waitUntil(lambda: not window.session.is_keeping)
    window.session.start(new_job(), {})
    saved.settle()
    seen: list[tuple[object, bool]] = []
    window.session.result_changed.connect(lambda: seen.append((window.session.result, window.session.is_evaluating)))
    window.files.open_file(tmp_path / "boat.thimble")
    saved.settle()
    (first, was_computing), (second, still_computing) = seen
    assert was_computing and not still_computing
    assert first is not second
    assert first.findings == second.findings == before.findings
    window.files.open_file(tmp_path / "boat.thimble")
    saved.bot.waitUntil(lambda: len(seen) > 2)
    saved.type_into("designWidth", "500")
    assert seen[2][1] and window.session.result.size[0] == pytest.approx(500.0, abs=0.01)
    assert len(seen) == 4, "the check of the opened job gave way to the edit"
