"""The demonstration without a window: what it yields, as files."""

from __future__ import annotations

from pathlib import Path as FilePath

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.demo.jobs import demo_assets, demo_job
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import cut_of
from vivid_thimble.core.files import make_folder, write_atomically
from vivid_thimble.core.formats.picture import png_of
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.storage.project import ENDING, save_project


def write_demo(folder: FilePath) -> list[FilePath]:
    """Evaluate the demonstration job without a window and write what it yields.

    Returns the files: the job, its cut file, a picture, the job sheet.
    """
    make_folder(folder, "choose another folder")
    job, assets = demo_job(), demo_assets()
    result = evaluate(job, assets, Cache())
    layer = result.layers[0]
    if layer.problems:
        raise ThimbleError(layer.problems[0].sentence)
    cut = cut_of(layer, result.item, job.carrier)
    findings = [f"{f.severity}: {f.sentence}" for f in result.findings] or ["Nothing to stop or look at."]
    told = "\n".join(f"  {one}" for one in findings)
    item_box = (-10.0, -10.0, result.item.width + 10.0, result.item.height + 10.0)
    files = {
        "wandering-heron-cut.svg": cut.svg.encode(),
        "wandering-heron.png": png_of([(layer.kept, layer.layer.film.colour)], item_box, 2.0),
        "job-sheet.txt": f"{job_sheet(job, result)}\nFindings\n{told}\n".encode(),
    }
    written = [folder / f"wandering-heron{ENDING}"]
    save_project(written[0], job, assets)
    for name, data in files.items():
        write_atomically(folder / name, data)
        written.append(folder / name)
    return written
