"""Which panel belongs to which kind of source."""

from __future__ import annotations

from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.letter_grid import LetterGrid
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.monogram import Monogram
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.sources.source import SourceKind
from vivid_thimble.desktop.stations.gather.drawing_panel import DrawingPanel
from vivid_thimble.desktop.stations.gather.grid_panel import GridPanel
from vivid_thimble.desktop.stations.gather.monogram_panel import MonogramPanel
from vivid_thimble.desktop.stations.gather.picture_panel import PicturePanel
from vivid_thimble.desktop.stations.gather.plain_panel import PlainPanel
from vivid_thimble.desktop.stations.gather.portrait_panel import PortraitPanel
from vivid_thimble.desktop.stations.gather.source_panel import SourcePanel

PANELS: dict[type[SourceKind], type[SourcePanel]] = {
    Monogram: MonogramPanel,
    LetterGrid: GridPanel,
    Plain: PlainPanel,
    Artwork: DrawingPanel,
    Picture: PicturePanel,
    LinePortrait: PortraitPanel,
}
