"""How Shape stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vivid_thimble.core.job.values import elements_of
from vivid_thimble.desktop.stations.spec import NOTHING, Standing, StationSpec

if TYPE_CHECKING:
    from vivid_thimble.desktop.session.session import Session


def _shape(session: Session) -> Standing:
    item = session.job.item
    elements = elements_of(item)
    if not elements:
        return NOTHING
    steps = [s for e in elements for s in e.steps if s.enabled]
    steps += [s for layer in item.layers for s in layer.steps if s.enabled]
    result = session.result
    overlap = result is not None and any(f.kind == "overlapping-cuts" for f in result.findings)
    words = "as drawn" if not steps else f"{len(steps)} step" + "s" * (len(steps) > 1)
    return Standing("not welded" if overlap else words, "stop" if overlap else "fine")


SPEC = StationSpec("shape", "Shape", _shape, handles=True)
