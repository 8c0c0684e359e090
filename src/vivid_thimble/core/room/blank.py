"""A thing measured anew, or of another kind, and what goes with it."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Blank, Cloth, Glass, Screen
from vivid_thimble.core.job.values import USUAL_FRAME, Item
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import USUAL_FILM, Method
from vivid_thimble.core.steps.frame import Frame


def with_blank(item: Item, blank: Blank | None) -> Item:
    """An item measured anew: its room follows; None: a plain rectangle of the size it has.

    Raises InputRefused when no room is left.
    """
    if blank is None:
        return replace(item, blank=None)
    width, height = blank.usable
    return replace(item, blank=blank, width=width, height=height)


def as_kind(item: Item, kind: type[Blank] | None) -> Item:
    """Another kind of blank with its usual lengths, and what goes with it: the back of glass, the film of a screen."""
    changed = with_blank(item, None if kind is None else kind())
    if kind is Screen:
        return replace(by_method(changed, "screen-stencil"), side="front")
    if isinstance(item.blank, Screen) and item.method == "screen-stencil":
        changed = by_method(changed, "decal")  # the mesh is gone, and what it had brought along
    if kind is Glass:
        return replace(changed, side="behind")
    if kind is Cloth:
        return replace(changed, surface="fine-cloth", side="front")
    return replace(changed, side="front") if kind is not None and item.side == "behind" else changed


def by_method(item: Item, method: Method, usual: Film | None = None) -> Item:
    """An item decorated by another method, with its usual film (of the stock, if one is given) and frame; films below
    keep names and colours."""
    usual = usual or USUAL_FILM[method]
    layers = tuple(
        replace(la, film=replace(usual, name=la.film.name, colour=la.film.colour) if k else usual)
        for k, la in enumerate(item.layers)
    )
    return replace(item, method=method, layers=layers, frame=USUAL_FRAME.get(method, Frame()))
