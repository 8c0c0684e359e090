"""Makes docs/screenshots from the demonstration job: one PNG of each station at 1280 x 800.

    PYTHONPATH=src .venv/bin/python scripts/screenshots.py

Needs a display (Xvfb will do).
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from importlib import resources
from pathlib import Path

from finding_pictures import draw_findings
from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Tapered
from vivid_thimble.core.demo.jobs import (
    badge_job,
    demo_assets,
    demo_job,
    floats_job,
    hull_job,
    portrait_job,
)
from vivid_thimble.core.edits.pictures import as_picture
from vivid_thimble.core.job.edits import scaled_design, with_item, with_source
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.desktop.dialogs import audition as auditioning
from vivid_thimble.desktop.dialogs.audition import AuditionDialog
from vivid_thimble.desktop.dialogs.set_dialog import SetDialog
from vivid_thimble.desktop.dialogs.stock_dialog import StockDialog
from vivid_thimble.desktop.stations.gather.picture_desk import PictureDesk
from vivid_thimble.desktop.window.window import MainWindow

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "screenshots"


def inspect_pages(window: MainWindow, settled: Callable[[MainWindow], None]) -> None:
    """The other pages of Inspect, with the demonstration design at less than half its size, on rough cloth."""
    small = scaled_design(demo_job(), 0.45)
    window.session.start(with_item(small, lambda item: replace(item, surface="rough-cloth")), demo_assets())
    window.go_to("inspect")
    settled(window)
    bounds = window.session.result.bounds if window.session.result else None
    assert bounds is not None
    for page, look in (("findings", "finished"), ("size", "surface"), ("widths", "widths"), ("fit", "finished")):
        window.trays.inspect.turn_to(page)
        window.set_look(look)
        window.table.zoom_to_fit()
        if page in ("size", "widths"):
            window.table.zoom_by(2.6, window.table.to_widget(bounds[0] + 30.0, (bounds[1] + bounds[3]) / 2))
        if page == "findings":
            line = next(k for k, f in enumerate(window.session.result.findings) if f.kind == "thin-line")
            window.trays.inspect.hold(line)
        if page == "fit":
            window.table.zoom_to_true_size()
        settled(window)
        window.grab().save(str(OUT / f"inspect-{page}.png"))


def composed(window: MainWindow, settled: Callable[[MainWindow], None], rest: Callable[[int], None]) -> None:
    """The set of glass floats, the hull numbers as a stencil."""
    window.session.start(floats_job(), {})
    window.go_to("gather")
    settled(window)
    dialog = SetDialog(window.session, window)
    dialog.show()
    while dialog.is_reckoning:
        rest(50)
    dialog.list.setCurrentRow(2)
    settled(window)
    while dialog.is_reckoning:
        rest(50)
    rest(100)
    dialog.grab().save(str(OUT / "set.png"))
    dialog.close()
    window.session.start(hull_job(), demo_assets())
    window.go_to("shape")
    window.trays.shape.turn_to("steps")
    settled(window)
    window.table.zoom_to_fit()
    window.trays.shape.steps.bridges.hold(1)
    settled(window)
    window.grab().save(str(OUT / "stencil.png"))
    window.trays.shape.turn_to("place")


def download(window: MainWindow, settled: Callable[[MainWindow], None]) -> None:
    """The messy download, its specks ringed."""
    window.session.start(new_job("Lantern glass", 200.0, 240.0), {})
    settled(window)
    window.files.open_file(Path(str(resources.files("vivid_thimble") / "data" / "demo" / "lantern-heron.zip")))
    settled(window)
    panel = window.trays.gather.drawing
    specks = next(k for k in range(panel.cleaning.list.count()) if "specks" in panel.cleaning.list.item(k).text())
    panel.cleaning.list.setCurrentRow(specks)
    panel.cleaning.list.scrollToTop()
    window.table.zoom_to_fit()
    settled(window)
    window.grab().save(str(OUT / "drawing.png"))


def pictures(window: MainWindow, settled: Callable[[MainWindow], None]) -> None:
    """The otter by one line, and as tones on the desk."""
    for make, name in ((portrait_job, "portrait"),):
        window.session.start(make(), demo_assets())
        window.go_to("gather")
        window.session.choose(window.session.job.item.layers[0].elements[0].id)
        settled(window)
        window.table.zoom_to_fit()
        settled(window)
        if name == "portrait":
            window.grab().save(str(OUT / f"{name}.png"))
    chosen = window.session.chosen
    photo = as_picture(window.session.job, chosen)
    window.session.change("Tones", with_source(photo, chosen, Picture, separate="tones", colours=4))
    settled(window)
    desk = PictureDesk(window.session, window)
    desk.show()
    settled(window)
    films = desk.films.count
    films.setCurrentIndex(films.findData(3))
    films.activated.emit(films.currentIndex())
    settled(window)
    desk.turn_to("films")
    settled(window)
    desk.grab().save(str(OUT / "picture-desk.png"))
    desk.close()


def first_views(window: MainWindow, settled: Callable[[MainWindow], None]) -> None:
    """The first page, a tapered lantern seen from the front, the materials."""
    window.show_start()
    settled(window)
    window.grab().save(str(OUT / "start.png"))
    cup = Tapered(upper=420.0, lower=300.0, height=150.0, foot=15.0)
    lantern = with_item(badge_job(), lambda item: with_blank(item, cup))
    window.session.start(with_item(lantern, lambda item: replace(item, colour="#cf9f5e")), {})
    settled(window)
    window.session.size_design(1, 92.0)
    settled(window)
    window.go_to("measure")
    window.set_look("item")
    settled(window)
    window.grab().save(str(OUT / "on-item.png"))
    stock = StockDialog(window.session.workshop, "mm", window)
    stock.show()
    settled(window)
    stock.grab().save(str(OUT / "materials.png"))
    stock.close()
    window.session.start(demo_job(), demo_assets())
    settled(window)


def main() -> None:
    os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()
    os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()  # the pictures show the defaults
    from PySide6.QtCore import QEventLoop, QTimer

    from vivid_thimble.desktop.app import prepare_application
    from vivid_thimble.desktop.look.theme import PALETTES, style_sheet

    app, _ = prepare_application([])

    def rest(milliseconds: int) -> None:
        """Let events and the other threads run."""
        loop = QEventLoop()
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()

    def settled(window: MainWindow) -> None:
        rest(30)
        while window.session.is_busy or window.session.insights.is_busy or not window.table.is_sharp:
            rest(20)
        sizes = window.session.clean_sizes
        while sizes.is_needed and not sizes.is_there:
            sizes.look_now()
            rest(50)
        rest(120)

    def opened(palette: str) -> MainWindow:
        app.setStyleSheet(style_sheet(PALETTES[palette]))
        window = MainWindow(PALETTES[palette])
        window.resize(1280, 800)
        window.show()
        window.activateWindow()
        window.session.start(demo_job(), demo_assets())
        settled(window)
        return window

    OUT.mkdir(parents=True, exist_ok=True)
    auditioning.faces_at_hand = lambda: [f"bundled:{name}" for name in BUNDLED]  # the same on every machine
    window = opened("day")
    first_views(window, settled)
    for key in window.trays:
        if key == "inspect":
            continue  # pages of Inspect are shown one by one
        window.go_to(key)
        settled(window)
        window.grab().save(str(OUT / f"{key}.png"))
    audition = AuditionDialog(window.session, window)
    audition.show()
    while audition.is_listening:
        rest(50)
    rest(100)
    audition.list.setCurrentRow(1)
    audition.grab().save(str(OUT / "audition.png"))
    audition.close()
    composed(window, settled, rest)
    inspect_pages(window, settled)
    pictures(window, settled)
    download(window, settled)
    window.session.start(window.session.job, window.session.assets)  # nothing is asked about
    window.close()
    draw_findings(PALETTES["day"]).save(str(OUT / "findings.png"))


if __name__ == "__main__":
    main()
