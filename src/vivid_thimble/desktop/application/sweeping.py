"""What killed runs left half written goes when the program is started again."""

from __future__ import annotations

from vivid_thimble.core import folders
from vivid_thimble.core.files import remove_leftovers, remove_leftovers_of
from vivid_thimble.desktop.session.background import Worker
from vivid_thimble.desktop.window.job_files import recent_paths


class Sweeper(Worker):
    """Goes through the program's own folders, and looks beside the last jobs for what was to become one of them."""

    def work(self) -> None:
        own = (
            folders.recovery_folder(),
            folders.reports_folder(),
            folders.settings_folder(),
            folders.own_fonts_folder(),
            folders.results_folder(),
            folders.versions_folder(),
        )
        each_job = (one for one in folders.versions_folder().glob("*") if one.is_dir())
        for folder in (*own, *each_job):
            remove_leftovers(folder)
        for job in recent_paths():
            remove_leftovers_of(job)
