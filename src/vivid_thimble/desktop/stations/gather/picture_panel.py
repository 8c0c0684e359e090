"""The controls of a picture: how it is parted from its ground, what looks like dirt, how it is traced."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QLabel, QListWidget, QListWidgetItem, QPushButton

from vivid_thimble.core.edits.pictures import (
    PictureLook,
    as_portrait,
    with_leftover_kept,
    with_spot,
)
from vivid_thimble.core.job.values import source_in
from vivid_thimble.core.sources.picture import Picture, Spot
from vivid_thimble.core.tracing.leftovers import Leftover
from vivid_thimble.core.tracing.prepare import Share
from vivid_thimble.desktop.look.underlay import Underlay, image_of
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import PICTURE
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.picture_view import PictureView
from vivid_thimble.desktop.stations.gather.separation_controls import SeparationControls
from vivid_thimble.desktop.stations.gather.smoothness import SmoothnessSlider
from vivid_thimble.desktop.stations.gather.source_panel import SourcePanel

REASONS = {
    "dirt": "dirt, far smaller than the rest",
    "faint": "faint, never fully dark",
    "edge": "edge of the picture",
    "background": "nearly the background",
}
LIST_HEIGHT = 92


class PicturePanel(SourcePanel):
    """Shows how the picture in hand was separated and lets a person put it right.

    ``desk_wanted`` asks for more room, ``words_wanted`` for its words in a face; ``underlay_changed`` carries the
    picture that is to lie under the cut lines, or None.
    """

    desk_wanted = Signal()
    words_wanted = Signal()
    underlay_changed = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.section("Picture")
        self.view = PictureView()
        self.view.clicked.connect(self._click_away)
        self.column.addWidget(self.view)
        self.says = self.hint()
        self._add_separation()
        self._add_leftovers()
        self._add_trace()
        self.column.addStretch()
        session.insights.changed.connect(self._show_look)

    def _add_separation(self) -> None:
        self.desk_button = QPushButton(tr("&Work on the picture…"))
        self.desk_button.setObjectName("openPictureDesk")
        self.desk_button.setToolTip(tr("Crop, level, change tones, brush, cut out, give colours to films"))
        self.desk_button.clicked.connect(lambda _=False: self.desk_wanted.emit())
        self.column.addWidget(self.desk_button)
        self.separation = SeparationControls(self.session, "picture")
        self.column.addWidget(self.separation)
        self.away = QPushButton(tr("Click &background away"))
        self.away.setObjectName("pictureAway")
        self.away.setCheckable(True)
        self.away.toggled.connect(lambda on: self.view.set_clickable(clickable=on))
        self.column.addWidget(self.away)
        self.connected = QCheckBox(tr("only what is connected to the click"))
        self.connected.setObjectName("pictureConnected")
        self.column.addWidget(self.connected)
        self.undo_away = QPushButton(tr("Bring the background back"))
        self.undo_away.setObjectName("pictureBack")
        self.undo_away.clicked.connect(lambda _=False: self._change("Background back", background=()))
        self.column.addWidget(self.undo_away)

    def _add_leftovers(self) -> None:
        self.leftovers_title: QLabel = self.section("Leftovers")
        self.leftovers_says = self.hint()
        self.leftovers = QListWidget()
        self.leftovers.setObjectName("pictureLeftovers")
        self.leftovers.setAccessibleName(tr("Pieces that look like dirt or background"))
        self.leftovers.setFixedHeight(LIST_HEIGHT)
        self.leftovers.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.leftovers.currentItemChanged.connect(lambda *_: self._ring_chosen())
        self.leftovers.itemActivated.connect(self._keep)
        self.column.addWidget(self.leftovers)
        self.all_leftovers = QPushButton(tr("Keep them all"))
        self.all_leftovers.setObjectName("pictureAllLeftovers")
        self.all_leftovers.clicked.connect(lambda _=False: self._switch_leftovers())
        self.column.addWidget(self.all_leftovers)

    def _add_trace(self) -> None:
        self.section("Outlines")
        self.ease = SmoothnessSlider(self, "pictureEase")
        self.nodes = self.hint()
        self.under = QCheckBox(tr("the picture under the cut lines"))
        self.under.setObjectName("pictureUnder")
        self.under.clicked.connect(lambda _: self._tell_underlay())
        self.column.addWidget(self.under)
        self.words_button = QPushButton(tr("Set its words in a &face…"))
        self.words_button.setObjectName("resetWords")
        self.words_button.setToolTip(
            tr("Typeset outlines are better than traced ones: type the words, choose the face")
        )
        self.words_button.clicked.connect(lambda _=False: self.words_wanted.emit())
        self.column.addWidget(self.words_button)
        self.portrait_button = QPushButton(tr("As a &line portrait"))
        self.portrait_button.setObjectName("asPortrait")
        self.portrait_button.setToolTip(tr("Show the photo by one spiral line whose width follows its darkness"))
        self.portrait_button.clicked.connect(lambda _=False: self._as_portrait())
        self.column.addWidget(self.portrait_button)

    def show_source(self, picture: Picture) -> None:
        self.session.insights.want("picture", PICTURE)
        self.ease.show_picture(picture)
        self.separation.show_picture(picture)
        self.undo_away.setVisible(bool(picture.background))
        self.connected.setVisible(self.away.isChecked())
        self._show(picture, self.session.insights.of(PICTURE))

    def show_nothing(self) -> None:
        """Another kind of element is in hand."""
        self.session.insights.want("picture")
        self.away.setChecked(False)
        if self.under.isChecked():
            self.under.setChecked(False)
            self._tell_underlay()

    def _show_look(self, insight: object) -> None:
        picture = source_in(self.session.job, self.session.chosen, Picture)
        if insight is PICTURE and picture is not None:
            self._show(picture, self.session.insights.of(PICTURE))

    def _show(self, picture: Picture, look: PictureLook | None) -> None:
        if look is None:
            return
        self.says.setText(tr(look.says))
        self.nodes.setText(tr(f"{look.nodes} nodes."))
        self._fill_leftovers(picture, look)
        self.view.show_picture(look.shown)
        if self.under.isChecked():
            self._tell_underlay()

    def _tell_underlay(self) -> None:
        look, result = self.session.insights.of(PICTURE), self.session.result
        element = self.session.evaluated(self.session.chosen)
        if not self.under.isChecked() or look is None or result is None or element is None:
            self.underlay_changed.emit(None)
            return
        place = element.placement
        at = result.item.width / 2 + place.dx, result.item.height / 2 + place.dy
        self.underlay_changed.emit(Underlay(image_of(look.plain), look.lies, at, place.turn_deg))

    def _fill_leftovers(self, picture: Picture, look: PictureLook) -> None:
        found = look.leftovers
        self.leftovers.blockSignals(True)
        self.leftovers.clear()
        for one, area in sorted(found, key=lambda pair: -pair[1]):
            item = QListWidgetItem(tr(f"{area:.2f} mm²   {REASONS[one.why]}"))
            item.setData(Qt.ItemDataRole.UserRole, one)
            self.leftovers.addItem(item)
        self.leftovers.blockSignals(False)
        for widget in (self.leftovers, self.all_leftovers):
            widget.setVisible(bool(found))
        whole = sum(area for _, area in found)
        pieces = "1 piece looks" if len(found) == 1 else f"{len(found)} pieces look"
        gone = "left out" if picture.leftovers_go else "still cut"
        self.leftovers_says.setText(
            tr(
                f"{pieces} like dirt or background ({whole:.1f} mm² together): {gone}. Double-click one to keep it."
                if found
                else "Nothing that is cut looks like dirt or background."
            )
        )
        self.all_leftovers.setText(tr("Keep them all" if picture.leftovers_go else "Leave them all out"))

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        self.change_source(Picture, title, merge=merge, **values)

    def _click_away(self, at: Share) -> None:
        picture = source_in(self.session.job, self.session.chosen, Picture)
        if picture is not None:
            tolerance = Spot(at=at).tolerance
            changed = with_spot(picture, at, tolerance, connected=self.connected.isChecked())
            self._change("Background away", background=changed.background)

    def _as_portrait(self) -> None:
        self.session.change("As a line portrait", as_portrait(self.session.job, self.session.chosen))

    def _switch_leftovers(self) -> None:
        picture = source_in(self.session.job, self.session.chosen, Picture)
        if picture is not None:
            go = not picture.leftovers_go
            self._change("Leave leftovers out" if go else "Keep leftovers", leftovers_go=go, kept_places=())

    def _keep(self, item: QListWidgetItem) -> None:
        picture = source_in(self.session.job, self.session.chosen, Picture)
        one = item.data(Qt.ItemDataRole.UserRole)
        if picture is not None and isinstance(one, Leftover):
            self._change("Keep a leftover", kept_places=with_leftover_kept(picture, one.at).kept_places)

    def _ring_chosen(self) -> None:
        look, item = self.session.insights.of(PICTURE), self.leftovers.currentItem()
        one = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if look is not None:
            self.view.show_picture(look.shown, (one.at,) if isinstance(one, Leftover) else ())
