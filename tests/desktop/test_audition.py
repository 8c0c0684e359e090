"""The audition of faces, by hand."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QLineEdit, QListWidget, QPlainTextEdit, QPushButton

from tests.desktop.conftest import Hand
from tests.desktop.looks import lettered
from vivid_thimble.core.sources import fonts
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.desktop.dialogs import audition as module
from vivid_thimble.desktop.dialogs.audition import AuditionDialog, preview


class Listening:
    """The open audition as a user finds it."""

    def __init__(self, hand: Hand) -> None:
        hand.click("openAudition")
        self.hand = hand
        self.dialog = hand.window.findChildren(AuditionDialog)[-1]
        hand.bot.waitUntil(lambda: not self.dialog.is_listening, timeout=60_000)
        QApplication.processEvents()

    def part(self, kind: type, name: str) -> object:
        return self.dialog.findChild(kind, name)

    def titles(self) -> list[str]:
        rows = self.part(QListWidget, "auditioned")
        return [rows.item(k).text().split(":")[0].split("  (")[0] for k in range(rows.count())]


@pytest.fixture
def few_faces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "faces_at_hand", lambda: [f"bundled:{name}" for name in BUNDLED])


@pytest.mark.usefixtures("few_faces")
def test_faces_are_heard_filtered_and_taken(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("gather")
    listening = Listening(hand)
    assert sorted(listening.titles()) == sorted(BUNDLED)
    kind = listening.part(QComboBox, "faceKind")
    kind.setCurrentIndex(kind.findData("no islands"))
    kind.activated.emit(kind.currentIndex())
    assert listening.titles() == ["Stardos Stencil"]
    kind.setCurrentIndex(0)
    kind.activated.emit(0)
    hand.bot.keyClicks(listening.part(QLineEdit, "faceSearch"), "spart")
    assert listening.titles() == ["League Spartan"]
    listening.part(QListWidget, "auditioned").setCurrentRow(0)
    hand.bot.mouseClick(listening.part(QPushButton, "takeFace"), Qt.MouseButton.LeftButton)
    hand.settle()
    assert hand.window.session.job.item.layers[0].elements[0].source.face == "bundled:League Spartan"
    heard = next(one for one in listening.dialog._found if one.title == "League Spartan")
    assert heard.thinnest_line == hand.window.session.result.layers[0].inspection.thinnest_line
    assert hand.window.session.undo_name() == "Change the face"
    hand.bot.mouseClick(listening.part(QPushButton, "closeAudition"), Qt.MouseButton.LeftButton)


@pytest.mark.usefixtures("few_faces")
def test_only_faces_that_cut_are_shown_when_asked_and_known_ones_come_at_once(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    lettered(hand)
    hand.type_into("designWidth", "70")
    hand.go_to("gather")
    listening = Listening(hand)
    only = listening.part(QCheckBox, "onlyCutting")
    hand.bot.mouseClick(only, Qt.MouseButton.LeftButton, pos=only.rect().center() - only.rect().center() / 2)
    only.setChecked(True)
    listening.dialog._fill()
    cutting = [one.title for one in listening.dialog._found if one.cuts]
    assert len(cutting) < len(BUNDLED)
    assert listening.titles() == cutting
    listening.dialog.close()
    asked = []
    monkeypatch.setattr(module, "auditions", lambda job, element, faces, *_: asked.extend(faces) or iter(()))
    again = Listening(hand)
    assert sorted(again.titles()) == sorted(BUNDLED)
    assert asked == []


def test_a_preview_shows_ink_and_words_that_cannot_be_set_have_none() -> None:
    picture = preview(Words(text="Moth", face="bundled:Pacifico"))
    assert picture is not None
    inked = sum(picture.pixelColor(x, y).alpha() > 200 for x in range(0, 300, 3) for y in range(0, 92, 3))
    assert inked > 30
    assert preview(Words(text="Moth", face="family:not here")) is None
    assert fonts.face_title("family:not here") == "not here"


@pytest.mark.usefixtures("few_faces")
def test_favourites_recent_faces_and_licences(hand: Hand) -> None:
    lettered(hand)
    hand.go_to("gather")
    listening = Listening(hand)
    rows = listening.part(QListWidget, "auditioned")
    rows.setCurrentRow(listening.titles().index("Courier Prime"))
    hand.bot.mouseClick(listening.part(QPushButton, "favouriteFace"), Qt.MouseButton.LeftButton)
    hand.bot.mouseClick(listening.part(QPushButton, "showLicence"), Qt.MouseButton.LeftButton)
    licence = listening.part(QPlainTextEdit, "faceLicence")
    assert licence.isVisible()
    assert "Open Font License" in licence.toPlainText()
    rows.setCurrentRow(listening.titles().index("League Spartan"))
    hand.bot.mouseClick(listening.part(QPushButton, "takeFace"), Qt.MouseButton.LeftButton)
    hand.settle()
    kind = listening.part(QComboBox, "faceKind")
    for key, titles in (("favourites", ["Courier Prime"]), ("recent", ["League Spartan", "Pacifico"])):
        kind.setCurrentIndex(kind.findData(key))
        kind.activated.emit(kind.currentIndex())
        assert sorted(listening.titles()) == titles
    listening.dialog.close()
