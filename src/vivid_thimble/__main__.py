"""The command ``vivid-thimble``: the window, or a sub-command."""

from __future__ import annotations

import gc
import os
import sys
from pathlib import Path as FilePath

from vivid_thimble.cli import command_names

USAGE = """\
vivid-thimble                 open the window
vivid-thimble FILE...         open the window with jobs, drawings or fonts
vivid-thimble demo            open the window with the demonstration job
                              (without a display: write its cut files and a picture; --out DIR)
vivid-thimble --install-desktop
                              put it into the menu of your desktop (--remove-desktop takes it out)
vivid-thimble COMMAND --help  what a command does; --help tells all of them
"""


def main(arguments: list[str] | None = None) -> int:
    """Returns the exit status: 0 done, 2 wrong usage, 3 input refused."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given and (given[0] in command_names() or given[0] in ("-h", "--help", "--version")):
        from vivid_thimble.cli.parser import run  # here: the window must not wait for it

        return run(given)
    if given in (["--install-desktop"], ["--remove-desktop"]):
        return _desktop_entry(install=given == ["--install-desktop"])
    demo = bool(given) and given[0] == "demo"
    rest = given[1:] if demo else given
    out, files = _out_folder(rest)
    unknown = [name for name in files if name.startswith("-") or not FilePath(name).exists()]
    if unknown:
        print(f"vivid-thimble: {unknown[0]} is neither a file nor a command.\n{USAGE}", file=sys.stderr)
        return 2
    if not _has_display() or (demo and out is not None):
        return _without_display(out or FilePath("vivid-thimble-demo"), demo=demo)
    gc.disable()  # nothing is thrown away while it starts; the window has it enabled when it stands
    from vivid_thimble.desktop.app import run_window

    return run_window(files, demo=demo)


def _desktop_entry(*, install: bool) -> int:
    from vivid_thimble.core.errors import ThimbleError
    from vivid_thimble.desktop_entry import data_folder, install_entry, remove_entry

    try:
        paths = install_entry(data_folder(), _command()) if install else remove_entry(data_folder())
    except (OSError, ThimbleError) as error:
        print(f"vivid-thimble: {error}", file=sys.stderr)
        return 3
    print("In the menu now:" if install else "Taken out of the menu:")
    for path in paths:
        print(f"  {path}")
    return 0


def _command() -> str:
    """What starts this application again: the script of the checkout that it runs from, else its command."""
    here = FilePath(__file__).resolve().parents[2]
    script = here / "run"
    if (here / "pyproject.toml").is_file() and script.is_file():
        return str(script)
    beside = FilePath(sys.executable).with_name("vivid-thimble")
    return str(beside) if beside.exists() else "vivid-thimble"


def _out_folder(rest: list[str]) -> tuple[FilePath | None, list[str]]:
    if "--out" in rest and rest.index("--out") + 1 < len(rest):
        at = rest.index("--out")
        return FilePath(rest[at + 1]), rest[:at] + rest[at + 2 :]
    return None, rest


def _has_display() -> bool:
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    return bool(chosen or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _without_display(out: FilePath, *, demo: bool) -> int:
    from vivid_thimble.core.demo.files import write_demo
    from vivid_thimble.core.errors import ThimbleError

    if not demo:
        print(
            "vivid-thimble: there is no display for the window: set DISPLAY, or use a command.\n" + USAGE,
            file=sys.stderr,
        )
        return 2
    try:
        written = write_demo(out)
    except ThimbleError as error:
        print(f"vivid-thimble: {error}", file=sys.stderr)
        return 3
    print("No window: the demonstration job was evaluated without one and written to")
    for path in written:
        print(f"  {path.resolve()}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
