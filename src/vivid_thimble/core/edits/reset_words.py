"""Words in a picture set again in a real face, laid over the picture by best fit.

Typeset outlines beat any trace. Of every face it is told how well the same words in it cover what the picture keeps,
after they were moved, sized, turned, and their lines set closer or wider, until they cover it best (Nelder and Mead
1965, on both as soft pixels, blurred at first).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from msgspec.structs import replace
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.edits.drawings import without_element
from vivid_thimble.core.errors import FontNotUsable, NothingToDraw
from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.path import box_round
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.job.edits import fresh_id, ids_in, with_item
from vivid_thimble.core.job.values import Element, Job, Layer, Placement, find_element
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.sources.lines import Align

ROOM_PX = 220
"""The longer side of the pixels on which words and picture are compared."""
BLURS_PX = (5.0, 1.5, 0.0)
ROUNDS = (90, 70, 90)
"""At most so many trials for each blur."""
FINELY = 3
FLAT_EM = 0.004
ALIGNS: tuple[Align, ...] = ("centre", "left", "right")
USUAL_LINE_SPACING = 1.25


@dataclass(frozen=True)
class WordsFit:
    """``overlap``: what both cover as a share of what either covers. ``width`` of the words in mm, their middle ``at``
    from the middle of what the picture keeps, turned by ``turn_deg`` against it."""

    words: Words
    overlap: float
    width: float
    at: tuple[float, float]
    turn_deg: float


@dataclass(frozen=True, eq=False)
class _Letters:
    """Rings of letters in ems, from ``starts[k]`` to ``starts[k + 1]``; the letter and line of each."""

    points: FloatArray
    starts: NDArray[np.int64]
    letter: NDArray[np.int64]
    line: NDArray[np.int64]


def fit_words(text: str, face: str, kept: MultiPolygon) -> WordsFit:
    """``kept``: what the picture keeps in mm, from its middle. Raises FontNotUsable, and NothingToDraw when the face
    has no shapes for the words or the picture keeps nothing."""
    return _roughly(text, face, kept).finely()


def likest_faces(text: str, faces: Sequence[str], kept: MultiPolygon) -> list[WordsFit]:
    """The fit in each face that has the letters, the likest first; only the likest few are laid over finely."""
    found = []
    for face in faces:
        pause("Comparing faces")
        try:
            found.append(_roughly(text, face, kept))
        except (FontNotUsable, NothingToDraw):
            continue
    found.sort(key=lambda one: -one.fit.overlap)
    fits = [one.finely() if k < FINELY else one.fit for k, one in enumerate(found)]
    return sorted(fits, key=lambda one: -one.overlap)


def _roughly(text: str, face: str, kept: MultiPolygon) -> _Laying:
    """The words laid over the picture nearly, their lines aligned as suits it best."""
    if kept.is_empty:
        raise NothingToDraw("The picture keeps nothing to lay words over: choose another level.")
    found = []
    several = "\n" in text.strip()
    for align in ALIGNS if several else ALIGNS[:1]:
        pause("Laying words over the picture")
        laying = _Laying(Words(text=text, face=face, align=align), kept, several)
        laying.improve(BLURS_PX[0], ROUNDS[0])
        found.append(laying)
    return max(found, key=lambda one: one.fit.overlap)


def outlines_of(fit: WordsFit) -> MultiPolygon:
    """The words where they were laid, in mm from the middle of what the picture keeps."""
    letters = _resolved(fit.words)
    box = box_round(one.bounds for one in letters)
    assert box is not None  # a fit is of words that have shapes
    placed = (
        Affine.translation(-(box[0] + box[2]) / 2.0, -(box[1] + box[3]) / 2.0)
        .then(Affine.scaling(fit.width / max(box[2] - box[0], 1e-9)))
        .then(Affine.turning(fit.turn_deg))
        .then(Affine.translation(*fit.at))
    )
    return union([one.transformed(placed) for one in letters]).polygons


def with_words_for_picture(job: Job, element_id: str, fit: WordsFit) -> Job:
    """The picture of an element replaced by the words that were laid over it."""
    element = find_element(job, element_id)
    own = element.placement
    dx, dy = Affine.turning(own.turn_deg).apply(np.array(fit.at)).tolist()
    placement = Placement(width=fit.width, dx=own.dx + dx, dy=own.dy + dy, turn_deg=own.turn_deg + fit.turn_deg)
    name = " ".join(fit.words.text.split())
    words = Element(id=fresh_id("words", ids_in(job)), name=name, source=fit.words, placement=placement)

    def beside(layer: Layer) -> Layer:
        if element not in layer.elements:
            return layer
        return replace(layer, elements=(*layer.elements, words))

    job = with_item(job, lambda item: replace(item, layers=tuple(beside(layer) for layer in item.layers)))
    return without_element(job, element_id)  # and its further films


def _resolved(words: Words) -> list[Region]:
    """Each letter in ems, its overlaps resolved."""
    found = [Region.from_path(one.path, tolerance=FLAT_EM) for one in shape_words(words).letters]
    if all(one.is_empty for one in found):
        raise NothingToDraw(f'The face has no shapes for "{words.text}": choose another one.')
    return found


def _letters_of(words: Words) -> _Letters:
    rings: list[FloatArray] = []
    letter: list[int] = []
    line: list[int] = []
    lines = [one.line for one in shape_words(words).letters]
    for number, region in enumerate(_resolved(words)):
        own = [np.asarray(ring.coords)[:-1] for ring in shapely.get_rings(shapely.get_parts(region.polygons))]
        rings += own
        letter += [number] * len(own)
        line += [lines[number]] * len(own)
    starts = np.r_[0, np.cumsum([len(ring) for ring in rings])]
    return _Letters(np.concatenate(rings), starts, np.array(letter), np.array(line))


class _Laying:
    """Words on their way over a picture: moved (x, y in mm), sized (the logarithm of an em in mm), turned (degrees),
    lines set apart (ems)."""

    def __init__(self, words: Words, kept: MultiPolygon, several: bool) -> None:
        self.words, self.letters, self.several = words, _letters_of(words), several
        left, top, right, bottom = shapely.bounds(kept).tolist()
        wide, high = right - left, bottom - top
        self.middle = np.array([left + right, top + bottom]) / 2.0
        self.scale = ROOM_PX / max(wide, high)
        self.size = math.ceil(1.3 * wide * self.scale), math.ceil(1.3 * high * self.scale)
        rings = [np.asarray(ring.coords) for ring in shapely.get_rings(shapely.get_parts(kept))]
        self.wanted = self._painted(rings, [0] * len(rings))
        own = np.ptp(self.letters.points, axis=0)
        em = float(np.sqrt(np.prod(np.array([wide, high]) / np.maximum(own, 1e-9))))
        self.at = np.array([0.0, 0.0, math.log(em), 0.0, 0.0])
        self.steps = np.array([0.03 * wide, 0.03 * high, 0.06, 1.5, 0.12 if several else 0.0])
        self.overlap = 0.0

    def finely(self) -> WordsFit:
        for blur, rounds in zip(BLURS_PX[1:], ROUNDS[1:], strict=True):
            self.improve(blur, rounds)
        return self.fit

    def improve(self, blur: float, rounds: int) -> None:
        """Cover the picture better, both blurred by so many pixels, in at most so many trials."""
        from scipy.optimize import minimize  # here: it delays the first paint

        pause()
        free = self.steps > 0.0
        aim = _blurred(self.wanted, blur)

        def cost(values: FloatArray) -> float:
            self.at[free] = values
            points = self._points()
            bounds = zip(self.letters.starts[:-1], self.letters.starts[1:], strict=True)
            own = _blurred(self._painted([points[i:j] for i, j in bounds], self.letters.letter.tolist()), blur)
            return -float(np.minimum(own, aim).sum() / max(float(np.maximum(own, aim).sum()), 1e-9))

        start = self.at[free].copy()
        simplex = np.concatenate([start[None], start[None] + np.diag(self.steps[free])])
        options = {"maxfev": rounds, "initial_simplex": simplex, "xatol": 1e-3, "fatol": 1e-5}
        told = minimize(cost, start, method="Nelder-Mead", options=options)
        self.at[free] = told.x
        self.overlap = -float(told.fun)
        self.steps = self.steps * 0.4

    @property
    def fit(self) -> WordsFit:
        x, y, _, turn_deg, apart = self.at.tolist()
        upright = Affine.turning(-turn_deg).apply(self._points() - self.middle - self.at[:2])
        spacing = round(USUAL_LINE_SPACING + apart, 3) if self.several else USUAL_LINE_SPACING
        words = replace(self.words, line_spacing=spacing)
        return WordsFit(words, self.overlap, float(np.ptp(upright[:, 0])), (x, y), turn_deg)

    def _points(self) -> FloatArray:
        """The points of all letters in mm."""
        x, y, size, turn_deg, apart = self.at.tolist()
        points = self.letters.points.copy()
        points[:, 1] += np.repeat(self.letters.line, np.diff(self.letters.starts)) * apart
        points -= (points.min(axis=0) + points.max(axis=0)) / 2.0
        placed = Affine.scaling(math.exp(size)).then(Affine.turning(turn_deg)).apply(points)
        return np.asarray(placed + self.middle + (x, y))

    def _painted(self, rings: Sequence[FloatArray], letter: Sequence[int]) -> NDArray[np.float32]:
        return _painted(rings, letter, self.middle, self.scale, self.size)


def _painted(
    rings: Sequence[FloatArray], letter: Sequence[int], middle: FloatArray, scale: float, size: tuple[int, int]
) -> NDArray[np.float32]:
    """How much of each pixel rings cover; those of one letter are even-odd, letters are laid over each other."""
    import cv2  # here: it delays the first paint

    picture = np.zeros(size[::-1], np.uint8)
    shift = 4
    held: list[NDArray[np.int32]] = []
    for k, ring in enumerate(rings):
        points = ((ring - middle) * scale + np.array(size) / 2.0 - 0.5) * 2**shift
        held.append(np.rint(points).astype(np.int32))
        if k + 1 == len(rings) or letter[k + 1] != letter[k]:
            cv2.fillPoly(picture, held, 255, cv2.LINE_AA, shift)
            held = []
    return picture.astype(np.float32) / np.float32(255.0)


def _blurred(picture: NDArray[np.float32], sigma: float) -> NDArray[np.float32]:
    import cv2

    return np.asarray(cv2.GaussianBlur(picture, (0, 0), sigma), np.float32) if sigma > 0.0 else picture
