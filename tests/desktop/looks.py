"""What is seen on the table, and what stories begin with."""

from __future__ import annotations

from pathlib import Path as FilePath

from PySide6.QtGui import QImage

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import DRAWING


def shown(hand: Hand) -> QImage:
    hand.painted()
    return hand.window.table.grab().toImage()


def colour_at(hand: Hand, x: float, y: float) -> str:
    point = hand.window.table.to_widget(x, y)
    return shown(hand).pixelColor(int(point.x()), int(point.y())).name()


ROOT = FilePath(__file__).parents[2]


HERON = ROOT / "src" / "vivid_thimble" / "data" / "demo" / DRAWING


def lettered(hand: Hand) -> None:
    """A transom of 620 x 140 with the boat's name in the script, 560 wide."""
    hand.type_into("itemWidth", "62 cm")
    hand.type_into("itemHeight", "140")
    hand.go_to("gather")
    hand.click("addWords")
    hand.type_into("wordsText", "Wandering Heron")
    hand.choose("face", "Pacifico")
    hand.type_into("designWidth", "560")
