"""What the desk does with files: opening, dropping, watching a folder, saving elsewhere; its questions."""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.context import Context
from kneel.desk.shell.asking import (
    ask_about_clash,
    ask_for_clip,
    ask_for_school,
    ask_to_leave,
    ask_to_recover,
)
from kneel.desk.shell.opener import LAST, Opener
from kneel.desk.shell.status_bar import StatusBar
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.intake import write_down
from kneel.desk.swing.opening import Opened, clips_beside
from kneel.desk.widgets.language import several, tr
from kneel.disk import shown
from kneel.documents import recovery
from kneel.documents.recovery import Recovered
from kneel.documents.swing_file import SUFFIX
from kneel.judge import in_use
from kneel.model import CLIP_SUFFIXES, PHOTO_SUFFIXES, ClipGoneError, KneelError, SchoolGoneError, Swing

WATCHED, WATCHED_AT = "watched folder", "watched folder/until"

TAKEN = (*CLIP_SUFFIXES, *PHOTO_SUFFIXES)
"""What is taken where it is chosen or dropped."""


class Files(QObject):
    """Takes files to the desk and asks where they are. ``moved`` tells that the document lies elsewhere now,
    ``leaving`` that the desk is to be closed though work is lost.
    """

    moved = pyqtSignal()
    leaving = pyqtSignal()

    def __init__(
        self,
        window: QWidget,
        context: Context,
        on_desk: OpenSwing,
        opener: Opener,
        rack: Rack,
        status_bar: StatusBar,
    ) -> None:
        super().__init__(window)
        self._window, self._context = window, context
        self._on_desk, self._opener, self._rack, self._status_bar = on_desk, opener, rack, status_bar
        self._sorters = Lane(self, newest=True)
        on_desk.autosave.clashed.connect(self._on_clash)
        on_desk.autosave.moved.connect(self._on_moved)
        opener.opened.connect(self._take)
        opener.failed.connect(self._on_open_failed)
        opener.left_over.connect(self._on_left_over)
        rack.wanted.connect(self.open_path)
        rack.browse.connect(self.browse)
        status_bar.elsewhere_wanted.connect(self.save_elsewhere)

    # Opening

    def browse(self, golfer: str = "") -> bool:
        """Ask for clips or swing files, of a golfer where one is named; whether any were chosen."""
        kinds = " ".join(f"*{suffix}" for suffix in TAKEN)
        filters = f"{tr('Clips and swings')} ({kinds} *{SUFFIX});;{tr('All')} (*)"
        names, _ = QFileDialog.getOpenFileNames(self._window, tr("Open clips"), self._folder(), filters)
        self.open_several([Path(name) for name in names], golfer)
        return bool(names)

    def browse_folder(self) -> None:
        """Ask for a lesson's folder."""
        name = QFileDialog.getExistingDirectory(self._window, tr("Open a lesson’s folder"), self._folder())
        if name:
            self.open_several([Path(name)])

    def browse_watched(self) -> None:
        """Ask for a folder whose new clips are taken by themselves; none ends watching."""
        watching = self._rack.watching
        if watching.folder is not None:
            self._status_bar.tell(tr("%s is no longer watched") % shown(watching.folder.name))
            watching.watch(None)
            self._context.settings.remove(WATCHED)
            return
        name = QFileDialog.getExistingDirectory(
            self._window, tr("Watch a folder for new clips"), self._folder()
        )
        if name:
            self.watch(Path(name))

    def watch(self, folder: Path) -> None:
        """Take new clips of a folder as they come."""
        self._rack.show_folder(folder)
        self._rack.watching.watch(folder)
        self._context.settings.setValue(WATCHED, str(folder))
        words = tr("Watching %s: a new clip is taken when it is whole. The same action ends it.")
        self._status_bar.tell(words % shown(folder.name))

    def watch_again(self) -> None:
        """Watch the folder that was watched when the desk was closed last, and tell what came meanwhile."""
        settings = self._context.settings
        known, since = str(settings.value(WATCHED, "")), float(settings.value(WATCHED_AT, 0.0))

        def told(came: list[Path]) -> None:
            if came and since:
                self._rack.show_folder(Path(known))
                count = several(len(came), "One new clip", "%d new clips")
                words = tr("%s came into %s while Kneel was closed; see the rack.")
                self._status_bar.tell(words % (count, shown(Path(known).name)))

        if known:
            self._rack.watching.watch_again(Path(known), since, told)

    def close_down(self) -> None:
        """Remember until when the folder was watched."""
        if self._rack.watching.folder is not None:
            self._context.settings.setValue(WATCHED_AT, time.time())

    def open_several(self, paths: Sequence[Path], golfer: str = "") -> None:
        """Open the first of several clips, or of a folder's; all of them stand on the rack and are read.

        ``golfer`` is on whose page they were dropped.
        """
        if len(paths) == 1 and paths[0].suffix and not golfer:
            self.open_path(paths[0])
            return
        # What is a folder, and what lies in it, a disk may take its time to say.
        self._sorters.start(Operation(work=lambda _: _sorted_out(paths, golfer), done=self._take_several))

    def _take_several(self, found: tuple[list[Path], list[Path], list[Path], list[Path]]) -> None:
        folders, files, clips, together = found
        rack = self._rack
        for folder in folders[:1]:
            rack.show_folder(folder)
            if not clips:
                self._status_bar.complain(tr("There are no clips in %s.") % shown(folder.name))
        several = [*files, *clips[:1]]
        if not several:
            return
        if len(several) > 1 or folders:
            if rack.folder is None:
                rack.show_folder(several[0].parent)
            rack.add([p for p in several if p.suffix.lower() in TAKEN])
        rack.take_together(together)
        self.open_path(several[0])

    def open_path(self, path: Path) -> None:
        """Open a clip or a swing file in the background."""
        self._status_bar.tell("")
        self._opener.open(path)

    def _folder(self) -> str:
        return str(self._on_desk.path.parent) if self._on_desk.path else str(Path.home())

    def _take(self, opened: Opened) -> None:
        autosave, before = self._on_desk.autosave, self._on_desk.path
        if autosave.flush() and before == opened.document and autosave.stamp != opened.keeper.stamp:
            # Changed here while it was opened once more: what was read is old.
            opened.let_go()
            self.open_path(opened.document)
            return
        if not self._on_desk.take(opened):
            opened.let_go()
            self.cannot_keep()
            return
        opened.store.start(self._on_desk.first + self._on_desk.cursor.frame)
        self._status_bar.tell(" ".join((*opened.notes, *opened.store.info.warnings[:1])))

    def _on_open_failed(self, error: KneelError) -> None:
        self._status_bar.complain(str(error))
        if isinstance(error, ClipGoneError):
            ask_for_clip(
                self._window, self._context.look, str(error), lambda: self._look_for_clip(error.document)
            )
        elif isinstance(error, SchoolGoneError):
            # By what the instructor works by now.
            known = in_use().schools
            school = known.get(self._on_desk.swing.school, known[Swing().school])
            ask_for_school(
                self._window,
                self._context.look,
                str(error),
                school.title,
                lambda: self._opener.again(error.document, school=school.key),
            )

    def _look_for_clip(self, document: Path) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, tr("Look for the clip"), str(document.parent))
        if name:
            self._opener.again(document, clip=Path(name))

    # Keeping work safe

    def save_elsewhere(self, swing: OpenSwing | None = None) -> None:
        """Ask for another place for a document, that on the desk or another, and go on there."""
        swing = swing or self._on_desk
        path = swing.path
        start = str(path) if path else self._folder()
        name, _ = QFileDialog.getSaveFileName(
            self._window, tr("Save elsewhere"), start, f"{tr('Swings')} (*{SUFFIX})"
        )
        if name:
            chosen = Path(name)
            if not chosen.name.endswith(SUFFIX):
                chosen = chosen.with_name(chosen.name.removesuffix(".json") + SUFFIX)
            swing.autosave.save_elsewhere(chosen)

    def _on_clash(self, words: str) -> None:
        autosave, document = self._on_desk.autosave, self._on_desk.document

        def take(theirs: Swing) -> None:
            document.replace(tr("Take the other desk’s work"), theirs.given(guessed=theirs.guessed))

        ask_about_clash(
            self._window,
            self._context.look,
            words,
            autosave.keep_both,
            autosave.put_ours,
            lambda: autosave.take_theirs(take),
        )

    def _on_moved(self) -> None:
        path = self._on_desk.path
        if path is not None:
            self._context.settings.setValue(LAST, str(path))
            self._status_bar.tell(tr("goes on in %s") % shown(path.name))
        self._rack.refresh()
        self.moved.emit()

    def _on_left_over(self, kept: list[Recovered]) -> None:
        names = [f"{one.document.name}: {one.why}" for one in kept]

        def decline() -> None:
            for one in kept:
                recovery.set_aside(one)

        ask_to_recover(
            self._window, self._context.look, names, lambda: self._opener.recover(kept[0]), decline
        )

    def cannot_keep(self, swing: OpenSwing | None = None) -> None:
        """Work on the desk, or on another swing, can be saved nowhere: ask what to do before it is left."""
        swing = swing or self._on_desk
        ask_to_leave(
            self._window,
            self._context.look,
            swing.autosave.trouble,
            lambda: self.save_elsewhere(swing),
            self.leaving.emit,
        )


def _sorted_out(paths: Sequence[Path], golfer: str) -> tuple[list[Path], list[Path], list[Path], list[Path]]:
    """Folders and files of some paths, the clips in the first of the folders, and the documents of all that
    came together; in a worker thread.
    """
    folders = [path for path in paths if path.is_dir()]
    files = [path for path in paths if path not in folders]
    inside = clips_beside(folders[0] / "x") if folders else []
    clips = [path for path in (*files, *inside) if path.suffix.lower() in TAKEN]
    together = write_down(clips, golfer) if len(clips) > 1 or golfer else []
    return folders, files, inside, together
