"""The window: a frame that places the Bench, the menus and the line at the foot."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, QTime
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QLabel, QMainWindow, QMenuBar, QVBoxLayout, QWidget

from kneel.book import recovery
from kneel.book.recovery import Recovered
from kneel.book.swing_file import SUFFIX
from kneel.desk.actions import ACTIONS
from kneel.desk.asking import ask_about_clash, ask_for_clip, ask_to_leave, ask_to_recover
from kneel.desk.bench import Bench
from kneel.desk.commands import Commands
from kneel.desk.context import Context
from kneel.desk.filming import show_filming
from kneel.desk.foot import Foot
from kneel.desk.help import show_about, show_care, show_crib, show_log
from kneel.desk.opener import LAST, Opener
from kneel.desk.opening import Opened
from kneel.desk.player import Player
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.model import CLIP_SUFFIXES, ClipGoneError, KneelError, Swing

MENUS = ("Lesson", "Swing", "Points", "Look", "Help")


class Window(QMainWindow):
    """Places the parts and hands actions on; holds no numbers of its own."""

    def __init__(self, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._look, self._settings = look, settings
        context = Context(look, settings)
        self.jobs = context.jobs
        self.on_desk = OpenSwing(context.jobs)
        self.player = Player(self.on_desk)
        self.bench = Bench(self.on_desk, look)
        self.foot = Foot(context)
        self.opener = Opener(self.on_desk, context)
        self._leaving = False
        self.actions_by_key: dict[str, QAction] = {}
        self.setAcceptDrops(True)
        self.setMinimumSize(1000, 640)
        self._build()
        self._make_actions()
        self._connect()
        self._restore()
        self._refresh()

    # Building

    def _build(self) -> None:
        self.menus = QMenuBar()
        self._title = QLabel()
        self._title.setTextFormat(Qt.TextFormat.PlainText)
        self._title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        top = QWidget()
        grid = QGridLayout(top)
        grid.setContentsMargins(8, 2, 14, 2)
        for column, widget in enumerate((self.menus, self._title, QLabel())):
            grid.addWidget(widget, 0, column)
            grid.setColumnStretch(column, 1)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(top)
        column.addWidget(self.bench, 1)
        column.addWidget(self.foot)
        self.setCentralWidget(centre)

    def _make_actions(self) -> None:
        deeds = Commands(self.on_desk, self.bench, self.player).table()
        deeds |= {
            "open": self.browse,
            "demo": self.opener.open_demo,
            "save_elsewhere": self.save_elsewhere,
            "recover": lambda: self.opener.look_for_left_over(asked=True),
            "quit": self.close,
            "light": self._switch_look,
            "inches": self._switch_inches,
            "crib": lambda: show_crib(self),
            "filming": lambda: show_filming(self, self._look),
            "care": lambda: show_care(self),
            "log": lambda: show_log(self),
            "about": lambda: show_about(self),
        }
        for name in MENUS:
            menu = self.menus.addMenu(tr(name))
            group = 0
            for entry in (a for a in ACTIONS if a.menu == name):
                if entry.group != group and menu is not None:
                    menu.addSeparator()
                    group = entry.group
                action = QAction(tr(entry.title), self)
                action.setShortcuts([QKeySequence(k) for k in entry.keys])
                action.triggered.connect(lambda _=False, deed=deeds[entry.key]: deed())
                self.addAction(action)
                if menu is not None:
                    menu.addAction(action)
                self.actions_by_key[entry.key] = action

    def _connect(self) -> None:
        on_desk, opener = self.on_desk, self.opener
        on_desk.opened.connect(self._refresh)
        on_desk.document.changed.connect(self._refresh)
        on_desk.failed.connect(self.foot.tell)
        on_desk.document.refused.connect(self.foot.tell)
        on_desk.filling.connect(self._on_filling)
        on_desk.autosave.saved.connect(self._on_saved)
        on_desk.autosave.troubled.connect(self.foot.warn)
        on_desk.autosave.clashed.connect(self._on_clash)
        on_desk.autosave.moved.connect(self._on_moved)
        self.foot.elsewhere_wanted.connect(self.save_elsewhere)
        opener.opened.connect(self._take)
        opener.split.connect(self._take_split)
        opener.failed.connect(self._on_open_failed)
        opener.said.connect(self.foot.tell)
        opener.left_over.connect(self._on_left_over)
        self.player.changed.connect(self._refresh)
        self.bench.stage.gripped.connect(self.player.pause)
        self.bench.rack.wanted.connect(self.open_path)
        self.bench.rack.browse.connect(self.browse)
        self._look.changed.connect(self._refresh)

    # Opening

    def browse(self) -> None:
        """Ask for a clip or a swing file."""
        kinds = " ".join(f"*{suffix}" for suffix in CLIP_SUFFIXES)
        filters = f"{tr('Clips and swings')} ({kinds} *{SUFFIX});;{tr('All')} (*)"
        name, _ = QFileDialog.getOpenFileName(self, tr("Open a clip"), self._folder(), filters)
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a clip or a swing file in the background."""
        self.foot.tell("")
        self.opener.open(path)

    def _folder(self) -> str:
        return str(self.on_desk.path.parent) if self.on_desk.path else str(Path.home())

    def _take(self, opened: Opened) -> None:
        autosave, before = self.on_desk.autosave, self.on_desk.path
        if autosave.flush() and before == opened.document and autosave.stamp != opened.keeper.stamp:
            # Changed here while it was opened once more: what was read is old.
            opened.let_go()
            self.open_path(opened.document)
            return
        if not self.on_desk.take(opened):
            opened.let_go()
            self._cannot_keep()
            return
        opened.store.start(self.on_desk.first + self.on_desk.cursor.frame)
        self.foot.tell(" ".join((*opened.notes, *opened.store.info.warnings[:1])))

    def _take_split(self, documents: list[Path]) -> None:
        """Put the swings of a long clip on the rack and open the first, if nothing was marked meanwhile."""
        self.bench.rack.refresh()
        if not self.on_desk.swing.marks:
            self.open_path(documents[0])
        self.foot.tell(tr("%d swings found in this clip") % len(documents))

    def _on_open_failed(self, error: KneelError) -> None:
        self.foot.tell(str(error))
        if isinstance(error, ClipGoneError):
            ask_for_clip(self, str(error), lambda: self._look_for_clip(error.document))

    def _look_for_clip(self, document: Path) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Look for the clip"), str(document.parent))
        if name:
            self.opener.open(document, clip=Path(name))

    # Keeping work safe

    def save_elsewhere(self) -> None:
        """Ask for another place for the document, and go on there."""
        path = self.on_desk.path
        start = str(path) if path else self._folder()
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save elsewhere"), start, f"{tr('Swings')} (*{SUFFIX})"
        )
        if name:
            chosen = Path(name)
            if not chosen.name.endswith(SUFFIX):
                chosen = chosen.with_name(chosen.name.removesuffix(".json") + SUFFIX)
            self.on_desk.autosave.save_elsewhere(chosen)

    def _on_clash(self, words: str) -> None:
        autosave, document = self.on_desk.autosave, self.on_desk.document

        def take(theirs: Swing) -> None:
            document.change(tr("Take the other desk’s work"), theirs.given(guessed=theirs.guessed))

        ask_about_clash(
            self, words, autosave.keep_both, autosave.put_ours, lambda: autosave.take_theirs(take)
        )

    def _on_moved(self) -> None:
        path = self.on_desk.path
        if path is not None:
            self._settings.setValue(LAST, str(path))
            self.foot.tell(tr("goes on in %s") % shown(path.name))
        self.bench.rack.refresh()
        self._refresh()

    def _on_left_over(self, kept: list[Recovered]) -> None:
        names = [f"{one.document.name}: {one.why}" for one in kept]

        def decline() -> None:
            for one in kept:
                recovery.set_aside(one)

        ask_to_recover(self, names, lambda: self.opener.recover(kept[0]), decline)

    def _cannot_keep(self) -> None:
        def leave() -> None:
            self._leaving = True
            self.close()

        ask_to_leave(self, self.on_desk.autosave.trouble, self.save_elsewhere, leave)

    # Telling

    def _on_saved(self) -> None:
        self.foot.pass_on(tr("saved %s") % QTime.currentTime().toString("HH:mm"))

    def _on_filling(self, done: int, wanted: int) -> None:
        reading = tr("reading the clip, %d %%") % (100 * done // max(wanted, 1)) if done < wanted else ""
        self.foot.pass_on(reading)

    def _refresh(self) -> None:
        on_desk, history = self.on_desk, self.on_desk.document.history
        words = ""
        if on_desk.path is not None:
            golfer = on_desk.swing.golfer or on_desk.path.name.removesuffix(SUFFIX)
            words = shown(f"{golfer} · {tr(on_desk.swing.club.value)}")
        self._title.setText(words)
        self._title.setStyleSheet(f"color: {self._look.colours.secondary};")
        speeds = {1.0: "1", 0.5: "½", 0.25: "¼", 0.125: "⅛"}
        state = tr("pause") if self.player.playing else tr("play")
        hints = tr("← → frame    1–9 checkpoint    space %s %s    M mark    P pin    F1 all keys")
        self.foot.hint(hints % (state, speeds[self.player.speed]))
        for entry in ACTIONS:
            self.actions_by_key[entry.key].setEnabled(not entry.needs_swing or on_desk.store is not None)
        for key, label in (("undo", history.undo_label), ("redo", history.redo_label)):
            action = self.actions_by_key[key]
            action.setEnabled(label is not None)
            action.setText(f"{tr(key.title())} {label.lower()}" if label else tr(key.title()))

    # The window itself

    def _switch_look(self) -> None:
        self._look.choose(dark=not self._look.colours.dark)
        self._settings.setValue("dark", self._look.colours.dark)

    def _switch_inches(self) -> None:
        inches = not self._settings.value("inches", False, type=bool)
        self._settings.setValue("inches", inches)
        self.on_desk.tell_in_inches(inches)
        self.foot.tell(tr("Lengths are told in inches") if inches else tr("Lengths are told in centimetres"))

    def _restore(self) -> None:
        geometry, splitter = self._settings.value("geometry"), self._settings.value("splitter")
        if geometry:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)
        if splitter:
            self.bench.splitter.restoreState(splitter)
        self.setWindowTitle("Kneel")
        self.on_desk.tell_in_inches(bool(self._settings.value("inches", False, type=bool)))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.player.pause()
        self.opener.stop()
        if not self.on_desk.close(losing=self._leaving):
            event.ignore()
            self._cannot_keep()
            return
        self.bench.rack.close_down()
        self._settings.setValue("geometry", self.saveGeometry())
        self._settings.setValue("splitter", self.bench.splitter.saveState())
        super().closeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        files = [u.toLocalFile() for u in data.urls()] if data is not None else []
        if files and files[0]:
            self.open_path(Path(files[0]))
            event.acceptProposedAction()
