"""Memory is tidied beside the work: garbage is collected in quiet moments, freed memory given back once a minute."""

from __future__ import annotations

import ctypes
import gc
import threading
import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

YOUNG, MIDDLING, NEVER = 20_000, 20, 1_000_000
"""What lives shortly is collected as always; what has survived waits for a quiet moment, since going through all
objects takes a tenth of a second."""
EACH_S = 60.0
QUIET_S = 4.0
TICK_MS = 1000


class Tidier(QObject):
    """Once a minute; collects everything when ``is_busy`` has said no for some seconds."""

    def __init__(self, is_busy: Callable[[], bool], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._is_busy = is_busy
        self._busy_s = self._collected_s = self._given_s = time.monotonic()
        gc.freeze()  # what the start has made stays, and is not gone through each time
        gc.set_threshold(YOUNG, MIDDLING, NEVER)
        gc.enable()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(TICK_MS)

    def _look(self) -> None:
        now = time.monotonic()
        if self._is_busy():
            self._busy_s = now
        elif now - self._collected_s > EACH_S and now - self._busy_s > QUIET_S:
            gc.collect()
            self._collected_s = now
        if now - self._given_s > EACH_S:
            self._given_s = now
            threading.Thread(target=give_back, daemon=True).start()


def give_back() -> None:
    """Memory that was freed goes back to the system: computing leaves it in many small pieces, which would stay."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # not every C library has it
    if trim is not None:
        trim(0)
