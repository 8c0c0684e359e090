"""The main window: size strip, work path, table, tray; menus and files."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path as FilePath

from PySide6.QtCore import QBuffer, QIODevice, QSettings, Qt, QTimer
from PySide6.QtGui import (
    QAction,
    QActionGroup,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QImage,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.arrange import moved, stretched
from vivid_thimble.core.bridge_edits import with_bridge
from vivid_thimble.core.bridging.plan import Bridge
from vivid_thimble.core.demo import DEMO_JOBS, demo_assets, demo_job
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.formats.raster_read import ENDINGS as PICTURE_ENDINGS
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job import Job, all_elements, new_job, steps_of
from vivid_thimble.core.project import ENDING
from vivid_thimble.core.remedies import REMEDY_WORDS, remedied, remedied_all
from vivid_thimble.core.steps import Bridges
from vivid_thimble.desktop.history import HistoryDialog, small_picture
from vivid_thimble.desktop.insights import Name
from vivid_thimble.desktop.inspecting.size_page import surface_words
from vivid_thimble.desktop.panel import clear_layout
from vivid_thimble.desktop.recovery import Recovery
from vivid_thimble.desktop.session import Session
from vivid_thimble.desktop.size_strip import SizeStrip
from vivid_thimble.desktop.stations import STATIONS, Station
from vivid_thimble.desktop.stations.gather import DRAWINGS, GatherStation
from vivid_thimble.desktop.stations.inspect import InspectStation
from vivid_thimble.desktop.stations.shape import ShapeStation
from vivid_thimble.desktop.table.table import LOOKS, Look, Table
from vivid_thimble.desktop.theme import Palette
from vivid_thimble.desktop.work_path import WorkPath

TRAY_WIDTH = 316
STATUS_HEIGHT = 34
PATIENCE_MS = 400
"""Work that takes longer can be stopped."""
HANDLES_IN = ("gather", "shape")
"""Stations in which what is in hand shows its handles."""
STATION_LOOKS: dict[str, Look] = {"cut": "cut", "weed": "waste"}
Shortcut = QKeySequence | QKeySequence.StandardKey


class MainWindow(QMainWindow):
    """One job on one bench."""

    def __init__(self, palette: Palette, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.session = Session(parent=self)
        self.recovery = recovery
        self.strip = SizeStrip(palette)
        self.table = Table(palette)
        self.work_path = WorkPath([(s.KEY, s.TITLE) for s in STATIONS], palette)
        self.stations: dict[str, Station] = {s.KEY: s(self.session) for s in STATIONS}
        self.tray = QStackedWidget()
        self.notice = QFrame()
        self.notice_text = QLabel()
        self._build()
        self._connect()
        self._build_menus()
        self.go_to("measure")
        self._show_job()

    # -- parts ----------------------------------------------------------------------

    def _build(self) -> None:
        self.tray.setObjectName("tray")
        self.tray.setFixedWidth(TRAY_WIDTH)
        for station in self.stations.values():
            scroll = QScrollArea()
            scroll.setWidget(station)
            scroll.setWidgetResizable(True)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.tray.addWidget(scroll)
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._look_bar())
        middle.addWidget(self.table, 1)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.work_path)
        body.addLayout(middle, 1)
        body.addWidget(self.tray)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addWidget(self._notice_bar())
        column.addLayout(body, 1)
        self.setCentralWidget(centre)
        self.place_label = QLabel()
        self.state_label = QLabel()
        self.stop_button = QPushButton("Stop")
        self.stop_button.setObjectName("stopWork")
        self.stop_button.setToolTip("Take the last edit back instead of waiting for it; redo brings it again")
        self.stop_button.clicked.connect(lambda _=False: self.session.leave_edit())
        self.stop_button.hide()
        self._doing = "measuring…"
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self._show_state)
        self.statusBar().addWidget(self.place_label, 1)
        self.statusBar().addPermanentWidget(self.state_label)
        self.statusBar().addPermanentWidget(self.stop_button)
        self.statusBar().setSizeGripEnabled(False)
        self.statusBar().setFixedHeight(STATUS_HEIGHT)  # the table must not jump when the button comes and goes

    def _look_bar(self) -> QWidget:
        bar = QWidget()
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 5, 10, 5)
        row.setSpacing(0)
        group = QButtonGroup(bar)
        self.look_buttons: dict[str, QPushButton] = {}
        for number, (look, word) in enumerate(LOOKS, start=1):
            button = self._bar_button(word, f"look_{look}", f"Ctrl+{number}", partial(self.set_look, look))
            button.setCheckable(True)
            button.setChecked(look == "finished")
            group.addButton(button)
            row.addWidget(button)
            self.look_buttons[look] = button
        row.addStretch()
        row.addWidget(self._bar_button("−", "zoomOut", "Ctrl+-", partial(self.table.zoom_by, 0.8)))
        row.addWidget(self._bar_button("+", "zoomIn", "Ctrl++", partial(self.table.zoom_by, 1.25)))
        row.addWidget(self._bar_button("Whole item", "zoomFit", "Ctrl+0", self.table.zoom_to_fit))
        row.addWidget(self._bar_button("True size", "zoomTrue", "Ctrl+9", self.table.zoom_to_true_size))
        return bar

    def _bar_button(self, word: str, name: str, key: str, then: Callable[[], object]) -> QPushButton:
        button = QPushButton(word)
        button.setObjectName(name)
        button.setShortcut(key)
        spoken = {"−": "Smaller", "+": "Larger"}.get(word, word)
        button.setToolTip(f"{spoken} ({key})")
        button.setAccessibleName(spoken)
        button.clicked.connect(lambda _=False: then())
        return button

    def _notice_bar(self) -> QWidget:
        self.notice.setObjectName("noticeBar")
        row = QHBoxLayout(self.notice)
        row.setContentsMargins(14, 6, 10, 6)
        self.notice_text.setObjectName("noticeText")
        self.notice_text.setWordWrap(True)
        row.addWidget(self.notice_text, 1)
        self.notice_buttons = QHBoxLayout()
        row.addLayout(self.notice_buttons)
        close = QPushButton("Close")
        close.setObjectName("closeNotice")
        close.clicked.connect(self.notice.hide)
        row.addWidget(close)
        self.notice.hide()
        return self.notice

    def _connect(self) -> None:
        self.session.job_changed.connect(self._show_job)
        self.session.element_chosen.connect(self._show_job)
        self.session.result_changed.connect(self._show_result)
        self.session.reading_changed.connect(self._show_state)
        self.session.doing_changed.connect(self._show_doing)
        self.session.file_changed.connect(self._show_title)
        self.work_path.station_chosen.connect(self.go_to)
        self.strip.width_typed.connect(partial(self.session.size_design, 0))
        self.strip.height_typed.connect(partial(self.session.size_design, 1))
        self.strip.walk.connect(self._walk)
        self.strip.sizes_wanted.connect(self._show_sizes)
        self.strip.item_wanted.connect(self.session.hold_item)
        self.table.moved.connect(self._move_element)
        self.table.resized.connect(self._resize_picked)
        self.table.element_pressed.connect(self.session.press)
        self.table.also_pressed.connect(self.session.pick_also)
        self.table.finding_pressed.connect(self._hold_marked)
        self.table.pointed.connect(self.place_label.setText)
        for station in self.stations.values():
            station.told.connect(self.tell)
            station.finding_chosen.connect(self._show_finding)
            station.look_wanted.connect(self.set_look)
        self.gather_station.audition_wanted.connect(self._open_audition)
        self.gather_station.set_wanted.connect(self._open_set)
        self.gather_station.places_wanted.connect(self.table.show_places)
        self.gather_station.underlay_changed.connect(self.table.show_underlay)
        shape = self.shape_station
        shape.place.proportions_kept.connect(self.table.keep_proportions)
        shape.pairs_shown.connect(self.table.show_pairs)
        shape.spot_wanted.connect(self.table.show_spot)
        shape.bridges_shown.connect(self.table.show_bridges)
        shape.sheet.edges_shown.connect(lambda shown: self.table.show_sheet_edges(shown=shown))
        self.table.margin_dragged.connect(shape.sheet.drag_margin)
        self.table.letter_nudged.connect(shape.steps.joins.nudge_letter)
        bridges = shape.steps.bridges
        bridges.held.connect(self.table.hold_bridge)
        bridges.adding.connect(self.table.add_bridge)
        self.table.bridge_held.connect(bridges.hold)
        self.table.bridge_placed.connect(self._place_bridge)
        self.table.bridge_out.connect(bridges.take_out)
        inspect = self.inspect_station
        inspect.remedy_wanted.connect(self._apply_remedy)
        inspect.all_wanted.connect(self._apply_to_all)
        inspect.preview_wanted.connect(self._preview_remedy)
        inspect.spot_wanted.connect(self.table.show_spot)
        inspect.true_size_wanted.connect(self.table.zoom_to_true_size)
        inspect.widths.side_chosen.connect(self._show_insights)
        self.session.insights.changed.connect(lambda _: self._show_insights())

    @property
    def inspect_station(self) -> InspectStation:
        station = self.stations["inspect"]
        assert isinstance(station, InspectStation)
        return station

    @property
    def shape_station(self) -> ShapeStation:
        station = self.stations["shape"]
        assert isinstance(station, ShapeStation)
        return station

    @property
    def gather_station(self) -> GatherStation:
        station = self.stations["gather"]
        assert isinstance(station, GatherStation)
        return station

    def _build_menus(self) -> None:
        menu = self.menuBar().addMenu("&Job")
        self._action(menu, "&New", QKeySequence.StandardKey.New, self.new)
        self._action(menu, "&Open…", QKeySequence.StandardKey.Open, self.choose_and_open)
        self.recent_menu = menu.addMenu("Open &recent")
        self.recent_menu.aboutToShow.connect(self._fill_recent)
        self._action(menu, "&Save", QKeySequence.StandardKey.Save, self.save)
        self._action(menu, "Save &as…", QKeySequence.StandardKey.SaveAs, self.save_as)
        menu.addSeparator()
        demos = menu.addMenu("&Demonstrations")
        for title, make in DEMO_JOBS.items():
            self._action(demos, title, None, partial(self.open_demo, make))
        menu.addSeparator()
        self._action(menu, "&Quit", QKeySequence.StandardKey.Quit, self.close)
        edit = self.menuBar().addMenu("&Edit")
        self.undo_action = self._action(edit, "&Undo", QKeySequence.StandardKey.Undo, self.session.undo)
        self.redo_action = self._action(edit, "&Redo", QKeySequence.StandardKey.Redo, self.session.redo)
        self._action(edit, "&History…", QKeySequence("Ctrl+H"), self._open_history)
        self._action(edit, "&Paste a drawing or picture", QKeySequence.StandardKey.Paste, self.paste)
        view = self.menuBar().addMenu("&Look")
        self._action(view, "&Next finding", QKeySequence("F8"), partial(self._step_finding, 1))
        self._action(view, "&Previous finding", QKeySequence("Shift+F8"), partial(self._step_finding, -1))
        self._action(view, "Full-screen table", QKeySequence("F11"), self._toggle_full_table)
        palettes = QActionGroup(self)
        for key, word in (("day", "Workroom by day"), ("evening", "Workroom by evening")):
            action = self._action(view, word, None, partial(self._set_palette, key))
            action.setCheckable(True)
            action.setChecked(QSettings().value("palette", "day") == key)
            palettes.addAction(action)
        aid = self.menuBar().addMenu("&Help")
        self._action(aid, "All &shortcuts", QKeySequence("Ctrl+/"), self._show_shortcuts)

    def _action(self, menu: QMenu, word: str, key: Shortcut | None, then: Callable[[], object]) -> QAction:
        action = QAction(word, self)
        if key is not None:
            action.setShortcut(key)
        action.triggered.connect(lambda _=False: then())
        menu.addAction(action)
        return action

    # -- showing --------------------------------------------------------------------

    def go_to(self, key: str) -> None:
        self.tray.setCurrentIndex(list(self.stations).index(key))
        self.work_path.show_station(key)
        self.table.show_places(())
        self.table.show_handles(shown=key in HANDLES_IN)
        self.set_look(STATION_LOOKS.get(key, "finished"))

    def set_look(self, key: Look) -> None:
        self.look_buttons[key].setChecked(True)
        self.table.set_look(key)
        wanted: dict[str, tuple[Name, ...]] = {
            "widths": ("widths",),
            "surface": ("lost",),
            "waste": ("weeding",),
        }
        self.session.insights.want("table", *wanted.get(key, ()))
        self._show_insights()

    def _show_insights(self) -> None:
        """What the width look and the surface look show, as far as it is worked out."""
        insights, widths = self.session.insights, self.inspect_station.widths
        if self.table.look == "widths":
            self.table.show_widths(widths.chords, widths.title)
        elif self.table.look == "surface":
            words = surface_words(self.session.result, insights.lost) if insights.has("lost") else "Working it out…"
            self.table.show_lost(insights.lost, words)
        elif self.table.look == "waste":
            self.table.show_plan(insights.weeding)

    def tell(self, sentence: str) -> None:
        """One sentence in the notice bar; nothing modal, nothing lost."""
        clear_layout(self.notice_buttons)
        self.notice_text.setText(sentence)
        self.notice.show()

    def _show_job(self) -> None:
        job = self.session.job
        self.strip.show_job(job)
        for station in self.stations.values():
            if self.sender() is None:
                station.show_job()
        if self.session.result is None:
            self.table.forget_result()
        self._doing = "measuring…"
        self._patience.start()
        self.table.show_job(job, self.session.picked)
        undo, redo = self.session.undo_name(), self.session.redo_name()
        self.undo_action.setText(f"&Undo: {undo}" if undo else "&Undo")
        self.redo_action.setText(f"&Redo: {redo}" if redo else "&Redo")
        self.undo_action.setEnabled(bool(undo))
        self.redo_action.setEnabled(bool(redo))
        self._show_title()
        self._show_standings()
        self._show_state()
        if self.recovery is not None:
            self.recovery.job_changed(self.session)

    def _show_result(self) -> None:
        if self.session.failure:
            self.tell(self.session.failure)
        result = self.session.result
        if result is None:
            return
        self.strip.show_result(result, self.session.job.unit)
        self.table.show_result(result)
        self._show_insights()
        self._show_standings()
        self._show_state()
        if result.item.id == self.session.job.item.id:
            self.session.remember_picture(small_picture(result, self.table.colours))

    def _show_state(self) -> None:
        reading = f"reading {self.session.reading}…" if self.session.is_reading else ""
        self.state_label.setText(reading or (self._doing if self.session.is_busy else ""))
        waiting = self.session.is_evaluating
        self.stop_button.setVisible(waiting and not self._patience.isActive() and bool(self.session.undo_name()))
        if not waiting:
            self._patience.stop()

    def _show_doing(self, doing: str) -> None:
        self._doing = f"{doing}…"
        self._show_state()

    def _show_standings(self) -> None:
        self.work_path.show_standings({key: station.standing() for key, station in self.stations.items()})

    def _show_title(self) -> None:
        name = self.session.path.name if self.session.path else self.session.job.name
        self.setWindowTitle(f"{name}{'' if self.session.is_saved else ' •'} — Vivid Thimble")

    # -- intentions -----------------------------------------------------------------

    def _move_element(self, dx: float, dy: float) -> None:
        picked = self.session.picked
        if picked:
            self.session.change("Move", moved(self.session.job, picked, dx, dy), merge=f"move {' '.join(picked)}")

    def _resize_picked(self, factors: tuple[float, float], about: tuple[float, float]) -> None:
        picked = self.session.picked
        if picked:
            self.session.change("Size of the element", stretched(self.session.job, picked, *factors, about))

    def _place_bridge(self, bridge: Bridge, instead_of: int) -> None:
        """A bridge was dragged, turned or added on the table."""
        hands = self.table.bridges
        if hands.found is None:
            return
        number = instead_of if instead_of >= 0 else None
        job = with_bridge(self.session.job, hands.owner, hands.found, bridge, number)
        self.session.change("Place a bridge", job, merge="" if number is None else "slide a bridge")
        step = next(one for one in steps_of(job, hands.owner) if one.id == hands.found.step.id)
        assert isinstance(step, Bridges)
        self.shape_station.steps.bridges.expect(len(step.placed) - len(hands.found.found.unfit) - 1)

    def _show_sizes(self) -> None:
        self.go_to("inspect")
        self.inspect_station.turn_to("size")

    def _walk(self, kinds: tuple[str, ...]) -> None:
        """From a gauge to the next of its places."""
        result = self.session.result
        if not kinds or result is None:
            self.go_to("weed")
            return
        wanted = [k for k, f in enumerate(result.findings) if f.kind in kinds]
        self.go_to("inspect")
        if not wanted:
            self._show_thinnest(kinds)
            return
        now = self.inspect_station.findings.current
        after = [k for k in wanted if k > now]
        self.inspect_station.hold((after or wanted)[0])

    def _show_thinnest(self, kinds: tuple[str, ...]) -> None:
        """Nothing is below the limit: show where the figure was measured."""
        assert self.session.result is not None
        inspection = self.session.result.layers[0].inspection
        side = {"thin-line": inspection.lines, "thin-gap": inspection.gaps}.get(kinds[0])
        place = side.thinnest if side is not None else None
        if place is not None:
            word = "line" if "thin-line" in kinds else "gap"
            spot = Finding(
                "note",
                "look",
                f"The thinnest {word}: {place.thinnest:.2f} mm.",
                place.at,
                place.thinnest,
                min(place.length, 20.0),
                ends=place.ends,
            )
            self.table.show_spot(spot)

    def _step_finding(self, by: int) -> None:
        self.go_to("inspect")
        self.inspect_station.step(by)

    def _hold_marked(self, index: int) -> None:
        """A tag on the table was pressed."""
        result = self.session.result
        if result is not None and index < len(self.table.findings):
            self.go_to("inspect")
            self.inspect_station.hold(result.findings.index(self.table.findings[index]))

    def _show_finding(self, row: int) -> None:
        result = self.session.result
        if result is None or row >= len(result.findings):
            return
        finding = result.findings[row]
        if finding.at is not None:
            self.table.hold_finding(self.table.findings.index(finding))
            self.table.zoom_to_finding(finding)

    def _apply_remedy(self, remedy: str, finding: Finding) -> None:
        result = self.session.result
        job = remedied(self.session.job, result, finding, remedy) if result is not None else None
        if job is not None:
            self.session.change(REMEDY_WORDS[remedy], job)

    def _apply_to_all(self, remedy: str, finding: Finding) -> None:
        result = self.session.result
        job = remedied_all(self.session.job, result, finding, remedy) if result is not None else None
        if job is not None:
            self.session.change(f"{REMEDY_WORDS[remedy]}, all", job)

    def _preview_remedy(self, remedy: str, finding: Finding | None) -> None:
        """Outlines of what a remedy would make of the films, while its button is pointed at."""
        self.table.show_preview(None)
        self.session.look_ahead(None)
        result = self.session.result
        if not remedy or finding is None or result is None or self.session.is_evaluating:
            return
        job = remedied(self.session.job, result, finding, remedy)
        if job is None:
            return
        self.session.look_ahead(
            job, lambda answer: self.table.show_preview([layer.kept.polygons for layer in answer.layers])
        )

    def _open_audition(self) -> None:
        """One audition at a time; it goes on while the window is used."""
        from vivid_thimble.desktop.audition import AuditionDialog  # here: most sessions never need it

        for dialog in self.findChildren(AuditionDialog):
            dialog.close()
        AuditionDialog(self.session, self).show()

    def _open_set(self) -> None:
        """One set at a time; it goes on while the window is used."""
        from vivid_thimble.desktop.set_dialog import SetDialog  # here: most sessions never need it

        for dialog in self.findChildren(SetDialog):
            dialog.close()
        SetDialog(self.session, self).show()

    def _open_history(self) -> None:
        """One list of edits at a time; it goes on while the window is used."""
        for dialog in self.findChildren(HistoryDialog):
            dialog.close()
        HistoryDialog(self.session, self).show()

    def _toggle_full_table(self) -> None:
        full = self.tray.isVisible()
        for widget in (self.tray, self.work_path):
            widget.setVisible(not full)

    def _set_palette(self, key: str) -> None:
        QSettings().setValue("palette", key)
        self.tell("The other palette is used from the next start.")

    def _show_shortcuts(self) -> None:
        lines = [
            f"{a.text().replace('&', '').split(':')[0]}: {a.shortcut().toString()}"
            for a in self.findChildren(QAction)
            if not a.shortcut().isEmpty()
        ]
        lines += [
            f"{b.text().replace('&', '')}: {b.shortcut().toString()}"
            for b in self.findChildren(QPushButton)
            if not b.shortcut().isEmpty()
        ]
        lines += [
            "Stations: Alt+1 to Alt+6",
            "Nudge on the table: arrow keys, with Shift ten times as far",
            "Pan: middle button, or space and drag",
            "Zoom: wheel, + and −",
        ]
        box = QMessageBox(QMessageBox.Icon.NoIcon, "All shortcuts", "\n".join(lines), parent=self)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # -- files ----------------------------------------------------------------------

    def new(self) -> None:
        if self._may_leave():
            self.session.start(new_job(), {})
            self.go_to("measure")

    def open_demo(self, make: Callable[[], Job] = demo_job) -> None:
        """One of the demonstrations; what it does not need of the shipped files is left out when it is saved."""
        if self._may_leave():
            self.session.start(make(), demo_assets())
            self.go_to("inspect")

    def choose_and_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self,
            "Open",
            "",
            f"Jobs, drawings, pictures, fonts (*{ENDING} {DRAWINGS} *.ttf *.otf *.woff2);;All files (*)",
        )
        if name:
            self.open_file(FilePath(name))

    def open_file(self, path: FilePath) -> None:
        """A project becomes the job; a drawing or font joins it."""
        ending = path.suffix.lower()
        if ending in (".svg", ".svgz", ".dxf", ".pdf", ".zip", *PICTURE_ENDINGS):
            self.gather_station.add_drawing_file(path)
            self.go_to("gather")
        elif ending in (".ttf", ".otf", ".ttc", ".woff2", ".woff"):
            if not any(True for _ in all_elements(self.session.job)):
                self.gather_station.add_words()
            self.gather_station.use_font_file(path)
            self.go_to("gather")
        elif self._may_leave():
            try:
                self.session.open(path)
            except ThimbleError as error:
                self.tell(str(error))
                return
            self.notice.hide()
            self._remember(path)
            self.go_to("inspect")

    def paste(self) -> None:
        """A drawing, a picture, or files, from the clipboard."""
        content = QGuiApplication.clipboard().mimeData()
        files = [FilePath(url.toLocalFile()) for url in content.urls() if url.isLocalFile()]
        if files:
            for path in files:
                self.open_file(path)
            return
        data = bytes(content.data("image/svg+xml").data())
        text = content.text() if not data else ""
        if not data and "<svg" in text[:4000]:
            data = text.encode()
        image = content.imageData() if not data and content.hasImage() else None
        if data:
            self.gather_station.add_drawing(data, "pasted drawing")
            self.go_to("gather")
        elif isinstance(image, QImage) and not image.isNull():
            self.gather_station.add_picture(partial(_png_of, image.copy()), "pasted picture")
            self.go_to("gather")
        else:
            self.tell("There is no drawing or picture on the clipboard: copy one, or copy its file.")

    def save(self) -> bool:
        if self.session.path is None:
            return self.save_as()
        return self.save_to(self.session.path)

    def save_as(self) -> bool:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the job", f"{self.session.job.name}{ENDING}", f"Jobs (*{ENDING})"
        )
        if not name:
            return False
        return self.save_to(FilePath(name if name.endswith(ENDING) else f"{name}{ENDING}"))

    def save_to(self, path: FilePath) -> bool:
        try:
            self.session.save(path)
        except ThimbleError as error:
            self.tell(str(error))
            return False
        self._remember(path)
        if self.recovery is not None:
            self.recovery.saved()
        return True

    def offer_recovered(self, path: FilePath) -> None:
        """Say that an unsaved job was found, with a button to open it."""
        self.tell("The last session ended without saving. Its job was kept.")
        button = QPushButton("Open it")
        button.setObjectName("openRecovered")
        button.setProperty("role", "main")
        button.clicked.connect(lambda: self._open_recovered(path))
        self.notice_buttons.addWidget(button)

    def _open_recovered(self, path: FilePath) -> None:
        self.notice.hide()
        try:
            self.session.open(path)
        except ThimbleError as error:
            self.tell(str(error))
            return
        job, assets = self.session.job, self.session.assets
        self.session.start(job, assets, None, saved=False)

    def _may_leave(self) -> bool:
        """Ask before unsaved work is left; nothing is thrown away without a word."""
        if self.session.is_saved:
            return True
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "Unsaved work", "This job has changes that are not saved.", parent=self
        )
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is leave

    def _remember(self, path: FilePath) -> None:
        settings = QSettings()
        known = [p for p in _recent_paths(settings) if p != str(path)]
        settings.setValue("recent", [str(path), *known][:8])

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        paths = _recent_paths(QSettings())
        for name in paths:
            self._action(self.recent_menu, FilePath(name).name, None, partial(self.open_file, FilePath(name)))
        if not paths:
            self.recent_menu.addAction("Nothing yet").setEnabled(False)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.open_file(FilePath(url.toLocalFile()))

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        if self.recovery is not None:
            self.recovery.saved()
        self.session.stop()
        self.table.stop()
        event.accept()


def _png_of(image: QImage) -> bytes:
    """The bytes of a picture's file."""
    held = QBuffer()
    held.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(held, "PNG")  # type: ignore[call-overload]  # the stubs want bytes, the call refuses them
    return bytes(held.data().data())


def _recent_paths(settings: QSettings) -> list[str]:
    value = settings.value("recent", [])
    paths = [value] if isinstance(value, str) else value if isinstance(value, list) else []
    return [str(p) for p in paths if FilePath(str(p)).exists()]
