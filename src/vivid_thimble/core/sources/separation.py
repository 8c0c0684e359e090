"""A prepared picture parted into what is kept and what is ground, by tones or by colours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.errors import NothingToDraw
from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.colours import to_hex
from vivid_thimble.core.sources.picture import MOST_COLOURS, BrushStroke, Corners, Picture
from vivid_thimble.core.tracing.centre_lines import PenTrace, pen_lines
from vivid_thimble.core.tracing.colour_space import lab
from vivid_thimble.core.tracing.corners import LEAST_TURN_DEG
from vivid_thimble.core.tracing.cracks import FloatImage, LabelImage
from vivid_thimble.core.tracing.cut_out import cut_out
from vivid_thimble.core.tracing.label_map import ColourImage, traced_map
from vivid_thimble.core.tracing.leftovers import Leftover, Pieces, looked_through
from vivid_thimble.core.tracing.prepare import Share
from vivid_thimble.core.tracing.separate import (
    despeckled,
    filled,
    flat_colours,
    flat_labels,
    nearest_labels,
    reduced_colours,
)
from vivid_thimble.core.tracing.tones import Tones, grays, is_unevenly_lit, levels_of, local_tones, two_tones
from vivid_thimble.core.tracing.traced import Traced
from vivid_thimble.core.tracing.two_tone import split_field, traced

LEAST_TURNS_DEG: dict[Corners, float | None] = {"found": LEAST_TURN_DEG, "clear": 50.0, "none": None}
"""Corners turn by more, by which of them are wanted."""
COLOURFUL_LAB = 22.0
"""A picture of two flat colours is taken by tones when they differ in lightness by this."""
INK_SHARE = 0.8
SHADE_DISTANCE = 48.0
"""Colours this near to the way from the ground to the ink are shades of it, in red, green and blue together."""
SHADED = 0.15
"""A picture of which more lies between ink and ground is a photo."""
GRAIN = 0.4
"""Photos in two tones are blurred by this share of the side of the smallest speck that stays."""
PHOTO_BLUR = 0.0012
"""Photos are blurred by this share of their longer side before they are parted by colours."""
TONE_GRAIN = 0.7
"""Several tones are evened out over this share of the side of the smallest speck that stays."""
HALO = 0.12
"""What is covered by more than this and hangs on a piece that goes, and on none that stays, goes with it."""
NEAR_GROUND_LAB = 20.0
"""Flat colours nearer to the ground's are background that was missed, such as a shadow or the inside of a letter."""
FRINGE_PX = 7
"""Across the neighbourhood in which a mixed pixel finds the colour that it is mixed with."""
FRAME_SHARE = 0.5
"""A colour is ground when so much of the picture's frame has it."""


@dataclass(frozen=True, eq=False)
class Separated:
    """Either ``coverage`` (tones) or ``labels`` with ``palette`` and the picture they were told from (colours).

    ``says``: what was chosen, in one sentence. ``leftovers``: what looks like background or dirt, dropped or not.
    ``background``: the label of the ground, None when there is none.
    """

    says: str
    coverage: FloatImage | None = None
    labels: LabelImage | None = None
    picture: ColourImage | None = None
    palette: FloatArray | None = None
    background: int | None = None
    leftovers: tuple[Leftover, ...] = ()
    is_photo: bool = False
    """Its edges run through shades: no outline in it is exact."""

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows."""
        held = self.coverage if self.coverage is not None else self.labels
        assert held is not None
        return held.shape[1], held.shape[0]

    @property
    def colours(self) -> list[str]:
        """The colours that are kept (#rrggbb), the one of label 0 first; one for tones."""
        if self.palette is None:
            return ["#000000"]
        whole = [tuple(int(v) for v in np.clip(np.rint(c), 0, 255)) for c in self.palette]
        return [to_hex((r, g, b)) for r, g, b in whole]

    @cached_property
    def field(self) -> FloatImage:
        """For tones: positive where it is kept (rows, columns)."""
        assert self.coverage is not None
        return split_field(self.coverage)

    @cached_property
    def ink(self) -> NDArray[np.bool_]:
        """What is kept (rows, columns)."""
        if self.coverage is not None:
            return np.asarray(self.field > 0.0)
        assert self.labels is not None
        return np.asarray(self.labels != (-1 if self.background is None else self.background))


def separated(pixels: ColourImage, picture: Picture, speck_px: float, pinhole_px: float) -> Separated:
    """``speck_px``, ``pinhole_px``: areas in pixels below which pieces and holes go. Raises NothingToDraw."""
    pause("Parting the picture from its ground")
    found = _parted(pixels, picture, speck_px)
    pause("Looking for leftovers")
    found = _painted(found, picture.strokes)
    found = _without_dirt(found, picture, speck_px, pinhole_px)
    if not found.ink.any():
        raise NothingToDraw(
            f"Nothing of {picture.name} is left to cut: choose another level or fewer leftovers to drop."
        )
    return found


def trace(
    found: Separated, picture: Picture, film_of: Sequence[int], ease: float, within_px: float = FLATTEN_MM
) -> Traced | PenTrace:
    """The outlines of each film, or the lines of a pen by their middle. ``film_of`` tells the film of each colour, less
    than 0 for none; tones have one film. Curves may stray ``ease`` times the usual.

    Films that abut share their edges. Polygons stay within ``within_px`` of the curves.
    """
    if picture.traced_as == "pen" and found.coverage is not None:
        return replace(pen_lines(found.coverage, found.ink, ease), pen_mm=picture.pen_width)
    turn = None if found.is_photo else LEAST_TURNS_DEG[picture.corners]
    if found.coverage is not None:
        return traced(found.coverage, ease, least_turn_deg=turn, field=found.field).sound(within_px)
    assert found.labels is not None
    assert found.picture is not None
    assert found.palette is not None
    films = max(max(film_of), 0) + 1
    table = np.array([film if film >= 0 else films for film in film_of])
    labels = table.astype(np.uint8)[found.labels]
    areas = traced_map(labels, found.picture, found.palette, ease, films, found.labels, least_turn_deg=turn)
    return areas.sound(within_px)


def _parted(pixels: ColourImage, picture: Picture, speck_px: float) -> Separated:
    if any(stroke.adds for stroke in picture.scribbles):
        return _by_scribbles(pixels, picture)
    if picture.background:
        return _by_background(pixels, picture)
    if picture.traced_as == "pen":
        return _by_tones(pixels, picture, speck_px)
    if picture.separate == "tones":
        return _by_several_tones(pixels, picture, speck_px)
    if picture.separate == "colours":
        return _by_colours(pixels, reduced_colours(_even(pixels), min(picture.colours, MOST_COLOURS)), is_flat=False)
    if picture.separate in ("level", "local"):
        return _by_tones(pixels, picture, speck_px)
    flat = flat_colours(pixels)
    if flat is None or (len(flat) == 2 and not _alike_in_lightness(flat)):
        return _by_tones(pixels, picture, speck_px)
    found = _by_colours(pixels, flat, is_flat=True)
    return _by_tones(pixels, picture, speck_px) if _is_ink_with_shades(found) else found


def _by_several_tones(pixels: ColourImage, picture: Picture, speck_px: float) -> Separated:
    """So many tones from dark to light; fringes finer than a speck between neighbouring ones are evened out."""
    import cv2  # here: it delays the first paint

    smooth = _smooth(grays(pixels), (TONE_GRAIN / GRAIN) ** 2 * speck_px)
    gray = np.repeat(smooth[:, :, None], 3, axis=2)
    tones = reduced_colours(gray, min(picture.colours, MOST_COLOURS))
    palette = tones[np.argsort(tones[:, 0])]
    labels = nearest_labels(gray, palette)
    reach = 2 * round(TONE_GRAIN * speck_px**0.5) + 1
    if reach > 1:
        labels = np.asarray(cv2.medianBlur(labels, reach), dtype=np.uint8)
    says = f"{len(palette)} tones; the lightest is the ground."
    return Separated(says, labels=labels, picture=gray, palette=palette, background=len(palette) - 1, is_photo=True)


def _alike_in_lightness(colours: FloatArray) -> bool:
    return bool(np.ptp(lab(colours)[:, 0]) < COLOURFUL_LAB)


def _is_ink_with_shades(found: Separated) -> bool:
    """Whether all small areas are mere shades between the ground and one ink: smudges, shadows, strips at the frame."""
    assert found.labels is not None
    assert found.palette is not None
    if found.background is None:
        return False
    counts = np.bincount(found.labels.ravel(), minlength=len(found.palette)).astype(np.float64)
    counts[found.background] = 0.0
    ink = int(counts.argmax())
    ground, way = found.palette[found.background], found.palette[ink] - found.palette[found.background]
    if _alike_in_lightness(found.palette[[found.background, ink]]) or counts[ink] < INK_SHARE * counts.sum():
        return False
    share = np.clip((found.palette - ground) @ way / max(float(way @ way), 1e-9), 0.0, 1.0)
    off = np.sqrt(((found.palette - ground - share[:, None] * way) ** 2).sum(axis=1))
    return bool((off < SHADE_DISTANCE).all())


def _by_tones(pixels: ColourImage, picture: Picture, speck_px: float) -> Separated:
    gray = grays(pixels)
    levels = levels_of(gray)
    uneven = picture.separate == "local" or (picture.separate == "automatic" and is_unevenly_lit(gray, levels))
    tones = local_tones(gray, levels) if uneven else two_tones(gray, picture.level, levels)
    shaded = tones is not None and not uneven and _is_shaded(tones)
    if shaded:
        tones = two_tones(_smooth(gray, speck_px), picture.level)
    if tones is None:
        raise NothingToDraw(f"{picture.name} is all of one tone: choose a picture with something on it.")
    says = _tones_in_words(tones, uneven, picture.level is not None)
    return Separated(says, coverage=tones.coverage, is_photo=shaded)


def _is_shaded(tones: Tones) -> bool:
    """Whether much of the picture is neither ink nor ground, as in a photo: its grain must not become outlines."""
    between = (tones.coverage > 0.2) & (tones.coverage < 0.8)
    return float(between.mean()) > SHADED


def _smooth(gray: NDArray[np.uint8], speck_px: float) -> NDArray[np.uint8]:
    """A photo without what is smaller than a speck."""
    import cv2  # here: it delays the first paint

    sigma = max(PHOTO_BLUR * max(gray.shape), GRAIN * speck_px**0.5)
    return np.asarray(cv2.GaussianBlur(gray, (0, 0), sigma), dtype=np.uint8)


def _tones_in_words(tones: Tones, uneven: bool, given: bool) -> str:
    ink = "dark on light" if tones.ink_is_dark else "light on dark"
    if uneven:
        return f"Two tones, {ink}, followed across uneven light."
    how = "your level" if given else "parted at level"
    return f"Two tones, {ink}, {how} {round(tones.level)} of 255."


def _even(pixels: ColourImage) -> ColourImage:
    """A photo with the grain of single pixels taken out."""
    import cv2  # here: it delays the first paint

    sigma = PHOTO_BLUR * max(pixels.shape[:2])
    return np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma), dtype=np.uint8) if sigma > 0.3 else pixels


def _by_colours(pixels: ColourImage, palette: FloatArray, *, is_flat: bool) -> Separated:
    held = pixels if is_flat else _even(pixels)
    pause()
    labels = flat_labels(held, palette) if is_flat else nearest_labels(held, palette)
    ground = _ground_of(labels, len(palette))
    if ground is None and not is_flat:
        ground = int(lab(palette)[:, 0].argmax())
    kept = len(palette) - (ground is not None)
    says = f"{kept} flat colours on a ground." if is_flat and ground is not None else f"{len(palette)} colours."
    return Separated(says, labels=labels, picture=held, palette=palette, background=ground, is_photo=not is_flat)


def _ground_of(labels: LabelImage, count: int) -> int | None:
    frame = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    shares = np.bincount(frame, minlength=count) / len(frame)
    return int(shares.argmax()) if shares.max() > FRAME_SHARE else None


def _by_scribbles(pixels: ColourImage, picture: Picture) -> Separated:
    shape = pixels.shape[0], pixels.shape[1]
    stays, goes = (_painted_over(shape, [s for s in picture.scribbles if s.adds is adds]) for adds in (True, False))
    coverage = cut_out(pixels, stays > 0.5, goes > 0.5)
    return Separated("Cut out along your scribbles.", coverage=coverage, is_photo=True)


def _by_background(pixels: ColourImage, picture: Picture) -> Separated:
    """Everything is kept but what the clicks took away."""
    import cv2  # here: it delays the first paint

    coverage = np.ones(pixels.shape[:2], dtype=np.float32)
    kernel = np.ones((FRINGE_PX, FRINGE_PX), np.uint8)
    for spot in picture.background:
        away = _distance_from(pixels, spot.at)
        own = away < spot.tolerance
        if spot.connected:
            own = _connected(own, spot.at)
        # mixed pixels along the edge: as much of the way to the colour next to them as they are away
        full = np.maximum(cv2.dilate(away, kernel), np.float32(1.5 * spot.tolerance))
        share = np.where(_widened(own), (away - _usual(away, own)) / full, 1.0)
        coverage = np.minimum(coverage, np.where(own, np.minimum(share, 0.45), share))
    coverage = np.clip(coverage, -0.25, 1.25).astype(np.float32)
    spots = "1 click" if len(picture.background) == 1 else f"{len(picture.background)} clicks"
    return Separated(f"Background away from {spots}.", coverage=coverage)


def _usual(away: FloatImage, own: NDArray[np.bool_]) -> float:
    """How far the background itself strays from the colour that was clicked, by its grain."""
    return float(np.median(away[own])) if own.any() else 0.0


def _distance_from(pixels: ColourImage, at: Share) -> FloatImage:
    """How far each pixel's colour is from that of a place, in Lab."""
    import cv2

    seen = cv2.cvtColor(pixels, cv2.COLOR_RGB2LAB).astype(np.float32) - np.array([0, 128, 128], dtype=np.float32)
    seen[:, :, 0] *= np.float32(100.0 / 255.0)
    row, column = _pixel(at, pixels.shape[:2])
    around = seen[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2].reshape(-1, 3)
    own = np.median(around, axis=0)
    return np.asarray(np.sqrt(((seen - own) ** 2).sum(axis=2)), dtype=np.float32)


def _pixel(at: Share, shape: tuple[int, ...]) -> tuple[int, int]:
    row, column = int(at[1] * shape[0]), int(at[0] * shape[1])
    return min(max(row, 0), shape[0] - 1), min(max(column, 0), shape[1] - 1)


def _connected(own: NDArray[np.bool_], at: Share) -> NDArray[np.bool_]:
    import cv2

    _, number = cv2.connectedComponents(own.astype(np.uint8), connectivity=4)
    home = int(number[_pixel(at, own.shape)])
    return np.asarray(number == home) if home else np.zeros_like(own)


def _widened(own: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """With the mixed pixels along its edge."""
    import cv2

    return np.asarray(cv2.dilate(own.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)


def _painted(found: Separated, strokes: tuple[BrushStroke, ...]) -> Separated:
    """What the brush added or took away."""
    for stroke in strokes:
        columns, rows = found.size
        share = _painted_over((rows, columns), [stroke])
        if found.coverage is not None:
            held = np.maximum(found.coverage, share) if stroke.adds else np.minimum(found.coverage, 1.0 - share)
            found = replace(found, coverage=held.astype(np.float32))
        elif found.background is not None:
            found = _labels_painted(found, share, found.background, adds=stroke.adds)
    return found


def _labels_painted(found: Separated, share: FloatImage, ground: int, *, adds: bool) -> Separated:
    """Brushed pixels in the nearest colour that is kept, or in the ground's, in the picture as well: it tells edges."""
    assert found.labels is not None
    assert found.picture is not None
    assert found.palette is not None
    touched, own = share > 0.0, share > 0.5
    new = filled(found.labels, touched | (found.labels == ground)) if adds else np.full_like(found.labels, ground)
    labels, picture = found.labels.copy(), found.picture.copy()
    labels[own] = new[own]
    part = share[touched][:, None]
    mixed = part * found.palette[new[touched]] + (1.0 - part) * picture[touched]
    picture[touched] = np.rint(mixed).astype(np.uint8)
    return replace(found, labels=labels, picture=picture)


def _painted_over(shape: tuple[int, int], strokes: Sequence[BrushStroke]) -> FloatImage:
    """How much of each pixel some strokes cover."""
    import cv2

    rows, columns = shape
    mask = np.zeros((rows, columns), np.uint8)
    for stroke in strokes:
        points = np.array([(int(x * columns), int(y * rows)) for x, y in stroke.points], dtype=np.int32)
        width = max(round(2 * stroke.radius * max(columns, rows)), 1)
        if len(points) == 1:
            cv2.circle(mask, points[0].tolist(), max(width // 2, 1), 255, -1, cv2.LINE_AA)
        elif len(points):
            cv2.polylines(mask, [points], False, 255, width, cv2.LINE_AA)
    return np.asarray(mask.astype(np.float32) / np.float32(255.0))


def _without_dirt(found: Separated, picture: Picture, speck_px: float, pinhole_px: float) -> Separated:
    """Specks, pinholes and, if they are to go, leftovers taken out; leftovers told either way."""
    ink = found.ink
    pieces = looked_through(ink, _strength(found), _away_from_ground(found))
    kept = {int(pieces.number[_pixel(at, ink.shape)]) for at in picture.kept_places}
    told = tuple(leftover for k, leftover in pieces.leftovers if k not in kept)
    gone = np.zeros(len(pieces.area), dtype=bool)
    if picture.leftovers_go:
        gone[[k for k, _ in pieces.leftovers if k not in kept]] = True
    if found.coverage is not None:
        small = pieces.area < speck_px
        small[0] = False
        small[[k for k in kept if k]] = False
        found = replace(found, leftovers=told) if told else found  # what is worked out of it stays
        if (gone | small).any() and found.coverage is not None:
            found = replace(found, coverage=_emptied(found.coverage, ink, pieces, gone | small))
        return _holes_filled(found, pinhole_px)
    assert found.labels is not None
    labels = found.labels
    if gone.any() and found.background is not None:
        labels = labels.copy()
        labels[gone[pieces.number]] = found.background
    labels = despeckled(labels, speck_px)
    return replace(found, labels=labels, leftovers=told)


def _strength(found: Separated) -> FloatImage:
    if found.coverage is not None:
        return found.coverage
    assert found.labels is not None
    return np.ones(found.labels.shape, dtype=np.float32)


def _away_from_ground(found: Separated) -> FloatImage | None:
    """How far the colour of each pixel's label is from the ground's, 1: too near to be told apart by eye in film."""
    if found.labels is None or found.palette is None or found.background is None:
        return None
    seen = lab(found.palette)
    away = np.sqrt(((seen - seen[found.background]) ** 2).sum(axis=1)) / NEAR_GROUND_LAB
    return np.asarray(away.astype(np.float32)[found.labels])


def _emptied(coverage: FloatImage, ink: NDArray[np.bool_], pieces: Pieces, gone: NDArray[np.bool_]) -> FloatImage:
    """Coverage without some pieces and the mixed pixels round them."""
    import cv2

    if not gone.any():
        return coverage
    out = gone[pieces.number] & ink
    stays = ink & ~out
    _, halo = cv2.connectedComponents((coverage > HALO).astype(np.uint8), connectivity=8)
    alone = np.zeros(int(halo.max()) + 1, dtype=bool)
    alone[np.unique(halo[out])] = True
    alone[np.unique(halo[stays])] = False
    alone[0] = False
    kernel = np.ones((5, 5), np.uint8)
    fringe = (cv2.dilate(out.astype(np.uint8), kernel) > 0) & (cv2.dilate(stays.astype(np.uint8), kernel) == 0)
    return np.where(out | fringe | alone[halo], np.minimum(coverage, 0.0), coverage).astype(np.float32)


def _holes_filled(found: Separated, least_px: float) -> Separated:
    """Coverage with holes of fewer pixels than that made full."""
    import cv2

    coverage = found.coverage
    if least_px <= 1.0 or coverage is None:
        return found
    ground = ~found.ink
    _, number, stats, _ = cv2.connectedComponentsWithStats(ground.astype(np.uint8), connectivity=4)
    tiny = stats[:, cv2.CC_STAT_AREA] < least_px
    tiny[0] = False
    rows, columns = coverage.shape
    left, top = stats[:, cv2.CC_STAT_LEFT], stats[:, cv2.CC_STAT_TOP]
    at_frame = (left == 0) | (top == 0)
    at_frame |= (left + stats[:, cv2.CC_STAT_WIDTH] == columns) | (top + stats[:, cv2.CC_STAT_HEIGHT] == rows)
    tiny &= ~at_frame
    if not tiny.any():
        return found
    own = tiny[number]
    kernel = np.ones((5, 5), np.uint8)
    other = cv2.dilate((ground & ~own).astype(np.uint8), kernel) > 0
    wide = (cv2.dilate(own.astype(np.uint8), kernel) > 0) & ~other
    filled_up = np.where(own | wide, np.maximum(coverage, 1.0), coverage).astype(np.float32)
    return replace(found, coverage=filled_up)
