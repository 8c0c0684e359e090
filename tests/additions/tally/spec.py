"""How Tally stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _tally(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    return Standing(f"{sum(len(layer.inspection.kept) for layer in result.layers)} in all", "fine")


SPEC = StationSpec("tally", "Tally", _tally, from_result=True)
