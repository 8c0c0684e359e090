"""How Inspect stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _inspect(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    stops = sum(1 for f in result.findings if f.severity == "stop")
    looks = len(result.findings) - stops
    if stops:
        return Standing(f"{stops} to mend", "stop")
    return Standing(f"{looks} to look at", "look") if looks else Standing("clean", "fine")


SPEC = StationSpec("inspect", "Inspect", _inspect, from_result=True)
