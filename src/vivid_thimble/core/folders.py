"""The user's folders, by the desktop's conventions (XDG), from one place."""

from __future__ import annotations

from pathlib import Path as FilePath

import platformdirs

APPLICATION = "vivid-thimble"


def recovery_folder() -> FilePath:
    """Where unsaved jobs are kept until they are saved or left on purpose."""
    return FilePath(platformdirs.user_state_dir(APPLICATION)) / "recovery"


def own_fonts_folder() -> FilePath:
    """Where fonts taken out of bundles are kept; they count as installed for this program alone."""
    return FilePath(platformdirs.user_data_dir(APPLICATION)) / "fonts"


def reports_folder() -> FilePath:
    """Where reports of unexpected failures are kept; they are sent nowhere."""
    return FilePath(platformdirs.user_state_dir(APPLICATION)) / "reports"


def runtime_folder() -> FilePath:
    """Where running programs of this user meet."""
    return FilePath(platformdirs.user_runtime_dir(APPLICATION))


def settings_folder() -> FilePath:
    """Where the user's materials and machines are kept."""
    return FilePath(platformdirs.user_config_dir(APPLICATION))


def versions_folder() -> FilePath:
    """Where earlier versions of saved jobs are kept."""
    return FilePath(platformdirs.user_data_dir(APPLICATION)) / "versions"


def results_folder() -> FilePath:
    """Where what was computed for saved jobs is kept, so that they open at once; it may be emptied at any time."""
    return FilePath(platformdirs.user_cache_dir(APPLICATION)) / "results"
