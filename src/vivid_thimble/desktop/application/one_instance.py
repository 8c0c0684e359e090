"""One running instance for a user on a screen: a later start gives it the files that it was given.

They meet at a socket in the user's runtime folder, where nobody else can put one. Each looks who is at the other end
before a byte is sent or read. What answers in another way, or not at all, is passed by: then a window opens here.
"""

from __future__ import annotations

import contextlib
import json
import os
import re
import socket
import struct
from collections.abc import Callable, Sequence
from pathlib import Path as FilePath

from PySide6.QtCore import QObject, QTimer
from PySide6.QtNetwork import QLocalServer, QLocalSocket

from vivid_thimble.core.files import private_folder
from vivid_thimble.core.folders import runtime_folder

_DISPLAY = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY", "")
NAME = f"window-{re.sub('[^A-Za-z0-9]', '-', _DISPLAY)}"
ANSWER_S = 4.0
LARGEST_MESSAGE_BYTES = 262_144
OK = b"ok\n"
Taken = Callable[[list[FilePath], bool], None]


def meeting_place(name: str = "") -> FilePath:
    """Where the socket is; raises OSError when there is no place for one."""
    folder = runtime_folder()
    private_folder(folder)
    return folder / (name or NAME)


def hand_over(files: Sequence[str], *, demo: bool, name: str = "") -> bool:
    """Give files to the instance that runs already; False when there is none that answers as it should."""
    told = json.dumps({"files": [str(FilePath(one).absolute()) for one in files], "demo": demo}).encode() + b"\n"
    if len(told) > LARGEST_MESSAGE_BYTES:
        return False
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as other:
        other.settimeout(ANSWER_S)
        other.connect(os.fspath(meeting_place(name)))
        if _user_of(other) != os.geteuid():
            return False
        other.sendall(told)
        answer = b""
        while len(answer) < len(OK) and (more := other.recv(len(OK) - len(answer))):
            answer += more
        return answer == OK
    return False


class Listener(QObject):
    """Takes what later starts are given: ``taken`` gets the files, and whether a demonstration is wanted."""

    def __init__(self, taken: Taken, parent: QObject | None = None, name: str = "") -> None:
        super().__init__(parent)
        self._taken = taken
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._hear)
        with contextlib.suppress(OSError):  # without a place every start opens its own window
            path = meeting_place(name)
            path.unlink(missing_ok=True)  # left behind, or of one that does not answer: it was asked before
            self._server.listen(os.fspath(path))

    def stop(self) -> None:
        self._server.close()

    def _hear(self) -> None:
        other = self._server.nextPendingConnection()
        if other is None:
            return
        other.disconnected.connect(other.deleteLater)
        if _user_at(other) != os.geteuid():
            other.abort()
            return
        other.setReadBufferSize(LARGEST_MESSAGE_BYTES)
        QTimer.singleShot(int(ANSWER_S * 1000), other, other.abort)

        def heard() -> None:
            if not other.canReadLine():
                if other.bytesAvailable() >= LARGEST_MESSAGE_BYTES:
                    other.abort()
                return
            message = _understood(bytes(other.readLine(LARGEST_MESSAGE_BYTES).data()))
            if message is None:
                other.abort()
                return
            other.write(OK)
            other.flush()
            self._taken(*message)

        other.readyRead.connect(heard)
        heard()


def _understood(line: bytes) -> tuple[list[FilePath], bool] | None:
    try:
        told = json.loads(line)
    except (ValueError, RecursionError):
        return None
    files = told.get("files") if isinstance(told, dict) else None
    if not isinstance(files, list) or not all(isinstance(one, str) and "\0" not in one for one in files):
        return None
    return [FilePath(one) for one in files], told.get("demo") is True


def _user_at(other: QLocalSocket) -> int | None:
    try:
        with socket.socket(fileno=os.dup(int(other.socketDescriptor()))) as same:
            return _user_of(same)
    except OSError:
        return None


def _user_of(other: socket.socket) -> int:
    """The user whose process is at the other end; the kernel tells."""
    form = "3i"
    _, user, _ = struct.unpack(form, other.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize(form)))
    return int(user)
