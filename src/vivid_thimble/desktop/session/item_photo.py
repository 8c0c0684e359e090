"""Reads the photo of the item in hand away from the window's thread, once for each file."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QImage

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.session import Session

Shown = Callable[[QImage | None], object]
LARGEST_PX = 1800
"""A screen shows no more."""


class ItemPhoto(QObject):
    """Calls ``shown`` with the picture, or None; it belongs to a window, since a job may outlive its window."""

    def __init__(self, session: Session, shown: Shown, told: Callable[[str], object], parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._shown, self._told = session, shown, told
        self._asset = ""
        self._background = Background(self)
        session.job_changed.connect(self._renew)

    def stop(self) -> None:
        self._background.stop()

    def _renew(self) -> None:
        photo = self._session.job.item.photo
        asset = photo.asset if photo is not None else ""
        if asset == self._asset:
            return
        self._asset = asset
        data = self._session.assets.get(asset)
        self._shown(None)
        self._background.drop()
        if data is None:
            if asset:
                self._told("The photo of the item is missing from the job: choose it again in Measure.")
            return
        self._background.run(lambda: picture_of(data), self._take, newest_only=True)

    def _take(self, answer: QImage | Failed) -> None:
        if isinstance(answer, Failed):
            self._told(str(answer.error) if isinstance(answer.error, ThimbleError) else "The photo cannot be shown.")
        else:
            self._shown(answer)


def picture_of(data: bytes, name: str = "The photo") -> QImage:
    """Any picture that can be read, no larger than a screen shows; raises PictureNotReadable."""
    from vivid_thimble.core.formats.raster_read import read_picture  # here: it brings the numeric libraries
    from vivid_thimble.desktop.look.underlay import image_of

    image = image_of(read_picture(data, name).pixels)
    if max(image.width(), image.height()) > LARGEST_PX:
        image = image.scaled(
            LARGEST_PX, LARGEST_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
    return image
