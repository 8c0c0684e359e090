"""Everything can be named by a screen reader and reached by keys; colours have contrast as painted."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible, QColor, QImage
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QSlider,
    QSpinBox,
    QWidget,
)

from tests.desktop.conftest import Hand
from vivid_thimble.core.demo.jobs import (
    demo_assets,
    demo_job,
    pane_job,
)
from vivid_thimble.core.job.values import Job
from vivid_thimble.desktop.dialogs.history_dialog import HistoryDialog
from vivid_thimble.desktop.dialogs.preferences_dialog import PreferencesDialog
from vivid_thimble.desktop.look.theme import PALETTES, Palette, style_sheet
from vivid_thimble.desktop.window.help import HelpDialog

CONTROLS = (QAbstractButton, QLineEdit, QComboBox, QSlider, QSpinBox, QAbstractItemView)


def spoken(widget: QWidget) -> str:
    """The name that a screen reader gets."""
    interface = QAccessible.queryAccessibleInterface(widget)
    return interface.text(QAccessible.Text.Name) if interface is not None else ""


def controls_of(top: QWidget) -> Iterator[QWidget]:
    """Whatever can have the focus and is no inner part of something else."""
    for widget in top.findChildren(QWidget):
        above = widget.parentWidget()
        boxed = above is not None and isinstance(above.parentWidget(), QComboBox)  # the list that drops down
        inner = boxed or isinstance(above, QComboBox | QSpinBox | QAbstractScrollArea)
        takes_focus = widget.focusPolicy() != Qt.FocusPolicy.NoFocus
        if takes_focus and not inner and isinstance(widget, CONTROLS) and not widget.objectName().startswith("qt_"):
            yield widget


def nameless(top: QWidget) -> list[str]:
    return [
        f"{type(w).__name__} {w.objectName()!r} in {type(w.parentWidget()).__name__}"
        for w in controls_of(top)
        if not spoken(w).strip()
    ]


JOBS = (demo_job, pane_job)


@pytest.mark.parametrize("make", JOBS, ids=lambda make: make.__name__)
def test_every_control_of_every_station_has_a_name(hand: Hand, make: Callable[[], Job]) -> None:
    hand.window.session.start(make(), demo_assets())
    hand.settle()
    for station in hand.window.trays:
        hand.go_to(station)
        assert nameless(hand.window) == []


def test_custom_painted_widgets_tell_what_they_show(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    strip = hand.window.strip.gauges["line"]
    assert spoken(strip) == "Thinnest line: 1.25 mm, look"
    assert spoken(hand.window.work_path.buttons["measure"]).startswith("Measure: 620")
    assert "true scale" in spoken(hand.window.table)
    assert spoken(hand.find("tapePicture")) == "Where the tape goes"
    assert hand.find("tapePicture").accessibleDescription()


def test_dialogs_name_their_controls_too(hand: Hand) -> None:
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    openings = hand.window.dialogs
    for opened in (
        openings.open_stock,
        openings.open_preferences,
        openings.open_history,
        openings.open_versions,
        openings.open_guides,
        openings.open_help,
        openings.find_element,
        openings.open_set,
        openings.open_audition,
    ):
        opened()
        for dialog in [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]:
            assert nameless(dialog) == [], type(dialog).__name__
            dialog.close()
    hand.window.show_start()
    assert nameless(hand.window.start_page) == []


def test_every_control_is_reached_by_the_tab_key(hand: Hand) -> None:
    """Once round with Tab meets the stations, the gauges, the table, the looks and the tray."""
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    hand.go_to("shape")
    hand.window.table.setFocus()
    met: set[str] = set()
    for _ in range(150):
        hand.bot.keyClick(QApplication.focusWidget() or hand.window, Qt.Key.Key_Tab)
        focus = QApplication.focusWidget()
        if focus is not None:
            met.add(focus.objectName())
    for name in ("table", "gaugeLine", "gaugeClean", "designWidth", "station_shape", "elementWidth", "turn", "zoomFit"):
        assert name in met, f"{name} cannot be reached by Tab"


# -- contrast as it is painted -------------------------------------------------------------


def luminance(colour: QColor) -> float:
    """Relative luminance as WCAG 2 defines it."""
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: QColor, b: QColor) -> float:
    light, dark = sorted((luminance(a), luminance(b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def painted_contrast(whole: QImage, widget: QWidget) -> float:
    """Between the ground of a widget and what stands out most from it, in a picture of its window."""
    place = QRect(widget.mapTo(widget.window(), QPoint(0, 0)), widget.size())
    picture = whole.copy(place & whole.rect()).convertToFormat(QImage.Format.Format_RGB32)
    values = np.frombuffer(picture.constBits(), np.uint32).reshape(picture.height(), -1)[2:-2, 2 : picture.width() - 2]
    colours, counts = np.unique(values & 0xFFFFFF, return_counts=True)
    ground = QColor.fromRgb(int(colours[counts.argmax()]))
    often = colours[counts >= 2]
    return max((contrast(ground, QColor.fromRgb(int(value))) for value in often), default=1.0)


def _is_in_sight(widget: QWidget) -> bool:
    """Not scrolled out of the tray, not even in part."""
    return widget.visibleRegion().boundingRect().height() >= widget.height() - 1


@pytest.mark.parametrize("palette", PALETTES.values(), ids=lambda p: p.name)
def test_all_text_stands_out_from_its_ground_in_pictures(hand: Hand, palette: Palette) -> None:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    before = app.styleSheet()
    hand.window.session.start(demo_job(), demo_assets())
    hand.settle()
    try:
        app.setStyleSheet(style_sheet(palette))
        hand.window.use_palette(palette)
        for station in hand.window.trays:
            hand.go_to(station)
            whole = hand.window.grab().toImage()
            seen = [w for w in hand.window.findChildren(QWidget) if w.isVisible() and _is_in_sight(w)]
            for widget in seen:
                if isinstance(widget, QLabel | QPushButton) and widget.isEnabled() and widget.text().strip(" –—-_"):
                    figure = painted_contrast(whole, widget)
                    assert figure >= 4.5, f"{palette.name} {station}: {widget.text()!r} has {figure:.2f}"
        for gauge in hand.window.strip.gauges.values():
            assert painted_contrast(whole, gauge) >= 4.5
    finally:
        app.setStyleSheet(before)


def test_the_dialogs_open_by_their_keys(hand: Hand) -> None:
    for key, modifier, kind in (
        (Qt.Key.Key_F1, Qt.KeyboardModifier.NoModifier, HelpDialog),
        (Qt.Key.Key_H, Qt.KeyboardModifier.ControlModifier, HistoryDialog),
        (Qt.Key.Key_Comma, Qt.KeyboardModifier.ControlModifier, PreferencesDialog),
    ):
        hand.keys(key, modifier)
        dialog = next(one for one in QApplication.topLevelWidgets() if isinstance(one, kind) and one.isVisible())
        dialog.close()
