"""A linked copy: the shape of another element after its steps."""

from __future__ import annotations

from vivid_thimble.core.cache import content_key
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.sources.sourced import Given, Placed, Sourced
from vivid_thimble.core.geometry.parts import turned
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.sources.copied import Copied


def copied(source: Copied, home: Element, given: Given) -> Sourced:
    """In the size of what it copies, with a turn of its own."""
    if not given.known(source.of):
        raise InputRefused(f"The element that {home.name} is a copy of is gone: remove the copy.")
    of, turn = given.result(source.of), home.placement.turn_deg
    key = content_key("copied", of.home_key, repr(turn))
    return Sourced(given.cache.get(key, lambda: Placed(turned(of.home_parts, turn, given.middle))), key)
