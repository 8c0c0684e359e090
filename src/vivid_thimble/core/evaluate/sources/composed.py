"""Sources that put their parts together themselves: monograms, letter grids and bands, plain shapes."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from vivid_thimble.core.cache import content_key
from vivid_thimble.core.evaluate.sources.inked import Inked, face_key, face_notes, inked, shaped, sized
from vivid_thimble.core.evaluate.sources.sourced import Given, Resolver, Sourced
from vivid_thimble.core.job.values import Element, letters_key, plain
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.lettering import ShapedWords, Shaper, Words
from vivid_thimble.core.sources.source import SourceKind

S = TypeVar("S", bound=SourceKind)


def composed(compose: Callable[[S, Shaper], Composed]) -> Resolver:
    """The resolver of a kind of source that is composed so."""

    def resolved(source: S, home: Element, given: Given) -> Sourced:
        def shape(words: Words) -> ShapedWords:
            return shaped(words, given.assets)

        def make() -> Inked:
            made = given.cache.get(key, lambda: compose(source, shape))
            return inked(made.parts, home.name, made.frame)

        stored = [name for words in source.lettering if (name := letters_key(words)) in given.assets]
        key = content_key("composed", plain(source), face_key(source.typeface), *stored)
        return Sourced(*sized(key, make, home, given), face_notes(source.typeface))

    return resolved
