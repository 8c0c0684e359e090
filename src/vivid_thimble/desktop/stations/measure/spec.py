"""How Measure stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.core.room.thing import size_in_words
from vivid_thimble.desktop.stations.spec import Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _measure(session: Session) -> Standing:
    item, unit = session.job.item, session.job.unit
    return Standing(size_in_words(item, unit, briefly=True), "fine")


SPEC = StationSpec("measure", "Measure", _measure)
