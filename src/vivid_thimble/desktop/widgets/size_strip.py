"""The size strip: item, design size, and the live gauges. Always visible."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Finding, kinds_of
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.lengths import Unit, fine_unit, format_length
from vivid_thimble.core.room.thing import size_in_words
from vivid_thimble.desktop.look.marks import draw_verdict
from vivid_thimble.desktop.look.theme import Palette, px, text_scale
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.two_groups import NameLabel, TwoGroups

if TYPE_CHECKING:  # it brings the numeric libraries
    from vivid_thimble.core.edits.clean_size import CleanSize

METHOD_WORDS = {
    "decal": "Decal",
    "film-stencil": "Film stencil",
    "rigid-stencil": "Rigid stencil",
    "screen-stencil": "Screen stencil",
    "heat-film": "Heat film",
}
SIDE_WORDS = {"front": "on the front", "behind": "behind glass", "underside": "on the underside"}
WHY_SEARCHED = "Bridges, joins and marks keep their lengths."
VERDICT_WORDS = {"fine": "fine", "look": "look", "stop": "stop", "none": "—"}


@dataclass(frozen=True)
class Reading:
    """What one gauge shows; ``note`` follows the verdict's word."""

    figure: str
    verdict: str
    tip: str
    note: str = ""
    was: bool = False
    """It belongs to an earlier state; the present one is being worked out."""


class Gauge(QAbstractButton):
    """One figure with its verdict by word, shape and colour; a click walks through its places."""

    def __init__(self, title: str, name: str, kinds: tuple[str, ...], palette: Palette) -> None:
        super().__init__()
        self.kinds = kinds
        self._title, self._palette = title, palette
        self.reading = Reading("—", "none", "")
        self.setObjectName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.show_reading(self.reading)

    def sizeHint(self) -> QSize:
        return QSize(px(104), px(62))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(104), px(62))

    def show_reading(self, reading: Reading) -> None:
        self.reading = reading
        verdict = _verdict_words(reading)
        self.setAccessibleName(f"{tr(self._title)}: {tr(reading.figure)}, {verdict}")
        self.setToolTip(tr(reading.tip))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
            hot = self.hasFocus() or self.underMouse()
            painter.setPen(QPen(QColor(p.thread if hot else p.seam), 2.0 if self.hasFocus() else 1.0))
            painter.setBrush(QColor(p.raised))
            painter.drawRoundedRect(box, 6, 6)
            self._text(painter, QRectF(10, px(5), box.width() - 14, px(16)), tr(self._title), 11.5, QColor(p.soft_ink))
            self._text(
                painter,
                QRectF(10, px(20), box.width() - 14, px(22)),
                tr(self.reading.figure),
                16.5,
                QColor(p.soft_ink if self.reading.was else p.ink),
                bold=not self.reading.was,
            )
            shown = "none" if self.reading.was else self.reading.verdict
            draw_verdict(painter, QRectF(10, px(43), px(13), px(13)), shown, p)
            colour = {"fine": p.fine, "look": p.look, "stop": p.stop}.get(shown, p.soft_ink)
            self._text(
                painter,
                QRectF(px(28), px(41), box.width() - px(28) - 2, px(16)),
                _verdict_words(self.reading),
                12,
                QColor(colour),
                bold=True,
            )

    def _text(
        self, painter: QPainter, box: QRectF, text: str, size: float, colour: QColor, *, bold: bool = False
    ) -> None:
        font = QFont(painter.font())
        font.setPixelSize(px(size))
        font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(colour)
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)


def _verdict_words(reading: Reading) -> str:
    words = f"{tr(VERDICT_WORDS[reading.verdict])}{tr(reading.note)}"
    return f"{tr('was')}: {words}" if reading.was else words


class SizeStrip(QWidget):
    """Sends ``width_typed`` and ``height_typed`` (mm) and ``walk`` (finding kinds)."""

    width_typed = Signal(float)
    height_typed = Signal(float)
    walk = Signal(object)
    sizes_wanted = Signal()
    item_wanted = Signal(int)
    """Number of the item to take in hand, from 0."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("sizeStrip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.item_name, self.item_facts = NameLabel(), NameLabel()
        self.item_name.setObjectName("stripItemName")
        self.item_name.setStyleSheet(f"font-weight: 600; font-size: {12 * text_scale():.1f}pt;")
        self.item_facts.setProperty("role", "hint")
        self.width_field = NumberField("Design width", "designWidth")
        self.height_field = NumberField("Design height", "designHeight")
        for field in (self.width_field, self.height_field):
            field.float_hint()
        self.width_field.committed.connect(self.width_typed)
        self.height_field.committed.connect(self.height_typed)
        self.gauges = {
            "line": Gauge("Thinnest line", "gaugeLine", kinds_of("line"), palette),
            "gap": Gauge("Thinnest gap", "gaugeGap", kinds_of("gap"), palette),
            "loose": Gauge("Loose pieces", "gaugeLoose", kinds_of("loose"), palette),
            "picks": Gauge("Picks to weed", "gaugePicks", (), palette),
            "clean": Gauge("Clean from", "gaugeClean", (), palette),
        }
        for name, gauge in self.gauges.items():
            if name == "clean":
                gauge.clicked.connect(lambda _=False: self.sizes_wanted.emit())
            else:
                gauge.clicked.connect(lambda _=False, g=gauge: self.walk.emit(g.kinds))
        self._items, self._at = 1, 0
        self.item_buttons = QWidget()
        self.item_count = PlainLabel()
        self.item_count.setObjectName("itemCount")
        self.previous_item = self._item_button("‹", "previousItem", "Previous item", "Ctrl+PgUp", -1)
        self.next_item = self._item_button("›", "nextItem", "Next item", "Ctrl+PgDown", 1)
        self._lay_out()

    def _item_button(self, sign: str, name: str, title: str, key: str, by: int) -> QPushButton:
        button = QPushButton(sign)
        button.setObjectName(name)
        button.setAccessibleName(tr(title))
        button.setToolTip(f"{tr(title)} ({key})")
        button.setShortcut(key)
        button.setFixedWidth(px(30))
        button.clicked.connect(lambda _=False: self.item_wanted.emit((self._at + by) % self._items))
        return button

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addStretch()
        left.addWidget(self.item_name)
        left.addWidget(self.item_facts)
        left.addStretch()
        size = QHBoxLayout()
        size.setSpacing(5)
        for word, field in (("Design", self.width_field), ("×", self.height_field)):
            label = PlainLabel(tr(word))
            if word == "Design":
                self._design_word = label
            size.addWidget(label)
            field.setFixedWidth(px(96))
            size.addWidget(field)
        about = QWidget()
        row = QHBoxLayout(about)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        walk = QHBoxLayout(self.item_buttons)
        walk.setContentsMargins(0, 0, 0, 0)
        walk.setSpacing(4)
        for widget in (self.previous_item, self.item_count, self.next_item):
            walk.addWidget(widget)
        row.addLayout(left, 2)
        row.addWidget(self.item_buttons)
        row.addLayout(size)
        told = QWidget()
        row = QHBoxLayout(told)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for gauge in self.gauges.values():
            row.addWidget(gauge, 1)
        self._groups = TwoGroups(about, told, (14, 6, 14, 6), spacing=14)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self._groups)

    def show_job(self, job: Job) -> None:
        item = job.item
        self._items, self._at = len(job.items), job.items.index(item)
        self.item_buttons.setVisible(self._items > 1)
        self.item_count.setText(tr(f"{self._at + 1} of {self._items}"))
        self.item_name.setText(item.name)
        size = tr(size_in_words(item, job.unit))
        self.item_facts.setText(f"{size} · {tr(METHOD_WORDS[item.method])} {tr(SIDE_WORDS[item.side])}")
        self._groups.arrange()
        for field in (self.width_field, self.height_field):
            field.set_unit(job.unit)

    def show_stale(self) -> None:
        """What is shown is that of an earlier state."""
        self._design_word.setText(tr("was"))
        for gauge in self.gauges.values():
            gauge.show_reading(replace(gauge.reading, was=gauge.reading.verdict != "none"))
        self._dim(dim=True)

    def _dim(self, *, dim: bool) -> None:
        for field in (self.width_field, self.height_field):
            if bool(field.edit.property("was")) != dim:
                field.edit.setProperty("was", dim)
                field.edit.style().polish(field.edit)

    def show_result(self, result: ItemResult, unit: Unit, clean: CleanSize | None = None, *, searched: bool) -> None:
        """``searched``: the smallest clean size is not what one inspection tells, but ``clean`` (None: not yet)."""
        size = result.size
        self._design_word.setText(tr("Design"))
        self._dim(dim=False)
        self.width_field.set_value(size[0] if size else None)
        self.height_field.set_value(size[1] if size else None)
        for name, reading in readings(result, unit, clean, searched=searched).items():
            self.gauges[name].show_reading(reading)


def readings(
    result: ItemResult, unit: Unit, clean: CleanSize | None = None, *, searched: bool = False
) -> dict[str, Reading]:
    """What the gauges show for a result; without a design every gauge is silent."""
    silent = Reading("—", "none", "Nothing to measure yet: gather words or a drawing.")
    if result.bounds is None:
        return dict.fromkeys(("line", "gap", "loose", "picks", "clean"), silent)
    film = result.layers[0].layer.film
    bears_line, bears_gap = (_length(limit, unit) for limit in (film.thinnest_line, film.thinnest_gap))
    thinnest_line, thinnest_gap = result.thinnest
    found = result.findings
    line = Reading(
        _length(thinnest_line, unit),
        _measured_verdict(_worst(found, "line"), thinnest_line, film.thinnest_line),
        f"Thinnest kept line; the film bears {bears_line}. Click to walk its places.",
    )
    gap = Reading(
        _length(thinnest_gap, unit),
        _measured_verdict(_worst(found, "gap"), thinnest_gap, film.thinnest_gap),
        f"Narrowest opening; the film bears {bears_gap}. Click to walk its places.",
    )
    overlaps = ", overlaps" if any(f.kind == "overlapping-cuts" for f in found) else ""
    lost = "Pieces that fall out, get lost, or are cut through."
    loose = Reading(_loose_figure(result), _worst(found, "loose"), lost, overlaps)
    waste = sum(len(layer.inspection.waste) for layer in result.layers)
    picks = Reading(str(waste), "fine", "Pieces of waste to pull off, the surround included.")
    return {
        "line": line,
        "gap": gap,
        "loose": loose,
        "picks": picks,
        "clean": _clean_reading(result, unit, clean, searched),
    }


def _loose_figure(result: ItemResult) -> str:
    inspections = [layer.inspection for layer in result.layers]
    small = sum(1 for one in inspections for f in one.findings if f.kind == "small-piece")
    if result.item.is_stencil:
        return str(small + sum(len(one.loose) for one in inspections))
    return f"{small} of {sum(len(one.kept) for one in inspections)}"


def _clean_reading(result: ItemResult, unit: Unit, clean: CleanSize | None, searched: bool) -> Reading:
    size, scale = result.size, clean.scale if clean is not None else result.smallest_clean_scale
    stays = sum(1 for layer in result.layers for f in layer.inspection.incurable if f.severity == "stop")
    note = f", {stays} {'stays' if stays == 1 else 'stay'}" if stays else ""
    apart = f" {stays} of the findings are cured by no size." if stays else ""
    if searched and clean is None:
        stops = any(f.severity == "stop" and f.cured_by_size for la in result.layers for f in la.inspection.findings)
        return Reading("…", "stop" if stops else "fine", f"{WHY_SEARCHED} Other sizes are being tried.{apart}", note)
    if size is not None and clean is not None and scale is None:
        return Reading("none", "stop", f"No size that was tried is clean.{apart} Click for the reasons.", note)
    if size is None or scale is None:
        verdict = "stop" if stays else "fine"
        return Reading("any", verdict, f"No line, gap or piece is anywhere near the film's limits.{apart}", note)
    why = f" {WHY_SEARCHED} It was tried at that size." if searched else ""
    tip = f"The smallest width at which no line, gap or piece is below the film's limits.{why}{apart}"
    return Reading(
        format_length(scale * size[0], unit),
        "fine" if scale <= 1.0 else "stop",
        f"{tip} Click for the reasons.",
        note,
    )


def _length(value: float | None, unit: Unit) -> str:
    return "none" if value is None else format_length(value, fine_unit(unit))


def _measured_verdict(verdict: str, figure: float | None, limit: float) -> str:
    """At least look when a figure below the limit is told by other findings (of a small piece, say)."""
    return "look" if verdict == "fine" and figure is not None and figure < limit else verdict


def _worst(findings: tuple[Finding, ...], gauge: str) -> str:
    severities = {f.severity for f in findings if f.matter.gauge == gauge}
    return "stop" if "stop" in severities else "look" if "look" in severities else "fine"
