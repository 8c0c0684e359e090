"""Two palettes, the workroom by day and by evening, and the style sheet made of them.

Every text colour has at least 4.5:1 against its ground (a test computes it).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from importlib import resources
from pathlib import Path as FilePath

from PySide6.QtCore import QCoreApplication


@dataclass(frozen=True)
class Palette:
    """Colours by their part in the room, as #rrggbb."""

    name: str
    cloth: str
    panel: str
    raised: str
    ink: str
    soft_ink: str
    thread: str
    thread_ink: str
    seam: str
    fine: str
    look: str
    stop: str
    blank: str
    blank_edge: str
    waste: str


DAY = Palette(
    name="day",
    cloth="#e9e2d3",
    panel="#f8f4ea",
    raised="#fffdf7",
    ink="#2a2833",
    soft_ink="#5d5966",
    thread="#7a3b63",
    thread_ink="#fffdf7",
    seam="#c9bda6",
    fine="#2a6148",
    look="#805300",
    stop="#a52a22",
    blank="#fdfbf5",
    blank_edge="#8f8571",
    waste="#d9c7a8",
)
EVENING = Palette(
    name="evening",
    cloth="#1f1d26",
    panel="#2a2732",
    raised="#343040",
    ink="#f0eadc",
    soft_ink="#b9b1bf",
    thread="#e0a3c8",
    thread_ink="#241d25",
    seam="#4d4758",
    fine="#7fcfa8",
    look="#e6b860",
    stop="#f0948b",
    blank="#3d3847",
    blank_edge="#8d859b",
    waste="#6b5f55",
)
IN_USE, TEXT_SCALE = "paletteInUse", "textScale"
"""Properties of the application object."""
ONE_ROW_SCALE = 1.1
"""With larger text what lies in a row at the top takes two."""
_POINTS = re.compile(r"([0-9.]+)pt")
PALETTES = {p.name: p for p in (DAY, EVENING)}


def palette_in_use() -> Palette:
    """The palette that the application shows now."""
    app = QCoreApplication.instance()
    return PALETTES.get(str(app.property(IN_USE)) if app is not None else "", DAY)


def text_scale() -> float:
    """How much larger than usual all text is, 1 to 1.5."""
    app = QCoreApplication.instance()
    told = app.property(TEXT_SCALE) if app is not None else None
    return float(told) if isinstance(told, float) else 1.0


def px(size: float) -> int:
    """Pixels of a text, or of room for text, at the text size in use."""
    return round(size * text_scale())


def room_px(size: float, most: float) -> int:
    """Room that grows with the text, but no more than ``most`` times: the table needs its share of the window."""
    return round(size * min(text_scale(), most))


def style_sheet(p: Palette, scale: float = 1.0) -> str:
    """The application's style sheet, its text so many times as large as usual."""
    return _POINTS.sub(lambda match: f"{float(match[1]) * scale:.2f}pt", _usual_sheet(p))


def _usual_sheet(p: Palette) -> str:
    icons = FilePath(str(resources.files("vivid_thimble"))) / "data" / "icons"
    tick, down, up = ((icons / f"{name}-{p.name}.svg").as_posix() for name in ("tick", "down", "up"))
    return f"""
* {{ font-family: "Cabin"; font-size: 10.5pt; color: {p.ink}; }}
QMainWindow, QDialog, QMessageBox {{ background: {p.cloth}; }}
QToolTip {{ background: {p.raised}; color: {p.ink}; border: 1px solid {p.seam}; padding: 4px; }}
QMenuBar {{ background: {p.panel}; }}
QMenuBar::item {{ padding: 4px 10px; background: transparent; }}
QMenuBar::item:selected, QMenu::item:selected {{ background: {p.thread}; color: {p.thread_ink}; }}
QMenu {{ background: {p.raised}; border: 1px solid {p.seam}; }}
QMenu::item {{ padding: 5px 26px 5px 14px; }}
QMenu::item:disabled {{ color: {p.soft_ink}; }}
#tray, #workPath, #sizeStrip {{ background: {p.panel}; }}
#tray QLabel#stationTitle {{ font-size: 15pt; font-weight: 600; }}
QLabel#stationQuestion {{ color: {p.soft_ink}; }}
QLabel[role="section"] {{ font-weight: 600; color: {p.thread}; padding: 4px 0 0 0; }}
QLabel[role="hint"] {{ color: {p.soft_ink}; font-size: 9.5pt; }}
QLabel[role="wrong"] {{ color: {p.stop}; font-size: 9.5pt; }}
QLabel[role="stop"] {{ color: {p.stop}; font-weight: 600; }}
QLabel[role="fine"] {{ color: {p.fine}; font-weight: 600; }}
QLineEdit, QPlainTextEdit, QComboBox, QListWidget, QTreeWidget {{
  background: {p.raised}; border: 1px solid {p.seam}; border-radius: 4px; padding: 4px 6px;
  selection-background-color: {p.thread}; selection-color: {p.thread_ink}; }}
QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus, QListWidget:focus, QTreeWidget:focus {{ border: 2px solid {p.thread}; padding: 3px 5px; }}
QLabel[floats="true"] {{ background: {p.raised}; border: 1px solid {p.seam}; border-radius: 4px; padding: 4px 6px; }}
QLineEdit[was="true"] {{ color: {p.soft_ink}; }}
QLineEdit[wrong="true"] {{ border: 2px solid {p.stop}; padding: 3px 5px; }}
QComboBox QAbstractItemView {{ background: {p.raised}; border: 1px solid {p.seam}; selection-background-color: {p.thread};
  selection-color: {p.thread_ink}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url({down}); width: 12px; height: 12px; margin-right: 8px; }}
QListWidget::indicator, QTreeWidget::indicator {{ width: 15px; height: 15px; border: 1px solid {p.blank_edge}; border-radius: 3px; background: {p.raised}; }}
QListWidget::indicator:checked, QTreeWidget::indicator:checked {{ image: url({tick}); background: {p.thread}; border-color: {p.thread}; }}
QTreeWidget::indicator:indeterminate {{ background: {p.seam}; border-color: {p.thread}; }}
QTreeWidget::item {{ padding: 2px; color: {p.ink}; }}
QTreeWidget::item:selected {{ background: {p.thread}; color: {p.thread_ink}; }}
QListWidget::item {{ padding: 4px 2px; border-bottom: 1px dotted {p.seam}; color: {p.ink}; }}
QListWidget::item:selected {{ background: {p.thread}; color: {p.thread_ink}; }}
QPushButton {{ background: {p.raised}; border: 1px solid {p.seam}; border-radius: 4px; padding: 5px 12px; }}
QPushButton:hover {{ border-color: {p.thread}; }}
QPushButton:focus {{ border: 2px solid {p.thread}; padding: 4px 11px; }}
QPushButton:pressed, QPushButton:checked {{ background: {p.thread}; color: {p.thread_ink}; }}
QPushButton:disabled {{ color: {p.soft_ink}; background: {p.panel}; }}
QPushButton[role="main"] {{ background: {p.thread}; color: {p.thread_ink}; font-weight: 600; border-color: {p.thread}; }}
QPushButton[role="main"]:focus {{ border: 2px solid {p.ink}; }}
QPushButton[role="main"]:disabled {{ background: {p.seam}; color: {p.ink}; border-color: {p.seam}; }}
QSpinBox, QDoubleSpinBox {{ background: {p.raised}; border: 1px solid {p.seam}; border-radius: 4px; padding: 4px 6px;
  selection-background-color: {p.thread}; selection-color: {p.thread_ink}; }}
QSpinBox:focus, QDoubleSpinBox:focus {{ border: 2px solid {p.thread}; padding: 3px 5px; }}
QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{
  border: none; background: transparent; width: 18px; }}
QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: url({up}); width: 9px; height: 9px; }}
QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: url({down}); width: 9px; height: 9px; }}
QSlider {{ min-height: 24px; }}
QSlider::groove:horizontal {{ height: 4px; background: {p.seam}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {p.thread}; border-radius: 2px; }}
QSlider::handle:horizontal {{ width: 16px; margin: -6px 0; border-radius: 8px; background: {p.raised};
  border: 2px solid {p.thread}; }}
QSlider::handle:horizontal:focus {{ background: {p.thread}; }}
QCheckBox {{ spacing: 7px; }}
QCheckBox:focus {{ color: {p.thread}; }}
QCheckBox::indicator {{ width: 15px; height: 15px; border: 1px solid {p.blank_edge}; border-radius: 3px; background: {p.raised}; }}
QCheckBox::indicator:checked {{ image: url({tick}); background: {p.thread}; border-color: {p.thread}; }}
QScrollArea {{ border: none; background: transparent; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 10px; }}
QScrollBar::handle:vertical {{ background: {p.seam}; border-radius: 5px; min-height: 24px; }}
QScrollBar::handle:vertical:disabled {{ background: transparent; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
QStatusBar {{ background: {p.panel}; }}
QStatusBar::item {{ border: none; }}
#tourCard {{ background: {p.raised}; border: 2px solid {p.thread}; border-radius: 6px; }}
#tourCard QLabel {{ border: none; background: transparent; }}
QTableWidget {{ background: {p.raised}; border: 1px solid {p.seam}; gridline-color: {p.seam}; selection-background-color: {p.thread};
  selection-color: {p.thread_ink}; }}
QHeaderView::section {{ background: {p.panel}; border: none; border-bottom: 1px solid {p.seam}; padding: 4px 6px; font-weight: 600; }}
QTextBrowser {{ background: {p.raised}; border: 1px solid {p.seam}; border-radius: 4px; padding: 6px 10px; }}
#noticeBar {{ background: {p.raised}; border-bottom: 2px solid {p.thread}; }}
"""
