"""The slider for how smooth the outlines of a picture are, in the tray and on the desk."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSlider

from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.panel import Panel, set_quietly

EASES = (0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 4.5)
"""How freely curves follow, from close to smooth."""


class SmoothnessSlider(QSlider):
    """Changes the picture in hand through the panel that it is put into."""

    def __init__(self, panel: Panel, name: str) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setObjectName(name)
        self.setRange(0, len(EASES) - 1)
        self.setAccessibleName(tr("How smooth outlines are, from close to the picture to smooth"))
        self.valueChanged.connect(lambda v: panel.change_source(Picture, "Smoothness", merge="ease", ease=EASES[v]))
        panel.row("&Smooth", self)

    def show_picture(self, picture: Picture) -> None:
        set_quietly(self, min(range(len(EASES)), key=lambda k: abs(EASES[k] - picture.ease)))
