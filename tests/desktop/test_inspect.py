"""The Inspect station: gauges, lists, sizes, widths, surface, fit and remedies, by hand."""

from __future__ import annotations

import functools
import logging
from collections.abc import Callable
from pathlib import Path as FilePath

import pytest
import shapely
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QPainterPath
from PySide6.QtWidgets import QPushButton, QScrollArea

from tests.desktop.conftest import Hand
from tests.desktop.looks import colour_at
from vivid_thimble.core.demo.jobs import badge_job, demo_assets, demo_job, hull_job, pane_job
from vivid_thimble.core.job.edits import scaled_design, with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.desktop.session.derived import LOST, THICKENING, WIDTHS
from vivid_thimble.desktop.table.bands import BAND_COLOURS


@pytest.fixture
def small(hand: Hand) -> Hand:
    """The demonstration job at less than half its size: lines, pieces and tips to mend."""
    hand.window.session.start(scaled_design(demo_job(), 0.45), demo_assets())
    hand.settle()
    hand.go_to("inspect")
    return hand


def stops(hand: Hand) -> list[str]:
    return [f.kind for f in hand.window.session.result.findings if f.severity == "stop"]


def entries(hand: Hand) -> list[str]:
    rows = hand.window.trays.inspect.list
    return [rows.item(k).text() for k in range(rows.count())]


def is_centred(hand: Hand, at: tuple[float, float]) -> bool:
    table = hand.window.table
    place = table.to_widget(*at)
    return abs(place.x() - table.width() / 2) < 20 and abs(place.y() - table.height() / 2) < 20


def test_findings_are_grouped_and_walked_in_the_order_of_the_list(small: Hand) -> None:
    findings = small.window.session.result.findings
    assert len(entries(small)) == len(findings)
    small.choose("findingOrder", "Grouped by kind")
    kinds = list(dict.fromkeys(f.kind for f in findings))
    assert len(entries(small)) == len(findings) + len(kinds)
    assert f"Thin line ({sum(f.kind == 'thin-line' for f in findings)})" in entries(small)
    seen = []
    for _ in findings:
        small.keys(Qt.Key.Key_F8)
        seen.append(small.window.trays.inspect.findings.current)
    assert sorted(seen) == list(range(len(findings)))
    small.choose("findingOrder", "Left to right")
    small.keys(Qt.Key.Key_F8)
    places = [f.at[0] for f in findings if f.at is not None]
    small.window.trays.inspect.list.setCurrentRow(0)
    small.settle()
    assert findings[small.window.trays.inspect.findings.current].at[0] == min(places)
    assert is_centred(small, findings[small.window.trays.inspect.findings.current].at)


def test_another_film_judges_everything_anew_and_undo_brings_it_back(small: Hand) -> None:
    before = stops(small)
    assert "thin-line" in before
    small.go_to("measure")
    small.choose("film", "Fine decal film")
    assert "thin-line" not in stops(small)
    assert small.window.session.job.item.layers[0].film.thinnest_line == 0.5
    small.choose("film", "Glitter film")
    assert len(stops(small)) > len(before)
    assert small.gauge("gap")[1] == "stop"
    for _ in range(2):
        small.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert stops(small) == before
    small.click("measure_film")
    small.type_into("limitLine", "0.3")
    box = small.find("film")
    assert "own figures" in box.currentText()


def test_the_clean_gauge_opens_the_reasons_and_each_shows_its_place(small: Hand) -> None:
    small.click("gaugeClean")
    session = small.window.session
    assert "other sizes are being tried" in small.find("cleanAnswer").text()
    small.search_sizes()
    found = session.clean_sizes.found
    assert found.deciding.sentence.startswith(small.find("decides").text())
    trays = small.window.trays.findChildren(QScrollArea)
    assert all(one.horizontalScrollBar().maximum() == 0 for one in trays if one.isVisible()), "cut off at the right"
    small.click("decidingPlace")
    assert is_centred(small, found.deciding.at)
    width = session.result.size[0]
    assert "Tried and clean from" in small.find("cleanAnswer").text()
    small.click("enlargeToClean")
    assert session.result.size[0] == pytest.approx(found.scale * width, rel=0.002)
    assert stops(small) == []
    small.search_sizes()
    assert small.gauge("clean")[1] == "fine"
    assert not small.find("enlargeToClean").isVisible()


def test_what_all_grows_alike_needs_no_search_and_tells_its_reasons(hand: Hand) -> None:
    hand.window.session.start(scaled_design(badge_job(), 0.4), {})
    hand.settle()
    hand.go_to("inspect")
    hand.click("page_size")
    causes = hand.window.session.result.layers[0].inspection.causes
    assert causes
    for cause in causes:
        hand.click(f"cause_{cause.kind}")
        assert is_centred(hand, cause.at)


def test_the_size_can_be_kept_by_thickening(small: Hand) -> None:
    small.click("page_size")
    advice = small.window.session.insights.of(THICKENING)
    assert f"{advice.by:.2f} mm" in small.window.trays.inspect.size_page.advice.text()
    size = small.window.session.result.size[0]
    small.click("thickenByAdvice")
    assert not {"thin-line", "thin-neck", "small-piece"} & set(stops(small))
    assert small.window.session.result.size[0] == pytest.approx(size + 2 * advice.by, abs=0.05)
    assert "Nothing has to be thickened" in small.window.trays.inspect.size_page.advice.text()


def test_the_width_look_colours_what_is_too_thin(small: Hand) -> None:
    small.click("page_widths")
    assert small.window.table.look == "widths"
    line = next(f for f in small.window.session.result.findings if f.kind == "thin-line")
    small.window.table.zoom_to_finding(line)
    small.settle()
    x, y = line.at
    red = QColor(BAND_COLOURS[0]).name()
    near = {colour_at(small, x + dx / 50, y + dy / 50) for dx in range(-4, 5) for dy in range(-4, 5)}
    assert red in near
    assert red not in {colour_at(small, x + dx / 10, y - 5) for dx in range(-20, 20)}
    small.click("widths_gaps")
    assert small.window.table._bands_title == "Gaps between"
    small.click("page_findings")
    assert small.window.table.look == "finished"


def test_a_bar_of_the_histogram_leads_to_its_places(small: Hand) -> None:
    small.click("page_widths")
    chart = small.window.trays.inspect.widths.histogram
    chords = small.window.session.insights.of(WIDTHS).lines
    k = next(k for k in range(len(chords.lengths)) if len(chords.spots(*chords.edges[k : k + 2])) >= 2)
    spots = chords.spots(*chords.edges[k : k + 2])
    pressed = chart.bar(k).center().toPoint()
    for spot in spots[:2]:
        small.bot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(pressed.x(), chart.height() - 30))
        small.settle()
        assert is_centred(small, spot.at)
        assert chords.edges[k] <= small.window.table._spot.width < chords.edges[k + 1]
    chart.setFocus()
    small.bot.keyClick(chart, Qt.Key.Key_Left)
    small.bot.keyClick(chart, Qt.Key.Key_Right)
    small.bot.keyClick(chart, Qt.Key.Key_Return)
    small.settle()
    assert small.window.trays.inspect.widths.facts.text().startswith(f"Place {3 if len(spots) > 2 else 1} of")


def test_widths_are_measured_anew_after_an_edit(small: Hand) -> None:
    small.click("page_widths")
    thin = small.window.trays.inspect.widths.facts.text()
    assert "are below the limit" in thin
    small.type_into("designWidth", "560")
    assert "No line is below the limit" in small.window.trays.inspect.widths.facts.text()


def test_a_rough_surface_loses_details_that_are_counted_and_shown(small: Hand) -> None:
    small.click("page_size")
    page = small.window.trays.inspect.size_page
    assert "everything shows" in page.surface.text()
    assert not page.show_surface.isVisible()
    small.go_to("measure")
    small.choose("surface", "Rough cloth")
    small.go_to("inspect")
    lost = small.window.session.insights.of(LOST)
    assert f"{len(lost.faded.geoms)} details fade out" in page.surface.text()
    small.click("showLost")
    assert small.window.table.look == "surface"
    film = QColor(small.window.session.job.item.layers[0].film.colour).name()
    small.window.table.findings = ()  # no tag lies over the place
    at = max(lost.faded.geoms, key=lambda p: p.area).representative_point()
    small.window.table.zoom_by(4.0, small.window.table.to_widget(at.x, at.y))
    small.settle()
    faded = {colour_at(small, at.x + dx / 10, at.y) for dx in range(3)}
    small.click("look_finished")
    shown = QColor(colour_at(small, at.x, at.y))
    assert max(abs(a - b) for a, b in zip(shown.getRgb(), QColor(film).getRgb(), strict=True)) < 10  # its rim is mixed
    assert film not in faded


def test_the_fit_is_told_in_the_users_unit_and_true_size_shows_a_rule(small: Hand) -> None:
    small.click("page_fit")
    fit = small.window.trays.inspect.fit
    left = small.window.session.result.margins[0]
    assert f"left {left:.2f} mm".replace(".00", "") in fit.margin_line.text()
    assert "not mirrored" in fit.mirror_line.text()
    assert "minutes" in fit.effort_line.text()
    small.click("seeTrueSize")
    assert small.window.table.is_true_size
    small.click("zoomIn")
    assert not small.window.table.is_true_size
    small.go_to("measure")
    small.choose("side", "Behind glass")
    small.choose("unit", "inches")
    small.go_to("inspect")
    assert "Mirrored" in fit.mirror_line.text()
    assert f"{left / 25.4:.3f}".rstrip("0") in fit.margin_line.text()


def test_a_local_remedy_mends_the_place_and_is_undone(small: Hand) -> None:
    findings = small.window.session.result.findings
    line = next(k for k, f in enumerate(findings) if f.kind == "thin-line")
    small.window.trays.inspect.hold(line)
    small.settle()
    size = small.window.session.result.size
    small.click("remedy_thicken-here")
    assert "thin-line" not in stops(small)
    assert small.window.session.result.size == pytest.approx(size, abs=0.3)
    assert small.window.session.undo_name() == "Thicken where thin"
    small.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert small.window.session.result.findings == findings


def test_remedies_say_which_film_they_mean(small: Hand) -> None:
    findings = small.window.session.result.findings
    small.window.trays.inspect.hold(next(k for k, f in enumerate(findings) if f.kind == "thin-line"))
    small.settle()
    button = small.find("remedy_other-film")
    assert isinstance(button, QPushButton)
    assert button.text() == "Take Fine decal film, plum"


def test_the_order_of_the_picks_is_turned_round_and_back(small: Hand) -> None:
    small.go_to("weed")
    picks = small.find("picks")
    first = picks.item(0).text()
    surround_first = "Surround" in first
    small.click("flipOrder")
    assert ("Surround" in picks.item(0).text()) is not surround_first
    small.keys(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert picks.item(0).text() == first


def test_leaving_a_page_stops_its_work(small: Hand) -> None:
    insights = small.window.session.insights
    small.click("page_widths")
    small.click("page_findings")
    small.type_into("designWidth", "300")
    assert insights.of(WIDTHS) is None
    assert not insights.is_busy


def test_gauges_that_walk_and_gauges_that_have_nothing_to_walk(small: Hand) -> None:
    findings = small.window.session.result.findings
    small.click("gaugeLoose")
    held = findings[small.window.trays.inspect.findings.current]
    assert held.kind == "small-piece"
    small.click("gaugeLoose")
    assert findings[small.window.trays.inspect.findings.current] is not held
    assert small.gauge("gap")[1] == "fine"
    small.click("gaugeGap")
    spot = small.window.table._spot
    assert spot is not None
    assert spot.width == pytest.approx(small.window.session.result.layers[0].inspection.thinnest_gap)
    small.click("gaugePicks")
    assert small.window.table.look == "waste"
    assert small.window.work_path.buttons["weed"].isChecked()


def test_places_that_no_size_cures_are_told_apart_on_the_gauge(hand: Hand) -> None:
    hand.go_to("measure")
    hand.choose("method", "Rigid stencil")
    hand.go_to("gather")
    hand.click("addWords")
    hand.type_into("designWidth", "120")
    loose = hand.window.session.result.layers[0].inspection.loose
    assert loose
    reading = hand.window.strip.gauges["clean"].reading
    assert reading.note == f", {len(loose)} {'stays' if len(loose) == 1 else 'stay'}"
    assert "no size" in reading.tip
    hand.click("gaugeClean")
    assert hand.window.trays.inspect.size_page.stays.isVisible()


def test_a_computation_for_a_view_may_fail_without_harm(
    small: Hand, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    import vivid_thimble.core.widths.widthmap as module

    with monkeypatch.context() as broken, caplog.at_level(logging.CRITICAL):
        broken.setattr(module, "width_map", lambda *_: 1 // 0)
        small.click("page_widths")
        assert small.window.session.insights.of(WIDTHS) is None
        caplog.clear()
    small.type_into("designWidth", "400")
    assert small.window.session.insights.of(WIDTHS) is not None


def test_an_empty_job_has_quiet_pages(hand: Hand) -> None:
    hand.go_to("inspect")
    for page in ("size", "widths", "fit", "findings"):
        hand.click(f"page_{page}")
    station = hand.window.trays.inspect
    assert station.findings.verdict.text() == "Nothing to inspect yet."
    assert station.size_page.stays.text() == "Nothing to measure yet."
    assert station.fit.item_line.text() == "Nothing to place yet."
    assert not station.size_page.thicken.isVisible()
    hand.click("look_widths")
    hand.click("look_surface")
    assert not hand.window.session.insights.is_busy


def test_the_list_makes_room_for_its_text_at_any_width(small: Hand) -> None:
    rows = small.window.trays.inspect.list
    rows.make_room()
    narrow = rows.item(0).sizeHint().height()
    rows.setFixedWidth(900)
    small.settle()
    assert rows.item(0).sizeHint().height() < narrow


def test_a_finding_is_let_be_with_a_reason_until_it_gets_worse(small: Hand) -> None:
    session = small.window.session
    small.go_to("inspect")
    small.click("page_findings")
    thin = next(k for k, f in enumerate(session.result.findings) if f.kind == "thin-line")
    before, count = session.job, len(session.result.findings)
    small.window.trays.inspect.hold(thin)
    small.type_into("letBeReason", "only seen from afar")
    assert len(session.result.findings) == count - 1
    ((finding, accepted),) = session.result.accepted
    assert accepted.reason == "only seen from afar"
    rows = small.find("findings")
    assert "Let be: only seen from afar" in rows.item(rows.count() - 1).text()
    small.type_into("designWidth", f"{session.result.size[0] * 1.02:.3f}mm")
    assert len(session.result.accepted) == 1  # a little better: still let be
    small.type_into("designWidth", f"{session.result.size[0] * 0.9:.3f}mm")
    assert session.result.accepted == ()  # worse than what was looked at
    for _ in range(2):
        session.undo()
        small.settle()
    rows.setCurrentRow(rows.count() - 1)
    small.settle()
    small.click("judgeAgain")
    assert session.result.accepted == ()
    assert len(session.result.findings) == count
    small.window.trays.inspect.hold(thin)
    small.click("letBeAll")
    small.click("letBe")
    assert not [f for f in session.result.findings if f.kind == "thin-line"]
    while session.job != before:
        session.undo()
    small.settle()
    assert len(session.result.findings) == count
    assert finding.kind == "thin-line"


def test_a_remedy_is_shown_before_it_is_applied_and_to_all_like_it(small: Hand) -> None:
    table, session = small.window.table, small.window.session
    small.go_to("inspect")
    small.click("page_findings")
    thin = next(k for k, f in enumerate(session.result.findings) if f.kind == "thin-line")
    small.window.trays.inspect.hold(thin)
    small.settle()
    button = small.find("remedy_thicken-here")
    button.setFocus()
    small.bot.waitUntil(lambda: bool(table.films.preview), timeout=20_000)
    shown = _area(table.films.preview[0].path())
    kept = session.result.layers[0].kept.area
    assert shown > kept
    table.setFocus()
    assert table.films.preview == []
    small.click("remedy_thicken-here")
    assert session.result.layers[0].kept.area == pytest.approx(shown)


def test_one_remedy_mends_all_findings_of_its_kind(hand: Hand) -> None:
    pair = [
        Element(id=name, name=name, source=Plain(ratio=0.02), placement=Placement(width=30.0, dy=dy))
        for name, dy in (("upper", -10.0), ("lower", 10.0))
    ]
    job = with_layer(new_job("Lines", 100.0, 60.0), lambda layer: replace(layer, elements=tuple(pair)))
    hand.window.session.start(job, {})
    hand.settle()
    hand.go_to("inspect")
    assert stops(hand) == ["thin-line", "thin-line"]
    hand.window.trays.inspect.hold(0)
    hand.settle()
    assert not hand.window.findChildren(QPushButton, "remedyAll_enlarge")  # that one is for the whole design anyway
    hand.click("remedyAll_thicken-here")
    assert stops(hand) == []
    assert all(element.steps for element in hand.window.session.job.item.layers[0].elements)


def _area(path: QPainterPath) -> float:
    """What the rings of a path enclose, holes taken away."""
    rings = [shapely.Polygon([(p.x(), p.y()) for p in ring]) for ring in path.toSubpathPolygons()]
    return float(shapely.area(functools.reduce(shapely.symmetric_difference, rings)))


def test_every_film_has_its_picks_and_none_is_forgotten(
    hand: Hand, pick_file: Callable[[FilePath], None], tmp_path: FilePath
) -> None:
    """The gauge, the work path and the lists count the same pieces; the job sheet has them all."""
    hand.window.session.start(pane_job(), {})
    hand.settle()
    hand.go_to("weed")
    picks = hand.find("picks")
    counts = []
    for film, word in enumerate(("(1)", "(2)")):
        hand.choose("weedFilm", word)
        counts.append(picks.count())
        hand.painted()
        assert hand.window.table.result.layers[0].layer.id == hand.window.session.job.item.layers[film].id
    assert counts[0] > 50 and counts[1] >= 1
    assert hand.gauge("picks")[0] == str(sum(counts))
    assert f"{sum(counts)} picks" in hand.find("station_weed").accessibleName()
    pick_file(tmp_path / "sheet.txt")
    hand.click("saveJobSheet")
    sheet = (tmp_path / "sheet.txt").read_text()
    assert "Weeding of film 1" in sheet and "Weeding of film 2" in sheet
    assert sheet.count("mm2)") == sum(counts)
    hand.window.session.start(hull_job(), {})
    hand.settle()
    assert not hand.find("weedFilm").isVisible(), "one film needs no choice"
    assert str(picks.count()) == hand.gauge("picks")[0]
