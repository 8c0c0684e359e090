"""Pictures as they come: flat colours that compression has smeared, and handwriting scanned in uneven light."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from vivid_thimble.core.tracing.separate import flat_colours
from vivid_thimble.core.tracing.tones import grays, is_unevenly_lit, levels_of, local_tones

Colour = tuple[int, int, int]
LISTS: list[tuple[Colour, Colour, Colour]] = [
    ((255, 255, 255), (200, 30, 40), (30, 60, 160)),
    ((20, 20, 60), (250, 90, 30), (250, 240, 80)),
    ((30, 80, 60), (240, 230, 200), (200, 60, 50)),
    ((255, 255, 255), (120, 120, 120), (0, 0, 0)),
]


def compressed(colours: tuple[Colour, Colour, Colour], quality: int) -> np.ndarray:
    """A disc and a slanting quadrangle on a ground, drawn large, halved, and saved as photos are."""
    ground, one, two = colours
    large = np.full((1200, 1200, 3), ground, dtype=np.uint8)
    cv2.circle(large, (430, 420), 300, one, -1)
    cv2.fillPoly(large, [np.array([(600, 250), (1120, 420), (880, 1080), (420, 950)])], two)
    cv2.circle(large, (780, 560), 90, ground, -1)
    for k in range(5):
        cv2.line(large, (90 + 210 * k, 1150), (160 + 210 * k, 1020), one if k % 2 else two, 18)
    small = cv2.resize(large, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    _, data = cv2.imencode(".jpg", small[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])
    read = cv2.imdecode(data, cv2.IMREAD_COLOR)
    assert read is not None
    return np.ascontiguousarray(read[:, :, ::-1])


@pytest.mark.parametrize("quality", [40, 60, 85])
@pytest.mark.parametrize("colours", LISTS, ids=lambda c: str(c[0]))
def test_three_flat_colours_stay_three_however_they_were_compressed(
    colours: tuple[Colour, Colour, Colour], quality: int
) -> None:
    found = flat_colours(compressed(colours, quality))
    assert found is not None
    assert len(found) == 3
    away = np.abs(found[:, None] - np.array(colours, dtype=float)[None]).max(axis=2)
    assert away.min(axis=1).max() < 12.0
    assert sorted(away.argmin(axis=1).tolist()) == [0, 1, 2]


def scanned(darker: float, ink: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Loops of a pen on paper that lies in light falling off towards one corner, with noise; and where the pen went."""
    rng = np.random.default_rng(seed)
    rows, columns = 500, 800
    pen = np.zeros((2 * rows, 2 * columns), dtype=np.uint8)
    t = np.linspace(0.0, 18 * np.pi, 1500)
    for row in range(3):
        x = 90 + 25 * t
        y = (
            200
            + 300 * row
            + 65 * np.sin(t + rng.normal()) * (0.5 + 0.5 * np.sin(0.23 * t + row))
            + 16 * np.sin(2.3 * t)
        )
        cv2.polylines(pen, [np.stack([x, y], axis=1).astype(np.int32)], False, 255, 10, cv2.LINE_AA)
    share = cv2.GaussianBlur(cv2.resize(pen, (columns, rows), interpolation=cv2.INTER_AREA), (0, 0), 0.8) / 255.0
    y, x = np.mgrid[0:rows, 0:columns]
    light = 1.0 - darker * np.hypot(x / columns - 0.2, y / rows - 0.2)
    page = (245.0 * (1 - share) + ink * share) * light + rng.normal(0.0, 4.0, share.shape)
    return np.clip(page, 0, 255).astype(np.uint8), share > 0.5


@pytest.mark.parametrize(("darker", "ink"), [(0.3, 60.0), (0.5, 110.0), (0.7, 60.0)])
def test_handwriting_in_uneven_light_gives_its_lines(darker: float, ink: float) -> None:
    page, truth = scanned(darker, ink, seed=3)
    gray = grays(np.repeat(page[:, :, None], 3, axis=2))
    assert is_unevenly_lit(gray, levels_of(gray))
    tones = local_tones(gray)
    assert tones is not None
    found = tones.coverage > 0.5
    assert (found & truth).sum() / (found | truth).sum() > 0.85


def test_paper_alone_is_no_ink() -> None:
    page, _ = scanned(0.5, 245.0, seed=1)
    assert local_tones(page) is None
