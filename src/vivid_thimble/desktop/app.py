"""Starting the window: application, typeface, palette, signals."""

from __future__ import annotations

import signal
import sys
from collections.abc import Sequence
from importlib import resources
from pathlib import Path as FilePath

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtGui import QFont, QFontDatabase, QIcon, QPixmap
from PySide6.QtWidgets import QApplication

from vivid_thimble.core.demo import demo_assets, demo_job
from vivid_thimble.core.folders import recovery_folder, reports_folder
from vivid_thimble.desktop.crash import CrashReporter
from vivid_thimble.desktop.recovery import Recovery
from vivid_thimble.desktop.theme import IN_USE, PALETTES, Palette, style_sheet
from vivid_thimble.desktop.window import MainWindow

INTERFACE_FONTS = ("Cabin-Regular.otf", "Cabin-SemiBold.otf")


def prepare_application(arguments: Sequence[str]) -> tuple[QApplication, Palette]:
    """The one application object with our typeface and palette."""
    app = QApplication.instance() or QApplication([sys.argv[0], *arguments])
    assert isinstance(app, QApplication)
    app.setApplicationName("vivid-thimble")
    app.setApplicationDisplayName("Vivid Thimble")
    app.setOrganizationName("vivid-thimble")
    palette = PALETTES.get(str(QSettings().value("palette", "day")), PALETTES["day"])
    app.setProperty(IN_USE, palette.name)
    sheet = style_sheet(palette)
    if app.styleSheet() != sheet:  # a second window finds all this done
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
        app.setStyleSheet(sheet)
    return app, palette


def run_window(files: Sequence[str], *, demo: bool) -> int:
    """Open the window and stay until it is closed."""
    app, palette = prepare_application([])
    recovery = Recovery(recovery_folder())
    window = MainWindow(palette, recovery)
    window.resize(1280, 800)
    window.show()
    CrashReporter(window, reports_folder()).install()
    left_over = recovery.left_over()
    if left_over is not None:
        window.offer_recovered(left_over)
    if demo:
        window.session.start(demo_job(), demo_assets())
        window.go_to("inspect")
    for name in files:
        window.open_file(FilePath(name))
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    ticker = QTimer()
    ticker.timeout.connect(lambda: None)  # lets Python see the signal
    ticker.start(200)
    status = app.exec()
    window.session.stop()
    return status
