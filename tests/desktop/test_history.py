"""The history as a list: every edit by name with its picture, any of them a click away."""

from __future__ import annotations

from PySide6.QtWidgets import QApplication

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.desktop.dialogs.history_dialog import HistoryDialog


def test_any_edit_is_a_click_away_and_later_ones_stay_until_something_changes(hand: Hand) -> None:
    session = hand.window.session
    session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("shape")
    jobs = [session.job]
    for height in ("100mm", "90mm", "80mm"):
        hand.type_into("designHeight", height)
        jobs.append(session.job)
    hand.window.dialogs.open_history()
    dialog = hand.window.findChildren(HistoryDialog)[-1]
    QApplication.processEvents()
    assert [dialog.list.item(k).text().split("   ")[1] for k in range(4)] == [
        "Open",
        "Size of the design",
        "Size of the design",
        "Size of the design  (now)",
    ]
    pictures = [version.picture[0] for version in session.history[0]]
    assert len({picture.constBits().tobytes() for picture in pictures}) == 4
    dialog.list.itemClicked.emit(dialog.list.item(1))
    hand.settle()
    assert session.job == jobs[1]
    assert dialog.list.currentRow() == 1
    assert dialog.list.count() == 4  # the later ones are still there
    dialog.list.itemClicked.emit(dialog.list.item(3))
    hand.settle()
    assert session.job == jobs[3]
    dialog.list.itemClicked.emit(dialog.list.item(0))
    hand.settle()
    hand.type_into("marginLeft", "20mm")
    assert dialog.list.count() == 2  # from here on it goes another way
    hand.window.session.undo()
    hand.settle()
    assert session.job == jobs[0]
