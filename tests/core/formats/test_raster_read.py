"""Odd pictures come out right, or are refused with one sentence."""

from __future__ import annotations

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, ImageCms

from vivid_thimble.core.errors import PictureNotReadable
from vivid_thimble.core.formats.raster_read import is_picture, read_picture


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    held = io.BytesIO()
    image.save(held, kind, **options)
    return held.getvalue()


def halves(mode: str, dark: object, light: object, size: tuple[int, int] = (20, 10)) -> Image.Image:
    """Left half dark, right half light."""
    image = Image.new(mode, size, dark)  # type: ignore[arg-type]  # a colour of that mode
    image.paste(light, (size[0] // 2, 0, size[0], size[1]))  # type: ignore[arg-type]
    return image


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF"])
def test_every_format_gives_the_same_pixels(kind: str) -> None:
    data = saved(halves("RGB", (20, 20, 20), (230, 230, 230)), kind)
    assert is_picture(data)
    found = read_picture(data, "lantern")
    assert found.size == (20, 10)
    assert found.alpha is None
    assert np.abs(found.pixels[:, :8].astype(int) - 20).max() <= 6
    assert np.abs(found.pixels[:, 12:].astype(int) - 230).max() <= 6


def test_sixteen_bits_of_gray() -> None:
    values = np.tile(np.linspace(0, 65535, 40).astype(np.uint16), (8, 1))
    for kind in ("PNG", "TIFF"):
        found = read_picture(saved(Image.fromarray(values), kind), "deep")
        assert np.abs(found.pixels[0, :, 1].astype(float) - values[0] / 257.0).max() <= 1.0


def test_a_float_picture_of_shares() -> None:
    found = read_picture(saved(Image.fromarray(np.full((4, 4), 0.5, np.float32)), "TIFF"), "shares")
    assert found.pixels[0, 0].tolist() == [128, 128, 128]


def test_printing_inks_become_light() -> None:
    found = read_picture(saved(halves("CMYK", (0, 255, 255, 0), (0, 0, 0, 0)), "TIFF"), "inks")
    assert found.pixels[5, 3, 0] > 200
    assert found.pixels[5, 3, 1] < 60
    assert found.pixels[5, 16].min() > 250


@pytest.mark.parametrize("turn", range(1, 9))
def test_a_picture_held_any_way_comes_out_upright(turn: int) -> None:
    """The dark corner of the upright picture is top left."""
    upright = np.full((30, 50, 3), 220, np.uint8)
    upright[:10, :16] = 10
    undo = {
        1: lambda a: a,
        2: lambda a: a[:, ::-1],
        3: lambda a: a[::-1, ::-1],
        4: lambda a: a[::-1],
        5: lambda a: a.transpose(1, 0, 2),
        6: lambda a: np.rot90(a, 1),
        7: lambda a: np.rot90(a, 2).transpose(1, 0, 2),
        8: lambda a: np.rot90(a, -1),
    }[turn]
    exif = Image.Exif()
    exif[274] = turn
    data = saved(Image.fromarray(np.ascontiguousarray(undo(upright))), "JPEG", exif=exif, quality=95)
    found = read_picture(data, "turned").pixels
    assert found.shape == (30, 50, 3)
    assert found[2:8, 2:12].max() < 60
    assert found[:, 30:].min() > 180


def test_see_through_parts_lie_on_white_and_light_ink_on_black() -> None:
    dark = read_picture(saved(halves("RGBA", (30, 40, 50, 255), (0, 0, 0, 0)), "PNG"), "dark ink")
    assert dark.alpha is not None
    assert dark.pixels[5, 3].tolist() == [30, 40, 50]
    assert dark.pixels[5, 16].tolist() == [255, 255, 255]
    light = read_picture(saved(halves("RGBA", (255, 255, 250, 255), (0, 0, 0, 0)), "PNG"), "light ink")
    assert light.pixels[5, 3].min() > 245
    assert light.pixels[5, 16].tolist() == [0, 0, 0]


def test_palettes_with_and_without_a_see_through_colour() -> None:
    image = halves("RGB", (200, 30, 30), (250, 250, 250)).quantize(4)
    found = read_picture(saved(image, "PNG"), "palette")
    assert found.pixels[5, 3, 0] > 180
    clear = image.getpixel((16, 5))
    found = read_picture(saved(image, "GIF", transparency=clear), "palette")
    assert found.alpha is not None
    assert found.alpha[5, 16] == 0
    assert found.alpha[5, 3] == 255


def test_an_embedded_profile_is_heeded_and_a_broken_one_passed_over() -> None:
    lab_ish = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    image = halves("RGB", (60, 90, 120), (250, 250, 250))
    for profile in (lab_ish, b"not a profile at all"):
        found = read_picture(saved(image, "PNG", icc_profile=profile), "profile")
        assert np.abs(found.pixels[5, 3].astype(int) - [60, 90, 120]).max() <= 2


def test_the_resolution_is_told_when_it_makes_sense() -> None:
    image = Image.new("RGB", (4, 4))
    assert read_picture(saved(image, "PNG", dpi=(300, 300)), "scan").dpi == pytest.approx(300, abs=1)
    assert read_picture(saved(image, "PNG"), "shot").dpi is None


def huge_png(columns: int, rows: int) -> bytes:
    def chunk(tag: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + tag + body + struct.pack(">I", zlib.crc32(tag + body))

    head = struct.pack(">IIBBBBB", columns, rows, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (huge_png(12_000, 9_000), "64 million pixels"),
        (huge_png(100_000, 100_000), "64 million pixels"),
        (huge_png(400, 400), "broken"),
        (b"", "broken"),
        (b"\x89PNG\r\n\x1a\n", "broken"),
        (b"GIF89a", "broken"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "broken"),
        (saved(Image.new("RGB", (300, 300), (9, 9, 9)), "JPEG")[:400], "broken"),
    ],
    ids=["large", "bomb", "no pixels", "empty", "head", "gif head", "drawing", "cut short"],
)
def test_what_is_no_picture_gets_one_sentence(data: bytes, says: str) -> None:
    with pytest.raises(PictureNotReadable, match=says) as caught:
        read_picture(data, "lantern.png")
    assert "lantern.png" in str(caught.value)
    assert str(caught.value).count(".") <= 2


def test_one_pixel_is_a_picture() -> None:
    assert read_picture(saved(Image.new("L", (1, 1), 7), "PNG"), "dot").pixels.tolist() == [[[7, 7, 7]]]
