"""Makes the project ready to run: system libraries, virtual environment, pinned packages.

    python3 scripts/set_up.py runtime|checks

Does nothing when everything is in place (a stamp holds the hash of the requirements).
As root on Debian, missing libraries are installed; otherwise the one apt line to run is
printed and the exit status is 3. Only the standard library is used here.
"""

from __future__ import annotations

import ctypes
import hashlib
import os
import shutil
import subprocess
import sys
import venv
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
MISSING_LIBRARIES = 3
NO_PACKAGES = 4

# library to probe -> Debian package
BASE = {
    "libglib-2.0.so.0": "libglib2.0-0",
    "libGL.so.1": "libgl1",
    "libEGL.so.1": "libegl1",
    "libX11.so.6": "libx11-6",
    "libdbus-1.so.3": "libdbus-1-3",
    "libfontconfig.so.1": "libfontconfig1",
    "libfreetype.so.6": "libfreetype6",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libbrotlidec.so.1": "libbrotli1",
}
DISPLAY = {
    "libX11-xcb.so.1": "libx11-xcb1",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-render.so.0": "libxcb-render0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-shm.so.0": "libxcb-shm0",
    "libxcb-sync.so.1": "libxcb-sync1",
    "libxcb-util.so.1": "libxcb-util1",
    "libxcb-xfixes.so.0": "libxcb-xfixes0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
}
# program that the checks run -> Debian package
PROGRAMS = {"Xvfb": "xvfb", "desktop-file-validate": "desktop-file-utils", "appstreamcli": "appstream"}


def main() -> int:
    kind = sys.argv[1] if len(sys.argv) == 2 else ""
    if kind not in ("runtime", "checks"):
        print(__doc__, file=sys.stderr)
        return 2
    status = install_libraries(missing_packages(kind))
    if status:
        return status
    return install_packages(kind)


def missing_packages(kind: str) -> list[str]:
    """Debian packages whose libraries or programs are not here."""
    wanted = dict(BASE)
    if kind == "checks" or os.environ.get("DISPLAY"):
        wanted |= DISPLAY
    missing = [package for library, package in wanted.items() if not can_load(library)]
    if kind == "checks":
        missing += [package for program, package in PROGRAMS.items() if shutil.which(program) is None]
    return missing


def can_load(library: str) -> bool:
    try:
        ctypes.CDLL(library)
    except OSError:
        return False
    return True


def install_libraries(packages: list[str]) -> int:
    if not packages:
        return 0
    if os.geteuid() != 0 or shutil.which("apt-get") is None:
        print("System libraries are missing. Run:", file=sys.stderr)
        print(f"  sudo apt-get install {' '.join(packages)}", file=sys.stderr)
        return MISSING_LIBRARIES
    print(f"Installing system libraries: {' '.join(packages)}", flush=True)
    environment = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    for command in (
        ["apt-get", "update", "-q"],
        ["apt-get", "install", "-y", "-q", "--no-install-recommends", *packages],
    ):
        done = subprocess.run(command, env=environment, stdout=subprocess.DEVNULL, check=False)
        if done.returncode:
            print(f"{' '.join(command)} failed: see above, then run this again.", file=sys.stderr)
            return MISSING_LIBRARIES
    return 0


def install_packages(kind: str) -> int:
    """The virtual environment with exactly the pinned packages (the checks' hold the runtime's too)."""
    done = [stamp_of(kind), stamp_of("checks")]
    if any(path.exists() and path.read_text() == digest for path, digest in done):
        return 0
    if not (VENV / "bin" / "python").exists():
        print("Making the virtual environment...", flush=True)
        venv.create(VENV, with_pip=True)
    print("Installing the pinned packages...", flush=True)
    pip = [str(VENV / "bin" / "python"), "-m", "pip", "--disable-pip-version-check"]
    requirements = str(ROOT / "requirements" / f"{kind}.txt")
    command = [*pip, "install", "-q", "--no-compile", "--require-hashes", "-r", requirements]
    if subprocess.run(command, check=False).returncode:
        print(
            "The packages could not be installed: see above, check the network, then run this again.", file=sys.stderr
        )
        return NO_PACKAGES
    path, digest = stamp_of(kind)
    path.write_text(digest)
    return 0


def stamp_of(kind: str) -> tuple[Path, str]:
    """Where it is noted that a set of packages is in place, and what is noted."""
    requirements = ROOT / "requirements" / f"{kind}.txt"
    return VENV / f"stamp-{kind}", hashlib.sha256(requirements.read_bytes() + sys.version.encode()).hexdigest()


if __name__ == "__main__":
    sys.exit(main())
