"""The picture on a desk of its own: made ready, parted, its colours given to films, its outlines looked at.

Every change is made in the job at once and can be undone. What changes is seen at once on a small copy; the exact
picture follows when the figures do.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainterPath
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSlider,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.edits.pictures import PictureLook, preview_picture, with_circled_kept, with_crop, with_spot
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.job.values import source_in
from vivid_thimble.core.lengths import fine_unit
from vivid_thimble.core.ranges import Fine, Gentle
from vivid_thimble.core.sources.picture import BrushStroke, Picture, Spot
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.prepare import AS_IT_IS, WHOLE, Preparing, Share, level_angle_deg
from vivid_thimble.desktop.dialogs.working_dialog import WorkingDialog
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.derived import PICTURE
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.colour_films import ColourFilms
from vivid_thimble.desktop.stations.gather.picture_canvas import PictureCanvas, Tool
from vivid_thimble.desktop.stations.gather.separation_controls import SeparationControls
from vivid_thimble.desktop.stations.gather.smoothness import SmoothnessSlider
from vivid_thimble.desktop.table.region_path import painter_path
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.panel import Panel, push_button, set_quietly, show_row
from vivid_thimble.desktop.widgets.plain_label import PlainLabel

PAGES = (("ready", "Make ready"), ("part", "Part"), ("films", "Films"), ("outlines", "Outlines"))
VIEWS = (("plain", "Picture"), ("kept", "What is kept"), ("lines", "Outlines"))
CORNERS = (("found", "All that are found"), ("clear", "Only clear ones"), ("none", "None, all round"))
TRACED_AS = (("areas", "Areas, by their outlines"), ("pen", "Pen lines, by their middle"))
OVERLAPS = (("abutting", "Side by side"), ("stacked", "Stacked, the first whole"))
TONES = (
    ("black", "&Black from", 0, 95, 100.0, 0.0),
    ("white", "&White from", 5, 100, 100.0, 1.0),
    ("brightness", "Bri&ghter", -100, 100, 100.0, 0.0),
    ("contrast", "&Contrast", -95, 95, 100.0, 0.0),
    ("soften", "S&ofter", -40, 40, 10.0, 0.0),
    ("denoise", "Less &noise", 0, 100, 100.0, 0.0),
)
"""Of each tone: its value, its word, the range and scale of its slider, and where it rests."""
SIDE_WIDTH = 306


@dataclass(frozen=True)
class _Job:
    """What a tool on the canvas does: how the mouse works, the words under the canvas, what happens then."""

    tool: Tool
    says: str
    then: Callable[[Any], None]


class PictureDesk(WorkingDialog):
    """Beside the window. Closes when the picture is not there any more."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "pictureDesk", "Work on the picture", parent)
        self.resize(1120, 720)
        self._background = Background(self)
        self._previewed: tuple[object, tuple[ColourImage, ColourImage, str] | None] = (None, None)
        self._tool_name = ""
        self._before: list[QPainterPath] | None = None
        row = QHBoxLayout(self)
        row.addLayout(self._left(), 1)
        row.addWidget(self._right())
        session.job_changed.connect(self._show)
        session.insights.changed.connect(self._told)
        self._show()

    # -- layout ---------------------------------------------------------------------

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        top = Panel(self.session)
        top.column.setContentsMargins(0, 0, 0, 0)
        self._views = top.tabs(VIEWS, lambda _: self._show(), "deskView")
        column.addWidget(top)
        self.canvas = PictureCanvas()
        self.canvas.clicked.connect(lambda at: self._use(at))
        self.canvas.drawn.connect(lambda way: self._use(way))
        column.addWidget(self.canvas, 1)
        self.says = PlainLabel()
        self.says.setProperty("role", "hint")
        self.says.setWordWrap(True)
        self.says.setMinimumHeight(34)
        column.addWidget(self.says)
        return column

    def _right(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(SIDE_WIDTH)
        column = QVBoxLayout(side)
        column.setContentsMargins(6, 0, 0, 0)
        head = Panel(self.session)
        head.column.setContentsMargins(0, 0, 0, 0)
        self._tabs = head.tabs(PAGES, self.turn_to, "desk")
        column.addWidget(head)
        self.pages = QStackedWidget()
        self._tools = QButtonGroup(self)
        self._tools.setExclusive(False)
        self._jobs: dict[str, _Job] = {}
        for page in (self._ready_page(), self._part_page(), self._films_page(), self._outlines_page()):
            scroll = QScrollArea()
            scroll.setWidgetResizable(True)
            scroll.setFrameShape(QScrollArea.Shape.NoFrame)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setWidget(page)
            self.pages.addWidget(scroll)
        column.addWidget(self.pages, 1)
        close = QPushButton(tr("Close"))
        close.setObjectName("deskClose")
        close.clicked.connect(lambda _=False: self.close())
        column.addWidget(close)
        return side

    def _ready_page(self) -> Panel:
        page = Panel(self.session)
        page.section("Frame")
        self._add_tool(page, "crop", "&Crop", "box", "Drag a box round what you want.", self._crop)
        self._add_tool(
            page, "level", "&Level a line", "line", "Draw along something that should be level or upright.", self._level
        )
        self._add_tool(
            page,
            "corners",
            "Four c&orners",
            "click",
            "Click the four corners of something that should be a rectangle.",
            self._corner,
        )
        self.whole = push_button("The whole picture again", "deskWhole", self._whole, page.column)
        page.section("Tones")
        self.tones: dict[str, QSlider] = {}
        for name, word, low, high, scale, _ in TONES:
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setObjectName(f"desk_{name}")
            slider.setRange(low, high)
            slider.setAccessibleName(word.replace("&", ""))
            slider.valueChanged.connect(lambda v, n=name, s=scale: self._prepare(n, v / s))
            page.row(word, slider)
            self.tones[name] = slider
        self.invert = QCheckBox(tr("light and dark exchanged"))
        self.invert.setObjectName("deskInvert")
        self.invert.clicked.connect(lambda on: self._prepare("invert", on))
        page.column.addWidget(self.invert)
        self.as_it_came = push_button("Tones as they came", "deskReset", self._reset_tones, page.column)
        page.column.addStretch()
        return page

    def _part_page(self) -> Panel:
        page = Panel(self.session)
        page.section("Kept and ground")
        self.separation = SeparationControls(self.session, "desk")
        page.column.addWidget(self.separation)
        page.section("Background")
        says = "Click on background: everything of that colour goes."
        self._add_tool(page, "away", "Click it &away", "click", says, self._away)
        self.tolerance = QSlider(Qt.Orientation.Horizontal)
        self.tolerance.setObjectName("deskTolerance")
        self.tolerance.setRange(4, 70)
        self.tolerance.setAccessibleName(tr("How far colours may differ from the one that was clicked"))
        self.tolerance.setValue(round(Spot(at=(0.0, 0.0)).tolerance))
        self.tolerance.valueChanged.connect(lambda v: self._set_tolerance(float(v)))
        page.row("&Tolerance", self.tolerance)
        self.connected = QCheckBox(tr("only what is connected to the click"))
        self.connected.setObjectName("deskConnected")
        page.column.addWidget(self.connected)
        self.back = push_button(
            "Bring the background back", "deskBack", lambda: self._change("Background back", background=()), page.column
        )
        page.section("By hand")
        on = self._tool("add", "Brush o&n", "free", "Paint over what should be kept.", partial(self._brush, True))
        off = self._tool("take", "Brush o&ff", "free", "Paint over what should go.", partial(self._brush, False))
        _beside(page, on, off)
        self.brush = QSlider(Qt.Orientation.Horizontal)
        self.brush.setObjectName("deskBrush")
        self.brush.setRange(2, 80)
        self.brush.setValue(14)
        self.brush.setAccessibleName(tr("Width of the brush"))
        self.brush.valueChanged.connect(lambda _: self._take_tool())
        page.row("&Brush", self.brush)
        self.unbrushed = push_button(
            "Without the brush", "deskUnbrushed", lambda: self._change("Without the brush", strokes=()), page.column
        )
        page.section("Cut an object out")
        says = "Scribble on the object."
        stays = self._tool("stays", "Scribble: &stays", "free", says, partial(self._scribble, True))
        says = "Scribble on what goes; without it the picture's frame is ground."
        goes = self._tool("goes", "Scribble: &goes", "free", says, partial(self._scribble, False))
        _beside(page, stays, goes)
        self.uncut = push_button(
            "Without cutting out", "deskUncut", lambda: self._change("Without cutting out", scribbles=()), page.column
        )
        page.section("Leftovers")
        self.leftovers = page.hint()
        self.speck = NumberField("Specks up to this size across go", "deskSpeck", Gentle)
        self.speck.committed.connect(lambda mm: self._change("Size of specks", speck_area=mm * mm))
        page.row("S&pecks up to", self.speck)
        self.pinhole = NumberField("Pinholes up to this size across are filled", "deskPinhole", Gentle)
        self.pinhole.committed.connect(lambda mm: self._change("Size of pinholes", pinhole_area=mm * mm))
        page.row("Pin&holes up to", self.pinhole)
        says = "Draw round leftovers that are to stay."
        self._add_tool(page, "circle", "&Keep what I circle", "free", says, self._circle)
        page.column.addStretch()
        return page

    def _films_page(self) -> Panel:
        page = Panel(self.session)
        self.no_colours = page.hint("Part the picture by colours or by tones to use several films.")
        self.films = ColourFilms(self.session, "deskFilms")
        page.column.addWidget(self.films)
        self.overlap = page.choice("deskOverlap", OVERLAPS, lambda key: self._change("Films", overlap=key))
        self.overlap_row = page.row("F&ilms lie", self.overlap)
        self.trap = NumberField("How far each film reaches under the next", "deskTrap", Gentle)
        self.trap.committed.connect(lambda mm: self._change("Films under each other", trap=max(mm, 0.0)))
        self.trap_row = page.row("&Under next", self.trap)
        page.hint("Where films meet, a little of each under the next hides small shifts.")
        page.column.addStretch()
        return page

    def _outlines_page(self) -> Panel:
        page = Panel(self.session)
        page.section("Outlines")
        self.ease = SmoothnessSlider(page, "deskEase")
        self.corners = page.choice("deskCorners", CORNERS, lambda key: self._change("Corners", corners=key))
        page.row("&Corners", self.corners)
        self.traced_as = page.choice("deskTracedAs", TRACED_AS, lambda key: self._change("Trace", traced_as=key))
        page.row("&Trace", self.traced_as)
        self.pen = NumberField("Width of the pen", "deskPen", Fine)
        self.pen.committed.connect(lambda mm: self._change("Width of the pen", pen_width=mm))
        self.pen_row = page.row("&Pen", self.pen)
        self.own_pen = push_button(
            "As wide as it was drawn",
            "deskOwnPen",
            lambda: self._change("Width of the pen", pen_width=None),
            page.column,
        )
        self.nodes = page.hint()
        self.before = QPushButton(tr("Hold to see it &before"))
        self.before.setObjectName("deskBefore")
        self.before.setToolTip(tr("The outlines as they were when this page was opened"))
        self.before.pressed.connect(self._show)
        self.before.released.connect(self._show)
        page.column.addWidget(self.before)
        page.column.addStretch()
        return page

    def _add_tool(self, page: Panel, name: str, word: str, tool: Tool, says: str, then: Callable[[Any], None]) -> None:
        page.column.addWidget(self._tool(name, word, tool, says, then))

    def _tool(self, name: str, word: str, tool: Tool, says: str, then: Callable[[Any], None]) -> QPushButton:
        """A button that takes something in hand, or puts it down."""
        button = QPushButton(tr(word))
        button.setObjectName(f"deskTool_{name}")
        button.setCheckable(True)
        button.clicked.connect(lambda on, n=name: self._hold(n if on else ""))
        self._jobs[name] = _Job(tool, says, then)
        self._tools.addButton(button)
        return button

    # -- showing --------------------------------------------------------------------

    def turn_to(self, key: str) -> None:
        """Open one of the pages."""
        self._tabs[key].setChecked(True)
        self.pages.setCurrentIndex([k for k, _ in PAGES].index(key))
        self._hold("")
        self._before = None
        view = {"ready": "plain", "part": "kept", "films": "kept", "outlines": "lines"}[key]
        self._views[view].setChecked(True)
        self._show()

    @property
    def picture(self) -> Picture | None:
        return source_in(self.session.job, self._element_id, Picture)

    @property
    def look(self) -> PictureLook | None:
        return self.session.insights.of(PICTURE) if self.session.chosen == self._element_id else None

    def _told(self, insight: object) -> None:
        if insight is PICTURE:
            self._show()

    def _show(self) -> None:
        picture = self.picture
        if picture is None:
            self.close()
            return
        self._show_controls(picture, self.look)
        self._preview(self._on_canvas(picture))
        self._show_canvas(picture)

    def _show_controls(self, picture: Picture, look: PictureLook | None) -> None:
        preparing = picture.preparing
        for name, _, _, _, scale, _ in TONES:
            set_quietly(self.tones[name], getattr(preparing, name) * scale)
        self.invert.setChecked(preparing.invert)
        framed = (preparing.four_corners, preparing.level_deg, preparing.crop) != ((), 0.0, WHOLE)
        self.whole.setEnabled(framed)
        self.as_it_came.setEnabled(replace(preparing, four_corners=(), level_deg=0.0, crop=WHOLE) != AS_IT_IS)
        self.separation.show_picture(picture)
        if picture.background:
            set_quietly(self.tolerance, picture.background[-1].tolerance)
        self.back.setVisible(bool(picture.background))
        self.unbrushed.setVisible(bool(picture.strokes))
        self.uncut.setVisible(bool(picture.scribbles))
        self.ease.show_picture(picture)
        self.corners.setCurrentIndex(self.corners.findData(picture.corners))
        self.traced_as.setCurrentIndex(self.traced_as.findData(picture.traced_as))
        pen = picture.traced_as == "pen"
        self.corners.setEnabled(not pen)
        show_row(self.pen_row, visible=pen)
        self.own_pen.setVisible(pen and picture.pen_width is not None)
        self.pen.set_unit(fine_unit(self.session.job.unit))
        self.pen.set_value(picture.pen_width or (look.pen_width if look is not None else None) or 0.0)
        self.overlap.setCurrentIndex(self.overlap.findData(picture.overlap))
        for field, area in ((self.speck, picture.speck_area), (self.pinhole, picture.pinhole_area)):
            field.set_unit(fine_unit(self.session.job.unit))
            field.set_value(area**0.5)
        self.trap.set_unit(fine_unit(self.session.job.unit))
        self.trap.set_value(picture.trap)
        several = picture.films > 1
        self.overlap.setEnabled(several)
        self.trap.setEnabled(several and picture.overlap == "abutting")
        if look is None:
            return
        self.films.show_films(picture.films, look.areas, look.films)
        self.films.setVisible(bool(look.areas))
        self.no_colours.setVisible(not look.areas)
        self.nodes.setText(tr(f"{look.nodes} nodes."))
        count = len(look.leftovers)
        self.leftovers.setText(
            tr(
                f"{count} pieces look like dirt or background."
                if count != 1
                else "1 piece looks like dirt or background."
            )
        )

    def _on_canvas(self, picture: Picture) -> Picture:
        """What the canvas shows: with a frame in hand, the picture before it was framed."""
        preparing = picture.preparing
        if self._tool_name == "crop" or self._tool_name == "level":
            preparing = replace(preparing, crop=WHOLE)
        elif self._tool_name == "corners":
            preparing = replace(preparing, crop=WHOLE, level_deg=0.0, four_corners=())
        return replace(picture, preparing=preparing)

    def _show_canvas(self, picture: Picture) -> None:
        framing = self._tool_name in ("crop", "level", "corners")
        view = "plain" if framing else next(key for key, button in self._views.items() if button.isChecked())
        look = self.look
        key, quick = self._previewed
        current = quick if key == self._on_canvas(picture) else None
        if look is not None and not framing and self._is_exact(picture):
            self.canvas.show_picture(look.shown if view == "kept" else look.plain)
        elif current is not None:
            self.canvas.show_picture(current[1] if view == "kept" else current[0])
        lines: list[tuple[QPainterPath, QColor]] = []
        if view == "lines" and look is not None:
            paths = [painter_path(one) for one in look.outlines]
            if self._before is None:
                self._before = paths
            shown = self._before if self.before.isDown() else paths
            lines = [(path, QColor(PALETTES["day"].thread)) for path in shown]
        self.canvas.show_outlines(lines)
        crop = picture.preparing.crop if self._tool_name == "crop" and picture.preparing.crop != WHOLE else None
        rings = [one.at for one, _ in look.leftovers] if look is not None and self._tool_name == "circle" else []
        marks = self._corners if self._tool_name == "corners" else [spot.at for spot in picture.background]
        self.canvas.show_marks(rings, crop, marks if not framing or self._tool_name == "corners" else [])
        says = self._jobs[self._tool_name].says if self._tool_name else ""
        told = look.says if look is not None else current[2] if current is not None else ""
        self.says.setText(tr(says or told))

    def _is_exact(self, picture: Picture) -> bool:
        """Whether what was worked out last is of the picture as it is now."""
        element = self.session.evaluated(self._element_id)
        return element is not None and element.source == picture

    def _preview(self, shown: Picture) -> None:
        """Work the small copy out anew; while one is on its way the next waits."""
        if self._previewed[0] == shown or self._background.is_busy:
            return
        assets, cache = dict(self.session.assets), self.session.cache
        self._background.run(lambda: preview_picture(shown, assets, cache), partial(self._take_preview, shown))

    def _take_preview(self, shown: Picture, answer: tuple[ColourImage, ColourImage, str] | Failed) -> None:
        if isinstance(answer, Failed):
            self._previewed = (shown, None)
            told = isinstance(answer.error, ThimbleError)
            self.says.setText(
                tr(str(answer.error) if told else f"This cannot be shown ({answer.error}): undo the last edit.")
            )
            return
        self._previewed = (shown, answer)
        picture = self.picture
        if picture is not None:
            self._preview(self._on_canvas(picture))
            self._show_canvas(picture)

    # -- tools ----------------------------------------------------------------------

    def _hold(self, name: str) -> None:
        """Take a tool in hand; "" puts it down."""
        self._tool_name = name
        self._corners: list[Share] = []
        for button in self._tools.buttons():
            button.setChecked(button.objectName() == f"deskTool_{name}")
        self._take_tool()
        self._show()

    def _take_tool(self) -> None:
        name = self._tool_name
        brushing = name in ("add", "take", "stays", "goes")
        self.canvas.take(self._jobs[name].tool if name else "none", self._brush_radius if brushing else 0.0)

    @property
    def _brush_radius(self) -> float:
        return self.brush.value() / 1000.0

    def _use(self, at: Any) -> None:
        if self._tool_name:
            self._jobs[self._tool_name].then(at)

    def _change(self, title: str, *, merge: str = "", **values: object) -> None:
        if self.picture is not None and self.session.chosen != self._element_id:
            self.session.choose(self._element_id)
        self.separation.change_source(Picture, title, merge=merge, **values)

    def _prepare(self, name: str, value: object) -> None:
        if self.picture is not None:
            preparing: Preparing = replace(self.picture.preparing, **{name: value})
            self._change("Tones", merge=f"tones {name}", preparing=preparing)

    def _reset_tones(self) -> None:
        if self.picture is not None:
            own = self.picture.preparing
            kept = replace(AS_IT_IS, four_corners=own.four_corners, level_deg=own.level_deg, crop=own.crop)
            self._change("Tones as they came", preparing=kept)

    def _whole(self) -> None:
        if self.picture is not None:
            whole = with_crop(self.picture, WHOLE)
            preparing = replace(whole.preparing, four_corners=(), level_deg=0.0)
            self._change_all("The whole picture", replace(whole, preparing=preparing))

    def _change_all(self, title: str, picture: Picture) -> None:
        """Everything that a crop moves."""
        names = ("preparing", "background", "strokes", "scribbles", "kept_places")
        self._change(title, **{name: getattr(picture, name) for name in names})

    def _crop(self, way: tuple[Share, ...]) -> None:
        (x0, y0), (x1, y1) = way[0], way[-1]
        if self.picture is not None and abs(x1 - x0) > 0.01 and abs(y1 - y0) > 0.01:
            self._hold("")
            self._change_all("Crop", with_crop(self.picture, (x0, y0, x1, y1)))

    def _level(self, way: tuple[Share, ...]) -> None:
        picture, shown = self.picture, self._previewed[1]
        if picture is not None and shown is not None and way[0] != way[-1]:
            rows, columns = shown[0].shape[:2]
            turn = picture.preparing.level_deg + level_angle_deg(way[0], way[-1], columns, rows)
            self._hold("")
            self._change("Level", preparing=replace(picture.preparing, level_deg=turn))

    def _corner(self, at: Share) -> None:
        self._corners.append(at)
        if len(self._corners) == 4 and self.picture is not None:
            corners = _in_order(self._corners)
            self._hold("")
            preparing = replace(self.picture.preparing, four_corners=corners, level_deg=0.0, crop=WHOLE)
            self._change("Four corners", preparing=preparing)
        else:
            self._show()

    def _away(self, at: Share) -> None:
        if self.picture is not None:
            changed = with_spot(self.picture, at, float(self.tolerance.value()), connected=self.connected.isChecked())
            self._change("Background away", background=changed.background)

    def _set_tolerance(self, tolerance: float) -> None:
        """Of the last click."""
        if self.picture is not None and self.picture.background:
            *others, last = self.picture.background
            spots = (*others, replace(last, tolerance=tolerance))
            self._change("Tolerance", merge="tolerance", background=spots)

    def _brush(self, adds: bool, way: tuple[Share, ...]) -> None:
        if self.picture is not None:
            stroke = BrushStroke(adds=adds, radius=self._brush_radius, points=_thinned(way))
            self._change("Brush on" if adds else "Brush off", strokes=(*self.picture.strokes, stroke))

    def _scribble(self, adds: bool, way: tuple[Share, ...]) -> None:
        if self.picture is not None:
            stroke = BrushStroke(adds=adds, radius=self._brush_radius, points=_thinned(way))
            self._change("Scribble", scribbles=(*self.picture.scribbles, stroke))

    def _circle(self, way: tuple[Share, ...]) -> None:
        if self.picture is not None and self.look is not None:
            kept = with_circled_kept(self.picture, [one for one, _ in self.look.leftovers], way)
            self._change("Keep leftovers", kept_places=kept.kept_places)

    def stop(self) -> None:
        self._background.stop()


def _beside(page: Panel, *buttons: QPushButton) -> None:
    row = QHBoxLayout()
    for button in buttons:
        row.addWidget(button)
    page.column.addLayout(row)


def _in_order(corners: list[Share]) -> tuple[Share, ...]:
    """Top left, top right, bottom right, bottom left, whatever the order of the clicks."""
    by_height = sorted(corners, key=lambda at: at[1])
    top, bottom = sorted(by_height[:2]), sorted(by_height[2:], reverse=True)
    return (*top, *bottom)


def _thinned(way: tuple[Share, ...], least: float = 0.002) -> tuple[Share, ...]:
    """A drawn line without points that say nothing."""
    kept = [way[0]]
    for at in way[1:]:
        if abs(at[0] - kept[-1][0]) + abs(at[1] - kept[-1][1]) >= least:
            kept.append(at)
    return tuple((round(x, 4), round(y, 4)) for x, y in kept)
