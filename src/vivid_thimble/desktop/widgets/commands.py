"""What can be done by menu or key in a window: each command has a name, and keys that a person may change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QAbstractButton, QMenu, QWidget

from vivid_thimble.desktop.look.preferences import keep_shortcut, kept_shortcuts
from vivid_thimble.desktop.look.words import tr

Keys = QKeySequence | QKeySequence.StandardKey | str | None


@dataclass(frozen=True, eq=False)
class Command:
    """``usual``: the keys as shipped; ``target``: what they start."""

    name: str
    title: str
    usual: str
    target: QAction | QAbstractButton

    @property
    def keys(self) -> str:
        return self.target.shortcut().toString(QKeySequence.SequenceFormat.PortableText)


class Commands:
    """The commands of one window, in the order in which they were added."""

    def __init__(self, window: QWidget) -> None:
        self._window = window
        self._kept = kept_shortcuts()
        self.all: dict[str, Command] = {}

    def action(self, menu: QMenu, word: str, name: str, keys: Keys, then: Callable[[], object]) -> QAction:
        """An entry of a menu."""
        action = QAction(tr(word), self._window)
        action.setObjectName(name)
        action.triggered.connect(lambda _=False: then())
        menu.addAction(action)
        self._add(name, word, keys, action)
        return action

    def button(self, button: QAbstractButton, word: str, keys: Keys) -> None:
        """A button that has keys as well; its name is its object name."""
        self._add(button.objectName(), word, keys, button)

    def set_keys(self, name: str, keys: str) -> str:
        """Give a command other keys; returns the title of the command that has them already, or nothing."""
        command = self.all[name]
        for other in self.all.values():
            if keys and other is not command and other.keys == keys:
                return other.title
        keep_shortcut(name, None if keys == command.usual else keys)
        command.target.setShortcut(QKeySequence(keys))
        return ""

    def _add(self, name: str, word: str, keys: Keys, target: QAction | QAbstractButton) -> None:
        usual = _portable(keys)
        target.setShortcut(QKeySequence(self._kept.get(name, usual)))
        self.all[name] = Command(name, tr(word).replace("&", "").rstrip("…"), usual, target)


def _portable(keys: Keys) -> str:
    if keys is None:
        return ""
    return QKeySequence(keys).toString(QKeySequence.SequenceFormat.PortableText)
