"""What of a window's words does not fit: told for every label, button, box and field that is shown."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QLineEdit, QPushButton, QScrollArea, QWidget

SLACK_PX = 3


def clipped(top: QWidget) -> list[str]:
    """One line for each control whose words are cut off, or that lies outside its window."""
    told = []
    for widget in top.findChildren(QWidget):
        if not widget.isVisible() or widget.visibleRegion().isEmpty():
            continue
        trouble = _trouble(widget)
        if trouble:
            told.append(f"{type(widget).__name__} {widget.objectName()!r}: {trouble}")
    return told


def _trouble(widget: QWidget) -> str:
    if isinstance(widget, QLabel) and widget.text() and widget.textFormat() != Qt.TextFormat.RichText:
        return _label_trouble(widget)
    if isinstance(widget, QPushButton | QCheckBox) and widget.text():
        short = widget.minimumSizeHint().width() - widget.width()
        if short > SLACK_PX:
            return f"{widget.text()!r} lacks {short} px"
    if isinstance(widget, QComboBox) and widget.height() + SLACK_PX < widget.fontMetrics().height():
        return "the box is lower than its words"
    if isinstance(widget, QLineEdit) and widget.height() < widget.fontMetrics().height():
        return "the field is lower than its words"
    return _outside(widget)


def _label_trouble(label: QLabel) -> str:
    words = label.text().replace("&", "")
    metrics = label.fontMetrics()
    if label.wordWrap():
        box = metrics.boundingRect(
            QRect(0, 0, max(label.contentsRect().width(), 1), 4000), Qt.TextFlag.TextWordWrap, words
        )
        if box.height() > label.height() + SLACK_PX:
            return f"{words[:40]!r} is {box.height()} px high and has {label.height()}"
        longest = max((metrics.horizontalAdvance(word) for word in words.split()), default=0)
        return f"a word of {words[:40]!r} is wider than its room" if longest > label.width() + SLACK_PX else ""
    wide = max(metrics.horizontalAdvance(line) for line in words.split("\n"))
    return f"{words[:40]!r} lacks {wide - label.width()} px" if wide > label.width() + SLACK_PX else ""


def _outside(widget: QWidget) -> str:
    """Whether a control reaches over the side of its window or of the scrolled page that it lies on."""
    page = widget.parentWidget()
    while page is not None and not isinstance(page.parentWidget(), QScrollArea) and not page.isWindow():
        page = page.parentWidget()
    if page is None:
        return ""
    right = widget.mapTo(page, QPoint(widget.width(), 0)).x()
    return f"reaches {right - page.width()} px over the side" if right > page.width() + SLACK_PX else ""
