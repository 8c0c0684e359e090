"""What those ask of a session who work something out beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import SignalInstance

if TYPE_CHECKING:
    from vivid_thimble.core.cache import Cache
    from vivid_thimble.core.evaluate.results import ItemResult
    from vivid_thimble.core.job.values import Element, Job


class LookedAt(Protocol):
    """The job in hand, its files, and its result (None while there is none yet)."""

    assets: dict[str, bytes]
    cache: Cache
    result: ItemResult | None

    @property
    def job(self) -> Job: ...
    @property
    def chosen(self) -> str:
        """The id of the element in hand; empty for none."""

    @property
    def is_busy(self) -> bool: ...
    @property
    def result_changed(self) -> SignalInstance: ...
    @property
    def element_chosen(self) -> SignalInstance: ...
    def evaluated(self, element_id: str) -> Element | None:
        """An element as it was last evaluated."""
