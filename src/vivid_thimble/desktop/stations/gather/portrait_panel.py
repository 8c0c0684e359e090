"""The controls of a line portrait: which part of the photo, how many turns, how it will look."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QDoubleSpinBox, QPushButton, QSlider, QSpinBox

from vivid_thimble.core.edits.pictures import PortraitLook, as_picture
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.job.values import source_in
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.sources.line_portrait import MOST_TURNS, LinePortrait
from vivid_thimble.core.tracing.prepare import Share
from vivid_thimble.desktop.look.underlay import NamedPlace
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import PORTRAIT
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.picture_view import PictureView
from vivid_thimble.desktop.stations.gather.source_panel import SourcePanel
from vivid_thimble.desktop.widgets.panel import set_quietly, show_row

LINES = (("spiral", "One spiral line"), ("rings", "Rings"), ("waves", "Waves"))
VIEWS = (("photo", "Photo"), ("afar", "From two metres"))
SMALLEST_CROP, LARGEST_CROP = 20, 130
"""Radius of the crop, in hundredths of half the photo's shorter side."""


class PortraitPanel(SourcePanel):
    """Moves the crop over the photo, and tells what number of turns the film bears.

    ``places_wanted`` carries where to begin pulling, to be marked on the table.
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.section("Line portrait")
        self._views = self.tabs(VIEWS, lambda _: self._show_view(), "portraitView")
        self.view = PictureView()
        self.view.setObjectName("portraitPicture")
        self.view.setAccessibleName(tr("The photo; click to move the middle of the portrait"))
        self.view.clicked.connect(self._move)
        self.column.addWidget(self.view)
        self.crop = QSlider(Qt.Orientation.Horizontal)
        self.crop.setObjectName("portraitCrop")
        self.crop.setRange(SMALLEST_CROP, LARGEST_CROP)
        self.crop.valueChanged.connect(lambda v: self._change("Crop", merge="crop", radius=v / 100.0))
        self.row("&Zoom", self.crop)
        self.lines = self.choice("portraitLines", LINES, lambda key: self._change("Lines", lines=key))
        self.row("Dra&wn by", self.lines)
        self.most = QCheckBox(tr("as many turns as can be cut"))
        self.most.setObjectName("portraitMost")
        self.most.clicked.connect(self._take_most)
        self.column.addWidget(self.most)
        self.turns = QDoubleSpinBox()
        self.turns.setObjectName("portraitTurns")
        self.turns.setRange(2.0, MOST_TURNS)
        self.turns.setDecimals(1)
        self.turns.setKeyboardTracking(False)
        self.turns.valueChanged.connect(lambda n: self._change("Turns", merge="turns", turns=n))
        self.turns_row = self.row("&Turns", self.turns)
        self.advice = self.hint()
        self.clockwise = QCheckBox(tr("outwards clockwise"))
        self.clockwise.setObjectName("portraitClockwise")
        self.clockwise.clicked.connect(lambda on: self._change("Direction", clockwise=on))
        self.column.addWidget(self.clockwise)
        self.ties = QSpinBox()
        self.ties.setObjectName("portraitTies")
        self.ties.setRange(0, 12)
        self.ties.setSpecialValueText("none")
        self.ties.setToolTip(tr("A rigid sheet holds together only where lines are broken"))
        self.ties.valueChanged.connect(lambda n: self._change("Ties", merge="ties", ties=n))
        self.row("T&ies a turn", self.ties)
        self.ring = QCheckBox(tr("a ring round it, tied to its end"))
        self.ring.setObjectName("portraitRing")
        self.ring.clicked.connect(lambda on: self._change("Outer ring", outer_ring=on))
        self.column.addWidget(self.ring)
        self.pull = self.hint()
        back = QPushButton(tr("As a plain picture"))
        back.setObjectName("asPicture")
        back.clicked.connect(lambda _=False: self._back())
        self.column.addWidget(back)
        self.column.addStretch()
        session.insights.changed.connect(self._show_look)

    def show_source(self, portrait: LinePortrait) -> None:
        self.session.insights.want("portrait", PORTRAIT)
        self.lines.setCurrentIndex(self.lines.findData(portrait.lines))
        self.most.setChecked(portrait.turns is None)
        self.clockwise.setChecked(portrait.clockwise)
        self.ring.setChecked(portrait.outer_ring)
        is_spiral = portrait.lines == "spiral"
        self.clockwise.setVisible(is_spiral)
        self.ring.setVisible(is_spiral)
        show_row(self.turns_row, visible=portrait.turns is not None)
        set_quietly(self.ties, portrait.ties)
        set_quietly(self.crop, round(portrait.radius * 100.0))
        if portrait.turns is not None:
            set_quietly(self.turns, portrait.turns)
        self._show_view()
        self._tell(self.session.insights.of(PORTRAIT))

    def _show_look(self, insight: object) -> None:
        if insight is PORTRAIT and source_in(self.session.job, self.session.chosen, LinePortrait) is not None:
            self._show_view()
            self._tell(self.session.insights.of(PORTRAIT))

    def _show_view(self) -> None:
        portrait, look = (
            source_in(self.session.job, self.session.chosen, LinePortrait),
            self.session.insights.of(PORTRAIT),
        )
        if portrait is None or look is None:
            return
        afar = self._views["afar"].isChecked()
        self.view.set_clickable(clickable=not afar)
        self.view.show_picture(look.from_afar if afar else look.shown)
        self.view.show_crop(None if afar else portrait.centre, portrait.radius)

    def _tell(self, look: PortraitLook | None) -> None:
        if look is None:
            return
        unit = self.session.job.unit
        smallest = format_length(look.smallest, unit)
        self.advice.setText(
            tr(
                f"{look.turns:.1f} turns; at this size the film bears {look.most_turns:.1f}. More turns show more of "
                f"the face and less of its shades. These need {smallest} for all shades."
            )
        )
        self.places_wanted.emit(self._ends(look))
        self.pull.setText(
            tr(
                "Begin pulling at the outer end: both ends are marked on the table."
                if look.waste_end is not None
                else ""
            )
        )

    def _ends(self, look: PortraitLook) -> tuple[NamedPlace, ...]:
        """The outer ends of the line and of the waste strip on the item."""
        result = self.session.result
        element = self.session.evaluated(self.session.chosen)
        if result is None or element is None or look.kept_end is None or look.waste_end is None:
            return ()
        place, item = element.placement, result.item
        move = Affine.translation(item.width / 2 + place.dx, item.height / 2 + place.dy)
        turn = Affine.turning(place.turn_deg).then(move)
        ends = ((look.kept_end, "end of the line"), (look.waste_end, "pull the waste here"))
        return tuple(NamedPlace(tuple(turn.apply(np.array(at)).tolist()), name) for at, name in ends)

    def show_nothing(self) -> None:
        """Another kind of element is in hand."""
        self.session.insights.want("portrait")
        self.places_wanted.emit(())

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        self.change_source(LinePortrait, title, merge=merge, **values)

    def _move(self, at: Share) -> None:
        self._change("Move the crop", centre=at)

    def _take_most(self, on: bool) -> None:
        look = self.session.insights.of(PORTRAIT)
        turns = None if on else round(look.turns, 1) if look is not None else 20.0
        self._change("Turns", turns=turns)

    def _back(self) -> None:
        self.session.change("As a plain picture", as_picture(self.session.job, self.session.chosen))
