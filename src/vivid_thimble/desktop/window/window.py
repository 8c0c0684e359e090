"""The main window: size strip, work path, table, tray; menus and files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path as FilePath
from typing import TYPE_CHECKING

from msgspec import structs
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import (
    QActionGroup,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.edits.remedies import REMEDY_WORDS, remedied, remedied_all
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.materials.films import with_price_of
from vivid_thimble.core.messages import Message
from vivid_thimble.desktop.dialogs.history_dialog import small_picture
from vivid_thimble.desktop.look.preferences import (
    PALETTE_WORDS,
    PaletteChoice,
    Preferences,
    keep_preferences,
    keep_window_place,
    read_preferences,
)
from vivid_thimble.desktop.look.theme import ONE_ROW_SCALE, Palette, px, text_scale
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.derived import CUT, LOST, ON_ITEM, WEEDING, WIDTHS
from vivid_thimble.desktop.session.item_photo import ItemPhoto
from vivid_thimble.desktop.session.recovery import Recovery
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.stations.inspect.size_page import surface_words
from vivid_thimble.desktop.stations.station_list import STATIONS
from vivid_thimble.desktop.table.table import LOOKS, Look, Table
from vivid_thimble.desktop.widgets.commands import Commands
from vivid_thimble.desktop.widgets.panel import clear_layout, scrolling
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.size_strip import SizeStrip
from vivid_thimble.desktop.widgets.two_groups import TwoGroups
from vivid_thimble.desktop.window.dialogs import Dialogs
from vivid_thimble.desktop.window.job_files import JobFiles
from vivid_thimble.desktop.window.start_page import StartPage
from vivid_thimble.desktop.window.station_stack import Trays
from vivid_thimble.desktop.window.table_edits import TableWishes
from vivid_thimble.desktop.window.work_path import WorkPath

STATUS_HEIGHT = 34
PATIENCE_MS = 150
"""Work that takes longer can be stopped."""
if TYPE_CHECKING:
    from vivid_thimble.core.reports.sheet_view import SheetView


class MainWindow(QMainWindow):
    """One job on one bench."""

    another_wanted = Signal(object)
    """Another window, with a list of jobs to open or nothing."""
    rescue_wanted = Signal(object)
    """Jobs of a run that did not end well, each for a window of its own."""
    preferences_changed = Signal(object)
    quit_wanted = Signal()
    closed = Signal()

    def __init__(
        self,
        palette: Palette,
        recovery: Recovery | None = None,
        workshop: Workshop | None = None,
        session: Session | None = None,
        *,
        station: str = "measure",
    ) -> None:
        """``session``: the job of another window that this one takes over; ``station``: which one is open."""
        super().__init__()
        self.setAcceptDrops(True)
        self.session = session or Session(workshop=workshop)
        self.session.setParent(self)
        self.recovery = recovery
        if recovery is not None:
            recovery.trouble.connect(self.tell)
        self.files = JobFiles(self)
        self.commands = Commands(self)
        self.dialogs = Dialogs(self)
        self.station_in_hand = station
        self.as_cut = True
        self._sheet: SheetView | None = None
        self._made_sheet: SheetView | None = None
        self._sheet_key: tuple[object, ...] = ()
        self.room = QStackedWidget()
        self.start_page = StartPage(self.session.workshop)
        self.strip = SizeStrip(palette)
        self.table = Table(palette)
        self.work_path = WorkPath([(spec.key, spec.title) for spec in STATIONS.values()], palette)
        self.trays = Trays(self)
        self.notice = QFrame()
        self.notice_text = PlainLabel()
        self._build()
        self.wishes = TableWishes(self)
        self.photo = ItemPhoto(self.session, self.table.show_photo, self.tell, self)
        self._connect()
        self._build_menus()
        self.go_to(station)
        self._show_job()

    # -- parts ----------------------------------------------------------------------

    def _build(self) -> None:
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._look_bar())
        middle.addWidget(self.table, 1)
        work = QWidget()
        beside = QHBoxLayout(work)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(0)
        beside.addLayout(middle, 1)
        beside.addWidget(self.trays)
        self.room.addWidget(work)
        self.room.addWidget(scrolling(self.start_page))
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.work_path)
        body.addWidget(self.room, 1)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addWidget(self._notice_bar())
        column.addLayout(body, 1)
        self.setCentralWidget(centre)
        self.place_label = PlainLabel()
        self.state_label = PlainLabel()
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.setObjectName("stopWork")
        self.stop_button.setToolTip(tr("Leave the file that is being read, or take the last edit back"))
        self.stop_button.clicked.connect(lambda _=False: self._stop_work())
        self.stop_button.hide()
        self._doing = "measuring…"
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self._show_waiting)
        self.statusBar().addWidget(self.place_label, 1)
        self.statusBar().addPermanentWidget(self.state_label)
        self.statusBar().addPermanentWidget(self.stop_button)
        self.statusBar().setSizeGripEnabled(False)
        self.statusBar().setFixedHeight(px(STATUS_HEIGHT))  # the table must not jump when the button comes and goes

    def _look_bar(self) -> QWidget:
        looks, zooms = QWidget(), QWidget()
        row = QHBoxLayout(looks)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        group = QButtonGroup(looks)
        self.look_buttons: dict[str, QPushButton] = {}
        for number, (look, word) in enumerate(LOOKS, start=1):
            button = self._bar_button(word, f"look_{look}", f"Ctrl+{number}", partial(self.set_look, look))
            button.setCheckable(True)
            button.setChecked(look == "finished")
            group.addButton(button)
            row.addWidget(button)
            self.look_buttons[look] = button
        row.addStretch()
        row = QHBoxLayout(zooms)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addStretch()
        row.addWidget(self._bar_button("−", "zoomOut", "Ctrl+-", partial(self.table.zoom_by, 0.8)))
        row.addWidget(self._bar_button("+", "zoomIn", "Ctrl++", partial(self.table.zoom_by, 1.25)))
        row.addWidget(self._bar_button("Whole item", "zoomFit", "Ctrl+0", self.table.zoom_to_fit))
        row.addWidget(self._bar_button("True size", "zoomTrue", "Ctrl+9", self.table.zoom_to_true_size))
        return TwoGroups(looks, zooms, (10, 5, 10, 5), spacing=4, apart=True)

    def _bar_button(self, word: str, name: str, key: str, then: Callable[[], object]) -> QPushButton:
        button = QPushButton(tr(word))
        button.setObjectName(name)
        if text_scale() > ONE_ROW_SCALE:
            button.setStyleSheet("padding-left: 7px; padding-right: 7px;")
        spoken = {"−": "Smaller", "+": "Larger"}.get(word, word)
        self.commands.button(button, spoken, key)
        button.setToolTip(f"{tr(spoken)} ({button.shortcut().toString()})")
        button.setAccessibleName(tr(spoken))
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
        close = QPushButton(tr("Close"))
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
        self.table.finding_pressed.connect(self._hold_marked)
        self.table.pointed.connect(lambda words: self.place_label.setText(tr(words)))
        self.preferences_changed.connect(self.take_preferences)
        start = self.start_page
        start.item_wanted.connect(self.files.new)
        start.art_wanted.connect(self._begin_with_art)
        start.demo_wanted.connect(lambda: self.files.open_demo())
        start.tour_wanted.connect(self.dialogs.begin_tour)
        start.open_wanted.connect(self.files.choose_and_open)
        start.recent_wanted.connect(self.files.open_file)
        start.thing_wanted.connect(self.files.new_from_thing)
        self.session.insights.changed.connect(self._show_insight)
        self.session.clean_sizes.changed.connect(self._show_sizes_in_strip)
        self.session.told.connect(self.tell)
        self.session.workshop.changed.connect(self._take_prices)

    def _build_menus(self) -> None:
        add, files, keys = self.commands.action, self.files, QKeySequence.StandardKey
        menu = self.menuBar().addMenu(tr("&Job"))
        add(menu, "&New", "new", keys.New, files.new)
        self._filled(menu, "New fr&om", files.fill_new_menu)
        add(menu, "New &window", "newWindow", "Ctrl+Shift+N", lambda: self.another_wanted.emit(None))
        add(menu, "&Open…", "open", keys.Open, files.choose_and_open)
        self.recent_menu = self._filled(menu, "Open &recent", files.fill_recent)
        menu.addSeparator()
        add(menu, "&Save", "save", keys.Save, files.save)
        add(menu, "Save &as…", "saveAs", "Ctrl+Shift+S", files.save_as)
        add(menu, "&Duplicate as a new job", "duplicate", "Ctrl+Shift+D", files.duplicate)
        add(menu, "&Changes and earlier versions…", "versions", None, self.dialogs.open_versions)
        add(menu, "&Print at true size…", "print", keys.Print, self.dialogs.print_it)
        menu.addSeparator()
        add(menu, "&Materials and machines…", "materials", "Ctrl+M", self.dialogs.open_stock)
        add(menu, "Pr&eferences…", "preferences", "Ctrl+,", self.dialogs.open_preferences)
        menu.addSeparator()
        add(menu, "C&lose the window", "closeWindow", keys.Close, self.close)
        add(menu, "&Quit", "quit", keys.Quit, self.quit_wanted.emit)
        edit = self.menuBar().addMenu(tr("&Edit"))
        self.undo_action = add(edit, "&Undo", "undo", keys.Undo, self.session.undo)
        self.redo_action = add(edit, "&Redo", "redo", keys.Redo, self.session.redo)
        add(edit, "&History…", "history", "Ctrl+H", self.dialogs.open_history)
        edit.addSeparator()
        add(edit, "&Paste words, drawing or picture", "paste", keys.Paste, files.paste)
        add(edit, "Take &everything in hand", "pickAll", "Ctrl+Shift+A", self.wishes.pick_all)
        add(edit, "&Find an element…", "find", keys.Find, self.dialogs.find_element)
        look = self.menuBar().addMenu(tr("&Look"))
        add(look, "&Next finding", "nextFinding", "F8", partial(self._step_finding, 1))
        add(look, "&Previous finding", "previousFinding", "Shift+F8", partial(self._step_finding, -1))
        look.addSeparator()
        add(look, "&What is in hand", "zoomHeld", "Ctrl+8", self.table.zoom_to_held)
        add(look, "Measuring &tape", "tape", "Ctrl+T", self._toggle_tape)
        add(look, "&Guides…", "guides", "Ctrl+G", self.dialogs.open_guides)
        add(look, "Full-screen table", "fullTable", "F11", self._toggle_full_table)
        look.addSeparator()
        self._add_palettes(look)
        aid = self.menuBar().addMenu(tr("&Help"))
        add(aid, "&Help on this station", "help", "F1", self.dialogs.open_help)
        add(aid, "&Show me around", "tour", None, self.dialogs.begin_tour)
        add(aid, "All &shortcuts", "shortcuts", "Ctrl+/", partial(self.dialogs.open_preferences, "keys"))
        add(aid, "First page", "firstPage", None, self.show_start)
        demos = aid.addMenu(tr("&Demonstrations"))
        files.fill_demo_menu(demos)

    def _filled(self, menu: QMenu, word: str, fill: Callable[[QMenu], None]) -> QMenu:
        """A menu inside a menu that is made up when it is opened."""
        inner = menu.addMenu(tr(word))
        inner.aboutToShow.connect(partial(fill, inner))
        return inner

    def _add_palettes(self, menu: QMenu) -> None:
        palettes = QActionGroup(self)
        now = read_preferences().palette
        for key, word in PALETTE_WORDS:
            action = self.commands.action(menu, word, f"palette_{key}", None, partial(self._set_palette, key))
            action.setCheckable(True)
            action.setChecked(now == key)
            palettes.addAction(action)

    # -- showing --------------------------------------------------------------------

    def go_to(self, key: str) -> None:
        """Open a station."""
        self.station_in_hand = key
        self.show_work()
        by_keys = key in self.work_path.buttons and not self.work_path.buttons[key].underMouse()
        self.trays.open(key, take_keys=by_keys and self.isVisible())
        self.work_path.show_station(key)
        self.table.show_places(())
        self.table.leave_finding()
        self.table.show_handles(shown=STATIONS[key].handles)
        self.set_look(STATIONS[key].look)

    def set_look(self, key: Look) -> None:
        self.look_buttons[key].setChecked(True)
        self.table.set_look(key)
        self._show_on_table()
        seen = {"widths": WIDTHS, "surface": LOST, "waste": WEEDING, "item": ON_ITEM}
        self.session.insights.want("table", *(seen[key],) if key in seen else ())
        self.show_insights()

    def show_insights(self) -> None:
        """What the width look and the surface look show, as far as it is worked out."""
        insights = self.session.insights
        if self.table.look == "widths":
            widths = self.trays.inspect.widths
            self.table.show_widths(widths.chords, widths.title)
        elif self.table.look == "surface":
            words = surface_words(self.session.result, insights.of(LOST)) if insights.has(LOST) else "Working it out…"
            self.table.show_lost(insights.of(LOST), words)
        elif self.table.look == "waste":
            film = self._film_in_hand()
            plans = insights.of(WEEDING)
            plan = plans[min(film, len(plans) - 1)] if plans else None
            if self._sheet is not None:
                from vivid_thimble.core.reports.sheet_view import plan_on_sheet

                self.table.show_plan(None if plan is None else plan_on_sheet(plan, self._sheet), 0)
            else:
                self.table.show_plan(plan, film)
        elif self.table.look == "item":
            self.table.show_on_item(insights.of(ON_ITEM))

    def _show_insight(self, insight: object) -> None:
        if insight is CUT:
            self._show_standings()
        self.show_insights()

    def tell(self, sentence: str) -> None:
        """One sentence in the notice bar; nothing modal, nothing lost."""
        clear_layout(self.notice_buttons)
        self.notice_text.setText(tr(sentence))
        self.notice.show()

    def offer(self, word: str, name: str, then: Callable[[], object]) -> None:
        """A button in the notice bar for what can be done about it."""
        button = QPushButton(tr(word))
        button.setObjectName(name)
        button.clicked.connect(lambda _=False: then())
        self.notice_buttons.addWidget(button)

    def _show_job(self) -> None:
        job = self.session.job
        self.strip.show_job(job)
        if self.session.result is None:
            self.table.forget_result()
            if not self.session.undo_name():
                self.notice.hide()  # it was about another job
                self.trays.begin()
        self._doing = "measuring…"
        self._patience.start()
        self._show_on_table()
        undo, redo = self.session.undo_name(), self.session.redo_name()
        self.undo_action.setText(tr(f"&Undo: {undo}" if undo else "&Undo"))
        self.redo_action.setText(tr(f"&Redo: {redo}" if redo else "&Redo"))
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
        self._show_sizes_in_strip()
        self._show_on_table()
        self.show_insights()
        self._show_standings()
        self._show_state()
        if result.item.id == self.session.job.item.id:
            self.session.remember_picture(partial(small_picture, result, self.table.colours))

    def _take_prices(self) -> None:
        """What was typed into the list of films counts for the job that is open, too."""
        films = {one.name: one.film for one in self.session.workshop.stock.films}

        def priced(item: Item) -> Item:
            layers = (
                structs.replace(la, film=with_price_of(la.film, films.get(la.film.name, la.film))) for la in item.layers
            )
            return structs.replace(item, layers=tuple(layers))

        job = self.session.job
        self.session.change("Price of a film", structs.replace(job, items=tuple(priced(item) for item in job.items)))

    # -- the film as it is cut --------------------------------------------------------

    def show_as_cut(self, as_cut: bool) -> None:
        """Whether Cut and Weed & apply show the film as it lies in the cutter, or as it goes on."""
        self.as_cut = as_cut
        self.trays.show_lie(as_cut=as_cut)
        self.show_film()

    def show_film(self, _film: int = 0) -> None:
        """Another film, or the same one otherwise."""
        self._show_on_table()
        self.show_insights()

    def _film_in_hand(self) -> int:
        """The number of the film that the station in hand is about, from 0."""
        key = self.station_in_hand if STATIONS[self.station_in_hand].of_film else "weed"
        return self.trays[key].film_number

    def _wanted_sheet(self) -> SheetView | None:
        """The film in hand as it is cut, where that is what is looked at; worked out once."""
        result, job = self.session.result, self.session.job
        looks = [spec.look for spec in STATIONS.values() if spec.of_film]
        wanted = self.as_cut and STATIONS[self.station_in_hand].of_film and self.table.look in looks
        if not wanted or result is None or result.bounds is None or result.item.id != job.item.id:
            return None
        key = result, min(self._film_in_hand(), len(result.layers) - 1), job.carrier
        if self._sheet_key != key:
            from vivid_thimble.core.reports.sheet_view import sheet_view  # here: it brings the numeric libraries

            self._sheet_key, self._made_sheet = key, sheet_view(*key)
        return self._made_sheet

    def _show_on_table(self) -> None:
        """The job with its design, or one film as it is cut."""
        job, result = self.session.job, self.session.result
        was, self._sheet = self._sheet, self._wanted_sheet()
        self.table.shows_sheet = self._sheet is not None
        if self._sheet is not None:
            job, result = structs.replace(job, items=(self._sheet.result.item,), at=0), self._sheet.result
        self.table.show_job(job, () if self._sheet is not None else self.session.picked)
        if result is not None and (result is not self.table.result):
            self.table.show_result(result)
        if (was is None) != (self._sheet is None):
            self.table.zoom_to_fit()

    def _show_sizes_in_strip(self) -> None:
        result, clean = self.session.result, self.session.clean_sizes
        if result is not None and not self.session.is_stale:
            self.strip.show_result(result, self.session.job.unit, clean.found, searched=clean.is_needed)

    def _show_waiting(self) -> None:
        """Something takes long enough to be noticed: what is shown meanwhile is told as what it was."""
        self._show_state()
        if self.session.is_stale and self.session.result is not None:
            self.strip.show_stale()
            self.trays.show_stale()
            self._show_standings(stale=True)

    def _show_state(self) -> None:
        reading = f"reading {self.session.reading}…" if self.session.is_reading else ""
        self.state_label.setText(tr(reading) or (tr(self._doing) if self.session.is_busy else ""))
        waiting = self.session.is_evaluating
        leaves = waiting and not self._patience.isActive() and bool(self.session.undo_name())
        self.stop_button.setVisible(leaves or bool(reading))
        if not waiting:
            self._patience.stop()

    def _stop_work(self) -> None:
        """Files that are being read first, then the last edit."""
        if self.session.is_reading:
            name = self.session.reading
            self.session.stop_reading()
            self.tell(f"Reading {name} was stopped: nothing of it was added.")
        else:
            self.session.leave_edit()

    def _show_doing(self, doing: str) -> None:
        self._doing = f"{doing}…"
        self._show_state()

    def _show_standings(self, *, stale: bool = False) -> None:
        self.work_path.show_standings({k: spec.stands(self.session, stale=stale) for k, spec in STATIONS.items()})

    def _show_title(self) -> None:
        name = self.session.path.name if self.session.path else self.session.job.name
        self.setWindowTitle(f"{name}{'' if self.session.is_saved else ' •'} — Vivid Thimble")

    # -- intentions -----------------------------------------------------------------

    def _show_sizes(self) -> None:
        self.go_to("inspect")
        self.trays.inspect.turn_to("size")

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
        now = self.trays.inspect.findings.current
        after = [k for k in wanted if k > now]
        self.trays.inspect.hold((after or wanted)[0])

    def _show_thinnest(self, kinds: tuple[str, ...]) -> None:
        """Nothing is below the limit: show where the figure was measured."""
        assert self.session.result is not None
        inspection = self.session.result.layers[0].inspection
        side = {"thin-line": inspection.lines, "thin-gap": inspection.gaps}.get(kinds[0])
        place = side.thinnest if side is not None else None
        if place is not None:
            word = "line" if "thin-line" in kinds else "gap"
            spot = Finding(
                "shown-spot",
                "look",
                Message.of("The thinnest {word}: {width:.2f} mm.", word=word, width=place.thinnest),
                place.at,
                place.thinnest,
                min(place.length, 20.0),
                ends=place.ends,
            )
            self.table.show_spot(spot)

    def _step_finding(self, by: int) -> None:
        self.go_to("inspect")
        self.trays.inspect.step(by)

    def _hold_marked(self, index: int) -> None:
        """A tag on the table was pressed."""
        result = self.session.result
        if result is not None and index < len(self.table.findings):
            self.go_to("inspect")
            self.trays.inspect.hold(result.findings.index(self.table.findings[index]))

    def show_finding(self, row: int) -> None:
        result = self.session.result
        if result is None or row >= len(result.findings):
            return
        finding = result.findings[row]
        if finding.at is not None:
            self.table.hold_finding(self.table.findings.index(finding))
            self.table.zoom_to_finding(finding)

    def apply_remedy(self, remedy: str, finding: Finding, *, everywhere: bool) -> None:
        """Mend a finding, or all that are like it."""
        if remedy == "enlarge":
            self.session.enlarge_until_clean()
            return
        result, mend = self.session.result, remedied_all if everywhere else remedied
        films = self.session.films_at_hand
        job = mend(self.session.job, result, finding, remedy, films) if result is not None else None
        if job is not None:
            word = REMEDY_WORDS[remedy]
            self.session.change(f"{word}, all" if everywhere else word, job)

    def preview_remedy(self, remedy: str, finding: Finding | None) -> None:
        """Outlines of what a remedy would make of the films, while its button is pointed at."""
        self.table.show_preview(None)
        self.session.look_ahead(None)
        result = self.session.result
        if not remedy or finding is None or result is None or self.session.is_evaluating:
            return
        job = remedied(self.session.job, result, finding, remedy, self.session.films_at_hand)
        if job is None:
            return
        self.session.look_ahead(
            job, lambda answer: self.table.show_preview([layer.kept.polygons for layer in answer.layers])
        )

    def _toggle_tape(self) -> None:
        self.table.use_tape(on=not self.table.tape.on)
        if self.table.tape.on:
            self.place_label.setText(tr(self.table.tape.words()))
            self.table.setFocus()

    def _toggle_full_table(self) -> None:
        full = self.trays.isVisible()
        for widget in (self.trays, self.work_path):
            widget.setVisible(not full)

    def _set_palette(self, key: PaletteChoice) -> None:
        values = replace(read_preferences(), palette=key)
        keep_preferences(values)
        self.preferences_changed.emit(values)

    def take_preferences(self, values: Preferences) -> None:
        """What the window itself goes by."""
        self.table.screen_px_per_mm = values.screen_px_per_mm
        self.table.update()

    def use_palette(self, palette: Palette) -> None:
        """Show another palette at once."""
        for widget in (self, *self.findChildren(QWidget)):
            for name in ("colours", "_palette"):
                if isinstance(getattr(widget, name, None), Palette):
                    setattr(widget, name, palette)
            widget.update()
        self._show_result()

    # -- first page -----------------------------------------------------------------

    def show_start(self) -> None:
        """The page with three ways to begin."""
        self.start_page.renew()
        self.room.setCurrentIndex(1)

    def show_work(self) -> None:
        """The table and its tray."""
        self.room.setCurrentIndex(0)

    def _begin_with_art(self) -> None:
        self.files.new()
        self.go_to("gather")

    # -- files, closing -----------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        self.files.open_files([FilePath(url.toLocalFile()) for url in urls if url.isLocalFile()])

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        if self.recovery is not None:
            self.recovery.saved()
            self.recovery.stop()
        keep_window_place(bytes(self.saveGeometry().data()))
        self.session.stop()
        self._stop_own()
        event.accept()
        self.closed.emit()

    def let_go(self) -> None:
        """Another window has taken over the job: this one goes without a question."""
        self._stop_own()
        self.hide()
        self.deleteLater()

    def _stop_own(self) -> None:
        """End the threads that belong to the window and not to its job."""
        self.table.stop()
        self.photo.stop()
