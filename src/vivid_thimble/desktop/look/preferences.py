"""What a person prefers, by the desktop's conventions for settings; every value has its default here."""

from __future__ import annotations

import logging
import math
import os
from dataclasses import dataclass
from typing import Literal, get_args

from PySide6.QtCore import QByteArray, QLocale, QSettings, Qt
from PySide6.QtGui import QGuiApplication

from vivid_thimble.core.files import put_aside
from vivid_thimble.core.folders import settings_folder
from vivid_thimble.core.lengths import UNITS, Unit

log = logging.getLogger(__name__)
PaletteChoice = Literal["desktop", "day", "evening"]
PALETTE_CHOICES: tuple[PaletteChoice, ...] = get_args(PaletteChoice)
PALETTE_WORDS: tuple[tuple[PaletteChoice, str], ...] = (
    ("desktop", "Colours of the desktop"),
    ("day", "Workroom by day"),
    ("evening", "Workroom by evening"),
)
UNIT_WORDS: tuple[tuple[Unit, str], ...] = (
    ("mm", "millimetres"),
    ("cm", "centimetres"),
    ("in", "inches"),
    ("in/16", "inches and fractions"),
)
TEXT_SCALES = (1.0, 1.1, 1.25, 1.5)
LANGUAGES = (("", "As the desktop"), ("en", "English"), ("de", "Deutsch"))
SETTINGS_NAME = "vivid-thimble.conf"
MOST_VERSIONS = (0, 5, 20, 100)


@dataclass(frozen=True)
class Preferences:
    """``folder`` of the jobs: empty for the desktop's usual one; ``screen_px_per_mm``: 0 for what the screen tells of
    itself."""

    palette: PaletteChoice = "desktop"
    text_scale: float = 1.0
    unit: Unit = "mm"
    language: str = ""
    folder: str = ""
    versions: int = 20
    screen_px_per_mm: float = 0.0
    start_page: bool = True


def set_odd_settings_aside() -> str:
    """Put away what lies in the place of the settings and is no file, which would hold up every start; a sentence when
    something did, to be told."""
    told = ""
    for path in (settings_folder() / SETTINGS_NAME, settings_folder().parent / SETTINGS_NAME):
        try:
            if not os.path.lexists(path) or path.is_file():
                continue
            told = f"Instead of a file of preferences there was something else: it was set aside as {put_aside(path)}."
        except OSError as error:
            log.info("what lies in the place of the settings could not be set aside: %s", error)
    return told


def read_preferences() -> Preferences:
    """What cannot be read falls back to its default."""
    kept, usual = QSettings(), Preferences()
    palette, unit = str(kept.value("palette", usual.palette)), str(kept.value("unit", _usual_unit()))
    scale = _number(kept.value("textScale", 1.0), 1.0)
    return Preferences(
        palette=palette if palette in PALETTE_CHOICES else usual.palette,
        text_scale=min(TEXT_SCALES, key=lambda one: abs(one - scale)),
        unit=unit if unit in UNITS else usual.unit,
        language=str(kept.value("language", "")),
        folder=str(kept.value("folder", "")),
        versions=max(round(_number(kept.value("versions", usual.versions), usual.versions)), 0),
        screen_px_per_mm=max(_number(kept.value("screenPxPerMm", 0.0), 0.0), 0.0),
        start_page=str(kept.value("startPage", "true")) == "true",
    )


def keep_preferences(values: Preferences) -> None:
    kept = QSettings()
    kept.setValue("palette", values.palette)
    kept.setValue("textScale", values.text_scale)
    kept.setValue("unit", values.unit)
    kept.setValue("language", values.language)
    kept.setValue("folder", values.folder)
    kept.setValue("versions", values.versions)
    kept.setValue("screenPxPerMm", values.screen_px_per_mm)
    kept.setValue("startPage", "true" if values.start_page else "false")


def palette_name(choice: PaletteChoice) -> str:
    """Day or evening; the desktop's choice is followed when it makes one."""
    if choice != "desktop":
        return choice
    return "evening" if QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark else "day"


def language_code(choice: str) -> str:
    """Two letters, such as en."""
    return choice or QLocale.system().name()[:2]


def _usual_unit() -> Unit:
    """Inches where they are the custom, millimetres everywhere else."""
    custom = QLocale.system().measurementSystem()
    return "in/16" if custom == QLocale.MeasurementSystem.ImperialUSSystem else "mm"


def _number(value: object, usual: float) -> float:
    try:
        number = float(str(value))
    except ValueError:
        return usual
    return number if math.isfinite(number) else usual


def keep_window_place(geometry: bytes) -> None:
    """Size and place of the window that was closed last, as the toolkit tells them."""
    QSettings().setValue("windowPlace", QByteArray(geometry))


def kept_window_place() -> QByteArray | None:
    """None when there is none, or none that can be used."""
    kept = QSettings().value("windowPlace")
    return kept if isinstance(kept, QByteArray) and not kept.isEmpty() else None


SHORTCUTS = "shortcuts"


def kept_shortcuts() -> dict[str, str]:
    """Changed shortcuts by the name of their action."""
    kept = QSettings()
    kept.beginGroup(SHORTCUTS)
    found = {key: str(kept.value(key)) for key in kept.childKeys()}
    kept.endGroup()
    return found


def keep_shortcut(name: str, keys: str | None) -> None:
    """None: as it was shipped."""
    kept = QSettings()
    if keys is None:
        kept.remove(f"{SHORTCUTS}/{name}")
    else:
        kept.setValue(f"{SHORTCUTS}/{name}", keys)
