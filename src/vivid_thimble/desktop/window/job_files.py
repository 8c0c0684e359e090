"""The life of a job in its window: begun, opened, saved, duplicated, its versions; files and the clipboard."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path as FilePath
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QBuffer, QIODevice, QMimeData, QObject, QSettings, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog, QMenu, QMessageBox

from vivid_thimble.core.demo.jobs import DEMO_JOBS, demo_assets, demo_job
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.files import shown_name
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Job, all_elements, new_job
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.storage.project import ENDING, open_project
from vivid_thimble.core.storage.stock import Thing
from vivid_thimble.desktop.look.preferences import read_preferences
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.file_kinds import DRAWING_ENDINGS, DRAWINGS, FONT_ENDINGS
from vivid_thimble.desktop.session.recovery import Recovery

if TYPE_CHECKING:
    from vivid_thimble.desktop.window.window import MainWindow

MOST_RECENT = 8


class JobFiles(QObject):
    """Hands of a window for everything that comes from files and goes to them."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window = window

    # -- beginning ----------------------------------------------------------------------

    def new(self) -> None:
        """An empty job in the unit that is preferred."""
        if self.may_leave():
            self._begin(replace(new_job(), unit=read_preferences().unit))

    def new_from_thing(self, thing: Thing) -> None:
        """An empty job on a thing that was measured before."""
        if self.may_leave():
            job = with_item(replace(new_job(thing.name), unit=read_preferences().unit), thing.laid_under)
            self._begin(job)

    def new_from_job(self, path: FilePath) -> None:
        """A saved job as the pattern of a new one; its file stays as it is."""
        if not self.may_leave():
            return
        try:
            job, assets = open_project(path)
        except ThimbleError as error:
            self.window.tell(str(error))
            return
        self.window.session.start(replace(job, name=f"{job.name}, new"), assets, saved=False)
        self.window.go_to("measure")

    def choose_pattern(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.window, tr("Begin like a saved job"), self._folder(), tr(f"Jobs (*{ENDING})")
        )
        if name:
            self.new_from_job(FilePath(name))

    def duplicate(self) -> None:
        """The same as a new job that has no file yet; what it was made from stays as it was saved."""
        session = self.window.session
        session.start(replace(session.job, name=f"{session.job.name}, copy"), session.assets, saved=False)
        self.window.tell("This is a copy now: its name is new, and it is not saved yet.")

    def open_demo(self, make: Callable[[], Job] = demo_job) -> None:
        """One of the demonstrations; what it does not need of the shipped files is left out when it is saved."""
        if self.may_leave():
            self.window.session.start(make(), demo_assets())
            self.window.go_to("inspect")

    def fill_new_menu(self, menu: QMenu) -> None:
        """Things that were kept, and patterns."""
        menu.clear()
        for thing in self.window.session.workshop.stock.things:
            menu.addAction(thing.name, partial(self.new_from_thing, thing))
        if not menu.actions():
            menu.addAction(tr("No things are kept yet (Measure, Keep this one)")).setEnabled(False)
        menu.addSeparator()
        menu.addAction(tr("A saved job as the pattern…"), self.choose_pattern)

    def fill_demo_menu(self, menu: QMenu) -> None:
        for title, make in DEMO_JOBS.items():
            menu.addAction(tr(title), partial(self.open_demo, make))

    def _begin(self, job: Job) -> None:
        self.window.session.start(job, {})
        self.window.go_to("measure")

    # -- opening --------------------------------------------------------------------

    def choose_and_open(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self.window,
            tr("Open"),
            self._folder(),
            tr(f"Jobs, drawings, pictures, fonts (*{ENDING} {DRAWINGS} *.ttf *.otf *.woff2);;All files (*)"),
        )
        self.open_files([FilePath(name) for name in names if name])

    def open_files(self, paths: list[FilePath]) -> None:
        """Drawings, pictures and fonts join this job, whichever they are; of several jobs the others get windows."""
        jobs = [path for path in paths if not _joins(path)]
        for path in jobs[:1]:
            self.open_file(path)
        if jobs[1:]:
            self.window.another_wanted.emit(jobs[1:])
        for path in paths:
            if _joins(path):
                self.open_file(path)

    def open_file(self, path: FilePath) -> None:
        """A project becomes the job; a drawing or font joins it."""
        window, ending = self.window, path.suffix.lower()
        gather = window.trays.gather
        if ending in DRAWING_ENDINGS:
            gather.add_drawing_file(path)
            window.go_to("gather")
        elif ending in FONT_ENDINGS:
            if not any(True for _ in all_elements(window.session.job)):
                gather.add_words()
            gather.use_font_file(path)
            window.go_to("gather")
        elif self.may_leave():
            try:
                window.session.open(path)
            except ThimbleError as error:
                window.tell(str(error))
                return
            window.notice.hide()
            self._remember(path)
            window.go_to("inspect")

    def paste(self) -> None:
        """A drawing, a picture, words, or files, from the clipboard."""
        window = self.window
        content = QGuiApplication.clipboard().mimeData() or QMimeData()  # none where nothing was ever copied
        files = [FilePath(url.toLocalFile()) for url in content.urls() if url.isLocalFile()]
        if files:
            self.open_files(files)
            return
        data = bytes(content.data("image/svg+xml").data())
        text = content.text() if not data else ""
        if not data and "<svg" in text[:4000]:
            data = text.encode()
        image = content.imageData() if not data and content.hasImage() else None
        if data:
            window.trays.gather.add_drawing(data, "pasted drawing")
        elif isinstance(image, QImage) and not image.isNull():
            window.trays.gather.add_picture(partial(_png_of, image.copy()), "pasted picture")
        elif text.strip():
            window.trays.gather.add_words(text.strip()[:2000])
        else:
            window.tell("There is no drawing, picture or text on the clipboard: copy one, or copy its file.")
            return
        window.go_to("gather")

    # -- saving ---------------------------------------------------------------------

    def save(self) -> bool:
        path = self.window.session.path
        return self.save_as() if path is None else self.save_to(path)

    def save_as(self) -> bool:
        session = self.window.session
        usual = session.path or FilePath(self._folder()) / f"{session.job.name.replace('/', '-')}{ENDING}"
        name, _ = QFileDialog.getSaveFileName(self.window, tr("Save the job"), str(usual), tr(f"Jobs (*{ENDING})"))
        if not name:
            return False
        if name.endswith(ENDING):
            return self.save_to(FilePath(name))
        path = FilePath(f"{name}{ENDING}")  # the dialog asked about the name without ending
        return (not path.exists() or self._may_replace(path)) and self.save_to(path)

    def _may_replace(self, path: FilePath) -> bool:
        question = tr(Message.of("{name} is there already. Write over it?", name=Said(shown_name(path))))
        box = QMessageBox(QMessageBox.Icon.NoIcon, tr("Save the job"), question, parent=self.window)
        box.setTextFormat(Qt.TextFormat.PlainText)
        over = box.addButton(tr("Write over it"), QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(tr("Cancel"), QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return box.clickedButton() is over

    def save_to(self, path: FilePath, *, whatever: bool = False) -> bool:
        """Write the job; a file that another program wrote meanwhile is only replaced when ``whatever`` is said."""
        window = self.window
        if not whatever and window.session.is_changed_elsewhere(path):
            window.tell(
                f"{path.name} was changed by another program since it was opened here: nothing is saved yet. Save "
                "under another name to keep both, or write over it (what it holds is kept as an earlier version)."
            )
            window.offer("Save as…", "saveElsewhere", self.save_as)
            window.offer("Write over it", "saveOver", partial(self.save_to, path, whatever=True))
            return False
        window.session.versions_kept = read_preferences().versions
        try:
            window.session.save(path)
        except ThimbleError as error:
            window.tell(str(error))
            window.offer("Save as…", "saveElsewhere", self.save_as)
            return False
        window.notice.hide()
        self._remember(path)
        if window.recovery is not None:
            window.recovery.saved()
        return True

    def may_leave(self) -> bool:
        """Ask before unsaved work is left; nothing is thrown away without a word."""
        if self.window.session.is_saved:
            return True
        box = QMessageBox(
            QMessageBox.Icon.NoIcon,
            tr("Unsaved work"),
            tr("This job has changes that are not saved."),
            parent=self.window,
        )
        save = box.addButton(tr("Save"), QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton(tr("Leave without saving"), QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(tr("Stay"), QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is leave

    # -- recovered, recent ---------------------------------------------------------------

    def offer_recovered(self, paths: Sequence[FilePath]) -> None:
        """Say that unsaved jobs were found, with buttons to open them or to let them go."""
        several = len(paths) > 1
        self.window.tell(
            f"The last session ended without saving. {len(paths)} jobs were kept."
            if several
            else "The last session ended without saving. Its job was kept."
        )
        self.window.offer("Open all" if several else "Open it", "openRecovered", partial(self._open_all, paths))
        recovery = self.window.recovery
        if recovery is not None:
            self.window.offer("Throw away", "throwRecovered", partial(self._throw_away, recovery, paths))

    def _open_all(self, paths: Sequence[FilePath]) -> None:
        """The newest here, the others in windows of their own."""
        if not self.may_leave():
            return
        self.window.notice.hide()
        if len(paths) > 1:
            self.window.rescue_wanted.emit(list(paths[1:]))
        self.open_recovered(paths[0])

    def open_recovered(self, path: FilePath) -> None:
        """A job that was never saved: it has no file yet."""
        try:
            job, assets = open_project(path)
        except ThimbleError as error:
            self.window.tell(str(error))
            return
        self.window.session.start(job, assets, saved=False)
        self.window.show_work()
        if self.window.recovery is not None:
            self.window.recovery.take_over(path)

    def _throw_away(self, recovery: Recovery, paths: Sequence[FilePath]) -> None:
        try:
            thrown = recovery.throw_away(paths)
        except OSError as error:
            self.window.tell(f"It could not be thrown away ({error.strerror}): it is offered again next time.")
            return
        self.window.tell("Thrown away.")
        back = partial(recovery.bring_back, thrown)
        self.window.offer("Bring it back", "unthrowRecovered", lambda: self.offer_recovered(back()))

    def fill_recent(self, menu: QMenu) -> None:
        menu.clear()
        paths = recent_paths()
        for path in paths:
            menu.addAction(path.name, partial(self.open_file, path)).setToolTip(str(path))
        if not paths:
            menu.addAction(tr("Nothing yet")).setEnabled(False)

    def _remember(self, path: FilePath) -> None:
        known = [str(one) for one in recent_paths() if one != path]
        QSettings().setValue("recent", [str(path), *known][:MOST_RECENT])

    def _folder(self) -> str:
        """Where dialogs begin."""
        path = self.window.session.path
        return str(path.parent) if path is not None else read_preferences().folder


def recent_paths() -> list[FilePath]:
    """Jobs that were open lately and are still there."""
    value = QSettings().value("recent", [])
    paths = [value] if isinstance(value, str) else value if isinstance(value, list) else []
    return [path for p in paths if (path := FilePath(str(p))).exists()]


def _joins(path: FilePath) -> bool:
    """Whether a file joins a job rather than being one."""
    return path.suffix.lower() in (*DRAWING_ENDINGS, *FONT_ENDINGS)


def _png_of(image: QImage) -> bytes:
    """The bytes of a picture's file."""
    held = QBuffer()
    held.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(held, "PNG")  # type: ignore[call-overload]  # the stubs want bytes, the call refuses them
    return bytes(held.data().data())
