"""The process in which a stranger's file is read, and the server that makes such processes.

    python -m vivid_thimble.core.strangers.limited SOCKET

The server has all that readers need loaded, and makes a copy of itself for every file: that takes milliseconds. The
copy gives up what it does not need before it looks at the file: it can open nothing, neither files nor connections, nor
start anything; its memory and its processor time are bounded; it ends when the server does, and the server when the
program does.
"""

from __future__ import annotations

import array
import ctypes
import fcntl
import gc
import os
import resource
import select
import signal
import socket
import sys
from typing import Any

import msgspec

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.strangers.given_fonts import FontsWanted, GivenFonts, use_only
from vivid_thimble.core.strangers.plain_data import packed
from vivid_thimble.core.strangers.reading import Kind, prepare, prepare_all, readers

MOST_MEMORY_BYTES = 950_000_000
"""So much more than the server may be in use."""
LONGEST_CPU_S, LONGEST_PAINTING_S = 10, 30
"""Of a processor; drawings that one can read in a moment may well take a while to paint."""
LARGEST_ORDER_BYTES = 4_096
LOOKS_UP_S = 0.5
ANSWER, OUT_OF_THE_WAY = 3, 100
"""The descriptor of the answer, and from where on none is in use."""
MOST_NOTICED = 5
_opened: list[str] = []
"""What a reader tried to open, in vain: it should have been loaded before."""
_PR_SET_PDEATHSIG, _PR_SET_NO_NEW_PRIVS = 1, 38


def main(handle: int) -> int:
    """Serve until the other end of the socket is closed."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    prepare_all()
    gc.freeze()  # copies share what is loaded
    orders = socket.socket(fileno=handle)
    running: dict[int, int] = {}
    while True:
        ready, _, _ = select.select([orders], [], [], LOOKS_UP_S if running else None)
        if ready and not _obey(orders, running):
            break
        for number, process in list(running.items()):
            if os.waitpid(process, os.WNOHANG)[0]:
                del running[number]
    for process in running.values():
        os.kill(process, signal.SIGKILL)
    return 0


def _obey(orders: socket.socket, running: dict[int, int]) -> bool:
    """One order; False when there will be no more."""
    told, handles = _received(orders)
    if not told:
        return False
    order = msgspec.msgpack.decode(told)
    if order["do"] == "end":
        if (process := running.get(order["number"])) is not None:
            os.kill(process, signal.SIGKILL)
        return True
    process = os.fork()
    if process == 0:
        read_and_exit(order["kind"], order["length"], *handles)
    running[order["number"]] = process
    for handle in handles:
        os.close(handle)
    return True


def _received(orders: socket.socket) -> tuple[bytes, list[int]]:
    size = array.array("i").itemsize
    data, ancillary, _, _ = orders.recvmsg(LARGEST_ORDER_BYTES, socket.CMSG_SPACE(2 * size))
    handles = array.array("i")
    for level, kind, content in ancillary:
        if (level, kind) == (socket.SOL_SOCKET, socket.SCM_RIGHTS):
            handles.frombytes(content[: len(content) // size * size])
    return data, list(handles)


def read_and_exit(kind: Kind, length: int, file: int, answer: int) -> None:
    """Read a file under limits, write what it comes to, and end this process; never returns.

    ``file`` holds so many bytes of the stranger's, then what else the reader is given, and what is known of installed
    fonts (see ``ask``).
    """
    place, status = answer, 1
    try:
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
        whole = _all_of(file)
        prepare(kind, whole[:length])
        reader = readers()[kind]
        _use_only(answer)
        place = ANSWER
        _take_limits(LONGEST_PAINTING_S if kind == "painted" else LONGEST_CPU_S)
        sys.addaudithook(_notice)
        rest = msgspec.msgpack.decode(whole[length:])
        fonts = rest["fonts"]
        use_only(GivenFonts(None if fonts["names"] is None else tuple(fonts["names"]), fonts["files"]))
        told = _answer(reader, whole[:length], rest["given"])
        _write(place, packed({**told, "opened": tuple(_opened)}))
        status = 0
    except BaseException as error:
        _write(place, packed({"broken": f"{type(error).__name__}: {error}"[:500]}))
    finally:
        os._exit(status)


def _notice(event: str, arguments: tuple[Any, ...]) -> None:
    if event == "open" and len(_opened) < MOST_NOTICED:
        _opened.append(str(arguments[0])[:300])


def _answer(reader: Any, data: bytes, given: list[Any]) -> dict[str, Any]:
    try:
        return {"found": reader(data, *given)}
    except FontsWanted as wanted:
        return {"wants": str(wanted)}
    except ThimbleError as error:
        return {"refused": type(error).__name__, "sentence": str(error)}
    except MemoryError:
        return {"broken": "memory"}
    except RecursionError:
        return {"broken": "deep"}
    except Exception as error:
        return {"broken": f"{type(error).__name__}: {error}"[:500].encode("utf-8", "replace").decode()}


def _all_of(handle: int) -> bytes:
    os.lseek(handle, 0, os.SEEK_SET)
    with os.fdopen(handle, "rb", closefd=False) as stream:
        return stream.read()


def _write(handle: int, data: bytes) -> None:
    view = memoryview(data)
    while view:
        view = view[os.write(handle, view) :]


def _use_only(answer: int) -> None:
    """Keep no descriptor but that of the answer."""
    nothing = os.open(os.devnull, os.O_RDWR)
    answer, nothing = (fcntl.fcntl(handle, fcntl.F_DUPFD, OUT_OF_THE_WAY) for handle in (answer, nothing))
    for place, handle in ((0, nothing), (1, nothing), (2, nothing), (ANSWER, answer)):
        os.dup2(handle, place)
    os.closerange(ANSWER + 1, resource.getrlimit(resource.RLIMIT_NOFILE)[0])


def _take_limits(longest_cpu_s: int) -> None:
    in_use = _memory_in_use()
    for what, most in (
        (resource.RLIMIT_AS, in_use + MOST_MEMORY_BYTES),
        (resource.RLIMIT_CPU, longest_cpu_s),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_NPROC, 0),
        (resource.RLIMIT_NOFILE, ANSWER + 1),
    ):
        resource.setrlimit(what, (most, most))
    ctypes.CDLL(None).prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)


def _memory_in_use() -> int:
    with open("/proc/self/statm", encoding="ascii") as stream:
        return int(stream.read().split()[0]) * resource.getpagesize()


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
