"""How a picture is parted from its ground: the choice, the level, the number of colours.

In the tray and on the desk.
"""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSlider, QSpinBox

from vivid_thimble.core.sources.picture import MOST_COLOURS, Picture
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.panel import Panel, set_quietly, show_row

SEPARATIONS = (
    ("automatic", "By itself"),
    ("level", "At one level"),
    ("local", "Under uneven light"),
    ("colours", "By colours"),
    ("tones", "By tones, for portraits"),
)


class SeparationControls(Panel):
    """``prefix`` begins the names of its controls."""

    def __init__(self, session: Session, prefix: str) -> None:
        super().__init__(session)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.separate = self.choice(
            f"{prefix}Separate", SEPARATIONS, lambda key: self._change("Separate", separate=key)
        )
        self.row("Se&parate", self.separate)
        self.level = QSlider(Qt.Orientation.Horizontal)
        self.level.setObjectName(f"{prefix}Level")
        self.level.setRange(1, 254)
        self.level.setAccessibleName(tr("Level between dark and light"))
        self.level.valueChanged.connect(lambda v: self._change("Level", merge="level", level=float(v)))
        self.level_row = self.row("&Level", self.level)
        self.colours = QSpinBox()
        self.colours.setObjectName(f"{prefix}Colours")
        self.colours.setRange(2, MOST_COLOURS)
        self.colours.valueChanged.connect(lambda n: self._change("Colours", merge="colours", colours=n))
        self.colours_row = self.row("How m&any", self.colours)

    def show_picture(self, picture: Picture) -> None:
        otherwise = bool(picture.background) or bool(picture.scribbles)
        set_quietly(self.colours, picture.colours)
        self.separate.setCurrentIndex(self.separate.findData(picture.separate))
        self.separate.setEnabled(not otherwise)
        show_row(self.level_row, visible=picture.separate == "level" and not otherwise)
        show_row(self.colours_row, visible=picture.separate in ("colours", "tones") and not otherwise)
        if picture.level is not None:
            set_quietly(self.level, round(picture.level))

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        self.change_source(Picture, title, merge=merge, **values)
