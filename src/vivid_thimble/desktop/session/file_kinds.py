"""Which files can join a job, by their endings."""

from __future__ import annotations

from vivid_thimble.core.formats.raster_read import ENDINGS as PICTURE_ENDINGS

DRAWING_ENDINGS = (".svg", ".svgz", ".dxf", ".pdf", ".zip", *PICTURE_ENDINGS)
FONT_ENDINGS = (".ttf", ".otf", ".ttc", ".woff2", ".woff")
DRAWINGS = " ".join(f"*{ending}" for ending in DRAWING_ENDINGS)
"""As file dialogs want it."""
