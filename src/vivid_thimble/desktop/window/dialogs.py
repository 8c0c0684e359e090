"""The dialogs of a window; each is imported when it is first wanted, since most sessions need few of them."""

from __future__ import annotations

from pathlib import Path as FilePath
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QDialog, QFileDialog

from vivid_thimble.core.cache import asset_key
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.files import read_file
from vivid_thimble.core.formats.limits import LARGEST_PICTURE_BYTES
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Item, Photo
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.item_photo import picture_of
from vivid_thimble.desktop.stations.station_list import STATIONS

if TYPE_CHECKING:
    from vivid_thimble.desktop.window.window import MainWindow


class Dialogs(QObject):
    """One dialog of a kind at a time; it stays open while the window is used."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window, self.session = window, window.session

    def _show(self, dialog: QDialog) -> None:
        for other in self.window.findChildren(type(dialog)):
            if other is not dialog:
                other.close()
        dialog.show()

    def open_audition(self) -> None:
        from vivid_thimble.desktop.dialogs.audition import AuditionDialog

        self._show(AuditionDialog(self.session, self.window))

    def open_set(self) -> None:
        from vivid_thimble.desktop.dialogs.set_dialog import SetDialog

        self._show(SetDialog(self.session, self.window))

    def open_history(self) -> None:
        from vivid_thimble.desktop.dialogs.history_dialog import HistoryDialog

        self._show(HistoryDialog(self.session, self.window))

    def open_versions(self) -> None:
        from vivid_thimble.desktop.dialogs.versions_dialog import VersionsDialog

        dialog = VersionsDialog(self.session, self.window)
        dialog.open_wanted.connect(self.window.files.new_from_job)
        self._show(dialog)

    def open_stock(self) -> None:
        from vivid_thimble.desktop.dialogs.stock_dialog import StockDialog

        self._show(StockDialog(self.session.workshop, self.session.job.unit, self.window))

    def open_preferences(self, page: str = "look") -> None:
        from vivid_thimble.desktop.dialogs.preferences_dialog import PreferencesDialog

        dialog = PreferencesDialog(self.window.commands, self.window)
        dialog.turn_to(page)
        dialog.changed.connect(self.window.preferences_changed)
        self._show(dialog)

    def open_page_of_preferences(self) -> str:
        """The page that the preferences are open at; empty when they are not."""
        from vivid_thimble.desktop.dialogs.preferences_dialog import PreferencesDialog

        shown = (one for one in self.window.findChildren(PreferencesDialog) if one.isVisible())
        return next((one.page for one in shown), "")

    def open_guides(self) -> None:
        from vivid_thimble.desktop.dialogs.guides_dialog import GuidesDialog

        self._show(GuidesDialog(self.session, self.window))

    def find_element(self) -> None:
        from vivid_thimble.desktop.dialogs.find_dialog import FindDialog

        dialog = FindDialog(self.session, self.window)
        dialog.found.connect(self.window.table.zoom_to_held)
        self._show(dialog)

    def open_help(self) -> None:
        from vivid_thimble.desktop.window.help import HelpDialog

        dialog = HelpDialog(self.window)
        dialog.open_at(STATIONS[self.window.station_in_hand].title)
        self._show(dialog)

    def begin_tour(self) -> None:
        """Show around; on an empty job the demonstration is opened for it."""
        from vivid_thimble.desktop.window.help import Tour

        if self.session.result is None or self.session.result.bounds is None:
            self.window.files.open_demo()
        for other in self.window.findChildren(Tour):
            other.end()
        tour = Tour(self.window)
        tour.station_wanted.connect(self.window.go_to)
        self.window.show_work()
        tour.begin()

    def print_it(self) -> None:
        from PySide6.QtPrintSupport import QPrintDialog

        from vivid_thimble.desktop.window.printing import prepared_printer, print_result

        result = self.session.result
        if result is None or result.item.id != self.session.job.item.id:
            self.window.tell("The figures are still being worked out: print again in a moment.")
            return
        printer = prepared_printer()
        dialog = QPrintDialog(printer, self.window)
        dialog.setWindowTitle(tr("Print at true size"))
        if dialog.exec() == QDialog.DialogCode.Accepted:
            count = print_result(printer, result, self.session.job.unit)
            pages = "one page" if count == 1 else f"{count} pages"
            self.window.tell(f"Sent to the printer: {pages}. Check the rule on the paper before you trust the size.")

    # -- the photo of the item --------------------------------------------------------

    def choose_photo(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.window, tr("Photo of the thing"), "", tr("Pictures (*.png *.jpg *.jpeg *.webp *.bmp *.tif *.tiff)")
        )
        if name:
            self.take_photo(FilePath(name))

    def take_photo(self, path: FilePath) -> None:
        """Read a picture, then ask where the room for the design lies in it."""

        def read() -> tuple[bytes, QImage]:
            try:
                data = read_file(path, LARGEST_PICTURE_BYTES)
            except OSError as error:
                reason = (error.strerror or "unknown").lower()
                raise InputRefused(f"{path.name} cannot be read ({reason}): check that it is still there.") from error
            return data, picture_of(data, path.name)

        self.session.read(path.name, read, lambda told: self._ask_room(*told), self.window.tell)

    def _ask_room(self, data: bytes, image: QImage) -> None:
        from vivid_thimble.desktop.dialogs.photo_dialog import PhotoDialog

        dialog = PhotoDialog(image, _room_in(self.session.job.item, image), self.window)
        dialog.taken.connect(lambda room: self._lay_photo(data, room))
        self._show(dialog)

    def _lay_photo(self, data: bytes, room: tuple[float, float, float, float]) -> None:
        key = asset_key(data)
        self.session.assets[key] = data
        photo = Photo(asset=key, room=room)
        self.session.change("Photo of the item", with_item(self.session.job, lambda item: replace(item, photo=photo)))
        self.window.set_look("item")


def _room_in(item: Item, image: QImage) -> tuple[float, float, float, float]:
    """A frame of the room's proportions in the middle of a picture, over four fifths of it."""
    wide, high = item.width / image.width(), item.height / image.height()
    scale = 0.8 / max(wide, high)
    across, down = wide * scale / 2.0, high * scale / 2.0
    return 0.5 - across, 0.5 - down, 0.5 + across, 0.5 + down
