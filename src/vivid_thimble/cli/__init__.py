"""The command line: thin commands over the same core as the window. A command is one module in ``commands``.

Exit status 0 done, 2 wrong usage, 3 input refused with one sentence on stderr.
"""

from __future__ import annotations

import pkgutil

from vivid_thimble.cli import commands

DONE, REFUSED = 0, 3


def command_names() -> list[str]:
    """The sub-commands, known without what they need."""
    return sorted(module.name for module in pkgutil.iter_modules(commands.__path__))
