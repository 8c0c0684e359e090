"""From an element's plain values to its shape at the final size, cached by content.

Sources are resolved by their kind (see ``sources``); steps run where the element would lie in the item's middle, so
that moving it costs them nothing. A step that fails is recorded on that step and skipped.
"""

from __future__ import annotations

from dataclasses import replace as replaced

from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import InputRefused, ThimbleError
from vivid_thimble.core.evaluate.results import ElementResult, Problem
from vivid_thimble.core.evaluate.sources import resolved
from vivid_thimble.core.evaluate.sources.sourced import Given
from vivid_thimble.core.evaluate.stepping import Stepped, run_steps
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts, merged
from vivid_thimble.core.geometry.path import box_shifted
from vivid_thimble.core.job.values import Assets, Element, Item, elements_of, plain
from vivid_thimble.core.steps.step import Around, Other


class ItemElements:
    """The elements of an item, each evaluated once; those that an element needs come before it."""

    def __init__(self, item: Item, assets: Assets, cache: Cache) -> None:
        self._cache = cache
        self._elements = {element.id: element for element in elements_of(item)}
        self._known: dict[str, ElementResult] = {}
        self._waiting: list[str] = []
        self._given = Given(item, assets, cache, self.result, self._elements.__contains__)

    def result(self, element_id: str) -> ElementResult:
        """Of an element of the item; raises InputRefused when it is gone or needs itself."""
        if element_id not in self._elements:
            raise InputRefused("An element that this one needs is gone: choose another one, or remove the step.")
        if element_id in self._waiting:
            names = " and ".join(self._elements[one].name for one in self._waiting)
            raise InputRefused(f"{names} need each other: remove one of the two steps.")
        if element_id not in self._known:
            self._known[element_id] = self.evaluated(self._elements[element_id])
        return self._known[element_id]

    def evaluated(self, element: Element) -> ElementResult:
        """Of an element as it is given; faults of its source or steps are told in the result."""
        self._waiting.append(element.id)
        try:
            return self._evaluated(element)
        finally:
            self._waiting.pop()

    def _evaluated(self, element: Element) -> ElementResult:
        # steps run where the element would lie in the item's middle: moving it costs them nothing
        home = replace(element, placement=replace(element.placement, dx=0.0, dy=0.0))
        try:
            source = resolved(home, self._given)
        except ThimbleError as error:
            problem = Problem("source", error.message)
            return ElementResult(element, (), (), (problem,), (), (), (), content_key(plain(element), str(error)))
        placed, letters = source.placed, source.placed.parts
        after = run_steps(element.steps, Stepped(letters, source.key), self._around(element), self._cache)
        dx, dy = element.placement.dx, element.placement.dy
        move = repr((element.id, dx, dy))
        return ElementResult(
            element,
            self._cache.get(content_key("moved", source.key, move), lambda: _moved(letters, element)),
            self._cache.get(content_key("moved", after.key, move), lambda: _moved(after.parts, element)),
            after.problems,
            source.notes,
            tuple(outline.shifted(dx, dy) for outline in placed.opened),
            tuple(outline.shifted(dx, dy) for outline in placed.doubled),
            content_key(after.key, move),
            after.parts,
            after.key,
            placed.heights,
            tuple(one.placed(Affine.translation(dx, dy)) for one in placed.cleaned),
            placed.drawing_scale,
            tuple(remark.shifted(dx, dy) for remark in after.remarks),
            tuple(one.shifted(dx, dy) for one in after.shown),
            None if placed.baseline is None else placed.baseline + dy,
            None if after.kept_box is None else box_shifted(after.kept_box, dx, dy),
            source.not_understood,
        )

    def _around(self, element: Element) -> Around:
        """What its steps may ask for; other elements lie as they do while this one is in the item's middle."""
        own = element.placement

        def other(element_id: str) -> Other:
            found = self.result(element_id)
            away = found.element.placement.dx - own.dx, found.element.placement.dy - own.dy
            return Other(content_key(found.home_key, repr(away)), lambda: merged(found.home_parts).shifted(*away))

        return Around(align=element.source.aligned, turn_deg=own.turn_deg, middle=self._given.middle, element=other)


def evaluate_element(item: Item, element: Element, assets: Assets, cache: Cache) -> ElementResult:
    """One element of an item, which may be another than the item holds."""
    return ItemElements(item, assets, cache).evaluated(element)


def _moved(parts: Parts, element: Element) -> Parts:
    """Parts at the element's place, with its id."""
    dx, dy = element.placement.dx, element.placement.dy
    return tuple(replaced(part.shifted(dx, dy), owner=element.id) for part in parts)
