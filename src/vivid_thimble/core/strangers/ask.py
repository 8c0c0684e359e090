"""Ask a limited process to read a stranger's file; see ``limited``.

One server runs as long as the program; it is started when the window stands, or by the first file. A program of one
thread that has no window, as on the command line, makes the process from itself, which needs no server.
"""

from __future__ import annotations

import array
import atexit
import contextlib
import itertools
import logging
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path as FilePath
from typing import Any

import msgspec

import vivid_thimble
from vivid_thimble.core import errors
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.files import clean_text, read_file
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.strangers.plain_data import NotPlainData, unpacked
from vivid_thimble.core.strangers.reading import Kind, answer_classes, named

log = logging.getLogger(__name__)
LONGEST_S = 120.0
"""Of waiting: the process has some seconds of a processor, which others may be using."""
ENDS_WITHIN_S = 0.1
LOOKS_UP_S = 0.05
"""So often it is looked whether the answer is still wanted."""
LARGEST_ANSWER_BYTES = 1_000_000_000
MOST_FONTS, LARGEST_FILE_BYTES = 12, 100_000_000
"""Installed fonts that a drawing's texts may ask for."""
PORTION_BYTES = 1 << 20
NO_PROCESS = "no process"


def read_within_limits(kind: Kind, data: bytes, *given: Any, refusal: type[InputRefused], name: str) -> Any:
    """What a reader makes of a file's bytes.

    Raises what the reader raises, or ``refusal`` with one sentence when it breaks or goes beyond its limits; Stopped at
    once when the answer is not wanted any more.
    """
    order = [clean_text(one) if isinstance(one, str) else one for one in given]
    fonts: dict[str, Any] = {"names": None, "files": {}}
    answer = _asked(kind, data, order, fonts)
    while "wants" in answer and len(fonts["files"]) < MOST_FONTS:
        _provide(fonts, str(answer["wants"]))
        answer = _asked(kind, data, order, fonts)
    if "found" in answer:
        return answer["found"]
    if "refused" in answer:
        raise _error(answer["refused"])(str(answer["sentence"]))
    why = str(answer.get("broken", "fonts"))
    log.info("%s (%s) broke its reader: %s", name, kind, why)
    if why == NO_PROCESS:
        raise refusal(f"{name} cannot be read just now ({answer['why']}): close other programs and try again.")
    raise refusal(_sentence(name, why))


def _asked(kind: Kind, data: bytes, given: list[Any], fonts: dict[str, Any]) -> dict[str, Any]:
    """One answer: what was found, the sentence of a refusal, a font that is wanted, or how the reader broke."""
    try:
        raw = _answered(kind, data, msgspec.msgpack.encode({"given": given, "fonts": fonts}))
        answer = unpacked(raw, answer_classes()) if raw else {"broken": "limit"}
    except _TooMuch:
        answer = {"broken": "limit"}
    except OSError as error:
        answer = {"broken": NO_PROCESS, "why": (error.strerror or "unknown").lower()}
    except NotPlainData:
        answer = {"broken": "answer"}
    is_answer = isinstance(answer, dict) and {"found", "refused", "wants", "broken"} & set(answer)
    if not is_answer:
        return {"broken": "answer"}
    if answer.get("opened"):
        log.warning("the reader of a %s wanted to open %s", kind, answer["opened"])
    return dict(answer)


def _provide(fonts: dict[str, Any], wanted: str) -> None:
    """The names of the installed fonts, or the file of one of them, for a process that can open none."""
    families = named("vivid_thimble.core.sources.fonts:installed_families")()
    if fonts["names"] is None:
        fonts["names"] = list(families)
        return
    try:
        fonts["files"][wanted] = read_file(families[wanted], LARGEST_FILE_BYTES)
    except (KeyError, OSError):
        fonts["files"][wanted] = b""  # it is told as one that cannot be read


def warm_up() -> None:
    """Start the server, so that the first file does not wait for it."""
    with contextlib.suppress(OSError):
        _Server.running()


def _sentence(name: str, why: str) -> str:
    if why in ("limit", "memory"):
        return f"{name} takes too much time or memory to read: simplify it, or save it in another format."
    if why == "deep":
        return f"{name} is nested too deeply to read: simplify it, or save it in another format."
    return f"{name} is damaged and cannot be read: save it again, or in another format."


def _error(name: object) -> type[InputRefused]:
    found = getattr(errors, str(name), InputRefused)
    return found if isinstance(found, type) and issubclass(found, InputRefused) else InputRefused


def _answered(kind: Kind, data: bytes, rest: bytes) -> bytes:
    """The answer's bytes; empty when the process ended without one."""
    read, write = os.pipe2(os.O_CLOEXEC)
    with _memory_file(data, rest) as file, os.fdopen(read, "rb", buffering=0) as answers:
        try:
            process = _process(kind, len(data), file, write)
        finally:
            os.close(write)
        try:
            return _all_of(answers.fileno())
        except BaseException:
            process.end()
            raise
        finally:
            process.done()


def _all_of(handle: int) -> bytes:
    received = bytearray()
    until = time.monotonic() + LONGEST_S
    while time.monotonic() < until:
        if select.select([handle], [], [], LOOKS_UP_S)[0]:
            portion = os.read(handle, PORTION_BYTES)
            if not portion:
                return bytes(received)
            received += portion
            if len(received) > LARGEST_ANSWER_BYTES:
                break
        pause()
    raise _TooMuch


class _TooMuch(Exception):
    """Nothing came in time, or more than there can be."""


@contextmanager
def _memory_file(*contents: bytes) -> Iterator[int]:
    handle = os.memfd_create("file", os.MFD_CLOEXEC)
    try:
        for content in contents:
            view = memoryview(content)
            while view:
                view = view[os.write(handle, view) :]
        yield handle
    finally:
        os.close(handle)


class _Own:
    """A process made from this one."""

    def __init__(self, kind: Kind, length: int, file: int, answer: int) -> None:
        from vivid_thimble.core.strangers.limited import read_and_exit

        self._process = os.fork()
        if self._process == 0:
            read_and_exit(kind, length, file, answer)

    def end(self) -> None:
        os.kill(self._process, signal.SIGKILL)

    def done(self) -> None:
        os.waitpid(self._process, 0)


class _Asked:
    """A process that the server made."""

    def __init__(self, server: _Server, number: int) -> None:
        self._server, self._number = server, number

    def end(self) -> None:
        with contextlib.suppress(OSError):
            self._server.tell({"do": "end", "number": self._number})

    def done(self) -> None:
        """The server sees to it."""


class _Server:
    """The server and the socket to it. One that is gone is started anew."""

    _current: _Server | None = None
    _starting = threading.Lock()
    _numbers = itertools.count(1)

    def __init__(self) -> None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        self._socket = ours
        environment = {k: v for k, v in os.environ.items() if k != "PYTHONSTARTUP"}
        roots = [str(FilePath(vivid_thimble.__file__).parents[1]), *filter(None, [environment.get("PYTHONPATH")])]
        environment |= {"PYTHONPATH": os.pathsep.join(roots), "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
        with theirs:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "vivid_thimble.core.strangers.limited", str(theirs.fileno())],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                env=environment,
                pass_fds=(theirs.fileno(),),
            )

    @classmethod
    def running(cls) -> _Server:
        with cls._starting:
            if cls._current is not None and cls._current.process.poll() is not None:
                cls._current.stop()
            if cls._current is None:
                cls._current = cls()
                atexit.register(cls._current.stop)
            return cls._current

    def stop(self) -> None:
        """It ends when nobody can ask it any more."""
        self._socket.close()
        try:
            self.process.wait(ENDS_WITHIN_S)
        except subprocess.TimeoutExpired:  # it still loads what readers need
            self.process.kill()
            self.process.wait()
        type(self)._current = None

    def order(self, kind: Kind, length: int, file: int, answer: int) -> _Asked:
        number = next(self._numbers)
        self.tell({"do": "read", "number": number, "kind": kind, "length": length}, file, answer)
        return _Asked(self, number)

    def tell(self, order: dict[str, Any], *handles: int) -> None:
        rights = [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", handles))] if handles else []
        self._socket.sendmsg([msgspec.msgpack.encode(order)], rights)


def _process(kind: Kind, length: int, file: int, answer: int) -> _Own | _Asked:
    if threading.active_count() == 1 and "PySide6.QtCore" not in sys.modules:
        return _Own(kind, length, file, answer)
    try:
        return _Server.running().order(kind, length, file, answer)
    except OSError:  # it ended since it was looked at
        return _Server.running().order(kind, length, file, answer)
