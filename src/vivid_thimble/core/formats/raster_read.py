"""Pictures of pixels, whatever they come in: PNG, JPEG, WebP, TIFF, BMP, GIF.

What comes out is always the same: upright (EXIF turns are applied), 8 bits of sRGB a channel (16-bit, gray, palette and
CMYK pictures are brought to that, by their embedded profile if they have one), first frame. How much of each pixel is
there at all is kept beside it. Sizes are looked at before anything is decoded.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.errors import PictureNotReadable
from vivid_thimble.core.formats.limits import LARGEST_PICTURE_BYTES, MOST_PIXELS
from vivid_thimble.core.strangers.ask import read_within_limits

if TYPE_CHECKING:
    from PIL import Image

KINDS = {"PNG", "JPEG", "MPO", "WEBP", "TIFF", "BMP", "DIB", "GIF"}
ENDINGS = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".gif")
STARTS = (b"\x89PNG", b"\xff\xd8\xff", b"II*\x00", b"MM\x00*", b"BM", b"GIF8")
LIGHT = 200.0
"""A see-through picture whose ink is lighter than this on the average is laid on black, to be seen."""


@dataclass(frozen=True, eq=False)
class Raster:
    """``pixels`` (rows, columns, 3); what is see-through lies on white, or on black where the ink is light.
    ``alpha`` (rows, columns) where parts are see-through, or None. ``dpi`` as the file states, or None."""

    pixels: NDArray[np.uint8]
    alpha: NDArray[np.uint8] | None = None
    dpi: float | None = None

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows."""
        return self.pixels.shape[1], self.pixels.shape[0]


def is_picture(data: bytes) -> bool:
    """Whether a file's first bytes are those of a picture of pixels."""
    return data.startswith(STARTS) or (data[:4] == b"RIFF" and data[8:12] == b"WEBP")


def read_picture(data: bytes, name: str) -> Raster:
    """Raises PictureNotReadable with one sentence. A process with limits reads it."""
    if len(data) > LARGEST_PICTURE_BYTES:
        raise PictureNotReadable(
            f"{name} is larger than {LARGEST_PICTURE_BYTES // 1_000_000} MB: save it smaller, or as a JPEG."
        )
    found: Raster = read_within_limits("picture", data, name, refusal=PictureNotReadable, name=name)
    return found


def read_picture_here(data: bytes, name: str) -> Raster:
    """The same in this process."""
    from PIL import Image, ImageOps  # here: they delay the first paint

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            opened = Image.open(io.BytesIO(data), formats=sorted(KINDS - {"MPO", "DIB"}))
            _refuse_too_many_pixels(opened.size, name)
            opened.load()
            dpi = _dpi(opened)
            image = _upright_8_bit(ImageOps.exif_transpose(opened))
    except PictureNotReadable:
        raise
    except Image.DecompressionBombError as error:
        raise PictureNotReadable(_too_many(name)) from error
    except Exception as error:  # decoders raise whatever they like for broken files
        raise PictureNotReadable(
            f"{name} cannot be read as a picture (it is broken, cut short or of another kind): open it in a "
            "picture program and save it again as PNG or JPEG."
        ) from error
    return _laid_on_ground(image, dpi)


def _refuse_too_many_pixels(size: tuple[int, int], name: str) -> None:
    if size[0] * size[1] > MOST_PIXELS:
        raise PictureNotReadable(_too_many(name))


def _too_many(name: str) -> str:
    return f"{name} says it has more than {MOST_PIXELS // 1_000_000} million pixels: make it smaller first."


def _dpi(image: Image.Image) -> float | None:
    stated = image.info.get("dpi")
    try:
        value = float(stated[0]) if stated else 0.0
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return value if 10.0 <= value <= 10_000.0 else None


def _upright_8_bit(image: Image.Image) -> Image.Image:
    """RGB or RGBA in sRGB."""
    from PIL import Image

    if image.mode in ("I;16", "I;16L", "I;16B", "I;16N", "I", "F"):
        return Image.fromarray(_to_8_bit(np.asarray(image, dtype=np.float64))).convert("RGB")
    see_through = image.mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info
    image = _in_srgb(image)
    return image.convert("RGBA" if see_through else "RGB")


def _to_8_bit(values: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Levels of a picture of more than 8 bits; 65535 is white unless values say otherwise."""
    values = np.nan_to_num(values)
    top = float(values.max(initial=0.0))
    white = 1.0 if 0.0 < top <= 1.0 else 255.0 if top <= 255.0 else 65535.0
    return np.clip(np.rint(values * (255.0 / white)), 0, 255).astype(np.uint8)


def _in_srgb(image: Image.Image) -> Image.Image:
    """Colours by the embedded profile; a broken profile is passed over."""
    from PIL import ImageCms

    profile = image.info.get("icc_profile")
    if not profile or image.mode not in ("RGB", "RGBA", "L", "CMYK"):
        return image
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        mode = "RGBA" if image.mode == "RGBA" else "RGB"
        found = ImageCms.profileToProfile(image, own, ImageCms.createProfile("sRGB"), outputMode=mode)
    except (ImageCms.PyCMSError, OSError, ValueError):
        return image
    if found is None:
        return image
    if "transparency" in image.info:
        found.info["transparency"] = image.info["transparency"]
    return found


def _laid_on_ground(image: Image.Image, dpi: float | None) -> Raster:
    array = np.asarray(image, dtype=np.uint8)
    if array.shape[2] == 3:
        return Raster(array, None, dpi)
    colour, alpha = array[:, :, :3].astype(np.float32), array[:, :, 3]
    if alpha.min(initial=255) == 255:
        return Raster(np.ascontiguousarray(array[:, :, :3]), None, dpi)
    share = alpha.astype(np.float32)[:, :, None] / 255.0
    weight = max(float(share.sum()), 1e-9)
    light = float((colour @ np.array([0.299, 0.587, 0.114], dtype=np.float32) * share[:, :, 0]).sum()) / weight
    ground = 0.0 if light > LIGHT else 255.0
    laid = np.clip(np.rint(colour * share + ground * (1.0 - share)), 0, 255).astype(np.uint8)
    return Raster(laid, alpha, dpi)
