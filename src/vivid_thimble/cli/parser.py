"""Arguments to a command's answer, and the answer to words or JSON."""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
from collections.abc import Sequence
from importlib import import_module

from vivid_thimble import __version__
from vivid_thimble.cli import DONE, REFUSED, command_names
from vivid_thimble.cli.words import in_words
from vivid_thimble.core.errors import ThimbleError

SCHEMA = 1


def run(arguments: Sequence[str]) -> int:
    """Run one sub-command; returns the exit status."""
    options = _parser(arguments).parse_args(_with_negatives(arguments))
    try:
        answer = options.command(options)
    except ThimbleError as error:
        print(f"vivid-thimble: {error}", file=sys.stderr)
        return REFUSED
    told = in_words(answer)
    if options.json:
        told = json.dumps({"schema": SCHEMA, **answer}, ensure_ascii=False, indent=1)
    try:
        print(told, flush=True)
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return DONE


def _with_negatives(arguments: Sequence[str]) -> list[str]:
    """Negative lengths tied to their option, or they would be taken for options themselves."""
    found: list[str] = []
    for one in arguments:
        if found and found[-1].startswith("--") and "=" not in found[-1] and re.match(r"-\s*[.\d(]", one):
            found[-1] = f"{found[-1]}={one}"
        else:
            found.append(one)
    return found


def _parser(arguments: Sequence[str]) -> argparse.ArgumentParser:
    """The parser of the command that is named, or of all."""
    parser = argparse.ArgumentParser(
        prog="vivid-thimble",
        description="Clean cut paths for film and sheet. Without a command the window opens, with the jobs, drawings "
        "or fonts that are named; `vivid-thimble demo` opens it with the demonstration job (without a display it "
        "writes its cut files and a picture; --out DIR). `vivid-thimble --install-desktop` puts it into the menu of "
        "your desktop, --remove-desktop takes it out.",
        epilog="Lengths take units: 120mm, 4.5in, '3 1/4in'; a bare number is millimetres.",
    )
    parser.add_argument("--version", action="version", version=f"vivid-thimble {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    known = command_names()
    for name in arguments[:1] if arguments and arguments[0] in known else known:
        module = import_module(f"vivid_thimble.cli.commands.{name}")
        one = commands.add_parser(name, help=module.HELP)
        module.add_options(one)
        one.add_argument("--json", action="store_true", help="print one JSON object")
        one.set_defaults(command=module.answer)
    return parser
