"""How Cut stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.desktop.session.derived import CUT
from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _cut(session: Session) -> Standing:
    result = session.result
    if result is None or result.bounds is None:
        return NOTHING
    planned = session.insights.of(CUT)
    if planned is None:
        return Standing("…", "none")
    cut, _ = planned
    if cut is None:
        return Standing("too large", "stop")
    return Standing("mirrored" if cut.plan.mirrored else "fits", "fine")


SPEC = StationSpec("cut", "Cut", _cut, from_result=True, look="cut", of_film=True)
