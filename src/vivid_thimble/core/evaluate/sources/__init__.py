"""How each kind of source becomes a shape: one resolver a kind."""

from __future__ import annotations

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.sources.composed import composed
from vivid_thimble.core.evaluate.sources.copied import copied
from vivid_thimble.core.evaluate.sources.drawing import drawing, drawing_film
from vivid_thimble.core.evaluate.sources.picture import picture, picture_film, portrait
from vivid_thimble.core.evaluate.sources.sourced import Given, Resolver, Sourced
from vivid_thimble.core.evaluate.sources.words import words
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.sources.artwork import Artwork, ArtworkFilm, ArtworkShare
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.letter_grid import AnswerBands, GridBands, LetterGrid, compose_bands, compose_grid
from vivid_thimble.core.sources.lettering import Shaper, Words
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.monogram import Monogram, compose_monogram
from vivid_thimble.core.sources.picture import Picture, PictureFilm
from vivid_thimble.core.sources.plain import Plain, compose_plain
from vivid_thimble.core.sources.source import SourceKind


def _gone(sentence: str) -> Resolver:
    """Of what follows an element that is not there any more."""

    def refused(source: SourceKind, home: Element, given: Given) -> Sourced:
        raise InputRefused(sentence)

    return refused


def _grid_bands(source: GridBands, shape: Shaper) -> Composed:
    return compose_bands(source)


def _plain(source: Plain, shape: Shaper) -> Composed:
    return compose_plain(source)


RESOLVERS: dict[type[SourceKind], Resolver] = {
    Words: words,
    Artwork: drawing,
    ArtworkFilm: drawing_film,
    ArtworkShare: _gone("The drawing that this film belongs to is gone: remove this film, or add the drawing again."),
    Monogram: composed(compose_monogram),
    LetterGrid: composed(compose_grid),
    GridBands: composed(_grid_bands),
    AnswerBands: _gone("The letter grid of these bands is gone: remove the bands, or add a letter grid again."),
    Picture: picture,
    PictureFilm: picture_film,
    LinePortrait: portrait,
    Copied: copied,
    Plain: composed(_plain),
}


def resolved(home: Element, given: Given) -> Sourced:
    """The source of an element that lies in the item's middle; raises ThimbleError when it has no shape."""
    return RESOLVERS[type(home.source)](home.source, home, given)
