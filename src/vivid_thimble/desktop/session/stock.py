"""The materials, machines and things at hand: one list for all windows, kept in the user's folder."""

from __future__ import annotations

from pathlib import Path as FilePath

from PySide6.QtCore import QObject, Signal

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.storage.stock import Stock, load_stock, save_stock, set_aside, together


class Workshop(QObject):
    """``own``: what the user made or changed; ``stock``: everything, shipped entries included."""

    changed = Signal()

    def __init__(self, folder: FilePath, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder = folder
        self.trouble = ""
        """Why the own entries could not be read; their file is set aside before others are written."""
        self.aside: FilePath | None = None
        """Where it lies then."""
        self.results = Cache()
        """What the windows have worked out, bounded for all of them together."""
        try:
            self.own = load_stock(folder)
        except ThimbleError as error:
            self.own, self.trouble = Stock(), str(error)
        self.stock = together(self.own)

    def keep(self, own: Stock) -> None:
        """Take other own entries and write them. Raises InputRefused when they cannot be written: nothing changes."""
        if self.trouble:
            self.aside = set_aside(self._folder)
        save_stock(self._folder, own)
        self.own, self.stock, self.trouble = own, together(own), ""
        self.changed.emit()
