"""The language of the window: catalogues that ship with the program, laid over the English of the sources."""

from __future__ import annotations

from importlib import resources

from PySide6.QtCore import QLocale, QTranslator
from PySide6.QtWidgets import QApplication

from vivid_thimble.desktop.look.preferences import language_code
from vivid_thimble.desktop.look.words import use_catalogue

_in_use: list[QTranslator] = []


def use_language(app: QApplication, choice: str) -> None:
    """Install the catalogue of a language, if there is one; English needs none."""
    for old in _in_use:
        app.removeTranslator(old)
    _in_use.clear()
    catalogue = resources.files("vivid_thimble") / "data" / "languages" / f"{language_code(choice)}.qm"
    if catalogue.is_file():
        translator = QTranslator(app)
        if translator.load(str(catalogue)):
            app.installTranslator(translator)
            _in_use.append(translator)
    spoken = QLocale(choice) if choice else QLocale.system()
    use_catalogue(on=bool(_in_use), comma=spoken.decimalPoint() == ",")
