"""Letters and shapes that are resolved once at a working size and mapped from there: words, and what is composed."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace

from vivid_thimble.core.cache import content_key
from vivid_thimble.core.errors import FontNotUsable, InputRefused
from vivid_thimble.core.evaluate.placing import placement_affine
from vivid_thimble.core.evaluate.sources.sourced import Given, Placed
from vivid_thimble.core.geometry.parts import Parts, bounds_of
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Assets, Element, Item, letters_key, plain
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.sources.fonts import face_title, load_face
from vivid_thimble.core.sources.lettering import (
    NO_HEIGHTS,
    LetterHeights,
    ShapedWords,
    Words,
    letters_from_json,
    shape_words,
)
from vivid_thimble.core.steps import Step
from vivid_thimble.core.steps.remarks import Remark

ROUNDS = 8
AS_WIDE_MM = 1e-4
"""Words that close up have the width that was asked for to within this."""


@dataclass(frozen=True, eq=False)
class Inked:
    """A source as regions at the working scale, before it is placed. ``heights``: for words, at that scale."""

    parts: Parts
    box: Box
    heights: LetterHeights = NO_HEIGHTS


def inked(parts: Parts, name: str, frame: Box | None = None, heights: LetterHeights = NO_HEIGHTS) -> Inked:
    """``frame``: what width and height mean (None: the box round all); raises InputRefused when nothing is left."""
    box = frame or bounds_of(parts)
    if box is None:
        raise InputRefused(f"{name} has no outline: choose other words or another drawing.")
    return Inked(parts, box, heights)


def sized(source_key: str, make: Callable[[], Inked], home: Element, given: Given) -> tuple[Placed, str]:
    """What is inked at the size of an element, with its content key."""
    item, cache = given.item, given.cache
    one = cache.get(content_key("inked", source_key, home.name), make)
    key = given.placed_key(source_key, home)
    closing = _closing_step(home) if home.placement.width is not None else None
    if closing is not None:
        key = content_key(key, "closed-up", plain(closing))
        return cache.get(key, lambda: _placed_closed_up(one, home, item, closing)), key
    return cache.get(key, lambda: _placed(one, home, item)), key


def _placed(one: Inked, element: Element, item: Item) -> Placed:
    """Mapped so that the box has the placement's size and middle."""
    affine = placement_affine(element.placement, one.box, item, one.heights)
    parts = tuple(p.with_region(p.region.transformed(affine)) for p in one.parts)
    heights = one.heights.scaled(abs(affine.determinant) ** 0.5)
    is_level = element.source.has_baseline and not element.placement.turn_deg
    return Placed(parts, heights=heights, baseline=float(affine.apply(np.zeros(2))[1]) if is_level else None)


def _closing_step(element: Element) -> Step | None:
    """The step that closes its letters up, if there is one."""
    closing = (step for step in element.steps if step.CLOSES_UP and step.enabled)
    return next(closing, None) if element.source.SETS_WORDS else None


def _placed_closed_up(one: Inked, element: Element, item: Item, step: Step) -> Placed:
    """As _placed, so large that the letters have the placement's width once they are closed up.

    Necks keep their size, so the width that they take is searched for, to AS_WIDE_MM.
    """
    wanted, place = element.placement.width or 0.0, element.placement
    width = best = wanted
    nearest = math.inf
    for _ in range(ROUNDS):
        level = replace(element, placement=replace(place, width=width, turn_deg=0.0))
        box = bounds_of(step.closed_up(_placed(one, level, item).parts, element.source.aligned))
        has = 0.0 if box is None else box[2] - box[0]
        if has <= 0.0:
            break
        if abs(has - wanted) < nearest:
            nearest, best = abs(has - wanted), width
        if nearest < AS_WIDE_MM:
            break
        width *= wanted / has
    return _placed(one, replace(element, placement=replace(place, width=best)), item)


def shaped(words: Words, assets: Assets) -> ShapedWords:
    """The letters of words; those stored with the job when the face cannot be used."""
    try:
        return shape_words(words)
    except FontNotUsable:
        stored = assets.get(letters_key(words))
        if stored is None:
            raise
        return letters_from_json(stored)


def face_notes(face: str) -> tuple[Remark, ...]:
    """What there is to say when a face is not on this machine."""
    if not face or _content_of(face):
        return ()
    text = "The font {title} is not on this machine: the letters stored with the job are used."
    return (Remark("font-missing", Message.of(text, title=Said(face_title(face)))),)


def _content_of(face: str) -> str:
    try:
        return load_face(face).content_key
    except FontNotUsable:
        return ""


def face_key(face: str) -> str:
    """What tells that a face is another one than before."""
    return _content_of(face) if face else ""
