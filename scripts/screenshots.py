"""Makes docs/screenshots from the demonstration job: one PNG of each station at 1280 x 800.

    PYTHONPATH=src .venv/bin/python scripts/screenshots.py

Needs a display (Xvfb will do).
"""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "screenshots"


def main() -> None:
    os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()  # the pictures show the defaults
    from PySide6.QtTest import QTest

    from vivid_thimble.core.demo import demo_assets, demo_job
    from vivid_thimble.desktop.app import prepare_application
    from vivid_thimble.desktop.theme import PALETTES, style_sheet
    from vivid_thimble.desktop.window import MainWindow

    app, _ = prepare_application([])

    def settled(window: MainWindow) -> None:
        while window.session.is_busy:
            QTest.qWait(20)
        QTest.qWait(120)

    def opened(palette: str) -> MainWindow:
        app.setStyleSheet(style_sheet(PALETTES[palette]))
        window = MainWindow(PALETTES[palette])
        window.resize(1280, 800)
        window.show()
        window.session.start(demo_job(), demo_assets())
        settled(window)
        return window

    OUT.mkdir(parents=True, exist_ok=True)
    window = opened("day")
    for key in window.stations:
        window.go_to(key)
        settled(window)
        window.grab().save(str(OUT / f"{key}.png"))
    window.go_to("inspect")
    window.inspect_station.step(1)
    settled(window)
    window.grab().save(str(OUT / "inspect-a-place.png"))
    window.close()
    evening = opened("evening")
    evening.go_to("shape")
    settled(evening)
    evening.grab().save(str(OUT / "shape-evening.png"))
    evening.close()


if __name__ == "__main__":
    main()
