"""Project files: read back as saved, never half written, opened without the font."""

from __future__ import annotations

import io
import json
import os
import zipfile
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace

from tests.letters import FONTS
from vivid_thimble.core.bridging.by_hand import PlacedBridge
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.errors import InputRefused, ProjectNotReadable
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.inspect.findings import MATTERS, Accepted
from vivid_thimble.core.job.edits import with_element, with_item, with_layer
from vivid_thimble.core.job.values import Element, Item, Photo, Placement, new_job
from vivid_thimble.core.sources.copied import Copied
from vivid_thimble.core.sources.fonts import BUNDLED
from vivid_thimble.core.sources.letter_grid import LetterGrid
from vivid_thimble.core.sources.monogram import Monogram
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps import Bridges, Slice, Stretch, Trim
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.steps.register import RegisterMarks
from vivid_thimble.core.storage.project import SCHEMA, open_project, project_bytes, read_project, save_project


def test_a_project_reads_back_as_the_same_job_and_figures(tmp_path: FilePath) -> None:
    path = tmp_path / "transom.thimble"
    save_project(path, demo_job(), demo_assets())
    job, assets = open_project(path)
    assert job == demo_job()
    before, after = evaluate(demo_job(), demo_assets()), evaluate(job, assets)
    assert before.size == after.size
    assert before.findings == after.findings
    assert project_bytes(job, assets) == path.read_bytes()


def test_the_recipe_in_it_is_readable() -> None:
    with zipfile.ZipFile(io.BytesIO(project_bytes(demo_job(), demo_assets()))) as archive:
        recipe = json.loads(archive.read("recipe.json"))
    assert recipe["schema"] == SCHEMA
    assert recipe["job"]["items"][0]["layers"][0]["elements"][0]["source"]["text"] == "Wandering Heron"


def test_the_previous_version_stays_beside_it(tmp_path: FilePath) -> None:
    path = tmp_path / "a.thimble"
    save_project(path, demo_job(), demo_assets())
    first = path.read_bytes()
    save_project(path, replace(demo_job(), name="second"), demo_assets())
    assert (tmp_path / "a.thimble~").read_bytes() == first
    assert open_project(path)[0].name == "second"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.thimble", "a.thimble~"]


def test_a_failed_save_leaves_the_old_file_and_no_debris(tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.thimble"
    save_project(path, demo_job(), demo_assets())
    old = path.read_bytes()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputRefused, match="no space left"):
        save_project(path, replace(demo_job(), name="second"), demo_assets())
    assert path.read_bytes() == old
    assert [p.name for p in tmp_path.iterdir()] == ["a.thimble"]


@pytest.mark.parametrize(
    "damage", ["truncated", "not a zip", "empty", "no recipe", "bad json", "wrong shape", "no items"]
)
def test_a_damaged_project_is_refused_and_left_untouched(tmp_path: FilePath, damage: str) -> None:
    data = project_bytes(demo_job(), demo_assets())
    content = {
        "truncated": data[: len(data) // 2], "not a zip": b"hello", "empty": b"",
        "no recipe": zipped({"x": b"y"}), "bad json": zipped({"recipe.json": b"{"}),
        "wrong shape": zipped({"recipe.json": b'{"format":"vivid-thimble-project","schema":1,"job":{"name":5}}'}),
        "no items": zipped({"recipe.json": b'{"format":"vivid-thimble-project","schema":1,"job":{"name":"x"}}'}),
    }[damage]  # fmt: skip
    path = tmp_path / "a.thimble"
    path.write_bytes(content)
    with pytest.raises(ProjectNotReadable, match=r"a\.thimble"):
        open_project(path)
    assert path.read_bytes() == content


def test_a_newer_version_is_refused_with_its_reason() -> None:
    newer = json.dumps({"format": "vivid-thimble-project", "schema": SCHEMA + 1, "job": {}}).encode()
    with pytest.raises(ProjectNotReadable, match="newer version"):
        read_project(zipped({"recipe.json": newer}))


def test_words_survive_the_loss_of_their_font(tmp_path: FilePath) -> None:
    font = tmp_path / "own.woff2"
    font.write_bytes((FONTS / BUNDLED["Pacifico"]).read_bytes())
    job = with_element(demo_job(), "words-1", lambda e: replace(e, source=replace(e.source, face=f"file:{font}")))
    save_project(tmp_path / "a.thimble", job, demo_assets())
    before = evaluate(job, demo_assets())
    font.unlink()
    opened, assets = open_project(tmp_path / "a.thimble")
    after = evaluate(opened, assets)
    assert after.size == pytest.approx(before.size, abs=1e-3)
    assert "font-missing" in [note.code for note in after.layers[0].elements[0].notes]
    save_project(tmp_path / "b.thimble", opened, assets)
    assert evaluate(*open_project(tmp_path / "b.thimble")).size == pytest.approx(before.size, abs=1e-3)


@pytest.mark.parametrize("kind", ["monogram", "grid"])
def test_composed_letters_open_without_their_font_too(kind: str, tmp_path: FilePath) -> None:
    font = tmp_path / "loose.otf"
    font.write_bytes((FONTS / BUNDLED["League Spartan"]).read_bytes())
    face = f"file:{font}"
    source = Monogram(initials="QL", face=face) if kind == "monogram" else LetterGrid(names=("Moth",), face=face)
    element = Element(id="e", name="e", source=source, placement=Placement(width=80.0))
    job = with_layer(new_job(), lambda layer: replace(layer, elements=(element,)))
    before = evaluate(job, {})
    save_project(tmp_path / "a.thimble", job, {})
    font.unlink()
    opened, assets = open_project(tmp_path / "a.thimble")
    after = evaluate(opened, assets)
    assert after.size == pytest.approx(before.size, abs=1e-3)
    assert after.layers[0].kept.area == pytest.approx(before.layers[0].kept.area, rel=1e-4)
    assert "font-missing" in [note.code for note in after.layers[0].elements[0].notes]


def zipped(entries: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in entries.items():
            archive.writestr(name, data)
    return out.getvalue()


def test_a_screen_of_an_older_version_keeps_its_margins_and_new_kinds_survive() -> None:
    old = {
        "format": "vivid-thimble-project",
        "schema": 2,
        "job": {
            "name": "Old screen",
            "items": [
                {
                    "id": "item-1",
                    "name": "Screen",
                    "width": 300.0,
                    "height": 200.0,
                    "method": "screen-stencil",
                    "surround": 25.0,
                    "layers": [{"id": "layer-1", "film": {"name": "Film"}, "steps": [{"type": "weld", "id": "w"}]}],
                }
            ],
        },
    }
    job, _ = read_project(zipped({"recipe.json": json.dumps(old).encode()}))
    assert job.item.frame.fit == "design"
    assert job.item.frame.margins(job.item.surround) == (25.0, 25.0, 25.0, 25.0)
    assert job.item.register is None
    plate = Element(
        id="plate",
        name="Plate",
        source=Plain(form="pennant"),
        placement=Placement(width=80.0),
        steps=(Slice(id="s", by=("copy",), keep="divide", left_out=((0.25, 0.5),)), Stretch(id="t", across=1.5)),
    )
    copy = Element(id="copy", name="Copy", source=Copied(of="plate"), placement=Placement(), helps_only=True)
    bridges = Bridges(id="b", style="curved", placed=(PlacedBridge(start=(0.1, 0.2), end=(0.3, 0.4)),))
    accepted = Accepted(kind="two-pulls", of="x", reason="fine", at=(0.5, 0.5))

    def changed(item: Item) -> Item:
        layers = (replace(item.layers[0], elements=(plate, copy), steps=(bridges, Trim(id="u"))),)
        frame = Frame(fit="sheet", holes=2, tab="left")
        return replace(item, layers=layers, frame=frame, register=RegisterMarks(), accepted=(accepted,))

    full = with_item(job, changed)
    assert read_project(project_bytes(full, {}))[0] == full


SAID_BY_0_1 = {
    "Not understood yet in boat.svg and left out: # x filter.": "not-understood",
    'The face has no shapes for "ж": they are left out.': "letters-missing",
    "The font Cabin is not on this machine: the letters stored with the job are used.": "font-missing",
    "heron.svg may be used personally only, and this job is for sale: ask its maker or take another drawing.": (
        "not-for-sale"
    ),
    "Thickening closes # counter: choose a smaller distance.": "closes-counters",
    "Thickening closes gaps: # pieces or more run together; choose a smaller distance.": "closes-gaps",
    "Thinning makes # pieces vanish: choose a smaller distance.": "pieces-vanish",
    "A bridge placed by hand does not fit here any more: move it, or take it out.": "bridge-unfit",
    "No bridge of full strength fits here: a middle hangs by a short tie.": "bridge-weak",
    "The bridges take more than half of this opening: make the design larger, or the bridges narrower.": (
        "opening-swallowed"
    ),
    "The sheet would pass the rim by # mm: it ends there. Mask what lies beyond by hand.": "sheet-past-rim",
    "At the edge of the design flat film is # % too long for the ball and creases: snip the film round it in # places, "
    "or make the design smaller.": "creases-on-ball",
    "The design reaches # mm round; from the front # mm are seen well, its ends turn away.": "turns-out-of-sight",
    "The squeegee is # mm wide and does not go into the screen, which is # mm.": "squeegee-too-wide",
    "The squeegee is # mm wide and the design # mm: it takes two pulls.": "two-pulls",
    "The sheet leaves # mm at the left edge; # mm is usual when paint is sprayed.": "sheet-margin",
    "The sheet reaches # mm over the top edge of the screen: make its margin smaller.": "sheet-over-screen",
    "A register mark lies only # mm inside the left edge of the sheet: leave a margin of # mm round the design.": (
        "mark-at-edge"
    ),
}


def test_what_0_1_let_be_gets_the_code_of_its_matter() -> None:
    accepted = [{"kind": "note", "said": said, "reason": "fine"} for said in (*SAID_BY_0_1, "Nobody ever said this.")]
    accepted.append({"kind": "cleft", "said": "A cleft", "reason": "fine", "at": [0.5, 0.5], "width": 0.2})
    item = {"id": "i", "name": "Item", "width": 300.0, "height": 200.0, "accepted": accepted}
    item["layers"] = [{"id": "layer-1", "film": {"name": "Film"}}]
    old = {"format": "vivid-thimble-project", "schema": 4, "job": {"name": "Old", "items": [item]}}
    job, _ = read_project(zipped({"recipe.json": json.dumps(old).encode()}))
    assert [one.kind for one in job.item.accepted] == [*SAID_BY_0_1.values(), "cleft"]
    assert set(SAID_BY_0_1.values()) == {kind for kind, one in MATTERS.items() if one.is_note} - {"shown-spot"}, (
        "every matter of then has its code"
    )
    assert read_project(project_bytes(job, {}))[0] == job


def test_what_is_packed_already_is_stored_as_it_is() -> None:
    """Packing it again took seconds and saved nothing."""
    photo = b"\xff\xd8\xff" + bytes(range(256)) * 40
    job = with_item(new_job(), lambda item: replace(item, photo=Photo(asset="photo")))
    data = project_bytes(job, {"photo": photo})
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        kinds = {entry.filename: entry.compress_type for entry in archive.infolist()}
    assert kinds == {"recipe.json": zipfile.ZIP_DEFLATED, "assets/photo": zipfile.ZIP_STORED}
    assert read_project(data) == (job, {"photo": photo})
