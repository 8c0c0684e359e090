"""The application with all its windows: one list of materials, one set of preferences, one running instance."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path as FilePath

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QApplication

from vivid_thimble.core.demo.jobs import demo_job, transom_assets
from vivid_thimble.core.folders import recovery_folder, reports_folder, settings_folder
from vivid_thimble.desktop.application.one_instance import Listener
from vivid_thimble.desktop.crash import CrashReporter
from vivid_thimble.desktop.look.preferences import Preferences, kept_window_place, palette_name, read_preferences
from vivid_thimble.desktop.look.theme import IN_USE, PALETTES, TEXT_SCALE, style_sheet
from vivid_thimble.desktop.look.translation import use_language
from vivid_thimble.desktop.session.recovery import Recovery
from vivid_thimble.desktop.session.stock import Workshop
from vivid_thimble.desktop.window.window import MainWindow


class Workroom(QObject):
    """Opens windows and keeps them alike."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self._app = app
        self.windows: list[MainWindow] = []
        self.workshop = Workshop(settings_folder(), self)
        self._opened = 0
        self._text_scale = read_preferences().text_scale
        self._language = read_preferences().language
        self._listener: Listener | None = None
        self.reporter = CrashReporter(self._newest, reports_folder())

    def open_window(self, like: MainWindow | None = None, *, station: str = "measure") -> MainWindow:
        """Another window, open at a station; ``like``: it takes over that one's job."""
        self._opened += 1
        palette = PALETTES[str(self._app.property(IN_USE))]
        recovery = (
            like.recovery if like is not None else Recovery(recovery_folder(), name=f"{os.getpid()}-{self._opened}")
        )
        session = like.session if like is not None else None
        window = MainWindow(palette, recovery, self.workshop, session, station=station)
        window.another_wanted.connect(self._open_another)
        window.rescue_wanted.connect(self._rescue)
        window.preferences_changed.connect(self.use_preferences)
        window.quit_wanted.connect(self.quit)
        window.closed.connect(lambda w=window: self._forget(w))
        self.windows.append(window)
        window.resize(1280, 800)
        place = kept_window_place() if like is None and len(self.windows) == 1 else None
        if place is not None:
            window.restoreGeometry(place)
        return window

    def open_paths(self, paths: Sequence[FilePath], *, demo: bool = False) -> None:
        """What another start of the program was given: files join the newest window, jobs get one of their own."""
        window = self._newest()
        if demo or not _is_untouched(window):
            window = self.open_window(station="inspect" if demo else "measure")
            window.show()
        if demo:
            window.session.start(demo_job(), transom_assets())
        window.files.open_files(list(paths))
        window.raise_()
        window.activateWindow()

    def is_busy(self) -> bool:
        """Whether anything is worked out in any window."""
        return any(window.session.is_busy or window.session.insights.is_busy for window in self.windows)

    def quit(self) -> None:
        """Close every window; one that stays keeps the program running."""
        for window in list(self.windows):
            if not window.close():
                return

    def stop(self) -> None:
        for window in self.windows:
            window.session.stop()
            window.table.stop()
        if self._listener is not None:
            self._listener.stop()

    # -- preferences ------------------------------------------------------------------

    def use_preferences(self, values: Preferences) -> None:
        """Colours change at once; text size and language need the windows to be made anew, with their jobs."""
        anew = (values.text_scale, values.language) != (self._text_scale, self._language)
        use_palette(self._app, values, dressed=not anew)
        palette = PALETTES[str(self._app.property(IN_USE))]
        if anew:
            self._text_scale, self._language = values.text_scale, values.language
            use_language(self._app, values.language)
            self._app.setStyleSheet("")  # windows are built several times faster undressed
            for window in list(self.windows):
                self._replace(window)
            use_palette(self._app, values)
        for window in self.windows:
            window.take_preferences(values)
            window.use_palette(palette)

    def _replace(self, window: MainWindow) -> None:
        preferences = window.dialogs.open_page_of_preferences()
        made = self.open_window(window, station=window.station_in_hand)
        made.setGeometry(window.geometry())
        self.windows.remove(window)
        window.let_go()
        made.show()
        if preferences:
            made.dialogs.open_preferences(preferences)

    # -- windows ----------------------------------------------------------------------

    def _newest(self) -> MainWindow:
        active = self._app.activeWindow()
        if isinstance(active, MainWindow):
            return active
        return self.windows[-1] if self.windows else self.open_window()

    def _open_another(self, paths: Sequence[FilePath] | None) -> None:
        if not paths:
            window = self.open_window()
            window.show()
            window.show_start()
        for path in paths or ():
            window = self.open_window()
            window.show()
            window.files.open_file(path)

    def _rescue(self, paths: Sequence[FilePath]) -> None:
        for path in paths:
            window = self.open_window()
            window.show()
            window.files.open_recovered(path)

    def _forget(self, window: MainWindow) -> None:
        if window in self.windows:
            self.windows.remove(window)
            window.deleteLater()

    # -- one running instance ---------------------------------------------------------------

    def listen(self, name: str = "") -> None:
        """Take what later starts of the program are given; only this user can speak to it."""
        self._listener = Listener(lambda paths, demo: self.open_paths(paths, demo=demo), self, name)


def use_palette(app: QApplication, values: Preferences, *, dressed: bool = True) -> None:
    """Dress the application in the colours and the text size that are preferred."""
    palette = PALETTES[palette_name(values.palette)]
    app.setProperty(IN_USE, palette.name)
    app.setProperty(TEXT_SCALE, values.text_scale)
    sheet = style_sheet(palette, values.text_scale)
    if dressed and app.styleSheet() != sheet:
        app.setStyleSheet(sheet)


def _is_untouched(window: MainWindow) -> bool:
    """Whether nothing was done in a window yet."""
    return window.session.is_saved and window.session.path is None and not window.session.undo_name()
