"""Starting the window: application, typeface, palette, signals."""

from __future__ import annotations

import signal
import sys
from collections.abc import Sequence
from importlib import resources
from pathlib import Path as FilePath

from PySide6.QtCore import QTimer
from PySide6.QtGui import QFont, QFontDatabase, QIcon, QPixmap
from PySide6.QtWidgets import QApplication

from vivid_thimble.core.demo.jobs import demo_job, transom_assets
from vivid_thimble.core.strangers.ask import warm_up
from vivid_thimble.desktop.application.application import Workroom, use_palette
from vivid_thimble.desktop.application.memory import Tidier
from vivid_thimble.desktop.application.one_instance import hand_over
from vivid_thimble.desktop.application.sweeping import Sweeper
from vivid_thimble.desktop.look.preferences import read_preferences, set_odd_settings_aside
from vivid_thimble.desktop.look.theme import IN_USE, PALETTES, Palette
from vivid_thimble.desktop.look.translation import use_language

TURN_S = 0.0001
"""Threads that compute hand over to the window after so long."""
STANDS_MS = 1500
"""After so long the start is over."""
ODD_SETTINGS = "oddSettings"
INTERFACE_FONTS = ("Cabin-Regular.otf", "Cabin-SemiBold.otf")


def prepare_application(arguments: Sequence[str], *, dressed: bool = True) -> tuple[QApplication, Palette]:
    """The one application object with our typeface, palette and language.

    ``dressed``: with its style sheet already. A window is built several times faster without, and dressed afterwards.
    """
    app = QApplication.instance() or QApplication([sys.argv[0], *arguments])
    assert isinstance(app, QApplication)
    app.setApplicationName("vivid-thimble")
    app.setApplicationDisplayName("Vivid Thimble")
    app.setOrganizationName("vivid-thimble")
    odd = set_odd_settings_aside()
    if odd:
        app.setProperty(ODD_SETTINGS, odd)
    values = read_preferences()
    if not app.property(IN_USE):  # a second window finds all this done
        app.setStyle("Fusion")
        for name in INTERFACE_FONTS:
            QFontDatabase.addApplicationFontFromData(
                (resources.files("vivid_thimble") / "data" / "fonts" / name).read_bytes()
            )
        icon = (resources.files("vivid_thimble") / "data" / "icons" / "vivid-thimble.svg").read_bytes()
        pixmap = QPixmap()
        if pixmap.loadFromData(icon):
            app.setWindowIcon(QIcon(pixmap))
        app.setDesktopFileName("vivid-thimble")
        app.setFont(QFont("Cabin", 10))
        use_language(app, values.language)
    use_palette(app, values, dressed=dressed)
    return app, PALETTES[str(app.property(IN_USE))]


def run_window(files: Sequence[str], *, demo: bool) -> int:
    """Open the window and stay until all are closed; a running instance gets the files instead."""
    app, _ = prepare_application([], dressed=False)
    if hand_over(files, demo=demo):
        return 0
    workroom = Workroom(app)
    workroom.listen()
    window = workroom.open_window(station="inspect" if demo else "measure")
    use_palette(app, read_preferences())
    window.show()
    workroom.reporter.install()
    if app.property(ODD_SETTINGS):
        window.tell(str(app.property(ODD_SETTINGS)))
    left_over = window.recovery.left_over() if window.recovery is not None else []
    if left_over:
        window.files.offer_recovered(left_over)
    if demo:
        window.session.start(demo_job(), transom_assets())
    elif not files and read_preferences().start_page:
        window.show_start()
    window.files.open_files([FilePath(name) for name in files])
    sys.setswitchinterval(TURN_S)
    QTimer.singleShot(STANDS_MS, lambda: Tidier(workroom.is_busy, app))
    QTimer.singleShot(STANDS_MS, warm_up)
    QTimer.singleShot(STANDS_MS, Sweeper().start)
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    ticker = QTimer()
    ticker.timeout.connect(lambda: None)  # lets Python see the signal
    ticker.start(200)
    status = app.exec()
    workroom.stop()
    return status
