"""From which size on the design is clean, where that has to be searched for: on a thread, while nothing is edited."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.looked_at import LookedAt

if TYPE_CHECKING:  # these bring the numeric libraries
    from vivid_thimble.core.edits.clean_size import CleanSize
    from vivid_thimble.core.evaluate.results import ItemResult

WHEN_IDLE_MS = 1200
"""Edits in quick succession start no search."""


class CleanSizes(QObject):
    """``found`` is the answer for the present result; ``changed`` tells when it is there or gone."""

    changed = Signal()

    def __init__(self, session: LookedAt, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._background = Background(self)
        self._for: ItemResult | None = None
        """The result that is looked into, or was."""
        self._answer: CleanSize | None = None
        self._is_there = False
        self._others_wanted: set[str] = set()
        self._with_other = False
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.setInterval(WHEN_IDLE_MS)
        self._idle.timeout.connect(self._begin)
        session.result_changed.connect(self._renew)

    def want_other(self, who: str, *, wanted: bool) -> None:
        """Whether somebody looks at what the size would be without the place that decides."""
        self._others_wanted = self._others_wanted | {who} if wanted else self._others_wanted - {who}
        if wanted and not (self._is_there and self._with_other):
            self._renew()

    def look_now(self) -> None:
        """Begin without waiting for a quiet moment."""
        if self._idle.isActive():
            self._idle.stop()
            self._begin()

    @property
    def is_there(self) -> bool:
        """Whether the present result has been looked into."""
        return self._is_there and self._for is self._session.result

    @property
    def found(self) -> CleanSize | None:
        return self._answer if self.is_there else None

    @property
    def is_needed(self) -> bool:
        """Whether one inspection does not tell the size of the present job."""
        from vivid_thimble.core.edits.clean_size import keeps_lengths  # here: it brings the numeric libraries

        result = self._session.result
        return result is not None and result.smallest_clean_scale is not None and keeps_lengths(self._session.job)

    def stop(self) -> None:
        """End the thread; a running search is left at its next pause."""
        self._idle.stop()
        self._for = None
        self._background.stop()

    def _renew(self) -> None:
        was_there, self._is_there = self._is_there, False
        self._for, self._answer = None, None
        self._background.drop()
        if self._session.result is not None and (self._others_wanted or self.is_needed):
            self._idle.start()
        else:
            self._idle.stop()
        if was_there:
            self.changed.emit()

    def _begin(self) -> None:
        result, job = self._session.result, self._session.job
        if result is None or self._session.is_busy:
            self._idle.start()
            return
        assets, cache, others = dict(self._session.assets), self._session.cache, bool(self._others_wanted)
        self._for, self._with_other = result, others

        def searched() -> CleanSize | None:
            from vivid_thimble.core.edits.clean_size import clean_size  # here: it brings the numeric libraries

            return clean_size(job, assets, cache, result, with_other=others)

        self._background.run(searched, self._take, newest_only=True)

    def _take(self, answer: CleanSize | Failed | None) -> None:
        if not isinstance(answer, Failed):
            self._answer, self._is_there = answer, True
            self.changed.emit()
