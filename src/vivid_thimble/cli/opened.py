"""Files named on the command line, opened once."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path as FilePath

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.drawing_stages import read_once
from vivid_thimble.core.evaluate.picture_stages import raster_once
from vivid_thimble.core.files import read_file
from vivid_thimble.core.formats.limits import LARGEST_PICTURE_BYTES
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.sources.drawing import Drawing


@dataclass(frozen=True)
class Opened:
    """A drawing named on the command line, and all that is worked out about it."""

    name: str
    data: bytes
    asset: str
    drawing: Drawing
    cache: Cache

    @property
    def assets(self) -> dict[str, bytes]:
        return {self.asset: self.data}


@dataclass(frozen=True)
class OpenedPicture:
    """The same for a picture."""

    name: str
    asset: str
    assets: dict[str, bytes]
    raster: Raster
    cache: Cache


def bytes_of(path: str) -> bytes:
    try:
        return read_file(path, LARGEST_PICTURE_BYTES)
    except OSError as error:
        raise InputRefused(f"{path} cannot be opened ({(error.strerror or '').lower()}): check the name.") from error


def opened(art: str, page: int = 0) -> Opened:
    name = FilePath(art).name
    data = bytes_of(art)
    cache, asset = Cache(), asset_key(data)
    return Opened(name, data, asset, read_once(data, asset, name, page, cache), cache)


def opened_picture(path: str) -> OpenedPicture:
    name = FilePath(path).name
    data = bytes_of(path)
    cache, asset = Cache(), asset_key(data)
    return OpenedPicture(name, asset, {asset: data}, raster_once(data, asset, name, cache), cache)
