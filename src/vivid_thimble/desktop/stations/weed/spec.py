"""How Weed & apply stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _weed(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    count = sum(len(layer.inspection.waste) for layer in result.layers)
    return Standing(f"{count} pick" + "s" * (count != 1), "fine")


SPEC = StationSpec("weed", "Weed & apply", _weed, from_result=True, look="waste", of_film=True)
