"""Draws the two pictures of the demonstration: a screenshot of words, and Bramble the otter.

    PYTHONPATH=src python src/vivid_thimble/data/demo/draw_pictures.py

Both are made up here. The words are soft and compressed, as a screenshot that was sent around; the otter is shaded
like a photo, with grain.
"""

from __future__ import annotations

from pathlib import Path as FilePath

import numpy as np

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.sources.lettering import Words, shape_words

HERE = FilePath(__file__).parent
OVER = 4


def main() -> None:
    save("regatta-words.jpg", words(), 72)
    save("bramble.jpg", otter(), 85)


def save(name: str, picture: np.ndarray, quality: int) -> None:
    import cv2  # here: it delays the first paint

    cv2.imwrite(str(HERE / name), picture[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])


def words(width: int = 900, height: int = 420) -> np.ndarray:
    """Dark blue words on a cream ground, with a smudge, two specks and a darker strip at the lower edge."""
    import cv2  # here: it delays the first paint

    shaped = shape_words(Words(text="Quillfen\nLantern Regatta", face="bundled:Pacifico", align="centre"))
    region = union([Region.from_path(one.path.transformed(Affine.scaling(100.0))) for one in shaped.letters])
    left, top, right, bottom = region.bounds or (0.0, 0.0, 1.0, 1.0)
    scale = 0.86 * width / (right - left)
    middle = np.array([left + right, top + bottom]) / 2.0
    offset = np.array([width, height]) / 2.0 - middle * scale
    ink = np.zeros((height * OVER, width * OVER), np.uint8)
    for polygon in region.polygons.geoms:
        rings = [np.asarray(ring.coords) for ring in (polygon.exterior, *polygon.interiors)]
        cv2.fillPoly(
            ink, [np.rint((ring * scale + offset) * OVER * 16).astype(np.int32) for ring in rings], 255, shift=4
        )
    share = cv2.resize(ink, (width, height), interpolation=cv2.INTER_AREA).astype(np.float64)[:, :, None] / 255.0
    ground, dark = np.array([246.0, 240.0, 226.0]), np.array([28.0, 44.0, 88.0])
    picture = ground * (1.0 - share) + dark * share
    smudge = np.zeros((height, width))
    cv2.ellipse(smudge, (790, 60), (46, 9), -12, 0, 360, 1.0, -1)
    picture -= cv2.GaussianBlur(smudge, (0, 0), 5.0)[:, :, None] * 130.0
    for x, y in ((96, 330), (512, 24)):
        cv2.circle(picture, (x, y), 2, dark.tolist(), -1, cv2.LINE_AA)
    picture[-7:] = (96.0, 104.0, 120.0)
    soft = cv2.GaussianBlur(picture, (0, 0), 0.8) + np.random.default_rng(11).normal(0.0, 3.0, picture.shape)
    return np.asarray(np.clip(np.rint(soft), 0, 255), dtype=np.uint8)


def otter(size: int = 900) -> np.ndarray:
    """A face from the front: round head, small ears, broad muzzle, bright eyes, whiskers, water behind."""
    import cv2  # here: it delays the first paint

    y, x = np.mgrid[0:size, 0:size] / size

    def blob(cx: float, cy: float, rx: float, ry: float, edge: float, turn: float = 0.0) -> np.ndarray:
        c, s = np.cos(turn), np.sin(turn)
        u, v = (x - cx) * c + (y - cy) * s, -(x - cx) * s + (y - cy) * c
        away = np.hypot(u / rx, v / ry)
        return np.asarray(np.clip((1.0 - away) / edge + 0.5, 0.0, 1.0))

    light = 0.78 + 0.1 * np.sin(18.0 * y + 3.0 * np.sin(5.0 * x)) * (0.4 + y) - 0.18 * y
    layers = [
        (blob(0.5, 1.02, 0.36, 0.42, 0.25), 0.36),
        (blob(0.27, 0.3, 0.075, 0.07, 0.3), 0.3),
        (blob(0.73, 0.3, 0.075, 0.07, 0.3), 0.3),
        (blob(0.5, 0.48, 0.31, 0.285, 0.12), 0.4),
        (blob(0.42, 0.38, 0.2, 0.16, 0.9), 0.52),
        (blob(0.5, 0.66, 0.21, 0.14, 0.35), 0.74),
        (blob(0.42, 0.6, 0.12, 0.095, 0.5), 0.82),
        (blob(0.58, 0.6, 0.12, 0.095, 0.5), 0.8),
        (blob(0.5, 0.55, 0.07, 0.05, 0.16), 0.07),
        (blob(0.48, 0.535, 0.022, 0.011, 0.6), 0.5),
        (blob(0.5, 0.64, 0.008, 0.06, 0.6), 0.25),
        (blob(0.45, 0.7, 0.07, 0.014, 0.6, 0.25), 0.28),
        (blob(0.55, 0.7, 0.07, 0.014, 0.6, -0.25), 0.28),
    ]
    for cx in (0.37, 0.63):
        layers += [(blob(cx, 0.42, 0.052, 0.05, 0.3), 0.16), (blob(cx, 0.42, 0.042, 0.04, 0.2), 0.04)]
        layers.append((blob(cx - 0.014, 0.405, 0.012, 0.012, 0.4), 0.98))
    for cover, tone in layers:
        light = light * (1.0 - cover) + tone * cover
    picture = np.repeat(light[:, :, None] * 255.0, 3, axis=2)
    for side in (-1, 1):
        for k in range(4):
            start = (int((0.5 + side * 0.13) * size), int((0.6 + 0.022 * k) * size))
            end = (int((0.5 + side * 0.36) * size), int((0.55 + 0.05 * k) * size))
            cv2.line(picture, start, end, (232.0, 232.0, 226.0), 3, cv2.LINE_AA)
    fur = cv2.GaussianBlur(np.random.default_rng(5).normal(0.0, 1.0, (size, size)), (0, 0), sigmaX=1.2, sigmaY=4.0)
    head = np.maximum(blob(0.5, 0.48, 0.31, 0.285, 0.12), blob(0.5, 1.02, 0.36, 0.42, 0.25))
    picture += (fur * 46.0 * head)[:, :, None] + np.random.default_rng(6).normal(0.0, 3.0, picture.shape)
    picture *= np.array([1.0, 0.965, 0.9])
    return np.asarray(np.clip(np.rint(picture), 0, 255), dtype=np.uint8)


if __name__ == "__main__":
    main()
