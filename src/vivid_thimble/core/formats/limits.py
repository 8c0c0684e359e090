"""How large a file may be before it is refused, the same for all formats."""

from __future__ import annotations

from vivid_thimble.core.errors import DrawingNotReadable

LARGEST_FILE_BYTES = 64_000_000
LARGEST_PICTURE_BYTES = 250_000_000
MOST_PIXELS = 64_000_000
"""Pixels that a picture may have; its size is looked at before it is decoded."""
MOST_SEGMENTS = 400_000
"""Line segments and curves that a drawing may have."""


def refuse_too_large(data: bytes, name: str, remedy: str = "simplify it before opening") -> None:
    """Raises DrawingNotReadable for a file that no drawing needs."""
    if len(data) > LARGEST_FILE_BYTES:
        raise DrawingNotReadable(f"{name} is larger than {LARGEST_FILE_BYTES // 1_000_000} MB: {remedy}.")
