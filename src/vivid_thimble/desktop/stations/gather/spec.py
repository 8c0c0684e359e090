"""How Gather stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _gather(session: Session) -> Standing:
    kinds = [e.source.WORD for e in elements_of(session.job.item)]
    if not kinds:
        return NOTHING
    counts = {kind: kinds.count(kind) for kind in kinds if kind not in ("answer bands", "film")}
    parts = [kind if count == 1 else f"{count} x {kind}" for kind, count in counts.items()]
    result = session.result
    failed = result is not None and any(layer.problems for layer in result.layers)
    return Standing(", ".join(parts), "stop" if failed else "fine")


SPEC = StationSpec("gather", "Gather", _gather, handles=True)
