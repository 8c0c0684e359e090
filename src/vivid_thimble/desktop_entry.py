"""The application in the desktop's menu: entry, icon, file type and description, for one user."""

from __future__ import annotations

import shutil
import subprocess
from importlib import resources
from pathlib import Path as FilePath
from xml.sax.saxutils import escape

import platformdirs

from vivid_thimble import __version__
from vivid_thimble.core.files import write_atomically
from vivid_thimble.core.storage.project import ENDING

NAME = "vivid-thimble"
MIME = "application/x-vivid-thimble"
COMPONENT = "org.vivid_thimble.VividThimble"
RELEASED = "2026-12-01"
"""Of the version that this is."""
SUMMARY = "Clean cut paths for film and sheet, checked at the final size"
OPENS = (MIME, "image/svg+xml", "image/vnd.dxf", "application/pdf", "image/png", "image/jpeg")
REFRESHES = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
"""What makes a running desktop notice, where it is there: the command and the folder it takes."""


def data_folder() -> FilePath:
    """The user's data folder of the desktop."""
    return FilePath(platformdirs.user_data_dir())


def entry_files(command: str) -> dict[str, bytes]:
    """The files by their place under the data folder; ``command`` starts the application."""
    icon = (resources.files("vivid_thimble") / "data" / "icons" / f"{NAME}.svg").read_bytes()
    return {
        f"applications/{NAME}.desktop": _desktop(command).encode(),
        f"icons/hicolor/scalable/apps/{NAME}.svg": icon,
        f"mime/packages/{NAME}.xml": _mime().encode(),
        f"metainfo/{COMPONENT}.metainfo.xml": _metainfo().encode(),
    }


def install_entry(folder: FilePath, command: str) -> list[FilePath]:
    """Write all files under a data folder and tell the desktop; raises InputRefused when it cannot be written."""
    written = []
    for place, data in entry_files(command).items():
        path = folder / place
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, data)
        written.append(path)
    _refresh(folder)
    return written


def remove_entry(folder: FilePath) -> list[FilePath]:
    """Take the files away again; those that were there."""
    gone = [path for place in entry_files(NAME) if (path := folder / place).exists()]
    for path in gone:
        path.unlink()
    _refresh(folder)
    return gone


def _refresh(folder: FilePath) -> None:
    for tool, place in REFRESHES:
        if shutil.which(tool) is not None and (folder / place).is_dir():
            subprocess.run([tool, str(folder / place)], capture_output=True, check=False, timeout=30)


RESERVED = " \t\n\"'\\><~|&;$*?#()`[]{}"
"""Characters for which the desktop's rules, or a shell, ask for quotes."""


def _quoted(command: str) -> str:
    """A command as the value of Exec: quoted where it must be, percent signs doubled (Desktop Entry Specification, "The
    Exec key"). The value is a string, so backslashes are doubled once more."""
    told = command.replace("%", "%%")
    if any(sign in RESERVED for sign in told):
        for sign in ("\\", '"', "`", "$"):
            told = told.replace(sign, f"\\{sign}")
        told = f'"{told}"'
    return _escaped(told)


def _escaped(text: str) -> str:
    """Any text as the value of a string key."""
    return text.replace("\\", "\\\\").replace("\n", "\\n").replace("\t", "\\t").replace("\r", "\\r")


def _desktop(command: str) -> str:
    return "\n".join(
        [
            "[Desktop Entry]",
            "Type=Application",
            "Version=1.4",
            "Name=Vivid Thimble",
            f"Comment={SUMMARY}",
            f"TryExec={_escaped(command)}",
            f"Exec={_quoted(command)} %F",
            f"Icon={NAME}",
            "Terminal=false",
            "Categories=Graphics;2DGraphics;VectorGraphics;",
            "Keywords=vinyl;film;stencil;cutter;lettering;",
            f"MimeType={';'.join(OPENS)};",
            f"StartupWMClass={NAME}",
            "",
        ]
    )


def _mime() -> str:
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{MIME}">
    <comment>Vivid Thimble job</comment>
    <sub-class-of type="application/zip"/>
    <icon name="{NAME}"/>
    <glob pattern="*{ENDING}"/>
  </mime-type>
</mime-info>
"""


def _metainfo() -> str:
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>{COMPONENT}</id>
  <name>Vivid Thimble</name>
  <summary>{escape(SUMMARY)}</summary>
  <metadata_license>CC0-1.0</metadata_license>
  <description>
    <p>For crafters who cut film and plastic sheet with a blade cutter: words, drawings and photos become clean cut
    paths, checked for thin lines, gaps and loose pieces at the size on the finished item.</p>
  </description>
  <launchable type="desktop-id">{NAME}.desktop</launchable>
  <releases><release version="{__version__}" date="{RELEASED}"/></releases>
  <content_rating type="oars-1.1"/>
</component>
"""
